package judge

import (
	"math"
	"sort"
)

// component is one node fitted, always with a leak: a Gaussian over its columns,
// the leak's prior left flat, so that the likelihood of every steady rate (Pa/s
// at test pressure, positive when losing) can be read off it.
type component struct {
	node   *node
	law    int // column of the leak's law
	cols   [maxColumns]int
	sd     [maxColumns]float64 // prior of each
	centre [maxColumns]float64 // mean of that prior; 0 but for times that were moved
	tau    [2]float64          // times in place of the grid's, once polished; else 0
	n      int
	settle int // how many of cols[1:] settle (with derivatives)
	slow   int // index of the slowest settling amplitude, 0 when none
	leak   int // index of the leak: the last
	mean   [maxColumns]float64
	cov    [maxColumns][maxColumns]float64 // of the components kept
	fits   float64                         // log-likelihood at the best point, but for what all share
	logZ   float64                         // evidence, the rate's own prior flat with density 1 per Pa/s
	weight float64                         // posterior, the rate's prior included
}

func (c *component) rate() (mean, variance float64) {
	return c.mean[c.leak], c.cov[c.leak][c.leak]
}

// fitsStill is the log-likelihood of the best point without a leak.
func (c *component) fitsStill() float64 {
	r, v := c.rate()
	return c.fits - r*r/(2*v)
}

// spreads are the prior standard deviations of the linear parameters, Pa and Pa/s.
type spreads struct{ level, settle, leak float64 }

// fitted is the whole of what the readings say: every node weighed.
type fitted struct {
	d      *design
	parts  []component // by weight, weights summing to 1
	best   component   // the best of them
	scores [4]float64  // penalised log-likelihood of tight, settling, leak, settling+leak
	bare   [4]float64  // the same without the penalty
	noise  float64     // variance of a reading over its nominal one
	misfit float64     // ≥ 1: by how much the bins miss the best curve beyond noise, squared
	bins   []bin
	digits []site // what figures say, where they are read as intervals
	spread spreads
	fell   float64 // share of the test pressure
	scale  float64 // the test pressure, Pa
	n      float64 // readings
	thermo float64 // Pa/s, standard error of the rate from the thermometer
}

// fit weighs every node; asked again without a new reading it answers the same.
// It is nil where there is nothing to fit.
func (r *running) fit(q *Question, atPa float64) *fitted {
	if r.fitted == nil || r.fittedN != r.n {
		r.fitted, r.fittedN = r.refit(q, atPa), r.n
	}
	return r.fitted
}

func (r *running) refit(q *Question, atPa float64) *fitted {
	d := r.build(atPa, q.AmbientPa)
	scale := math.Abs(atPa)
	fall := r.high - r.low
	f := &fitted{d: d, bins: r.bins, noise: r.noiseScale(), misfit: 1, fell: fall / scale, scale: scale, n: float64(r.n), thermo: r.thermometer(), spread: spreads{
		level:  levelShare*scale + levelErrors*r.gauge.readSigma(),
		settle: settleShare*scale + math.Min(fall, muchSettled*scale)/2,
		leak:   leakReach * (q.limit() + fall/math.Max(r.lastT, 1)),
	}}
	prior := ratePrior(q)
	if digit := r.gauge.DigitalPa; digit > 0 {
		shown := f.noise * digitalSigma * digitalSigma // variance of what it shows, last digits²
		f.noise = math.Max(f.noise, oneIn/(digitalSigma*digitalSigma))
		if shown < dithered*dithered+oneIn {
			if !f.gather(prior, &r.room) {
				return nil
			}
			f.digits, _ = r.readFigures(&f.best, d, r.bins, r.quiet(d)*digit, figureSweeps)
			d.reweigh(f.digits)
			f.noise = 1
		}
	}
	if !f.gather(prior, &r.room) {
		return nil
	}
	f.lookBack(prior, r)
	// What the best curve cannot follow widens everything: first it is seen with
	// the readings' own noise, then fitted again with the noise it deserves.
	if m := f.excess(); m > worthWidening {
		f.misfit = m
		f.noise *= m
		if !f.gather(prior, &r.room) {
			return nil
		}
	}
	f.weigh(prior, &r.room)
	return f
}

// worthWidening is the excess from which the fit is made again: less moves no figure that is shown.
const worthWidening = 1.02

// believed is a count of bins taken on trust to miss the curve by no more than
// their noise, so that a few unlucky readings do not widen everything.
const believed = 12

