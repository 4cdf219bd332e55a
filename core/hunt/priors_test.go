package hunt

import (
	"math"
	"slices"
	"testing"

	"idlehiss/core/circuit"
)

func TestASignOutweighsTheOdds(t *testing.T) {
	parts := []circuit.Part{{ID: "hose", Odds: 6, Signs: []string{"crust"}}, {ID: "heater", Odds: 3, Signs: []string{"wet carpet", "misted screen"}}, {ID: "gasket", Odds: 1, Signs: []string{"misted screen"}}}
	c := circuit.Circuit{Signs: []circuit.Sign{{ID: "crust"}, {ID: "stain", Tells: 9}}}
	share := func(hunch string, seen ...string) []float64 {
		set := map[string]bool{}
		for _, s := range seen {
			set[s] = true
		}
		return Priors(parts, Tells(&c, set), hunch)
	}
	for _, x := range []struct {
		got, want []float64
	}{
		{share(""), []float64{0.6, 0.3, 0.1}},
		{share("", "wet carpet"), []float64{6. / 19, 12. / 19, 1. / 19}},
		{share("", "wet carpet", "misted screen"), []float64{6. / 58, 48. / 58, 4. / 58}},
		{share("gasket", "misted screen"), []float64{6. / 30, 12. / 30, 12. / 30}},
		{Priors(parts[:2], map[string]float64{"crust": Tells(&c, map[string]bool{"stain": true})["stain"]}, ""), []float64{54. / 57, 3. / 57}},
		{share("", "a sign of something else"), []float64{0.6, 0.3, 0.1}},
	} {
		for i := range x.want {
			if math.Abs(x.got[i]-x.want[i]) > 1e-12 {
				t.Errorf("%v, want %v", x.got, x.want)
				break
			}
		}
	}
	if got := Signs(parts); !slices.Equal(got, []string{"crust", "wet carpet", "misted screen"}) {
		t.Errorf("%v", got)
	}
}
