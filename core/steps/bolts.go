package steps

import (
	"fmt"
	"math"
	"slices"
	"sort"
	"strconv"
	"strings"

	"idlehiss/core/quantity"
)

// Bolt is one bolt of a plate: where it sits, and when in a round it is turned, from
// 1. X runs along the plate and Y across it, in one unit of any size.
type Bolt struct {
	X    float64 `json:"x"`
	Y    float64 `json:"y"`
	Turn int     `json:"turn"`
}

// mostBolts is as many as any plate has.
const mostBolts = 80

// BoltRows reads "5 5" or "4,6,4": the bolts in each row, from one long side to the
// other. They are spread evenly, rows half as far apart again as bolts.
func BoltRows(text string) ([]Bolt, error) {
	var rows []int
	for _, w := range strings.FieldsFunc(text, func(r rune) bool { return r == ' ' || r == ',' || r == ';' || r == '/' }) {
		n, err := strconv.Atoi(w)
		if err != nil || n < 1 || n > 40 {
			return nil, fmt.Errorf("%q is not a number of bolts: type the bolts in each row, such as 5 5", w)
		}
		rows = append(rows, n)
	}
	if len(rows) == 0 || len(rows) > 6 {
		return nil, fmt.Errorf("type one to six rows of bolts, such as 5 5")
	}
	longest := float64(slices.Max(rows))
	var out []Bolt
	for r, n := range rows {
		for i := range n {
			out = append(out, Bolt{X: (float64(i) + 0.5) / float64(n) * longest, Y: 1.5 * float64(r)})
		}
	}
	if len(out) > mostBolts {
		return nil, fmt.Errorf("%d bolts are too many: %d at most", len(out), mostBolts)
	}
	return out, nil
}

// BoltPlaces reads "12.5 30; 50 30": where each bolt was tapped, x along the plate
// and y across it, both in one unit, 0 to 100.
func BoltPlaces(text string) ([]Bolt, error) {
	var out []Bolt
	for _, pair := range strings.FieldsFunc(text, func(r rune) bool { return r == ';' }) {
		f := strings.Fields(pair)
		if len(f) == 0 {
			continue
		}
		var at [2]float64
		for i := range at {
			var err error
			if len(f) == 2 {
				at[i], _, err = quantity.Number(f[i])
			}
			if len(f) != 2 || err != nil || !(at[i] >= 0 && at[i] <= 100) {
				return nil, fmt.Errorf("%q is not a place: type two numbers from 0 to 100, along the plate and across it", strings.TrimSpace(pair))
			}
		}
		b := Bolt{X: at[0], Y: at[1]}
		if slices.ContainsFunc(out, func(x Bolt) bool { return math.Hypot(x.X-b.X, x.Y-b.Y) < 1 }) {
			return nil, fmt.Errorf("two bolts are at %g, %g: one was tapped twice", b.X, b.Y)
		}
		out = append(out, b)
	}
	if len(out) > mostBolts {
		return nil, fmt.Errorf("%d bolts are too many: %d at most", len(out), mostBolts)
	}
	return out, nil
}

// Order numbers the bolts of a plate in place: from the middle outwards, each next
// one on the side away from the last, so that the sheet is pressed flat towards its
// edges.
func Order(bolts []Bolt) {
	if len(bolts) == 0 {
		return
	}
	low, high := bolts[0], bolts[0]
	for _, b := range bolts {
		low.X, low.Y = math.Min(low.X, b.X), math.Min(low.Y, b.Y)
		high.X, high.Y = math.Max(high.X, b.X), math.Max(high.Y, b.Y)
	}
	unit := spacing(bolts)
	at := func(i int) (x, y float64) {
		return (bolts[i].X - (low.X+high.X)/2) / unit, (bolts[i].Y - (low.Y+high.Y)/2) / unit
	}
	// Bolts tapped by hand are not quite at one distance: a quarter of a spacing is one.
	ring := func(i int) float64 { x, y := at(i); return math.Round(math.Hypot(x, y)*4) / 4 }
	left := make([]int, len(bolts))
	for i := range left {
		left[i] = i
	}
	sort.SliceStable(left, func(i, j int) bool { return ring(left[i]) < ring(left[j]) })
	lastX, lastY := 0.01, 0.02
	for n := 1; len(left) > 0; n++ {
		// Of those that are next by distance, the one furthest across from the last.
		best, across := 0, math.Inf(1)
		for k, i := range left {
			if ring(i) > ring(left[0])+0.5 {
				break
			}
			x, y := at(i)
			if along := x*lastX + y*lastY + 3*ring(i); along < across-1e-9 {
				best, across = k, along
			}
		}
		i := left[best]
		bolts[i].Turn = n
		lastX, lastY = at(i)
		left = append(left[:best], left[best+1:]...)
	}
}

// spacing is how far bolts usually are from their nearest neighbour.
func spacing(bolts []Bolt) float64 {
	var near []float64
	for i, a := range bolts {
		least := math.Inf(1)
		for k, b := range bolts {
			if i != k {
				least = math.Min(least, math.Hypot(a.X-b.X, a.Y-b.Y))
			}
		}
		near = append(near, least)
	}
	sort.Float64s(near)
	if mid := near[len(near)/2]; mid > 0 && !math.IsInf(mid, 1) {
		return mid
	}
	return 1
}
