package passages

import (
	"fmt"
	"slices"

	"idlehiss/core/circuit"
	"idlehiss/core/quantity"
)

// What a reader of a file with passages would correct.
const (
	RuleReach  circuit.Rule = "reach"  // a seal that no isolation test tries, in any way the machine can be built
	RuleHidden circuit.Rule = "hidden" // an escape that no test shows at a place
	RuleAlike  circuit.Rule = "alike"  // seals that no test tells apart, and no act either
)

// Rules are those of this package.
func Rules() []circuit.Rule { return []circuit.Rule{RuleReach, RuleHidden, RuleAlike} }

// Findings looks at a file that has more than one bore or a lever: what is tested passage by passage. One with a
// single way in has no set of tests to plan.
func Findings(c *circuit.Circuit) []circuit.Finding {
	if len(c.Ports) < 2 && len(c.Positions) == 0 {
		return nil
	}
	tried, shown, alone := map[string]bool{}, map[string]bool{}, map[string]bool{}
	with := map[string]string{} // of each seal that was never alone, one that it stood with
	for _, w := range c.Ways() {
		tests := Tests(&w)
		for _, t := range tests {
			for id, at := range t.Out {
				tried[id] = true
				shown[id] = shown[id] || at != Unseen
			}
		}
		all := seals(&w, tests)
		if len(all) > MostSeals {
			return nil // it is told so where it is planned
		}
		for _, g := range groups(newSearch(&w, tests, all).finest, len(all)) {
			for _, i := range g {
				other := slices.IndexFunc(g, func(k int) bool { return k != i && !splits(&w, all[i], all[k]) })
				if other < 0 {
					alone[all[i]] = true
				} else if _, known := with[all[i]]; !known {
					with[all[i]] = all[g[other]]
				}
			}
		}
	}
	var out []circuit.Finding
	for i, p := range c.Parts {
		if p.Odds <= 0 || p.Removed || p.Meant > 0 {
			continue
		}
		add := func(rule circuit.Rule, says string) {
			out = append(out, circuit.Finding{Rule: rule, Path: fmt.Sprintf("$.parts[%d]", i), Of: p.ID, Says: says})
		}
		switch other := with[p.ID]; {
		case !tried[p.ID]:
			add(RuleReach, fmt.Sprintf("No bore brings pressure to one side of the %s alone: give the chamber a port, or say in which state it is tried.", quantity.Lower(p.Title)))
		case !shown[p.ID]:
			add(RuleHidden, fmt.Sprintf("Where the %s lets air to has no way to the air in any test: name the opening at which it would be heard.", quantity.Lower(p.Title)))
		case !alone[p.ID] && other != "":
			add(RuleAlike, fmt.Sprintf("No test and no act tells the %s from the %s: part their outlets, or add an act that touches one of them.", quantity.Lower(p.Title), quantity.Lower(title(c, other))))
		}
	}
	return out
}

// seals are the parts that some test tries, in the circuit's order.
func seals(c *circuit.Circuit, tests []Test) (ids []string) {
	for _, p := range c.Parts {
		if slices.ContainsFunc(tests, func(t Test) bool { return t.Out[p.ID] != "" }) {
			ids = append(ids, p.ID)
		}
	}
	return ids
}

// splits reports whether an answer of some act points to one of two parts and not to the other.
func splits(c *circuit.Circuit, a, b string) bool {
	return slices.ContainsFunc(c.Acts, func(x circuit.Act) bool {
		return slices.ContainsFunc(x.Answers, func(y circuit.Answer) bool {
			return slices.Contains(y.Points, a) != slices.Contains(y.Points, b)
		})
	})
}

// Spare are the circuit's own steps under pressure that tell no seal from another that the rest of its steps do not
// tell: as tests of where it leaks they are not needed. What a hold says of how much is another matter.
func Spare(c *circuit.Circuit) (ids []string) {
	var own []Test
	for _, t := range Tests(c) {
		if t.Own != "" && !slices.ContainsFunc(own, func(u Test) bool { return u.Own == t.Own }) {
			own = append(own, t)
		}
	}
	all := seals(c, own)
	if len(all) > MostSeals {
		return nil
	}
	whole := newSearch(c, own, all).finest.blocks()
	for _, t := range own {
		rest := slices.DeleteFunc(slices.Clone(own), func(u Test) bool { return u.Own == t.Own || slices.Contains(ids, u.Own) })
		if newSearch(c, rest, all).finest.blocks() == whole {
			ids = append(ids, t.Own)
		}
	}
	return ids
}
