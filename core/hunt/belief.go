package hunt

import (
	"math"
	"sort"
)

// The grid of sizes: standard flow at the test pressure, evenly spaced in the logarithm
// (docs/PHYSICS.md, Where to look).
const (
	GridSizes = 14
	smallest  = 1e-10 // m³/s, 1e-4 cm³/s
	largest   = 1e-4  // m³/s, 100 cm³/s
)

// Grid are the sizes, m³/s.
var Grid = func() (g [GridSizes]float64) {
	for k := range g {
		g[k] = smallest * math.Pow(largest/smallest, float64(k)/(GridSizes-1))
	}
	return g
}()

// within are the places in a cell of the grid at which evidence is looked at, as factors of its
// size: the cells are a factor of 2.9 apart.
var within = [5]float64{math.Pow(2.9, -0.4), math.Pow(2.9, -0.2), 1, math.Pow(2.9, 0.2), math.Pow(2.9, 0.4)}

// pairSizes are the sizes of each of two leaks at once: coarser than a single one's, but no
// coarser than what a hold says of their sum.
var pairSizes = func() (out []float64) {
	for k := range GridSizes * perCell {
		out = append(out, smallest*math.Pow(largest/smallest, (float64(k)-1)/(perCell*(GridSizes-1))))
	}
	return out
}()

const perCell = 3

// unfitting is how well a hold must fit a pair for it to be followed.
const unfitting = 5e-3

// How often there are two leaks, and how often it leaks where no part is named. Shop practice.
const (
	twoLeaks = 0.1
	noneHere = 0.02
)

// Leak is one in a hypothesis: at which of the suspects, Elsewhere for none of them, and how much
// (m³/s, standard, at the test pressure).
type Leak struct {
	Part int
	Flow float64
}

// Elsewhere is the part of a leak at none of the suspects.
const Elsewhere = -1

// Evidence is something that was found: how likely it is if these leaks are there, to a factor.
type Evidence interface {
	Weight(leaks []Leak) float64
}

// Belief is what is known of the leaks: every hypothesis enumerated, none sampled.
type Belief struct {
	Odds      []float64            // that each suspect leaks
	Sizes     [][GridSizes]float64 // that it leaks and is of each size; sums to Odds
	Two       float64              // that there are two leaks
	Elsewhere float64              // that it leaks at none of them

	single [][GridSizes]float64
	pairs  []pair
}

// pair is a hypothesis of two leaks: which, of what sizes, and its share.
type pair struct {
	a, b   int
	sa, sb int
	share  float64
}

// Believe weighs every hypothesis by all that was found. shares are the prior odds of the
// suspects and sum to one; the order of the evidence does not matter, and without one of them
// everything is as if it had never been.
func Believe(shares []float64, found []Evidence) Belief {
	n := len(shares)
	b := Belief{Odds: make([]float64, n), Sizes: make([][GridSizes]float64, n), single: make([][GridSizes]float64, n)}
	weigh := func(leaks []Leak) float64 {
		w := 1.0
		for _, e := range found {
			if w *= e.Weight(leaks); w == 0 {
				break
			}
		}
		return w
	}
	var windows []window
	for _, e := range found {
		if h, ok := e.(Held); ok {
			low, high := h.window(unfitting)
			windows = append(windows, window{h.Factor, low, high})
		}
	}
	one := make([]Leak, 1)
	cell := func(part, s int) float64 {
		sum := 0.0
		for _, f := range within {
			one[0] = Leak{part, Grid[s] * f}
			sum += weigh(one)
		}
		return sum / float64(len(within)) / GridSizes
	}
	total := 0.0
	for i, share := range shares {
		for s := range GridSizes {
			if share > 0 {
				b.single[i][s] = share * (1 - twoLeaks - noneHere) * cell(i, s)
			}
			total += b.single[i][s]
		}
	}
	for s := range GridSizes {
		b.Elsewhere += noneHere * cell(Elsewhere, s)
	}
	total += b.Elsewhere
	// Two at once: each pair by the product of its odds, each size by itself.
	both := make([]Leak, 2)
	scale := 0.0
	for i := range shares {
		for k := i + 1; k < n; k++ {
			scale += shares[i] * shares[k]
		}
	}
	for i := range shares {
		for k := i + 1; k < n; k++ {
			prior := twoLeaks * shares[i] * shares[k] / math.Max(scale, 1e-300) / float64(len(pairSizes)*len(pairSizes))
			if prior < tooRare {
				continue
			}
			for sa, fa := range pairSizes {
				low, high := 0.0, math.Inf(1)
				for _, w := range windows {
					low, high = w.beside(i, k, fa, low, high)
				}
				for sb := sort.SearchFloat64s(pairSizes, low); sb < len(pairSizes) && pairSizes[sb] <= high; sb++ {
					fb := pairSizes[sb]
					both[0], both[1] = Leak{i, fa}, Leak{k, fb}
					if w := weigh(both); w > 0 {
						b.pairs = append(b.pairs, pair{i, k, sa / perCell, sb / perCell, prior * w})
						total += prior * w
					}
				}
			}
		}
	}
	if total <= 0 { // nothing can have been found like that: the odds as they were
		return Believe(shares, nil)
	}
	for i := range b.single {
		for s := range b.single[i] {
			b.single[i][s] /= total
			b.Sizes[i][s] += b.single[i][s]
			b.Odds[i] += b.single[i][s]
		}
	}
	for k := range b.pairs {
		p := &b.pairs[k]
		p.share /= total
		b.Two += p.share
		b.Odds[p.a] += p.share
		b.Odds[p.b] += p.share
		b.Sizes[p.a][p.sa] += p.share
		b.Sizes[p.b][p.sb] += p.share
	}
	b.Elsewhere /= total
	return b
}

// window is what a hold leaves of the flows.
type window struct {
	factor    []float64
	low, high float64
}

// beside narrows what a leak at k may be beside one of so much at i.
func (w window) beside(i, k int, flow, low, high float64) (float64, float64) {
	has, per := w.factor[i]*flow, w.factor[k]
	switch {
	case has > w.high || per == 0 && has < w.low:
		return math.Inf(1), 0
	case per == 0:
		return low, high
	}
	return math.Max(low, (w.low-has)/per), math.Min(high, (w.high-has)/per)
}

// tooRare is the prior of a pair below which it is not enumerated.
const tooRare = 1e-12
