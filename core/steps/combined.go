package steps

import (
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
	Accepted []string // what of the rig was seen to leak, and is lived with: no fault of the part
}

// Combined is the one call of all the steps of a job.
type Combined struct {
	Verdict  Verdict  `json:"verdict" enum:"good,bad,unknown"`
	Sentence string   `json:"sentence"`
	Lines    []string `json:"lines"`    // what each step said
	Untested []string `json:"untested"` // what still wants a step, by title
	Seen     []string `json:"seen"`     // parts at which a leak was seen, by name: they outrank every gauge
	Beyond   string   `json:"beyond"`   // what that says of the rest; empty where nothing was seen
	Accepted []string `json:"accepted"` // what of the rig leaks and is lived with, by name
	Next     string   `json:"next"`     // the id of the step that is next; empty: none
}

// Combine makes one call of several steps. A bad one counts, though others were
// good, unless a later step that outranks it was good; it is good only once
// nothing that is asked for is left. A leak seen at a part (seen, by name) makes it bad
// whatever any gauge says: eyes outrank the needle.
func Combine(c *circuit.Circuit, results []Result, seen []string) Combined {
	out := Combined{Verdict: Good, Lines: []string{}, Untested: []string{}, Seen: append([]string{}, seen...), Accepted: []string{}}
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
			good = append(good, s)
			for _, name := range r.Accepted {
				if !slices.Contains(out.Accepted, name) {
					out.Accepted = append(out.Accepted, name)
				}
			}
			out.Lines = append(out.Lines, fmt.Sprintf("%s: the rig leaks at %s, seen and accepted. %s", s.Title, quantity.Lower(strings.Join(r.Accepted, ", ")), r.Sentence))
			continue
		case v == Bad:
			bad = append(bad, s)
		case v == Good:
			good = append(good, s)
		case !s.Optional:
			out.Untested = append(out.Untested, s.Title)
			if out.Next == "" && gateOpen(c, s, said) {
				out.Next = s.ID
			}
		}
		if r.Sentence != "" && (v != Unknown || r.Sentence != "") {
			out.Lines = append(out.Lines, s.Title+": "+r.Sentence)
		}
	}
	titles := func(all []circuit.Step) string {
		var t []string
		for _, s := range all {
			t = append(t, quantity.Lower(s.Title))
		}
		return strings.Join(t, ", ")
	}
	switch {
	case len(seen) > 0:
		out.Verdict, out.Beyond = Bad, "The rest is not tested past it."
		if len(bad) == 0 && len(out.Untested) == 0 {
			out.Beyond = "The gauge alone would have passed it."
		}
		out.Sentence = "Leaking: " + quantity.Lower(strings.Join(seen, ", ")) + ", seen. " + out.Beyond
	case len(bad) > 0:
		out.Verdict, out.Sentence = Bad, "Not right: "+titles(bad)+"."
		if len(good) > 0 && len(bad)+len(good) > 1 {
			out.Sentence += " Right: " + titles(good) + "."
		}
		if way := oneWay(c, bad, good); way != "" {
			out.Sentence += " " + way
		}
	case len(out.Untested) > 0:
		out.Verdict = Unknown
		if len(good) > 0 {
			out.Sentence = "Right so far: " + titles(good) + "."
		} else {
			out.Sentence = "Nothing tested yet."
		}
	default:
		out.Sentence = "Right: " + titles(good) + "."
	}
	if len(out.Accepted) > 0 {
		out.Sentence += " Accepted, since seen: " + quantity.Lower(strings.Join(out.Accepted, ", ")) + " leaks. Everything else that was tested is tight."
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

// oneWay sees a space that holds one sign and not the other.
func oneWay(c *circuit.Circuit, bad, good []circuit.Step) string {
	for _, b := range bad {
		for _, g := range good {
			if b.Kind == circuit.Hold && g.Kind == circuit.Hold && b.Draws() != g.Draws() && slices.Equal(c.Pressed(b).Chambers, c.Pressed(g).Chambers) {
				way := "inward"
				if !b.Draws() {
					way = "outward"
				}
				return "It leaks " + way + " only: suspect a turned or hardened seal lip before a joint."
			}
		}
	}
	return ""
}
