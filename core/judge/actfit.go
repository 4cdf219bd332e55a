package judge

import (
	"math"
	"slices"

	"gonum.org/v1/gonum/mat"

	"idlehiss/core/trace"
)

// The slopes about an act (docs/PHYSICS.md, The gauge as a finger): constant, settling in common, a
// slope between every two turns and a free step at each, linear with normal priors, for each of
// some times of settling; their evidence weighs them.

// actTaus are the times of settling that are tried, s.
var actTaus = [...]float64{6, 11, 20, 36, 65, 120, 220, 400}

// Priors of the fit.
const (
	actSettle  = 0.04 // share of the pressure that settles in one time, one standard deviation
	actStep    = 0.03 // share of the pressure by which a squeezed hose lifts the needle
	actUnseen  = 0.02 // share of the fall that settles at other times
	actSquares = 8    // sights taken on trust to miss the curve by no more than their noise
)

// actNode is one time of settling fitted.
type actNode struct {
	tau    float64
	turns  int
	slopes []int // the column of each part's slope
	mean   []float64
	cov    *mat.SymDense
	weight float64
}

// Columns: constant, settling, what settles unseen, slopes, steps.
func (n *actNode) slopeAt(k int) int { return n.slopes[k] }

func (n *actNode) rate(k int) float64   { return n.mean[n.slopeAt(k)] }
func (n *actNode) rateSD(k int) float64 { i := n.slopeAt(k); return math.Sqrt(n.cov.At(i, i)) }
func (n *actNode) step(k int) float64   { return n.mean[firstSlope+n.turns+1+k] }

// drive is how fast a leak passes at a pressure against the start: laminar.
func (a *actFit) drive(y float64) float64 {
	abs := func(gauge float64) float64 { return a.ambPa + a.sign*gauge }
	square := func(p float64) float64 { return math.Abs(p*p - a.ambPa*a.ambPa) }
	return square(abs(math.Max(0, a.startPa+y))) / square(abs(a.startPa))
}

// firstSlope is the first column of the slopes.
const firstSlope = 2 + len(Unseen)

// columns are those of the slopes between the turns. Once an act is undone the loss is what it was: tied, its
// slope is that of before; not tied, each has its own, as when a joint was tightened. Where the next act comes
// before enough was seen to tell, it is tied.
func (a *actFit) columns(tied bool) []int {
	out := make([]int, len(a.turns)+1)
	for k := range out {
		out[k] = firstSlope + k
		if k > 0 && a.turns[k-1].Kind == trace.ActOver && (tied || a.brief(k)) {
			out[k] = firstSlope
			if trace.IsAct(a.turns[0].Kind) {
				continue
			}
			out[k] = firstSlope + a.firstOver() // what was before the first turn belongs to an act
		}
	}
	return out
}

// brief reports whether too little was seen between an undoing and the turn after it to fit a slope there: a few
// readings, or half as long as the act itself, while what was cut off still evens out.
func (a *actFit) brief(k int) bool {
	if k == len(a.turns) {
		return false
	}
	from, to := a.turns[k-1].AtS, a.turns[k].AtS
	if k > 1 && to-from < (from-a.turns[k-2].AtS)/2 {
		return true
	}
	n := 0
	for _, s := range a.seen {
		if s.t >= from-a.t0 && s.t < to-a.t0 {
			n++
		}
	}
	return n < leastFits
}

// firstOver is the first part that follows an undoing.
func (a *actFit) firstOver() int {
	for k, e := range a.turns {
		if e.Kind == trace.ActOver {
			return k + 1
		}
	}
	return 0
}

// row fills the columns at a moment. passed[k] is the time, s, weighed by the drive, that passed
// between turn k-1 and turn k so far.
func (a *actFit) row(t, tau float64, passed []float64, slopes []int, x []float64) {
	for i := range x {
		x[i] = 0
	}
	x[0], x[1] = 1, math.Exp(-t/tau)
	for u, at := range Unseen {
		x[2+u] = math.Exp(-t / at)
	}
	for k := range passed {
		x[slopes[k]] -= passed[k]
	}
	for k, e := range a.turns {
		if t >= e.AtS-a.t0 {
			x[firstSlope+len(passed)+k] = 1
		}
	}
}

