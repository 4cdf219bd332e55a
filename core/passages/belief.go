package passages

import (
	"math"
	"slices"
)

// belief is how likely each set of leaks is: none, one class of seals, or two.
type belief struct {
	p       Plan
	classes [][]string         // seals that no test of the plan tells apart stand together
	within  map[string]float64 // the share of a seal in its class
	leaks   [][2]int           // of each set its classes; -1: none
	weight  []float64          // of each set, of sum 1
	places  []map[string]int   // of each test: its places, numbered from 1
	shows   [][][2]int         // of each test and set: the places, the lower first; 0: none
	outcome [][]int            // the same as one number, from 0
}

func (p Plan) believe(odds map[string]float64) *belief {
	b := &belief{p: p, within: map[string]float64{}}
	at := map[string]int{}
	sum := 0.0
	var share []float64
	for _, id := range p.Seals {
		key := ""
		for _, t := range p.Tests {
			key += t.Out[id] + "\n"
		}
		k, known := at[key]
		if !known {
			k = len(b.classes)
			at[key] = k
			b.classes, share = append(b.classes, nil), append(share, 0)
		}
		x := math.Max(odds[id], 1e-6)
		b.classes[k] = append(b.classes[k], id)
		b.within[id] = x
		share[k] += x
		sum += x
	}
	for k, ids := range b.classes {
		for _, id := range ids {
			b.within[id] /= share[k]
		}
		share[k] /= sum
	}
	add := func(i, k int, w float64) {
		b.leaks, b.weight = append(b.leaks, [2]int{i, k}), append(b.weight, w)
	}
	add(-1, -1, soundBefore)
	for i := range share {
		add(i, -1, share[i])
		for k := i + 1; k < len(share); k++ {
			add(i, k, 2*twoBefore*share[i]*share[k])
		}
	}
	for _, t := range p.Tests {
		places := map[string]int{}
		of := func(class int) int {
			if class < 0 || t.Out[b.classes[class][0]] == "" {
				return 0
			}
			place := t.Out[b.classes[class][0]]
			if places[place] == 0 {
				places[place] = len(places) + 1
			}
			return places[place]
		}
		numbers := map[[2]int]int{}
		var shows [][2]int
		var outcome []int
		for _, l := range b.leaks {
			x := [2]int{of(l[0]), of(l[1])}
			if x[0] == x[1] {
				x[0] = 0
			} else if x[0] > x[1] {
				x[0], x[1] = x[1], x[0]
			}
			n, known := numbers[x]
			if !known {
				n = len(numbers)
				numbers[x] = n
			}
			shows, outcome = append(shows, x), append(outcome, n)
		}
		b.places, b.shows, b.outcome = append(b.places, places), append(b.shows, shows), append(b.outcome, outcome)
	}
	b.norm()
	return b
}

func (b *belief) norm() {
	sum := 0.0
	for _, w := range b.weight {
		sum += w
	}
	for h := range b.weight {
		b.weight[h] /= sum
	}
}

// see weighs a result.
func (b *belief) see(r Result) {
	if r.Fell {
		for h, x := range b.shows[r.Test] {
			if x == [2]int{} {
				b.weight[h] *= slip
			}
		}
		b.norm()
		return
	}
	heard := map[int]bool{}
	unknown := 0 // places at which nothing of the plan comes out in this test
	for _, place := range r.Places {
		if n := b.places[r.Test][place]; n > 0 {
			heard[n] = true
		} else {
			unknown++
		}
	}
	for h, x := range b.shows[r.Test] {
		like := math.Pow(slip, float64(unknown))
		if slices.ContainsFunc(b.leaks[h][:], func(class int) bool {
			return class >= 0 && slices.ContainsFunc(b.classes[class], func(id string) bool { return slices.Contains(r.Ways, id) })
		}) {
			like = math.Pow(strayed, float64(unknown))
		}
		said := 0
		for _, n := range x {
			switch {
			case n == 0:
			case heard[n]:
				said++
			case len(r.Places) > 0:
				like *= hidden
			default:
				like *= slip
			}
		}
		like *= math.Pow(slip, float64(len(heard)-said))
		b.weight[h] *= like
	}
	b.norm()
}

// marginal is how likely each class leaks, and how likely none does, where sets have these weights.
func (b *belief) marginal(weight []float64) (m []float64, none float64) {
	m = make([]float64, len(b.classes))
	for h, w := range weight {
		l := b.leaks[h]
		if l[0] < 0 {
			none = w
			continue
		}
		m[l[0]] += w
		if l[1] >= 0 {
			m[l[1]] += w
		}
	}
	return m, none
}

// splits reports whether a test would tell anything: whether what may be, with one leak or none, shows different things.
func (b *belief) splits(test int) bool {
	first := -1
	for h, w := range b.weight {
		if w < singleAt || b.leaks[h][1] >= 0 {
			continue
		}
		if first < 0 {
			first = b.outcome[test][h]
		} else if b.outcome[test][h] != first {
			return true
		}
	}
	return false
}
