package hunt

import (
	"encoding/json"
	"math"
	"os"
	"slices"
	"testing"
)

// Looks in the order of the largest chance a minute take the minutes that dynamic programming
// finds to be the fewest: the reference values.
func TestTheSearchIsTheShortest(t *testing.T) {
	raw, err := os.ReadFile("testdata/search.json")
	if err != nil {
		t.Fatal(err)
	}
	var ref struct {
		Cases []struct {
			Name      string
			Prior     []float64
			Detection []float64
			Minutes   []float64
			Expected  float64 `json:"optimal_expected_minutes"`
			First     []int   `json:"optimal_first_checks"`
		}
	}
	if err := json.Unmarshal(raw, &ref); err != nil || len(ref.Cases) < 7 {
		t.Fatal(len(ref.Cases), err)
	}
	for _, c := range ref.Cases {
		shares := make([][GridSizes]float64, len(c.Prior))
		var looks []Lookable
		for i, p := range c.Prior {
			shares[i][3] = p
			l := Lookable{Part: i, Minutes: c.Minutes[i], Cover: -1}
			l.Chance[3] = c.Detection[i]
			looks = append(looks, l)
		}
		order, minutes := Walk(shares, looks, nil, 10)
		if math.Abs(minutes-c.Expected) > 1e-6*c.Expected || !slices.Contains(c.First, order[0]) {
			t.Errorf("%s: %.9f minutes from %v, want %.9f from %v", c.Name, minutes, order, c.Expected, c.First)
		}
	}
}

// A cover is paid once: what stands behind it is looked at together.
func TestACoverIsPaidOnce(t *testing.T) {
	shares := make([][GridSizes]float64, 3)
	var looks []Lookable
	for i, p := range []float64{0.3, 0.3, 0.4} {
		shares[i][0] = p
		l := Lookable{Part: i, Minutes: 1, Cover: -1}
		l.Chance[0] = 1
		if i < 2 {
			l.Cover = 0
		} else {
			l.Minutes = 9
		}
		looks = append(looks, l)
	}
	order, minutes := Walk(shares, looks, []float64{5}, 9)
	// 6 for the first behind it, 1 more for the second, 9 more for the one outside.
	if want := 0.3*6 + 0.3*7 + 0.4*16; !slices.Equal(order, []int{0, 1, 2}) || math.Abs(minutes-want) > 1e-9 {
		t.Errorf("%v, %.3f minutes, want %.3f", order, minutes, want)
	}
}
