package steps

import (
	"cmp"
	"fmt"
	"slices"
	"strings"

	"idlehiss/core/circuit"
	"idlehiss/core/quantity"
)

// Result is a step with what it said.
type Result struct {
	Step     circuit.Step
	Verdict  Verdict
	Sentence string
	Failed   []string // what of several is not right, by name
	Accepted []string // what of the rig was seen to leak, and is lived with: no fault of the part
}

// Eyes is where a leak was seen, by name.
type Eyes struct {
	Part []string // at what is tested, and not mended since: they outrank every gauge
	Rig  []string // at the rig itself
}

// Combined is the one call of all the steps of a job.
type Combined struct {
	Verdict  Verdict  `json:"verdict" enum:"good,bad,unknown"`
	Sentence string   `json:"sentence"`
	Lines    []string `json:"lines"`    // what each step said
	Untested []string `json:"untested"` // what still wants a step, by title
	Seen     []string `json:"seen"`     // parts at which a leak was seen, by name: they outrank every gauge
	Beyond   string   `json:"beyond"`   // what that says of the rest; empty where nothing was seen
	Hidden   []string `json:"hidden"`   // parts, by id, that are not tested past it
	Accepted []string `json:"accepted"` // what of the rig leaks and is lived with, by name
	Past     []string `json:"past"`     // what is not tested past it, by title
	Next     string   `json:"next"`     // the id of the step that is next; empty: none
}

// Combine makes one call of several steps. A bad one counts, though others were
// good, unless a later step that outranks it was good; it is good only once
// nothing that is asked for is left. A leak seen at a part makes it bad whatever any gauge says:
// eyes outrank the needle. One seen at the rig and accepted is no fault of the part, which is
// not tested past it; where a hold is good beside it, its own share was small enough.
func Combine(c *circuit.Circuit, results []Result, seen Eyes) Combined {
	out := Combined{Verdict: Good, Lines: []string{}, Untested: []string{}, Seen: append([]string{}, seen.Part...), Hidden: []string{}, Accepted: []string{}, Past: []string{}}
	said := map[string]Result{}
	for _, r := range results {
		said[r.Step.ID] = r
	}
	overruled := map[string]string{}
	for _, r := range results {
		if r.Verdict == Good {
			for _, id := range r.Step.Outranks {
				overruled[id] = r.Step.Title
			}
		}
	}
	var bad, good []circuit.Step
	again := "" // the first step that is to be done again
	for _, s := range c.Tests() {
		r, ok := said[s.ID]
		v := r.Verdict
		if !ok {
			v = Unknown
		}
		switch {
		case v == Bad && overruled[s.ID] != "":
			out.Lines = append(out.Lines, s.Title+": bad, but no more so after: "+quantity.Lower(overruled[s.ID])+".")
			continue
		case v == Bad && len(r.Accepted) > 0:
			out.Past = append(out.Past, s.Title)
			again = cmp.Or(again, s.ID)
			for _, name := range r.Accepted {
				if !slices.Contains(out.Accepted, name) {
					out.Accepted = append(out.Accepted, name)
				}
			}
			out.Lines = append(out.Lines, fmt.Sprintf("%s: the rig leaks at %s, seen; not tested past it. %s", s.Title, among(r.Accepted), r.Sentence))
			continue
		case v == Bad:
			bad = append(bad, s)
		case v == Good:
			good = append(good, s)
		case !s.Optional || slices.ContainsFunc(s.Once, func(id string) bool { _, done := said[id]; return done }):
			out.Untested = append(out.Untested, s.Title)
			if out.Next == "" && gateOpen(c, s, said) {
				out.Next = s.ID
			}
		}
		if r.Sentence != "" {
			out.Lines = append(out.Lines, s.Title+": "+r.Sentence)
		}
	}
	out.Next = cmp.Or(out.Next, again)
	titles := func(all []circuit.Step) string {
		var t []string
		for _, s := range all {
			one := quantity.Lower(s.Title)
			if of := said[s.ID].Failed; len(of) > 0 {
				one += " (" + among(of) + ")"
			}
			t = append(t, one)
		}
		return strings.Join(t, ", ")
	}
	switch {
	case len(seen.Part) > 0:
		out.Verdict = Bad
		out.Hidden, out.Beyond = hidden(c, bad, good, seen.Part)
		if len(bad) == 0 && len(out.Untested) == 0 {
			out.Beyond = "The gauge alone would have passed it."
		}
		out.Sentence = "Leaking: " + among(seen.Part) + ", seen. " + out.Beyond
	case len(bad) > 0:
		out.Verdict, out.Sentence = Bad, "Not right: "+titles(bad)+"."
		if len(good) > 0 && len(bad)+len(good) > 1 {
			out.Sentence += " Right: " + titles(good) + "."
		}
		if way := oneWay(c, bad, good); way != "" {
			out.Sentence += " " + way
		}
	case len(good) > 0 && len(out.Untested)+len(out.Past) == 0:
		out.Sentence = "Right: " + titles(good) + "."
		if len(seen.Rig) > 0 {
			out.Sentence += " The rig leaks at " + among(seen.Rig) + ", seen."
		}
	default:
		out.Verdict, out.Sentence = Unknown, "Nothing tested yet."
		if len(good) > 0 {
			out.Sentence = "Right so far: " + titles(good) + "."
		} else if len(out.Past) > 0 {
			out.Sentence = ""
		}
	}
	if len(out.Past) > 0 {
		out.Sentence = strings.TrimSpace(out.Sentence + " Not tested past the rig's leak, seen at " + among(out.Accepted) + ": " + among(out.Past) + ". " + pastTheRig)
	}
	return out
}

