package study

import (
	"math"

	"gonum.org/v1/gonum/mat"

	"idlehiss/core/judge"
	"idlehiss/core/physics"
)

// An ideal observer knows the law of the leak, the form of the creep and the
// errors of reading, but none of the figures: the Cramér–Rao bound with every
// amplitude and every time as a nuisance. It calls as soon as the true rate
// stands 1.645 standard errors from the limit, looking once.
const idealZ = 1.6449

// information walks along the readings of a hold (their planned moments) and
// hands the standard error of the rate (Pa/s) at a spread of moments.
func (h *Hold) information(until float64, full bool, tell func(t, sd float64) bool) {
	n := 2 + 2*len(h.Creeps) // level, rate, creep
	if full && len(h.Creeps) > 0 {
		n += len(judge.Unseen)
	}
	creepN := n // what follows is the law
	if full {
		n++
	}
	info := mat.NewSymDense(n, nil)
	// Nobody is wholly ignorant: a level within a tenth and creep within the pressure.
	span := math.Abs(h.AtPa)
	info.SetSym(0, 0, 1/(0.01*span*span))
	for i, c := range h.Creeps {
		info.SetSym(2+2*i, 2+2*i, 1/(span*span))
		info.SetSym(3+2*i, 3+2*i, 1/(9*c.TauS*c.TauS))
	}
	total := 0.0
	for _, c := range h.Creeps {
		total += c.FallPa
	}
	if full {
		info.SetSym(creepN, creepN, 4) // anywhere between the two laws
	}
	for k := 2 + 2*len(h.Creeps); k < creepN; k++ {
		info.SetSym(k, k, 1/math.Pow(judge.UnseenShare*total, 2))
	}
	row := make([]float64, n)
	loss, other, last := 0.0, 0.0, 0.0
	notLaw := physics.Orifice
	if h.Law == physics.Orifice {
		notLaw = physics.Laminar
	}
	notStart := notLaw.Drive(h.AtPa, h.Ambient)
	start := h.Law.Drive(h.AtPa, h.Ambient)
	next := 0.0
	every := h.EveryS
	sharp := 0.0
	variance := h.NoisePa*h.NoisePa + h.StepPa*h.StepPa/12
	if h.Kind == Digital {
		sharp = math.Max(0, 1-h.NoisePa/h.StepPa/0.45)
	}
	add := func(t, v float64) {
		for s := last; s < t; {
			e := math.Min(CurveS, t-s)
			loss += e * h.Law.Drive(h.truth(s+e/2), h.Ambient) / start
			other += e * notLaw.Drive(h.truth(s+e/2), h.Ambient) / notStart
			s += e
		}
		last = t
		row[0], row[1] = 1, -loss
		for i, c := range h.Creeps {
			if c.Log {
				l := math.Log1p(600 / c.TauS)
				row[2+2*i] = -math.Log1p(t/c.TauS) / l
				const d = 1e-4
				u := c.TauS * (1 + d)
				row[3+2*i] = c.FallPa * (-math.Log1p(t/u)/math.Log1p(600/u) - row[2+2*i]) / (d * c.TauS)
			} else {
				e := math.Exp(-t / c.TauS)
				row[2+2*i], row[3+2*i] = e, c.FallPa*t/(c.TauS*c.TauS)*e
			}
		}
		if full {
			row[creepN] = -h.RatePa * (other - loss)
		}
		for k := 2 + 2*len(h.Creeps); k < creepN; k++ {
			row[k] = math.Exp(-t / judge.Unseen[k-2-2*len(h.Creeps)])
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
			for s := t + CurveS; s < t+every; s += CurveS {
				v := h.truth(s)
				if math.Floor(was/half) != math.Floor(v/half) {
					slope := math.Abs(v-was) / CurveS * 0.3
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
	h.information(longestS, false, func(t, sd float64) bool {
		// Nobody calls on three readings, nor within ten seconds.
		if t < 10 || t < 3*h.EveryS || apart < idealZ*sd {
			return true
		}
		when = t
		return false
	})
	return when
}

// bound is the Cramér–Rao bound of the rate, Pa/s, at a time: of the true form,
// or of the full model, in which creep may have a little more at other times.
func (h *Hold) bound(at float64, full bool) float64 {
	last := math.Inf(1)
	h.information(at, full, func(t, sd float64) bool { last = sd; return true })
	return last
}
