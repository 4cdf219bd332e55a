package judge

import (
	"math"
	"sort"
)

// component is one node fitted, always with a leak: a Gaussian over its columns,
// the leak's prior left flat, so that the likelihood of every steady rate (Pa/s
// at test pressure, positive when losing) can be read off it.
type component struct {
	of     *node
	law    int // column of the leak's law
	cols   [most]int
	sd     [most]float64 // prior of each
	n      int
	settle int // how many of cols[1:] settle (with derivatives)
	slow   int // index of the slowest settling amplitude, 0 when none
	leak   int // index of the leak: the last
	mean   [most]float64
	cov    [most][most]float64 // of the components kept
	system small               // factored; cov is its inverse
	fits   float64             // log-likelihood at the best point, but for what all share
	logZ   float64             // evidence, the rate's own prior flat with density 1 per Pa/s
	weight float64             // posterior, the rate's prior included
}

func (c *component) rate() (mean, variance float64) {
	return c.mean[c.leak], c.cov[c.leak][c.leak]
}

// fitsStill is the log-likelihood of the best point without a leak.
func (c *component) fitsStill() float64 {
	r, v := c.rate()
	return c.fits - r*r/(2*v)
}

// value is the fitted change since the first reading for a row of columns.
func (c *component) value(row *[columnsN]float64) float64 {
	v := 0.0
	for i := range c.n {
		v += c.mean[i] * row[c.cols[i]]
	}
	return v
}

// spreads are the prior standard deviations of the linear parameters, Pa and Pa/s.
type spreads struct{ level, settle, leak float64 }

// fitted is the whole of what the readings say: every node weighed.
type fitted struct {
	d      *design
	parts  []component // by weight, weights summing to 1
	best   component   // the best of them
	scores [4]float64  // penalised log-likelihood of tight, settling, leak, settling+leak
	settle *component  // the best fit that settles, without a leak
	noise  float64     // variance of a reading over its nominal one
	misfit float64     // ≥ 1: by how much the bins miss the best curve beyond noise, squared
	digits []site      // what figures say, where they are read as intervals
	spread spreads
}

// fit weighs every node; asked again without a new reading it answers the same.
func (r *running) fit(q *Question, atPa float64) *fitted {
	if r.fitted == nil || r.fittedN != r.n {
		r.fitted, r.fittedN = r.fresh(q, atPa), r.n
	}
	return r.fitted
}

func (r *running) fresh(q *Question, atPa float64) *fitted {
	d := r.build(atPa, q.AmbientPa)
	scale := math.Abs(atPa)
	fall := r.high - r.low
	f := &fitted{d: d, noise: r.noiseScale(), misfit: 1, spread: spreads{
		level:  0.02*scale + 3*r.gauge.readSigma(),
		settle: 0.05*scale + fall/2,
		leak:   30 * (q.limit() + fall/math.Max(r.lastT, 1)),
	}}
	prior := ratePrior(q)
	if digit := r.gauge.DigitalPa; digit > 0 {
		sigma := digitNoise(f.noise * digitalSigma * digitalSigma)
		f.noise = math.Max(f.noise, 1/(12*digitalSigma*digitalSigma))
		if sigma < dithered && !r.warm {
			f.weigh(prior, len(r.steps))
			f.digits = r.readFigures(&f.best, d, sigma*digit, 2)
			d.reweigh(f.digits)
			f.noise = 1
		}
	}
	f.weigh(prior, len(r.steps))
	// What the best curve cannot follow widens everything: first it is seen with
	// the readings' own noise, then fitted again with the noise it deserves.
	if m := f.excess(r.bins); m > 1 {
		f.misfit = m
		f.noise *= m
		f.weigh(prior, len(r.steps))
	}
	return f
}

// believed is a count of bins taken on trust to miss the curve by no more than
// their noise, so that a few unlucky readings do not widen everything.
const believed = 12

// excess is the mean squared miss of the bins from the best curve over what
// their noise explains, at least 1.
func (f *fitted) excess(bins []bin) float64 {
	dof := float64(len(bins) - f.best.n)
	if dof < 3 {
		return 1
	}
	sum := 0.0
	for i := range bins {
		w, y := bins[i].w, bins[i].meanY
		if f.digits != nil {
			w, y = f.digits[i].w, f.digits[i].y
		}
		miss := y - f.best.value(&f.d.rows[i])
		sum += w * miss * miss
	}
	return math.Max(1, (sum/f.noise+believed)/(dof+believed))
}

// drop is how far below the best a node may lie and still be looked at.
const drop = 12

