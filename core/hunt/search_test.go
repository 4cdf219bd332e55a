package hunt

import (
	"encoding/json"
	"math"
	"math/rand/v2"
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
		shares := make([][Cells]float64, len(c.Prior))
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
	shares := make([][Cells]float64, 3)
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

// Where covers are shared no order of single looks is surely the best: the route, planned again after every
// look, against dynamic programming over what was looked at.
func TestTheRouteIsNearTheOptimum(t *testing.T) {
	luck := rand.New(rand.NewPCG(8, 13))
	const n, covered = 8, 2
	total, worst := 0.0, 0.0
	const cases = 150
	for range cases {
		shares := make([][Cells]float64, n)
		looks := make([]Lookable, n)
		covers := make([]float64, covered)
		for k := range covers {
			covers[k] = 2 + 18*luck.Float64()
		}
		sum := 0.0
		for i := range shares {
			shares[i][0] = luck.ExpFloat64()
			sum += shares[i][0]
		}
		for i := range looks {
			shares[i][0] /= sum
			looks[i] = Lookable{Part: i, Minutes: 0.5 + 5*luck.Float64(), Cover: luck.IntN(covered+2) - 2}
			if looks[i].Cover < -1 {
				looks[i].Cover = -1
			}
			looks[i].Chance[0] = 1
		}
		off := func(done int) []float64 {
			price := slices.Clone(covers)
			for i, l := range looks {
				if done>>i&1 == 1 && l.Cover >= 0 {
					price[l.Cover] = 0
				}
			}
			return price
		}
		cost := func(i int, price []float64) float64 {
			if c := looks[i].Cover; c >= 0 {
				return looks[i].Minutes + price[c]
			}
			return looks[i].Minutes
		}
		left := func(done int) (sum float64) {
			for i := range shares {
				if done>>i&1 == 0 {
					sum += shares[i][0]
				}
			}
			return sum
		}
		// best[done] is what is expected from there, weighed by what is left of the odds.
		best := make([]float64, 1<<n)
		for done := 1<<n - 2; done >= 0; done-- {
			best[done] = math.Inf(1)
			price := off(done)
			for i := range looks {
				if done>>i&1 == 0 {
					best[done] = math.Min(best[done], cost(i, price)*left(done)+best[done|1<<i])
				}
			}
		}
		ours, done := 0.0, 0
		for done != 1<<n-1 {
			rest := slices.Clone(shares)
			for i := range rest {
				if done>>i&1 == 1 {
					rest[i][0] = 0
				}
			}
			order, _ := Route(rest, looks, off(done), 1)
			ours += cost(order[0], off(done)) * left(done)
			done |= 1 << order[0]
		}
		total += ours / best[0] / cases
		worst = math.Max(worst, ours/best[0])
	}
	if total > 1.05 {
		t.Errorf("%.3f of the optimum at the mean, %.3f at the worst", total, worst)
	}
	t.Logf("%.4f of the optimum at the mean, %.4f at the worst", total, worst)
}