// mostHidden is how many parts are named that are not tested past a leak.
const mostHidden = 5

// hidden are the parts that the steps try in which a seen leak showed, and that no good step tried: nothing is known of
// them while that leak is there.
func hidden(c *circuit.Circuit, bad, good []circuit.Step, seen []string) (ids []string, says string) {
	ids = []string{}
	var titles []string
	for _, s := range bad {
		in := c.Pressed(s).Suspects
		if !slices.ContainsFunc(in, func(p circuit.Part) bool { return slices.Contains(seen, p.Title) }) {
			continue
		}
		for _, p := range in {
			sound := slices.ContainsFunc(good, func(g circuit.Step) bool {
				return slices.ContainsFunc(c.Pressed(g).Suspects, func(x circuit.Part) bool { return x.ID == p.ID })
			})
			if !sound && !p.Rig && !slices.Contains(seen, p.Title) && !slices.Contains(ids, p.ID) {
				ids, titles = append(ids, p.ID), append(titles, p.Title)
			}
		}
	}
	switch n := len(titles); {
	case n == 0:
		return ids, "The rest is not tested past it."
	case n > mostHidden:
		return ids, fmt.Sprintf("Not tested past it: %s and %d more parts.", among(titles[:mostHidden]), n-mostHidden)
	}
	return ids, "Not tested past it: " + among(titles) + "."
}

// pastTheRig is what must be done to know a part that was tested with a rig that leaks.
const pastTheRig = "To know: bleed down, mend it there and hold again. What is lost then is the part's own."

func among(names []string) string {
	var out []string
	for _, n := range names {
		out = append(out, quantity.Lower(n))
	}
	return strings.Join(out, ", ")
}

// Further are the next steps where all that was asked for is right and the complaint stands; once
// is whether it was, though the last hold, done otherwise, is not called.
func Further(c *circuit.Circuit, call Combined, once bool) []circuit.Further {
	out := []circuit.Further{}
	if call.Verdict == Good || call.Verdict == Unknown && once {
		out = append(out, c.Further...)
	}
	return out
}

// gateOpen reports whether all that must come before a step, and is done at all, was
// good.
func gateOpen(c *circuit.Circuit, s circuit.Step, said map[string]Result) bool {
	return !slices.ContainsFunc(s.After, func(id string) bool {
		_, done := c.Test(id)
		return done && said[id].Verdict != Good && len(said[id].Accepted) == 0
	})
}

// oneWay sees a space that holds one sign and not the other, and names what is tried in the bad
// one only, such as what stands behind a reed.
func oneWay(c *circuit.Circuit, bad, good []circuit.Step) string {
	within := func(a, b []string) bool {
		return !slices.ContainsFunc(a, func(id string) bool { return !slices.Contains(b, id) })
	}
	for _, b := range bad {
		for _, g := range good {
			inBad, inGood := c.Pressed(b), c.Pressed(g)
			if b.Kind != circuit.Hold || g.Kind != circuit.Hold || b.Draws() == g.Draws() || !within(inBad.Chambers, inGood.Chambers) && !within(inGood.Chambers, inBad.Chambers) {
				continue
			}
			way := "inward"
			if !b.Draws() {
				way = "outward"
			}
			var only []string
			for _, p := range inBad.Suspects {
				if !slices.ContainsFunc(inGood.Suspects, func(x circuit.Part) bool { return x.ID == p.ID }) {
					only = append(only, p.Title)
				}
			}
			says := "It leaks " + way + " only: suspect a turned or hardened seal lip before a joint."
			if len(only) > 0 {
				says += " Tried in this hold alone: " + among(only) + "."
			}
			return says
		}
	}
	return ""
}
