package passages

import (
	"slices"
	"strings"
	"testing"
)

// Every test of a block's one section has its like on the other, with the other's bore, plugs and levers, and back
// again; what has no second section has no like.
func TestTheOtherSectionHasTheSameTests(t *testing.T) {
	t.Parallel()
	for _, c := range housings(t) {
		tests := Tests(c)
		all := Siblings(c, tests)
		for i, like := range all {
			for _, k := range like {
				if !slices.Contains(all[k], i) || len(tests[k].Out) != len(tests[i].Out) || tests[k].Minutes() != tests[i].Minutes() {
					t.Errorf("%s: %s is like %s, with %d and %d seals", c.ID, tests[i].ID(), tests[k].ID(), len(tests[i].Out), len(tests[k].Out))
				}
			}
		}
		if c.ID != "valve-block" {
			continue
		}
		both := 0
		for i, x := range tests {
			if x.setup.feed != "a-port" {
				continue
			}
			both++
			if !slices.ContainsFunc(all[i], func(k int) bool { return tests[k].setup.feed == "b-port" }) && !strings.Contains(x.ID(), "b-float") {
				t.Errorf("%s has no like on the other section", x.ID())
			}
		}
		if both == 0 && len(tests) > 0 {
			t.Errorf("%s: none of %d tests is fed at its first section", c.ID, len(tests))
		}
	}
}
