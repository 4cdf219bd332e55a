package study

import (
	"math"
	"slices"

	"idlehiss/core/hunt"
)

// What a wrong part costs: it is mended, and held again.
const (
	wrongMin = 40.0  // minutes
	mostMin  = 960.0 // after which a hunt is given up
	waitLost = 0.25  // share of a wait, of at most five minutes, in which nothing else is done: as core/hunt counts
	waitMost = 5.0   // minutes
)

// Outcome is a hunt.
type Outcome struct {
	Policy  string
	Circuit string
	Minutes float64 // until a true leak was named
	Right   bool    // the first part that was named leaks
	Wrong   int     // parts that were mended for nothing
	ByOdds  bool    // a part stood at 19 to 1 before anything was seen at it; the first that did counts
	OddsOK  bool    // and leaks
	AtOdds  bool    // the first part that was named stood at 19 to 1, seen or not
	GivenUp bool
}

// hunting is a hunt under way.
type hunting struct {
	*Case
	spent float64
	off   map[string]bool // covers
	seen  map[int]bool    // parts at which something was seen, before a mend too
}

// price is what a look costs now, in minutes, its cover included, and how long it still takes to show.
func (h *hunting) price(part int, m hunt.Method) (costs, waits float64) {
	s := h.Scene.Suspects[part]
	lost := waitLost * math.Min(float64(m.Waits)/60, waitMost)
	costs = (float64(s.Reach)+float64(m.Takes))/60 + lost
	if c, ok := h.Scene.Circuit.CoverOf(s.Part); ok && !h.off[c.ID] {
		costs += float64(c.Off) / 60
	}
	return costs, float64(m.Waits)/60 - lost
}

// look does one.
func (h *hunting) look(part int, m hunt.Method) bool {
	costs, waits := h.price(part, m)
	if c, ok := h.Scene.Circuit.CoverOf(h.Scene.Suspects[part].Part); ok {
		h.off[c.ID] = true
	}
	h.spent += costs
	saw := h.sees(part, m)
	h.seen[part] = h.seen[part] || saw
	if saw {
		h.spent += waits
	}
	return saw
}

// Policy hunts a case down.
type Policy struct {
	Name string
	Run  func(*Case) Outcome
}

// Policies are ours and the simple ones.
var Policies = []Policy{
	{"Idle Hiss", ours},
	{"walk-round in file order", rounds(func(h *hunting, s *seen) (int, int) { return s.round(h, false) })},
	{"soap everything", rounds(func(h *hunting, s *seen) (int, int) { return s.round(h, true) })},
	{"by odds alone", rounds(func(h *hunting, s *seen) (int, int) { return s.byOdds(h) })},
	{"largest p·d/c", rounds(func(h *hunting, s *seen) (int, int) { return s.byRate(h) })},
}

func play(c *Case) *hunting { return &hunting{Case: c, off: map[string]bool{}, seen: map[int]bool{}} }

// begin is our hunt after the first hold.
func begin(h *hunting) *hunt.Hunt {
	x := &hunt.Hunt{Scene: h.Scene, Shares: hunt.Told{Hunch: -1}.Shares(h.Scene.Suspects), Looked: map[string][]string{}, Seen: map[string]bool{}, Done: map[string]bool{}}
	x.Off = h.off
	x.Found = append(x.Found, h.held(x.Step))
	return x
}

// ours follows the first proposal, whatever it is.
func ours(c *Case) Outcome {
	h := play(c)
	out := Outcome{Policy: "Idle Hiss", Circuit: c.Scene.Circuit.ID}
	x := begin(h)
	first := true
	confirmed := map[int]bool{}
	for h.spent < mostMin {
		b := hunt.Believe(x.Shares, x.Liquid(), x.Found)
		plan := x.Next(b, x.Done, 1)
		part, named := b.Named()
		ok := named
		if ok && !h.seen[part] && !out.ByOdds {
			out.ByOdds, out.OddsOK = true, h.Leaks(part)
		}
		if top := likeliest(b); !ok && x.Seen[x.Suspects[top].ID] {
			look, can := confirm(x, b, top)
			part, ok = top, can && hunt.Enough(b.Odds[top], look.Minutes(), x.Wrong(top))
		}
		if ok || len(plan.Checks) == 0 {
			if !ok { // nothing is left that would show more: the likeliest is tried
				part = likeliest(b)
			}
			id := x.Suspects[part].ID
			if check, can := confirm(x, b, part); can && !x.Seen[id] && !confirmed[part] {
				confirmed[part] = true
				note(h, x, check)
				continue
			}
			if first {
				out.Right, out.AtOdds, first = h.Leaks(part), named, false
			}
			if h.Leaks(part) {
				out.Minutes = h.spent
				return out
			}
			h.spent += wrongMin
			out.Wrong++
			x.Seen[id] = false
			h.mend(part)
			x.Found = append(x.Found, hunt.Mended{Part: part, After: h.held(x.Step)})
			continue
		}
		note(h, x, plan.Checks[0])
	}
	out.Minutes, out.GivenUp = math.Max(h.spent, mostMin), true
	return out
}

func likeliest(b hunt.Belief) (part int) {
	for i, p := range b.Odds {
		if p > b.Odds[part] {
			part = i
		}
	}
	return part
}

// confirm is the cheapest look that would confirm a part.
func confirm(x *hunt.Hunt, b hunt.Belief, part int) (hunt.Check, bool) {
	checks, _, _, _ := x.Checks(b)
	return hunt.Confirm(checks, part)
}

// note does a check and takes down what it showed.
func note(h *hunting, x *hunt.Hunt, c hunt.Check) {
	switch c.Kind {
	case hunt.ALook, hunt.AConfirm:
		saw := h.look(c.Part, c.Method)
		x.Found = append(x.Found, x.Look(c.Part, c.Method, saw))
		x.Seen[x.Suspects[c.Part].ID] = saw || x.Seen[x.Suspects[c.Part].ID]
	case hunt.AnIsolate:
		h.spent += c.Minutes()
		x.Done[c.Step.ID] = true
		x.Found = append(x.Found, h.held(*c.Step))
	case hunt.ACondition:
		h.spent += c.Minutes()
		x.Done[string(c.Change)] = true
		k := 1
		grows := slices.ContainsFunc(c.Tries, h.Leaks)
		if shows := c.Answers[0].Right; grows && h.luck.Float64() < shows || !grows && h.luck.Float64() < c.Answers[0].Wrong {
			k = 0
		}
		x.Found = append(x.Found, c.Answers[k])
	default:
		h.spent += c.Minutes()
		x.Done[c.Act.ID] = true
		if cut := x.Circuit.CutOff(*c.Act, x.Step); len(cut) > 0 {
			marked := make([]bool, len(x.Suspects))
			for i, s := range x.Suspects {
				marked[i] = slices.Contains(cut, s.ID)
			}
			x.Found = append(x.Found, h.cut(marked, c.Act.Air))
			return
		}
		x.Found = append(x.Found, c.Answers[h.answer(c.Answers)])
	}
}
