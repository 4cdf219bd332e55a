package judge

import (
	"fmt"
	"math"
	"math/rand/v2"
	"sort"

	"idlehiss/core/trace"
)

// Times says before a hold how long it will need: nil where half an hour would
// not tell.
type Times struct {
	TightS   *float64 `json:"tight_s"`   // to call a tight one tight
	LeakingS *float64 `json:"leaking_s"` // to call twice the allowance leaking
	EveryS   float64  `json:"every_s"`   // between readings
}

const (
	plannedMost  = 1800.0 // s
	planTries    = 3
	planSeed     = 7 // any: the plan says the same when it is asked again
	readByEyeS   = 20.0
	readByWireS  = 1.0
	planSettleA  = 0.02 // share of the test pressure, in
	planTauA     = 8.0  // s
	planSettleB  = 0.015
	planTauB     = 45.0
	planGrowth   = 1.08   // between two looks
	planLeakings = 2.0    // times the allowance
	planDigit    = 0.3    // last digits: the noise of an ordinary digital gauge
	planLeastPa  = 1000.0 // gauge
	fineShare    = 1000   // of the test pressure: what a fine gauge shows
)

// PlanHold plays the judge on an ordinary settling (2 % of the pressure in some
// seconds, 1.5 % in about a minute), three times tight and three at twice the
// allowance, and gives the middle times. It takes some tenths of a second.
func PlanHold(q Question) (Times, error) {
	if err := q.Check(); err != nil {
		return Times{}, err
	}
	if q.AtPa == nil || math.Abs(*q.AtPa) < planLeastPa {
		return Times{}, fmt.Errorf("the test pressure is needed, such as 110 kPa")
	}
	p := Times{EveryS: readByWireS}
	if q.Gauge.DivisionPa > 0 {
		p.EveryS = readByEyeS
	}
	p.TightS = planned(q, p.EveryS, 0)
	p.LeakingS = planned(q, p.EveryS, planLeakings)
	return p, nil
}

// planned is the middle time of the call at so many times the allowance.
func planned(q Question, every, ratio float64) *float64 {
	var times []float64
	for try := range uint64(planTries) {
		rng := rand.New(rand.NewPCG(planSeed, try))
		l := &Live{q: q, run: running{gauge: q.Gauge}}
		at, limit := *q.AtPa, q.limit()
		sign := math.Copysign(1, at)
		called := math.Inf(1)
		next := 0.0
		for t := 0.0; t <= plannedMost; t += every {
			away := math.Abs(at)*(1-planSettleA*(1-math.Exp(-t/planTauA))-planSettleB*(1-math.Exp(-t/planTauB))) - ratio*limit*t
			if away < gone*math.Abs(at) {
				break
			}
			step, noise := q.Gauge.StepPa(), planDigit
			if q.Gauge.DivisionPa > 0 {
				noise = eyeSigma * q.Gauge.DivisionPa / step
			}
			l.Reading(trace.Reading{AtS: t, GaugePa: sign * math.Round(away/step+noise*rng.NormFloat64()) * step, How: trace.Read})
			if t < next {
				continue
			}
			next = t * planGrowth
			if _, firm := l.Look(); firm {
				called = t
				break
			}
		}
		times = append(times, called)
	}
	sort.Float64s(times)
	if mid := times[planTries/2]; !math.IsInf(mid, 1) {
		return &mid
	}
	return nil
}

// Finer is a digital gauge that shows about a thousandth of a test pressure (Pa);
// ok is false where the gauge at hand is about as fine.
func Finer(g Gauge, atPa float64) (fine Gauge, ok bool) {
	digit := math.Pow(10, math.Floor(math.Log10(math.Abs(atPa)/fineShare)+0.5)) // the nearest power of ten
	return Gauge{DigitalPa: digit}, g.DigitalPa == 0 || g.DigitalPa >= 2*digit
}
