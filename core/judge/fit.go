package judge

import (
	"math"
	"sort"
)

// component is one node fitted: a Gaussian over its columns and, where it has a
// leak, over the steady rate (Pa/s at test pressure, positive when losing).
type component struct {
	of     *node
	cols   [most]int
	n      int
	settle int // how many of cols[1:] settle (with derivatives)
	slow   int // index of the slowest settling amplitude, 0 when none
	leak   int // index of the leak, 0 when none
	mean   [most]float64
	cov    [most][most]float64 // of the components kept
	system small               // factored; cov is its inverse
	logW   float64
	weight float64
}

func (c *component) rate() (mean, variance float64) {
	if c.leak == 0 {
		return 0, 0
	}
	return c.mean[c.leak], c.cov[c.leak][c.leak]
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
	d        *design
	leaking  []component // with a leak, by weight, weights summing to 1
	families [4]float64  // shares of tight, settling, leak, settling+leak
	best     component   // the best fit that allows a leak
	settling component   // the best fit that settles
	noise    float64     // variance of a reading over its nominal one
	misfit   float64     // ≥ 1: by how much the bins miss the best curve beyond noise, squared
}

// fit weighs every node; asked again without a new reading it answers the same.
func (r *running) fit(atPa, ambientPa, limit float64) *fitted {
	if r.fitted == nil || r.fittedN != r.n {
		r.fitted, r.fittedN = r.fresh(atPa, ambientPa, limit), r.n
	}
	return r.fitted
}

func (r *running) fresh(atPa, ambientPa, limit float64) *fitted {
	d := r.build(atPa, ambientPa)
	scale := math.Abs(atPa)
	s := spreads{
		level:  0.02*scale + 3*r.gauge.readSigma(),
		settle: 0.06*scale + (r.high-r.low)/2,
		leak:   math.Max(4*limit, 1.5*(r.high-r.low)/math.Max(r.lastT, 1)),
	}
	f := &fitted{d: d, noise: r.noiseScale(), misfit: 1}
	f.weigh(s)
	// What the best curve cannot follow widens everything: first it is seen with
	// the readings' own noise, then fitted again with the noise it deserves.
	if m := f.excess(r.bins); m > 1 {
		f.misfit = m
		f.noise *= m
		f.weigh(s)
	}
	return f
}

// excess is the mean squared miss of the bins from the best curve over what
// their noise explains, at least 1.
func (f *fitted) excess(bins []bin) float64 {
	dof := float64(len(bins) - f.best.n)
	if dof < 3 {
		return 1
	}
	sum := 0.0
	for i := range bins {
		miss := bins[i].meanY - f.best.value(&f.d.rows[i])
		sum += bins[i].w * miss * miss
	}
	return math.Max(1, sum/f.noise/dof)
}

func (f *fitted) weigh(s spreads) {
	if f.leaking == nil {
		f.leaking = make([]component, 0, 2*len(nodes))
	}
	f.leaking = f.leaking[:0]
	f.families = [4]float64{}
	still := make([]component, 0, len(nodes))
	top := math.Inf(-1)
	for i := range nodes {
		for _, leak := range [...]int{0, colLaminar} {
			c, ok := f.component(&nodes[i], leak, s)
			if !ok {
				continue
			}
			if leak == 0 {
				still = append(still, c)
			} else {
				f.leaking = append(f.leaking, c)
			}
			top = math.Max(top, c.logW)
		}
	}
	// The other law only where it can matter.
	for i, n := 0, len(f.leaking); i < n; i++ {
		if f.leaking[i].logW < top-5 {
			continue
		}
		if c, ok := f.component(f.leaking[i].of, colOrifice, s); ok {
			f.leaking = append(f.leaking, c)
			top = math.Max(top, c.logW)
		}
	}
	total, leaky := 0.0, 0.0
	f.settling = component{logW: math.Inf(-1)}
	share := func(c *component) {
		c.weight = math.Exp(c.logW - top)
		total += c.weight
		fam := famTight
		if c.settle > 0 {
			fam = famSettling
			if c.logW > f.settling.logW {
				f.settling = *c
			}
		}
		if c.leak > 0 {
			fam += famLeak
			leaky += c.weight
		}
		f.families[fam] += c.weight
	}
	for i := range still {
		share(&still[i])
	}
	for i := range f.leaking {
		share(&f.leaking[i])
	}
	for i := range f.families {
		f.families[i] /= total
	}
	sort.Slice(f.leaking, func(i, j int) bool { return f.leaking[i].logW > f.leaking[j].logW })
	kept := f.leaking[:0]
	sum := 0.0
	for _, c := range f.leaking {
		if c.weight /= leaky; c.weight > 5e-4 {
			c.cov = c.system.inverse()
			// Air does not flow in by itself either: fits that need it to count less.
			r, v := c.rate()
			right := normalCDF(r / math.Sqrt(v))
			c.weight *= right + backwards*(1-right)
			sum += c.weight
			kept = append(kept, c)
		}
	}
	f.leaking = kept
	f.best = f.leaking[0]
	for i := range f.leaking {
		f.leaking[i].weight /= sum
	}
}