// excess is the mean squared miss of the bins from the best curve over what
// their noise explains, at least 1.
func (f *fitted) excess() float64 {
	dof := float64(len(f.bins) - f.best.n)
	if dof < 3 {
		return 1
	}
	sum := 0.0
	for i := range f.bins {
		w, y := f.seen(i)
		miss := y - f.best.fitted(f, i)
		sum += w * miss * miss
	}
	return math.Max(1, (sum/f.noise+believed)/(dof+believed))
}

// seen is the weight (1/Pa², nominal) and the value (Pa) of a bin.
func (f *fitted) seen(i int) (w, y float64) {
	if f.digits != nil {
		return f.digits[i].w, f.digits[i].y
	}
	return f.bins[i].w, f.bins[i].meanY
}

// evidencePower is the power to which evidence is taken when nodes are weighed against
// each other. Full evidence (1) trusts that one of the library's settlings is the
// true one; a hose of three times is not among them, and the node that happens
// to imitate it best would then outweigh all others. A power below one is the
// robust answer (a power posterior): on the simulated loop, whose hose has three
// times, it takes the intervals that miss after two minutes from 41 to 23 of 60; of
// those at the call 3 of 52 miss.
const evidencePower = 0.7

// worthLooking is how far below the best a node may lie (natural logarithm of evidence) and still be looked at.
const worthLooking = 12

// lawsDiffer is the share of the pressure that must have gone before the law of
// a leak matters to how two times of settling are told.
const lawsDiffer = 0.05

// sketch is a node fitted at its grid times, before it is refined.
type sketch struct {
	node *node
	law  int
	amp  [2]float64
	logZ float64
}

// workspace is kept between looks, so that a look leaves no litter.
type workspace struct {
	sketches []sketch
	all      []component
}

// gather fits every node that is worth it, and the best of them well. It fails
// only where the readings lie beyond what numbers can hold.
func (f *fitted) gather(prior priorRate, room *workspace) bool {
	top := math.Inf(-1)
	sketches := room.sketches[:0]
	for law := colLaminar; law < colY; law++ {
		for i := range nodes {
			// The laws differ only where a good part of the pressure has gone, and
			// liquid that leaves from below the gas is told by that alone.
			if f.fell < lawsDiffer && (law == colOrifice && len(nodes[i].settle) > 1 || law == colLiquid) {
				continue
			}
			if k, ok := f.sketch(&nodes[i], law); ok {
				sketches = append(sketches, k)
				top = math.Max(top, k.logZ)
			}
		}
	}
	all := room.all[:0]
	best := -1
	for i := range sketches {
		k := &sketches[i]
		if k.logZ < top-worthLooking && len(k.node.settle) > 0 {
			continue
		}
		all = append(all, component{})
		c := &all[len(all)-1]
		if !f.refine(c, k) {
			all = all[:len(all)-1]
			continue
		}
		c.weight = c.logZ + prior.evidence(c)
		if best < 0 || c.weight > all[best].weight {
			best = len(all) - 1
		}
	}
	room.sketches, room.all = sketches, all
	if best < 0 {
		return false
	}
	f.best = all[best]
	f.polish(&f.best)
	return true
}

// weigh polishes what was gathered and shares out the weight.
func (f *fitted) weigh(prior priorRate, room *workspace) {
	all := room.all
	// A node cannot be compared before it is polished: the first few of each law
	// are, and then whatever comes near the best.
	sort.SliceStable(all, func(i, j int) bool { return all[i].weight > all[j].weight })
	top := math.Inf(-1)
	tried := map[int]int{}
	for i := range all {
		c := &all[i]
		if tried[c.law]++; tried[c.law] > firstFew && c.weight < top-worthPolish {
			continue
		}
		if f.polish(c) {
			c.weight = c.logZ + prior.evidence(c)
		}
		top = math.Max(top, c.weight)
	}
	none := math.Inf(-1)
	f.scores, f.bare = [4]float64{none, none, none, none}, [4]float64{none, none, none, none}
	sum := 0.0
	for i := range all {
		f.score(&all[i])
		all[i].weight = math.Exp(evidencePower * (all[i].weight - top))
		sum += all[i].weight
	}
	f.parts = f.parts[:0]
	kept := 0.0
	for i := range all {
		if c := &all[i]; c.weight >= 1e-3*sum {
			f.parts = append(f.parts, *c)
			kept += c.weight
		}
	}
	sort.SliceStable(f.parts, func(i, j int) bool { return f.parts[i].weight > f.parts[j].weight })
	for i := range f.parts {
		f.parts[i].weight /= kept
	}
	f.best = f.parts[0]
}

