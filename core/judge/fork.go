package judge

import "math"

// outlook is what the likely fits together say of the rate and of a reading at
// a later moment: means, variances and covariance.
type outlook struct{ rate, varRate, y, varY, cov float64 }

func (f *fitted) outlook(t float64) outlook {
	var row [columnsN]float64
	f.d.at(t, &row)
	var o outlook
	type part struct{ w, r, y float64 }
	var parts []part
	for i := range f.parts {
		c := &f.parts[i]
		if c.weight < 1e-3 && i > 0 {
			continue
		}
		r, vr := c.rate()
		var x [maxColumns]float64
		c.row(&row, t, &x)
		y, vy, cov := c.dot(&x), c.spread(&x), 0.0
		for j := range c.n {
			cov += c.cov[j][c.leak] * x[j]
		}
		parts = append(parts, part{c.weight, r, y})
		o.rate += c.weight * r
		o.y += c.weight * y
		o.varRate += c.weight * vr
		o.varY += c.weight * vy
		o.cov += c.weight * cov
	}
	sum := 0.0
	for _, p := range parts {
		sum += p.w
	}
	o.rate, o.y, o.varRate, o.varY, o.cov = o.rate/sum, o.y/sum, o.varRate/sum, o.varY/sum, o.cov/sum
	for _, p := range parts {
		dr, dy := p.r-o.rate, p.y-o.y
		o.varRate += p.w / sum * dr * dr
		o.varY += p.w / sum * dy * dy
		o.cov += p.w / sum * dr * dy
	}
	return o
}

// after is the rate's gain per Pa of surprise and its remaining variance once a
// reading of the given variance has come.
func (o outlook) after(varRead float64) (gain, varRate float64) {
	gain = o.cov / (o.varY + varRead)
	return gain, math.Max(o.varRate-gain*o.cov, 1e-18)
}

// varianceBy is the variance of what readings at the present cadence will tell
// between now and t, as if it were one reading at t. Evenly spread readings
// tell a slope about a third as well as the same number bunched at the end.
func (r *running) varianceBy(f *fitted, t float64) float64 {
	sigma := r.gauge.readSigma()
	one := sigma * sigma * f.noise
	n := (t - r.lastT) / r.cadence()
	return one / math.Max(1, n/3)
}

const (
	drawnMost  = 0.5   // of the pressure at the start: a fork farther off is not drawn
	nextOne    = 0.99  // of the cadence: the next reading, but for rounding
	tellsTimes = 3.0   // times what was held, and
	tellsS     = 300.0 // s beside it: beyond, how long is still needed is a guess
	lookGrowth = 1.12  // between two looks ahead
)

// fork gives where a reading must lie, some seconds from now, to complete the
// call on either side.
func (r *running) fork(f *fitted, q Question, limit, ahead float64) *ForkPoint {
	t := r.lastT + ahead
	o := f.outlook(t)
	gain, v := o.after(r.varianceBy(f, t))
	p := &ForkPoint{AtS: r.t0 + t}
	if gain >= 0 {
		return p // a later reading tells nothing of the rate yet
	}
	need := zSure * math.Sqrt(v+f.doubt(&q)+limitDoubt(&q, limit))
	// A higher reading (away from ambient) means a lower rate.
	signed := func(rate float64) *float64 {
		y := o.y + (rate+q.RigPaPerS-o.rate)/gain
		if math.Abs(y) > drawnMost*math.Abs(r.y0) {
			return nil
		}
		k := kpa(r.sign * (r.y0 + y))
		return &k
	}
	// Where the expected reading lies beyond already, only the next one can call it.
	beyond := o.rate > limit+need+q.RigPaPerS
	if !beyond || ahead >= nextOne*r.cadence() {
		p.LeakingBelowKPa = signed(limit + need)
	}
	// Tight also wants the whole fall within the allowance by then.
	if f.settlingAt(t) <= need {
		p.TightAboveKPa = signed(limit - need)
	}
	return p
}

// more is the hold, s, by which a call will probably have come, the rate being what it now
// seems; nil when unknown: so far beyond what was seen an estimate is a guess.
func (r *running) more(v *verdict, q *Question, rate float64) *float64 {
	zero := 0.0
	if v.call != NotYet {
		return &zero
	}
	if v.rising {
		return nil
	}
	lasting := v.f.doubt(q) + limitDoubt(q, v.limit) // that no time lessens
	farthest := tellsTimes*r.lastT + tellsS
	for ahead := math.Max(r.cadence(), 1); ahead < farthest; ahead *= lookGrowth {
		t := r.lastT + ahead
		o := v.f.outlook(t)
		_, left := o.after(r.varianceBy(v.f, t))
		moves := math.Sqrt(math.Max(o.varRate-left, nothing)) // what is thought then, about what is thought now
		sd := math.Sqrt(left + lasting)
		leaks := normalCDF((rate - v.limit - zLeaking*sd) / moves)
		tight := normalCDF((v.limit - rate - zSure*sd) / moves)
		if rate < v.limit && rate+v.f.settlingAt(t) > v.limit {
			tight = 0 // not called while more than the allowance still falls
		}
		if t >= leastHoldS && leaks+tight >= promised {
			ahead = inSteps(ahead * stretched)
			return &ahead
		}
	}
	return nil
}

// A time is promised by which a call will probably have come, and stretched by what the shapes
// do not know: of such promises four in five are kept within half as much again (docs/judge.md).
const (
	promised  = 0.75 // probability
	stretched = 1.5
)

// inSteps rounds a time (s) up to what is known of it: 5 s within two minutes, half a minute
// within ten, else a minute.
func inSteps(s float64) float64 {
	step := 60.0
	switch {
	case s <= 120:
		step = 5
	case s <= 600:
		step = 30
	}
	return step * math.Ceil(s/step)
}

// Where a fork is drawn.
const (
	drawnLooks  = 14   // moments ahead
	drawnLeastS = 45.0 // s, however short the hold
	drawnBeyond = 1.3  // times the moment at which the call is expected
	drawnAddS   = 60.0 // s beyond twice the hold, at most
)

// AheadS are the moments (s from now) at which the fork is drawn, closer together at
// first: as far as the call is expected, or half as long again as it has been held.
func (r *Report) AheadS() []float64 {
	reach := math.Max(drawnLeastS, r.HeldS/2)
	if m := r.MoreS; m != nil && *m > 0 {
		reach = math.Max(reach, math.Min(*m*drawnBeyond, 2*r.HeldS+drawnAddS))
	}
	out := make([]float64, drawnLooks)
	for i := range out {
		x := float64(i+1) / drawnLooks
		out[i] = reach * x * x
	}
	return out
}
