package passages

import (
	"fmt"
	"slices"
	"testing"

	"idlehiss/core/circuit"
)

func oddsOf(c *circuit.Circuit) map[string]float64 {
	odds := map[string]float64{}
	for _, x := range c.Parts {
		odds[x.ID] = x.Odds
	}
	return odds
}

// Every place at which a seal's leak comes out is traced back to that seal alone; a way runs from what is under pressure
// to the place, and no part on it lets through by itself.
func TestAPlaceIsTracedBackToTheSeal(t *testing.T) {
	t.Parallel()
	all := housings(t)
	for seed := range uint64(100) {
		all = append(all, random(seed, 2+int(seed%11)))
	}
	traced := 0
	for _, c := range all {
		odds := oddsOf(c)
		for _, x := range Tests(c) {
			for seal, at := range x.Out {
				if at == Unseen {
					continue
				}
				place := at
				if at == atItself+seal {
					place = seal
				}
				ways := Trace(c, x, place, odds)
				if !slices.ContainsFunc(ways, func(w Path) bool { return slices.Equal(w.Leaks, []string{seal}) }) {
					t.Errorf("%s, %s: air at %s is traced to %v, and not to %s", c.ID, x.ID(), place, ways, seal)
				}
				sum := 0.0
				for i, w := range ways {
					sum += w.Share
					if i > 0 && w.Share > ways[i-1].Share || !slices.Contains(x.Pressed.Chambers, w.Through[0]) || len(w.Leaks) == 0 {
						t.Errorf("%s: way %d of %v", c.ID, i, ways)
					}
				}
				if sum < 0.999 || sum > 1.001 {
					t.Errorf("%s: shares of %v", c.ID, ways)
				}
				traced++
			}
		}
	}
	if traced < 1000 {
		t.Errorf("only %d were traced", traced)
	}
}

// Air at a place where no single leak comes out is traced through two seals in a row.
func TestAnUnexpectedPlaceIsTracedThroughTwoSeals(t *testing.T) {
	all, err := Housings()
	if err != nil {
		t.Fatal(err)
	}
	i := slices.IndexFunc(all, func(c circuit.Circuit) bool { return c.ID == "carburettor-bench" })
	c := all[i].Fitted(map[string]bool{"primer": true})
	tests := Tests(&c)
	k := slices.IndexFunc(tests, func(x Test) bool { return x.Own == "dry" })
	if k < 0 {
		t.Fatal("the carburettor has no test of its needle")
	}
	for place, want := range map[string]string{
		"impulse": "[pump-diaphragm]", // the pulse passage: through its diaphragm, or a gasket of the wrong shape
		"bulb":    "[needle bulb]",    // past the needle, through the valve of the primer that opens this way, and out of a cracked bulb
	} {
		ways := Trace(&c, tests[k], place, oddsOf(&c))
		if len(ways) == 0 || fmt.Sprint(ways[0].Leaks) != want {
			t.Errorf("air at %s: %+v", place, ways)
		}
	}
	if ways := Trace(&c, tests[k], "impulse-nipple", oddsOf(&c)); len(ways) < 3 || fmt.Sprint(ways[1].Leaks) != "[wrong-pump-gasket]" || fmt.Sprint(ways[2].Leaks) != "[needle wrong-metering-gasket]" {
		t.Errorf("air at the pulse nipple: %+v", ways)
	}
}
