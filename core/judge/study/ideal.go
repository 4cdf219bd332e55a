package study

import (
	"math"

	"gonum.org/v1/gonum/mat"
)

// An ideal observer knows the law of the leak, the form of the creep and the
// errors of reading, but none of the figures: the Cramér–Rao bound with every
// amplitude and every time as a nuisance. It calls as soon as the true rate
// stands 1.645 standard errors from the limit, looking once.
const idealZ = 1.6449

// information walks along the readings of a hold (their planned moments) and
// hands the standard error of the rate (Pa/s) at a spread of moments.
func (h *Hold) information(until float64, tell func(t, sd float64) bool) {
	n := 2 // level, rate
	for range h.Creeps {
		n += 2
	}
	info := mat.NewSymDense(n, nil)
	// Nobody is wholly ignorant: a level within a tenth and creep within the pressure.
	span := math.Abs(h.AtPa)
	info.SetSym(0, 0, 1/(0.01*span*span))
	for i, c := range h.Creeps {
		info.SetSym(2+2*i, 2+2*i, 1/(span*span))
		info.SetSym(3+2*i, 3+2*i, 1/(9*c.tauS*c.tauS))
	}
	row := make([]float64, n)
	loss, last := 0.0, 0.0
	full := h.Law.Drive(h.AtPa, h.Ambient)
	next := 0.0
	every := h.EveryS
	sharp := 0.0
	variance := h.NoisePa*h.NoisePa + h.StepPa*h.StepPa/12
	if h.Kind == Digital {
		sharp = math.Max(0, 1-h.NoisePa/h.StepPa/0.45)
	}
	add := func(t, v float64) {
		for s := last; s < t; {
			e := math.Min(curveS, t-s)
			loss += e * h.Law.Drive(h.truth(s+e/2), h.Ambient) / full
			s += e
		}
		last = t
		row[0], row[1] = 1, -loss
		for i, c := range h.Creeps {
			if c.log {
				l := math.Log1p(600 / c.tauS)
				row[2+2*i] = -math.Log1p(t/c.tauS) / l
				const d = 1e-4
				u := c.tauS * (1 + d)
				row[3+2*i] = c.fallPa * (-math.Log1p(t/u)/math.Log1p(600/u) - row[2+2*i]) / (d * c.tauS)
			} else {
				e := math.Exp(-t / c.tauS)
				row[2+2*i], row[3+2*i] = e, c.fallPa*t/(c.tauS*c.tauS)*e
			}
		}
		for i := range n {
			for j := i; j < n; j++ {
				info.SetSym(i, j, info.At(i, j)+row[i]*row[j]/v)
			}
		}
	}
	half := h.Question.Gauge.DivisionPa / 2
	was := h.truth(0)
	for t := 0.0; t <= until; t += every {
		add(t, variance)
		if h.Kind == Marks {
			for s := t + curveS; s < t+every; s += curveS {
				v := h.truth(s)
				if math.Floor(was/half) != math.Floor(v/half) {
					slope := math.Abs(v-was) / curveS * 0.3
					add(s, slope*slope+math.Pow(0.06*half, 2))
				}
				was = v
			}
		}
		if t < next || t <= 0 {
			continue
		}
		next = math.Max(t*1.03, t+0.2)
		var chol mat.Cholesky
		sd := math.Inf(1)
		if chol.Factorize(info) {
			var inv mat.SymDense
			if err := chol.InverseTo(&inv); err == nil {
				sd = math.Sqrt(inv.At(1, 1))
			}
		}
		// One figure shown all the time is one inequality.
		steps := math.Max(1, math.Abs(h.truth(t)-h.AtPa)/h.StepPa)
		sd = math.Hypot(sd, sharp*h.StepPa/math.Sqrt(6)/t/steps)
		if !tell(t, sd) {
			return
		}
	}
}

// ideal is when an ideal observer tells a rate so far from the limit.
func (h *Hold) ideal(apart float64) float64 {
	when := math.Inf(1)
	h.information(longestS, func(t, sd float64) bool {
		// Nobody calls on three readings, nor within ten seconds.
		if t < 10 || t < 3*h.EveryS || apart < idealZ*sd {
			return true
		}
		when = t
		return false
	})
	return when
}

// bound is the Cramér–Rao bound of the rate, Pa/s, at a time.
func (h *Hold) bound(at float64) float64 {
	last := math.Inf(1)
	h.information(at, func(t, sd float64) bool { last = sd; return true })
	return last
}