// passing walks the sights and gives the weighed time in each part at each of them.
func (a *actFit) passing(seen []sight) [][]float64 {
	now := make([]float64, len(a.turns)+1)
	out := make([][]float64, len(seen))
	t, y := 0.0, 0.0
	for i, s := range seen {
		// The stretch since the last sight is split at the turns within it.
		for k := range now {
			from, to := 0.0, math.Inf(1)
			if k > 0 {
				from = a.turns[k-1].AtS - a.t0
			}
			if k < len(a.turns) {
				to = a.turns[k].AtS - a.t0
			}
			if dt := math.Min(s.t, to) - math.Max(t, from); dt > 0 {
				now[k] += dt * a.drive((y+s.y)/2)
			}
		}
		t, y = s.t, s.y
		out[i] = append([]float64{}, now...)
	}
	return out
}

// fit fits every time of settling to the sights.
func (a *actFit) fit(seen []sight) []actNode {
	low := 0.0
	for _, s := range seen {
		low = math.Min(low, s.y)
	}
	fall := -low
	widen := 1.0
	var nodes []actNode
	for range 2 { // again with the noise that the best of them deserves
		nodes = nodes[:0]
		top := math.Inf(-1)
		passed := a.passing(seen)
		missed := 0.0
		for _, tied := range []bool{true, false} {
			slopes := a.columns(tied)
			if !tied && slices.Equal(slopes, a.columns(true)) {
				break
			}
			for _, tau := range actTaus {
				n, logZ, miss, ok := a.node(seen, passed, slopes, tau, fall, widen)
				if !ok {
					continue
				}
				n.weight = logZ
				if logZ > top {
					top, missed = logZ, miss
				}
				nodes = append(nodes, n)
			}
		}
		sum := 0.0
		for i := range nodes {
			nodes[i].weight = math.Exp(evidencePower * (nodes[i].weight - top))
			sum += nodes[i].weight
		}
		for i := range nodes {
			nodes[i].weight /= sum
		}
		dof := float64(len(seen) - 2 - len(a.turns)*2)
		if dof <= 0 || widen > 1 {
			break
		}
		if widen = (missed + actSquares) / (dof + actSquares); widen < worthWidening {
			break
		}
	}
	return nodes
}

// node fits one time of settling; miss is the sum of squared misses over the sights' variance.
func (a *actFit) node(seen []sight, passed [][]float64, slopes []int, tau, fall, widen float64) (n actNode, logZ, miss float64, ok bool) {
	turns := len(a.turns)
	cols := 2 + len(Unseen) + 2*turns + 1
	n = actNode{tau: tau, turns: turns, slopes: slopes}
	sd := make([]float64, cols)
	sd[0] = 0.02*a.startPa + 2*a.gauge.StepPaOrDigit()
	sd[1] = math.Min(actSettle*a.startPa, fall+a.gauge.StepPaOrDigit())
	for u := range Unseen {
		sd[2+u] = actUnseen*fall + 1e-6*a.startPa
	}
	for k := range turns + 1 {
		sd[2+len(Unseen)+k] = leakReach * (fall + a.gauge.StepPaOrDigit()) / math.Max(a.endS, 1)
	}
	for k := range turns {
		sd[2+len(Unseen)+turns+1+k] = actStep * a.startPa
	}
	square, right := make([]float64, cols*cols), make([]float64, cols)
	logSD := 0.0
	for i := range cols {
		square[i*cols+i] = 1 / (sd[i] * sd[i])
		logSD += math.Log(sd[i])
	}
	x := make([]float64, cols)
	for i, s := range seen {
		a.row(s.t, tau, passed[i], slopes, x)
		w := 1 / (s.sd * s.sd * widen)
		for r := range cols {
			if x[r] == 0 {
				continue
			}
			for c := r; c < cols; c++ {
				square[r*cols+c] += w * x[r] * x[c]
			}
			right[r] += w * x[r] * s.y
		}
	}
	g, b := mat.NewSymDense(cols, square), mat.NewVecDense(cols, right)
	var chol mat.Cholesky
	if !chol.Factorize(g) {
		return n, 0, 0, false
	}
	var m mat.VecDense
	n.cov = mat.NewSymDense(cols, nil)
	if chol.SolveVecTo(&m, b) != nil || chol.InverseTo(n.cov) != nil {
		return n, 0, 0, false
	}
	n.mean = m.RawVector().Data
	logZ = mat.Dot(&m, b)/2 - logSD - chol.LogDet()/2
	for i, s := range seen {
		a.row(s.t, tau, passed[i], slopes, x)
		v := s.y
		for c := range x {
			v -= n.mean[c] * x[c]
		}
		miss += v * v / (s.sd * s.sd)
	}
	return n, logZ, miss, !math.IsNaN(logZ) && !math.IsInf(logZ, 0)
}

