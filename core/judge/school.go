package judge

import (
	"math"
	"sort"

	"idlehiss/core/physics"
	"idlehiss/core/trace"
)

// School is a practice of holding: so long, so much allowed. It judges by two
// needle positions, as people do.
type School struct {
	ID        string  `json:"id" yaml:"id"`
	Title     string  `json:"title" yaml:"title"`
	Why       string  `json:"why" yaml:"why"`
	HoldS     float64 `json:"hold_s" yaml:"-"`
	AllowedPa float64 `json:"allowed_pa" yaml:"-"` // 0: nothing this gauge could resolve
	AfterS    float64 `json:"after_s" yaml:"-"`    // the clock starts so long after isolating
	Source    string  `json:"source" yaml:"source"`
}

// RatePaPerS is the steady loss the school lets pass with this gauge.
func (s School) RatePaPerS(g Gauge) float64 {
	return s.allowed(g) / s.HoldS
}

func (s School) allowed(g Gauge) float64 {
	if s.AllowedPa > 0 {
		return s.AllowedPa
	}
	return g.StepPa()
}

// View is what the school says of the readings of a hold.
func (s School) View(hold []trace.Reading, q Question) SchoolReport {
	rep := SchoolReport{ID: s.ID, Title: s.Title, Verdict: TooShort, Allowed: s.allows(q), Saw: "not held long enough"}
	if q.GasM3 > 0 {
		flow := physics.StandardFlow(s.RatePaPerS(q.Gauge), q.GasM3, physics.StandardK) * cm3PerMin
		rep.FlowAllowed = &flow
	}
	if len(hold) == 0 {
		return rep
	}
	start := hold[0].AtS + s.AfterS
	from := sort.Search(len(hold), func(i int) bool { return hold[i].AtS >= start })
	to := sort.Search(len(hold), func(i int) bool { return hold[i].AtS >= start+s.HoldS })
	if from == len(hold) || to == len(hold) {
		return rep
	}
	sign := 1.0
	if hold[from].GaugePa < 0 {
		sign = -1
	}
	fall := sign * (hold[from].GaugePa - hold[to].GaugePa)
	rep.Saw = fellBy(fall, q)
	rep.Verdict = Pass
	// "Nothing" is passed by a fall the gauge cannot tell from none.
	if fall > s.allowed(q.Gauge)*(1+1e-9) && math.Abs(fall) > 0 {
		rep.Verdict = Fail
	}
	return rep
}