// sketch fits a node's amplitudes at its grid times.
func (f *fitted) sketch(n *node, law int) (sketch, bool) {
	c := component{node: n, law: law, n: 1 + len(n.settle), settle: len(n.settle), slow: len(n.settle)}
	c.cols[0], c.sd[0] = colConst, f.spread.level
	copy(c.cols[1:], n.settle)
	for i := range n.settle {
		c.sd[1+i] = f.spread.settle
	}
	f.close(&c)
	var m small
	ok := f.solve(&c, &m)
	k := sketch{node: n, law: law, logZ: c.logZ}
	copy(k.amp[:len(n.settle)], c.mean[1:])
	return k, ok
}

// close adds the steps and the leak.
func (f *fitted) close(c *component) {
	if len(f.d.steps) > 0 {
		for j := range afterStepS {
			c.cols[c.n], c.sd[c.n] = colAfter+j, afterStep
			c.n++
		}
	}
	for k := range f.d.steps {
		c.cols[c.n], c.sd[c.n] = colStep+k, stepReach*f.spread.settle
		c.n++
	}
	c.cols[c.n], c.sd[c.n], c.leak = c.law, f.spread.leak, c.n
	c.n++
}

// Real creep has more times than a fit: whatever settles may settle a little at
// these times (s) too, up to a share (one standard deviation) of what is seen.
var Unseen = [...]float64{3.5, 20, 105}

// UnseenShare is that share.
const UnseenShare = 0.03

// refine lets each time lie anywhere within its cell of the grid.
func (f *fitted) refine(c *component, k *sketch) bool {
	c.node, c.law, c.slow = k.node, k.law, len(k.node.settle)
	c.cols[0], c.sd[0], c.n = colConst, f.spread.level, 1
	total := 0.0
	for i, col := range k.node.settle {
		c.cols[c.n], c.sd[c.n] = col, f.spread.settle
		total += math.Abs(k.amp[i])
		c.n++
	}
	for i, col := range k.node.settle {
		if col < colExpD {
			c.cols[c.n], c.sd[c.n] = col-colExp+colExpD, math.Max(math.Abs(k.amp[i]), 1e-9)*halfStep/math.Sqrt(3)
			c.n++
		}
	}
	c.settle = c.n - 1
	if c.settle > 0 {
		for u := range Unseen {
			c.cols[c.n], c.sd[c.n] = colUnseen+u, UnseenShare*total+1e-9
			c.n++
		}
	}
	f.close(c)
	var m small
	if !f.solve(c, &m) {
		return false
	}
	m.inverse(&c.cov)
	return true
}

// solve fits the node exactly: linear parameters with Gaussian priors, and the
// evidence for it.
func (f *fitted) solve(c *component, m *small) bool {
	m.n = c.n
	for i := range c.n {
		gi := &f.d.gram[c.cols[i]]
		for j := range i + 1 {
			m.a[i][j] = gi[c.cols[j]] / f.noise
		}
		m.b[i] = gi[colY] / f.noise
	}
	return c.finish(m)
}

// crossPull is the log-likelihood by which two settlings against each other are held less
// likely: pumped air and walls both lower the pressure.
const crossPull = 3

// finish adds the priors to the sums in m and solves them.
func (c *component) finish(m *small) bool {
	prior, away := 1.0, 0.0
	for i := range c.n {
		tight := 1 / (c.sd[i] * c.sd[i])
		m.a[i][i] += tight
		m.b[i] += c.centre[i] * tight
		away += c.centre[i] * c.centre[i] * tight
		prior *= c.sd[i]
	}
	det, ok := m.factor()
	if !ok {
		return false
	}
	m.solve()
	explained := -away
	for i := range c.n {
		explained += m.b[i] * m.x[i]
	}
	c.mean = m.x
	c.fits = explained / 2
	c.logZ = c.node.prior + c.fits - math.Log(prior*math.Sqrt(det)) + math.Log(c.sd[c.leak])
	// Times of one settling pull the same way.
	if len(c.node.settle) == 2 && c.mean[1]*c.mean[2] < 0 {
		c.logZ -= crossPull
	}
	return !math.IsNaN(c.logZ)
}

// falling is the mixture over the whole loss at the last bin, Pa/s, whatever its
// cause: what still settles and what leaks.
func (f *fitted) falling() []gauss {
	var row [columnsN]float64
	settleSlopes(f.d.endT, &row)
	for k := range laws {
		row[colLaminar+k] = -f.d.drive[k]
	}
	out := make([]gauss, 0, len(f.parts))
	for i := range f.parts {
		var x [maxColumns]float64
		c := &f.parts[i]
		c.slopes(&row, f.d.endT, &x)
		out = append(out, gauss{c.weight, -c.dot(&x), math.Sqrt(c.spread(&x))})
	}
	return out
}