// How finely the odds are summed.
const (
	rateSteps  = 33
	shareSteps = 12
)

// odds are the probabilities that the loss after a turn is slower, and that it is faster.
func (a *actFit) odds(k int) (slower, faster float64) {
	total, loses := 0.0, 0.0
	for i := range a.nodes {
		n := &a.nodes[i]
		loses += n.weight * normalCDF(n.rate(k)/n.rateSD(k))
		s, f, all := n.odds(k)
		slower += n.weight * s
		faster += n.weight * f
		total += n.weight * all
	}
	if total <= 0 || loses < actSure { // nothing surely leaked before it that could have changed
		return 0.5, 0
	}
	return slower / total, faster / total
}

// odds weighs what the loss after may be against the two slopes.
func (n *actNode) odds(k int) (slower, faster, all float64) {
	i, j := n.slopeAt(k), n.slopeAt(k+1)
	m0, m1 := n.mean[i], n.mean[j]
	s00, s11, s01 := n.cov.At(i, i), n.cov.At(j, j), n.cov.At(i, j)
	sd0 := math.Sqrt(s00)
	rest := math.Sqrt(math.Max(s11-s01*s01/s00, leastRest*s11))
	const reach = 4.0
	for r := range rateSteps {
		z := -reach + 2*reach*(float64(r)+0.5)/rateSteps
		before := m0 + z*sd0
		if before <= 0 {
			continue
		}
		w := math.Exp(-z * z / 2)
		at := m1 + s01/s00*(before-m0)
		for _, belief := range actBeliefs {
			for s := range shareSteps {
				share := belief.low + (belief.high-belief.low)*(float64(s)+0.5)/shareSteps
				d := (share*before - at) / rest
				v := w * belief.weight / shareSteps * math.Exp(-d*d/2) / rest
				all += v
				if share < slowerBelow {
					slower += v
				}
				if share > fasterAbove {
					faster += v
				}
			}
		}
	}
	return slower, faster, all
}

// tellApart is the difference of the slopes over its standard deviation at which stopped and untouched
// stand 20 to 1 apart.
var tellApart = math.Sqrt(2 * math.Log(1/(1-actSure)))

// more is for how long to watch on after the last turn until a loss that stopped and one that did
// not stand 20 to 1 apart; ok is false where half an hour would not tell.
func (a *actFit) more(k int) (s float64, ok bool) {
	if k != len(a.turns)-1 {
		return 0, false // the next turn has ended it
	}
	best := 0
	for i := range a.nodes {
		if a.nodes[i].weight > a.nodes[best].weight {
			best = i
		}
	}
	n := &a.nodes[best]
	before := n.rate(k)
	if before <= 0 {
		return 0, false
	}
	return a.until(n.tau, before, math.Max(a.usualSD(), 1e-9))
}

// usualSD is the middle standard error of a sight.
func (a *actFit) usualSD() float64 {
	if len(a.seen) == 0 {
		return a.gauge.readSigma()
	}
	return a.seen[len(a.seen)/2].sd
}

// until adds sights as they came until now, until the slopes stand apart.
func (a *actFit) until(tau, before, sd float64) (s float64, ok bool) {
	more := append([]sight{}, a.seen...)
	slopes := a.columns(true)
	every := math.Max(a.every, a.endS/mostSights)
	y := 0.0
	if len(more) > 0 {
		y = more[len(more)-1].y
	}
	fall := -y
	for t := a.endS + every; t-a.endS < plannedMost; t += every {
		more = append(more, sight{t, y, sd})
		if passed := t - a.endS; len(more)%4 != 0 && passed > 8*every {
			continue
		}
		n, _, _, ok := a.node(more, a.passing(more), slopes, tau, fall, 1)
		if !ok {
			return 0, false
		}
		i, k := n.slopeAt(len(a.turns)-1), n.slopeAt(len(a.turns))
		v := n.cov.At(i, i) + n.cov.At(k, k) - 2*n.cov.At(i, k)
		if before/math.Sqrt(v) >= tellApart {
			return t - a.endS, true
		}
		every *= planGrowth
	}
	return 0, false
}
