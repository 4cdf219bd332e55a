package hunt

import "math"

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

// Cells are the hypotheses of one suspect: gas of each size of the grid, then liquid of each.
const Cells = 2 * GridSizes

// perCell is how many sizes of a pair lie in a cell of the grid. Both kinds of hypothesis are
// looked at more finely than the grid: its cells are a factor of 2.9 apart, and a hold tells more.
const perCell = 3

// fine are the sizes at which evidence is looked at, m³/s; fine[k] is of the cell k/perCell.
var fine = func() (out [GridSizes * perCell]float64) {
	for k := range out {
		out[k] = smallest * math.Pow(largest/smallest, (float64(k)-1)/(perCell*(GridSizes-1)))
	}
	return out
}()

// unfitting is how well a hold must fit a pair for it to be followed.
const unfitting = 5e-3

// How often there are two leaks, and how often it leaks where no part is named. Shop practice.
const (
	twoLeaks = 0.1
	noneHere = 0.02
)

// Leak is one in a hypothesis: at which of the suspects, Elsewhere for none of them, how much
// (m³/s, standard, at the test pressure, as the gas behind it sees it), and whether liquid leaves.
type Leak struct {
	Part int
	Flow float64
	Wet  bool
}

// Elsewhere is the part of a leak at none of the suspects.
const Elsewhere = -1

// Evidence is something that was found: how likely it is if these leaks are there, to a factor.
type Evidence interface {
	Weight(leaks []Leak) float64
	// alike is the same for suspects that weigh alike at the same flow; sized: the flow matters.
	alike(part int) (kind [2]float64, sized bool)
}

// Belief is what is known of the leaks: every hypothesis enumerated, none sampled.
type Belief struct {
	Odds      []float64        // that each suspect leaks
	Sizes     [][Cells]float64 // that it leaks and is of each size and kind; sums to Odds
	Two       float64          // that there are two leaks
	Elsewhere float64          // that it leaks at none of them
}

// Believe weighs every hypothesis by all that was found. shares are the prior odds of the
// suspects and sum to one, wet the chance that what leaves each is liquid; the order of the evidence
// does not matter, and without one of them everything is as if it had never been.
func Believe(shares, wet []float64, found []Evidence) Belief {
	n := len(shares)
	b := Belief{Odds: make([]float64, n), Sizes: make([][Cells]float64, n)}
	w := weighing{}
	for i, share := range shares {
		for _, h := range []guess{{i, false, share * (1 - wet[i])}, {i, true, share * wet[i]}} {
			if h.share > 0 {
				w.guesses = append(w.guesses, h)
			}
		}
	}
	for _, e := range found {
		w.take(e)
	}
	total := 0.0
	for i, g := range w.guesses {
		for s := range fine {
			v := g.share * (1 - twoLeaks - noneHere) * w.one(i, s) / float64(len(fine))
			b.Sizes[g.part][g.cell(s)] += v
			total += v
		}
	}
	for s := range fine {
		b.Elsewhere += noneHere * w.one(Elsewhere, s) / float64(len(fine))
	}
	total += b.Elsewhere
	b.Two = w.pairs(&b)
	total += b.Two
	if total <= 0 { // nothing can have been found like that: the odds as they were
		return Believe(shares, wet, nil)
	}
	for i := range b.Sizes {
		for s := range b.Sizes[i] {
			b.Sizes[i][s] /= total
			b.Odds[i] += b.Sizes[i][s]
		}
	}
	b.Two /= total
	b.Elsewhere /= total
	return b
}

// guess is a suspect with what leaves it, and its prior.
type guess struct {
	part  int
	wet   bool
	share float64
}

// cell is that of a fine size.
func (g guess) cell(size int) int {
	if g.wet {
		return GridSizes + size/perCell
	}
	return size / perCell
}

// weighing is the evidence, sorted by what a pair of leaks needs of it: looks are products over
// the leaks, what has no size is one figure a pair, and of the rest suspects that weigh alike
// share a table.
type weighing struct {
	guesses []guess
	looks   []looked
	plain   []Evidence
	sized   []Evidence
	windows []window

	kinds  []int             // of every suspect: which weigh alike in all that is sized
	tables map[[2]int][]both // of two kinds
	unseen [][len(fine)]float64
}

// looked is a look: the chance that it shows nothing of each suspect's leak, by size; one where
// it would show none.
type looked struct {
	Looked
	misses map[int]*[len(fine)]float64
}

// both is how two leaks of such sizes weigh.
type both struct {
	a, b  int16
	worth float64
}

// window is what a hold leaves of the flows.
type window struct {
	factor    []float64
	low, high float64
}

func (w *weighing) take(e Evidence) {
	switch e := e.(type) {
	case Looked:
		x := looked{e, map[int]*[len(fine)]float64{}}
		for i, g := range w.guesses {
			share := e.shows(g.part)
			if share == 0 {
				continue
			}
			miss := new([len(fine)]float64)
			for s, flow := range fine {
				miss[s] = 1 - share*e.Chance(Leak{g.part, flow, g.wet})
			}
			x.misses[i] = miss
		}
		w.looks = append(w.looks, x)
		return
	case Held:
		low, high := e.window(unfitting)
		w.windows = append(w.windows, window{e.Factor, low, high})
	}
	if _, sized := e.alike(0); sized {
		w.sized = append(w.sized, e)
	} else {
		w.plain = append(w.plain, e)
	}
}

// miss is the chance that a look shows nothing of a guessed leak.
func (x *looked) miss(guess, size int) float64 {
	if m := x.misses[guess]; m != nil {
		return m[size]
	}
	return 1
}

// leak is a guess of a size.
func (w *weighing) leak(guess, size int) Leak {
	if guess == Elsewhere {
		return Leak{Part: Elsewhere, Flow: fine[size]}
	}
	g := w.guesses[guess]
	return Leak{g.part, fine[size], g.wet}
}

// one weighs a single leak.
func (w *weighing) one(guess, size int) float64 {
	out := 1.0
	leak := []Leak{w.leak(guess, size)}
	for _, e := range w.plain {
		out *= e.Weight(leak)
	}
	for _, e := range w.sized {
		out *= e.Weight(leak)
	}
	for i := range w.looks {
		out *= w.looks[i].says((1 - w.looks[i].False) * w.looks[i].miss(guess, size))
	}
	return out
}

// says is the chance of what was found at a look that shows nothing with such a chance.
func (x Looked) says(miss float64) float64 {
	if x.Saw {
		return 1 - miss
	}
	return miss
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