func (f *fitted) weigh(prior priorRate, steps int) {
	all := make([]component, 0, len(nodes))
	top := math.Inf(-1)
	rough := make([]component, len(nodes))
	for i := range nodes {
		if c, ok := f.rough(&nodes[i], colLaminar, steps); ok {
			rough[i] = c
			top = math.Max(top, c.logZ)
		} else {
			rough[i].logZ = math.Inf(-1)
		}
	}
	for i := range rough {
		if rough[i].logZ > top-drop || i == 0 {
			if c, ok := f.refined(&rough[i]); ok {
				all = append(all, c)
			}
		}
	}
	// The other law where it can matter.
	for i, n := 0, len(all); i < n; i++ {
		if all[i].logZ < top-4 {
			continue
		}
		if c, ok := f.rough(all[i].of, colOrifice, steps); ok {
			if c, ok = f.refined(&c); ok {
				all = append(all, c)
			}
		}
	}
	f.scores = [4]float64{math.Inf(-1), math.Inf(-1), math.Inf(-1), math.Inf(-1)}
	top = math.Inf(-1)
	for i := range all {
		c := &all[i]
		c.cov = c.system.inverse()
		c.weight = c.logZ + prior.evidence(c)
		top = math.Max(top, c.weight)
		f.score(c)
	}
	sum := 0.0
	for i := range all {
		all[i].weight = math.Exp(all[i].weight - top)
		sum += all[i].weight
	}
	sort.SliceStable(all, func(i, j int) bool { return all[i].weight > all[j].weight })
	kept := 0.0
	for i := range all {
		if all[i].weight < 1e-3*sum && i > 0 {
			all = all[:i]
			break
		}
		kept += all[i].weight
	}
	for i := range all {
		all[i].weight /= kept
	}
	f.parts, f.best = all, all[0]
}

// dearer is what a leak must gain in log-likelihood to be named.
const dearer = 1.5

// score enters a node into the four shapes: log-likelihood less a price for each
// parameter (near AIC), the settling and the leak each with the sign it must have.
func (f *fitted) score(c *component) {
	settles := 0
	price := 0.0
	if c.settle > 0 {
		if c.mean[1] < 0 {
			return
		}
		settles = 1
		price = 1.2 * c.of.params
	}
	f.scores[settles] = math.Max(f.scores[settles], c.fitsStill()-price)
	if s := c.fits - price - dearer; c.mean[c.leak] > 0 {
		f.scores[2+settles] = math.Max(f.scores[2+settles], s)
	}
}

// rough fits a node's amplitudes at its grid times.
func (f *fitted) rough(n *node, law, steps int) (component, bool) {
	c := component{of: n, law: law, n: 1 + len(n.settle), settle: len(n.settle), slow: len(n.settle)}
	c.cols[0], c.sd[0] = colConst, f.spread.level
	copy(c.cols[1:], n.settle)
	for i := range n.settle {
		c.sd[1+i] = f.spread.settle
	}
	f.close(&c, steps)
	return c, f.solve(&c)
}

// close adds the steps and the leak.
func (f *fitted) close(c *component, steps int) {
	for k := range steps {
		c.cols[c.n], c.sd[c.n] = colStep+k, 10*f.spread.settle
		c.n++
	}
	c.cols[c.n], c.sd[c.n], c.leak = c.law, f.spread.leak, c.n
	c.n++
}

// refined lets each time lie anywhere within its cell of the grid.
func (f *fitted) refined(rough *component) (component, bool) {
	c := *rough
	if c.settle == 0 {
		return c, true
	}
	steps := c.n - 2 - c.settle
	amp := c.mean
	c.n = 1 + c.settle
	for i, col := range c.of.settle {
		if col >= colExpD {
			continue
		}
		c.cols[c.n], c.sd[c.n] = col-colExp+colExpD, math.Max(math.Abs(amp[1+i]), 1e-9)*halfStep/math.Sqrt(3)
		c.n++
	}
	c.settle = c.n - 1
	f.close(&c, steps)
	return c, f.solve(&c)
}

// solve fits the node exactly: linear parameters with Gaussian priors, and the
// evidence for it.
func (f *fitted) solve(c *component) bool {
	m := &c.system
	*m = small{n: c.n}
	prior := 1.0
	for i := range c.n {
		gi := &f.d.gram[c.cols[i]]
		for j := range i + 1 {
			m.a[i][j] = gi[c.cols[j]] / f.noise
		}
		m.a[i][i] += 1 / (c.sd[i] * c.sd[i])
		m.b[i] = gi[colY] / f.noise
		prior *= c.sd[i]
	}
	det, ok := m.factor()
	if !ok {
		return false
	}
	m.solve()
	explained := 0.0
	for i := range c.n {
		explained += m.b[i] * m.x[i]
	}
	c.mean = m.x
	c.fits = explained / 2
	c.logZ = c.of.prior + c.fits - math.Log(prior*math.Sqrt(det)) + math.Log(c.sd[c.leak])
	// Times of one settling pull the same way.
	if len(c.of.settle) == 2 && c.mean[1]*c.mean[2] < 0 {
		c.logZ -= 3
	}
	return !math.IsNaN(c.logZ)
}

// falling is the mixture over the whole loss at the last bin, Pa/s, whatever its
// cause: what still settles and what leaks.
func (f *fitted) falling() []gauss {
	var row [columnsN]float64
	settleSlopes(f.d.endT, &row)
	for k := range 2 {
		row[colLaminar+k] = -f.d.drive[k]
	}
	out := make([]gauss, 0, len(f.parts))
	for i := range f.parts {
		c := &f.parts[i]
		loss, v := -c.value(&row), 0.0
		for j := range c.n {
			for k := range c.n {
				v += row[c.cols[j]] * c.cov[j][k] * row[c.cols[k]]
			}
		}
		out = append(out, gauss{c.weight, loss, math.Sqrt(v)})
	}
	return out
}

// settlingAt is the loss, Pa/s, that settling alone is expected to make at a
// later moment.
func (f *fitted) settlingAt(t float64) float64 {
	var row [columnsN]float64
	settleSlopes(t, &row)
	loss := 0.0
	for i := range f.parts {
		loss -= f.parts[i].weight * f.parts[i].value(&row)
	}
	return loss
}
