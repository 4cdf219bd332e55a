package hunt

import (
	"math"
	"slices"
)

// Lookable is one check of one suspect: what it costs and how surely it shows a leak of each size.
type Lookable struct {
	Part    int            // among the suspects
	Minutes float64        // that it costs: hands on, and what is lost of a wait
	Wait    float64        // minutes more until it shows, while the walk goes on
	Chance  [Cells]float64 // of seeing a leak of each size and kind
	Cover   int            // that must be off first; -1: none
}

// remainder is what may be left of the odds when a walk is no longer followed: its minutes
// weigh less than the sixth digit.
const remainder = 1e-12

// ahead is the same where walks are only compared.
const ahead = 1e-3

// Walk follows looks in the order of the largest chance a minute, each miss weighing against its
// part (Blackwell; Stone, Theory of Optimal Search, 1975). shares are the odds of part and size.
// covers is the price of each cover, minutes, paid once; it is not changed. It gives the first
// looks in their order, at most keep of them, and the minutes expected until the leak is seen,
// as a mean over what the looks can see.
func Walk(shares [][Cells]float64, looks []Lookable, covers []float64, keep int) (order []int, minutes float64) {
	return walkTo(remainder, shares, looks, byPart(looks, len(shares)), covers, keep)
}

// Route is a walk that may begin behind a cover: it is dear for one look and cheap for several, so
// it is tried whether it pays to take one off first. The minutes are good for comparing ways only.
func Route(shares [][Cells]float64, looks []Lookable, covers []float64, keep int) (order []int, minutes float64) {
	of := byPart(looks, len(shares))
	order, minutes = walkTo(ahead, shares, looks, of, covers, keep)
	for k, price := range covers {
		open := slices.Clone(covers)
		open[k] = 0
		first, m := walkTo(ahead, shares, looks, of, open, max(keep, 1))
		if price > 0 && len(first) > 0 && looks[first[0]].Cover == k && m+price < minutes*(1-noGain) {
			order, minutes = first, m+price
		}
	}
	return order, minutes
}

// noGain is the share of the minutes below which one way is as good as another.
const noGain = 1e-6

// walkTo follows a walk until so much of the odds is left.
func walkTo(depth float64, shares [][Cells]float64, looks []Lookable, of [][]int, covers []float64, keep int) (order []int, minutes float64) {
	w, whole := newWalk(depth, shares, looks, of, covers)
	seen, spent := 0.0, 0.0
	for range mostLooks {
		best := w.best()
		if best < 0 || w.gain[best] < depth*whole {
			break
		}
		gain := w.gain[best]
		spent += w.cost(best)
		minutes += (spent + w.looks[best].Wait) * gain
		seen += gain
		if len(order) < keep {
			order = append(order, best)
		}
		w.look(best)
		if whole-seen < depth*whole {
			break
		}
	}
	if seen == 0 {
		return order, math.Inf(1)
	}
	return order, minutes / seen
}

// byPart are the looks at each part.
func byPart(looks []Lookable, parts int) [][]int {
	of := make([][]int, parts)
	for k := range looks {
		of[looks[k].Part] = append(of[looks[k].Part], k)
	}
	return of
}

// walk is one that is under way.
type walk struct {
	looks []Lookable
	price []float64        // of covers that are still on
	left  [][Cells]float64 // of the odds, after the misses so far
	whole float64
	cells []int     // of the hypotheses that are worth following: a hold leaves few
	of    [][]int   // looks of each part
	gain  []float64 // chance of each look
	first []int     // the best look of each part; -1: none
	rate  []float64 // its chance a minute
}

// newWalk begins one, with the odds that it follows: hypotheses beyond its depth are left out.
func newWalk(depth float64, shares [][Cells]float64, looks []Lookable, of [][]int, covers []float64) (*walk, float64) {
	w := &walk{looks: looks, price: slices.Clone(covers), left: slices.Clone(shares), of: of,
		gain: make([]float64, len(looks)), first: make([]int, len(shares)), rate: make([]float64, len(shares))}
	var mass [Cells]float64
	whole := 0.0
	for i := range shares {
		for k, v := range shares[i] {
			mass[k] += v
			whole += v
		}
	}
	followed := 0.0
	for k, v := range mass {
		if v > depth*whole {
			w.cells = append(w.cells, k)
			followed += v
		}
	}
	w.whole = math.Max(followed, 1e-300)
	for part := range shares {
		w.weigh(part)
	}
	return w, followed
}

func (w *walk) cost(k int) float64 {
	c := w.looks[k].Minutes
	if w.looks[k].Cover >= 0 {
		c += w.price[w.looks[k].Cover]
	}
	return c
}

// weigh finds what the looks at a part are worth now.
func (w *walk) weigh(part int) {
	for _, k := range w.of[part] {
		sum := 0.0
		left, chance := &w.left[part], &w.looks[k].Chance
		for _, s := range w.cells {
			sum += left[s] * chance[s]
		}
		w.gain[k] = sum
	}
	w.rank(part)
}

// rank finds the best look at a part.
func (w *walk) rank(part int) {
	w.first[part], w.rate[part] = -1, 0
	for _, k := range w.of[part] {
		// A wait costs as much of itself as it is likely to be the last: beside other work it costs nothing.
		cost := w.cost(k) + w.looks[k].Wait*w.gain[k]/w.whole
		if r := w.gain[k] / cost; r > w.rate[part]*(1+alikeRates) {
			w.first[part], w.rate[part] = k, r
		}
	}
}

// best is the look with the largest chance a minute, the first of equal ones; -1: none.
func (w *walk) best() int {
	best, rate := -1, 0.0
	for part, k := range w.first {
		if k < 0 {
			continue
		}
		if r := w.rate[part]; r > rate*(1+alikeRates) || r > rate*(1-alikeRates) && k < best {
			best, rate = k, r
		}
	}
	return best
}

// look does it and sees nothing.
func (w *walk) look(k int) {
	l := &w.looks[k]
	for _, s := range w.cells {
		w.left[l.Part][s] *= 1 - l.Chance[s]
	}
	w.weigh(l.Part)
	if l.Cover < 0 || w.price[l.Cover] == 0 {
		return
	}
	w.price[l.Cover] = 0
	for part := range w.of {
		w.rank(part)
	}
}

// alikeRates are two chances a minute that count as equal.
const alikeRates = 1e-12

// mostLooks is how many looks a walk follows.
const mostLooks = 4000