// component fits one node exactly: linear parameters with Gaussian priors, and
// the evidence for the node. Amplitudes are fitted first, since the derivatives'
// freedom is in proportion to them.
func (f *fitted) component(n *node, leak int, s spreads) (component, bool) {
	c := component{of: n, n: 1 + len(n.settle), settle: len(n.settle), logW: n.prior}
	c.cols[0] = colConst
	copy(c.cols[1:], n.settle)
	c.slow = len(n.settle)
	if leak > 0 {
		c.cols[c.n] = leak
		c.leak = c.n
		c.n++
		// Laminar and orifice share the leak's prior.
		c.logW -= math.Ln2
	}
	var sd [most]float64
	sd[0] = s.level
	for i := range n.settle {
		sd[1+i] = s.settle
	}
	if c.leak > 0 {
		sd[c.leak] = s.leak
	}
	if c.settle > 0 && c.cols[1] < colExpD {
		m, _, ok := f.solve(&c, &sd)
		if !ok {
			return c, false
		}
		// Second pass: each time may lie anywhere within its cell of the grid.
		amp := m.x
		k := c.n
		if c.leak > 0 {
			k--
		}
		at := k
		for i := range n.settle {
			c.cols[at] = n.settle[i] - colExp + colExpD
			sd[at] = math.Max(math.Abs(amp[1+i]), 1e-9) * halfStep / math.Sqrt(3)
			at++
		}
		c.settle += len(n.settle)
		if c.leak > 0 {
			c.cols[at], sd[at], c.leak = leak, s.leak, at
			at++
		}
		c.n = at
	}
	m, logEv, ok := f.solve(&c, &sd)
	if !ok || math.IsNaN(logEv) {
		return c, false
	}
	c.mean, c.system = m.x, m
	c.logW += logEv
	// Times of one settling pull the same way.
	if len(n.settle) == 2 && c.mean[1]*c.mean[2] < 0 {
		c.logW -= 3
	}
	return c, true
}

func (f *fitted) solve(c *component, sd *[most]float64) (small, float64, bool) {
	var m small
	m.n = c.n
	prior := 1.0
	for i := range c.n {
		ci := c.cols[i]
		for j := range i + 1 {
			m.a[i][j] = f.d.gram[ci][c.cols[j]] / f.noise
		}
		m.a[i][i] += 1 / (sd[i] * sd[i])
		m.b[i] = f.d.gram[ci][colY] / f.noise
		prior *= sd[i]
	}
	det, ok := m.factor()
	if !ok {
		return m, 0, false
	}
	m.solve()
	explained := 0.0
	for i := range c.n {
		explained += m.b[i] * m.x[i]
	}
	return m, explained/2 - math.Log(prior*math.Sqrt(det)), true
}

// gauss is one part of the mixture that stands for the rate.
type gauss struct{ w, mean, sd float64 }

// backwards is the weight of a settling that runs upwards without an overshoot
// to explain it.
const backwards = 0.1

// rates is the mixture over the steady rate. Where the rate leans on a settling
// amplitude, amplitudes of the wrong sign count less: air does not un-cool.
func (f *fitted) rates(overshoot bool, extraVar float64) []gauss {
	out := make([]gauss, 0, 4*len(f.leaking))
	for i := range f.leaking {
		c := &f.leaking[i]
		r, v := c.rate()
		v += extraVar
		if c.slow == 0 || overshoot {
			out = append(out, gauss{c.weight, r, math.Sqrt(v)})
			continue
		}
		a, va, cov := c.mean[c.slow], c.cov[c.slow][c.slow], c.cov[c.slow][c.leak]
		right := normalCDF(a / math.Sqrt(va))
		if right > 0.999 || cov*cov < 0.05*va*v {
			out = append(out, gauss{c.weight, r, math.Sqrt(v)})
			continue
		}
		rest := math.Sqrt(math.Max(v-cov*cov/va, 1e-4*v))
		const slices = 8
		for k := range slices {
			z := -2.4 + 4.8*(float64(k)+0.5)/slices
			w := math.Exp(-z * z / 2)
			amp := a + z*math.Sqrt(va)
			if amp < 0 {
				w *= backwards
			}
			out = append(out, gauss{c.weight * w * 4.8 / slices / math.Sqrt(2*math.Pi), r + cov/va*(amp-a), rest})
		}
	}
	total := 0.0
	for _, g := range out {
		total += g.w
	}
	for i := range out {
		out[i].w /= total
	}
	return out
}

// falling is the mixture over the whole loss at the last bin, Pa/s, whatever its
// cause: what still settles and what leaks.
func (f *fitted) falling() []gauss {
	var row [columnsN]float64
	settleSlopes(f.d.endT, &row)
	for k := range 2 {
		row[colLaminar+k] = -f.d.drive[k]
	}
	out := make([]gauss, 0, len(f.leaking))
	for i := range f.leaking {
		c := &f.leaking[i]
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
	for i := range f.leaking {
		loss -= f.leaking[i].weight * f.leaking[i].value(&row)
	}
	return loss
}

func mean(mix []gauss) float64 {
	m := 0.0
	for _, g := range mix {
		m += g.w * g.mean
	}
	return m
}

// below is the probability that the rate is less than x.
func below(mix []gauss, x float64) float64 {
	p := 0.0
	for _, g := range mix {
		p += g.w * normalCDF((x-g.mean)/g.sd)
	}
	return p
}

// quantile is the rate below which the share p lies.
func quantile(mix []gauss, p float64) float64 {
	low, high := math.Inf(1), math.Inf(-1)
	for _, g := range mix {
		low, high = math.Min(low, g.mean-8*g.sd), math.Max(high, g.mean+8*g.sd)
	}
	for range 26 {
		mid := (low + high) / 2
		if below(mix, mid) < p {
			low = mid
		} else {
			high = mid
		}
	}
	return (low + high) / 2
}
