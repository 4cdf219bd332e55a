package study

import (
	"math"

	"gonum.org/v1/gonum/mat"

	"idlehiss/core/judge"
	"idlehiss/core/trace"
)

// clean are the moments of the readings with what truly stood there, the room's warmth
// taken out.
func (s *stranger) clean() (out []trace.Reading) {
	for _, r := range s.trace.Readings {
		t := r.AtS - s.fromS
		if t > s.HoldS {
			break
		}
		p := (s.at(s.shown, t)+s.Ambient)*startK/s.at(s.kelvin, t) - s.Ambient
		out = append(out, trace.Reading{AtS: r.AtS, GaugePa: p, How: r.How})
	}
	return out
}

// clearFall is how many steps of its gauge a floor must lie below the top-up pressure for a top-up to show it.
const clearFall = 10

// playStranger judges one hold of the second corpus.
func playStranger(s *stranger) Result {
	res := s.result()
	res.Corner = "none"
	switch {
	case len(s.steps) > 0:
		res.Corner = "step"
	case s.floorPa != 0:
		res.Corner = "floor"
	case len(s.topUps) > 0:
		res.Corner = "top-up"
	case s.Warmth != 0:
		res.Corner = "temperature"
	}
	sd := s.crb()
	res.BoundSD, res.FullSD = sd/s.LimitPa, sd/s.LimitPa
	res.replay(&s.trace, s.Question, s.LimitPa, s.fromS, s.HoldS)
	res.IdealOpen = open(s.RatePa-s.LimitPa, sd, s.LimitPa, &s.Question)
	switch {
	case len(s.steps) > 0:
		res.Truth, res.Gap = judge.ShapeStep, math.Inf(1)
	case s.floorPa != 0 && s.Ratio == 0 && math.Abs(s.AtPa-s.floorPa) > clearFall*s.StepPa:
		res.Truth, res.Gap = judge.ShapeFloor, math.Inf(1)
	case len(s.topUps) == 0:
		res.Gap = gap(s.clean(), s.Question, s.NoisePa, s.StepPa, res.Class)
	}
	return res
}

// crb is the standard error (Pa/s) that an observer of all readings of a hold could at best
// have of its steady loss, the law known: the Cramér–Rao bound of P₀ + A·e^(−t/τ) + leak, with
// a new P₀ and A after every top-up, τ, and the drop of every step as nuisance. A digit counts for
// the information of the figure shown, not for that of a reading with its error.
func (s *stranger) crb() float64 {
	segments := 1 + len(s.topUps)
	levels, falls := 0, segments
	tau, steps := 2*segments, 2*segments+1
	rate := steps + len(s.steps)
	n := rate + 1
	info := mat.NewSymDense(n, nil)
	span := math.Abs(s.AtPa)
	amplitude, tauS := s.settling()
	for i := range segments {
		info.SetSym(levels+i, levels+i, 1/(0.01*span*span)) // a prior keeps it invertible
		info.SetSym(falls+i, falls+i, 1/(0.0225*span*span))
	}
	info.SetSym(tau, tau, 1/(9*tauS*tauS))
	for i := range s.steps {
		info.SetSym(steps+i, steps+i, 1/(span*span))
	}
	row := make([]float64, n)
	loss, last, at := 0.0, 0.0, 0
	drive := s.Law.Drive(s.AtPa, s.Ambient)
	for _, r := range s.trace.Readings {
		t := r.AtS - s.fromS
		if t > s.HoldS {
			break
		}
		for last < t {
			dt := math.Min(0.5, t-last)
			loss += dt * s.Law.Drive(s.at(s.shown, last+dt/2), s.Ambient) / drive
			last += dt
		}
		clear(row)
		from := 0.0
		for at = 0; at < len(s.topUps) && s.topUps[at] < t; at++ {
			from = s.topUps[at]
		}
		e := math.Exp(-(t - from) / tauS)
		row[levels+at], row[falls+at] = 1, e
		row[tau] = amplitude * (t - from) / (tauS * tauS) * e
		for i, when := range s.steps {
			if t > when {
				row[steps+i] = -1
			}
		}
		row[rate] = -loss
		w := s.tells(t, r.How)
		for i := range n {
			for j := i; j < n; j++ {
				info.SetSym(i, j, info.At(i, j)+w*row[i]*row[j])
			}
		}
	}
	var chol mat.Cholesky
	var inverse mat.SymDense
	if !chol.Factorize(info) || chol.InverseTo(&inverse) != nil {
		return math.Inf(1)
	}
	return math.Hypot(math.Sqrt(inverse.At(rate, rate)), s.Question.RigSE)
}

// settling is by how much the sealed circuit falls in the hold, Pa, and the time (s) in which
// it falls to 1/e of that.
func (s *stranger) settling() (fall, tauS float64) {
	until := s.HoldS
	if len(s.topUps) > 0 {
		until = s.topUps[0]
	}
	end := s.at(s.still, until)
	if len(s.steps) > 0 {
		end = s.at(s.still, s.steps[0])
	}
	fall = math.Abs(s.still[0] - end)
	for i, p := range s.still {
		if math.Abs(p-end) <= fall/math.E {
			return fall, math.Max(1, float64(i)*strangerS)
		}
	}
	return fall, s.HoldS
}

// tells is the information of one reading, 1/Pa².
func (s *stranger) tells(t float64, how trace.How) float64 {
	switch {
	case how == trace.Mark:
		slope := math.Abs(s.at(s.shown, t+1)-s.at(s.shown, t-1)) / 2
		return 1 / (math.Pow(0.3*slope, 2) + math.Pow(0.03*s.Question.Gauge.DivisionPa, 2))
	case s.Kind != Digital:
		return 1 / (s.NoisePa*s.NoisePa + s.StepPa*s.StepPa/12)
	}
	v, sigma := s.at(s.shown, t)/s.StepPa, s.NoisePa/s.StepPa
	sum, near := 0.0, math.Round(v)
	for k := near - 5; k <= near+5; k++ {
		a, b := (k-0.5-v)/sigma, (k+0.5-v)/sigma
		p := (math.Erf(b/math.Sqrt2) - math.Erf(a/math.Sqrt2)) / 2
		if d := (math.Exp(-a*a/2) - math.Exp(-b*b/2)) / math.Sqrt(2*math.Pi); p > 1e-12 {
			sum += d * d / p
		}
	}
	return sum / (s.NoisePa * s.NoisePa)
}

// open is the chance that an observer with a standard error (Pa/s) of the rate leaves a hold
// open whose loss lies so far beyond (below zero: within) the allowance, asking for 95 % once.
func open(beyond, sd, limit float64, q *judge.Question) float64 {
	if q.LimitFlow > 0 {
		sd = math.Hypot(sd, limit*q.GasSE/q.GasM3)
	}
	z := math.Abs(beyond) / sd
	phi := func(x float64) float64 { return math.Erfc(-x/math.Sqrt2) / 2 }
	return phi(idealZ-z) - phi(-idealZ-z)
}
