package holds

import (
	"fmt"

	"idlehiss/core/judge"
	"idlehiss/core/quantity"
	"idlehiss/core/runsheet"
	"idlehiss/core/steps"
	"idlehiss/core/terms"
	"idlehiss/core/trace"
)

// The sentences of this room. No rule reads them.

const (
	wrongPress   = "wrong press"
	notBelieved  = "not believed yet"
	gapServerOff = "the server was off"
)

// gapWhy is what a fault leaves; a spike leaves none.
func gapWhy(f trace.GaugeFault) string {
	return map[trace.GaugeFault]string{trace.Silent: "no reading from the gauge", trace.Stuck: "the gauge was stuck",
		trace.OffScale: "the gauge was off its scale", trace.OtherUnit: "the gauge showed another unit"}[f]
}

func (p *picture) alarmText(a Alarm) string {
	div := p.rig.Gauge.DivisionPa()
	switch a {
	case OverLimit:
		return fmt.Sprintf("Over the limit of %s. Bleed down now.", p.unit.Show(p.rig.Limit.Pa, div))
	case StopEngine:
		return fmt.Sprintf("Stop the engine now: %s, and nothing relieves the loop.", p.unit.Show(p.last(Near).Pa, div))
	}
	return ""
}

// under is the condition of a hold in words.
func (rec *record) under() string { return runsheet.UnderSays(rec.step, rec.hold.Condition) }

// sentence is the one line of plain words under a hold.
func (p *picture) sentence(r *judge.Report, fork []ForkAt) string {
	switch {
	case p.over():
		return fmt.Sprintf("Over the limit of %s. Bleed down now (V).", p.unit.Show(p.rig.Limit.Pa, p.rig.Gauge.DivisionPa()))
	case p.hold.State == terms.Pumping:
		return p.pumping()
	case p.unjudged != "":
		return "Cannot be judged: " + p.unjudged + ". The readings are kept."
	case p.warmthUnread() && (r == nil || r.Call == judge.NotYet && r.Shape != judge.ShapeRising):
		return "Warm, and the temperature is not measured, so no fall is judged. Look where it is wet, and whether the pressure rises."
	case r == nil:
		return ""
	}
	if says := steps.HoldSays(r, p.unit); says != "" {
		return says
	}
	return p.outlook(r, fork)
}

// outlook is how a hold that is not called yet will be.
func (p *picture) outlook(r *judge.Report, fork []ForkAt) string {
	lead := "Too early to say."
	switch r.Shape {
	case judge.ShapeSettling:
		lead = "Settling. Too early to say."
	case judge.ShapeSettlingLeak, judge.ShapeLeak:
		lead = "Losing pressure. Not sure yet whether too much."
	}
	if r.MoreS == nil || *r.MoreS <= 0 || r.Fork == nil {
		return lead
	}
	// Of the fork's two sides the one that the needle is heading for: it must lie below
	// where the needle stands, since it will not climb back.
	want, digit := r.Fork.AtS+*r.MoreS, p.rig.Gauge.ForJudge().StepPa()
	now := p.digest().Near.Pa
	leaks := r.RateKPaPerMin != nil && r.RateKPaPerMin.Value > r.LimitKPaPerMin
	for _, f := range fork {
		at := quantity.Clock(p.sinceShut(f.AtS))
		switch {
		case f.AtS < want-1:
		case !leaks && f.AbovePa != nil && p.rig.sign()*(*f.AbovePa-now) < 0:
			return fmt.Sprintf("%s Still %s %s at %s in: tight.", lead, p.aside(true), p.unit.Show(*f.AbovePa, digit), at)
		case leaks && f.BelowPa != nil && p.rig.sign()*(*f.BelowPa-now) < 0:
			return fmt.Sprintf("%s %s %s at %s in: leaking.", lead, quantity.Capital(p.aside(false)), p.unit.Show(*f.BelowPa, digit), at)
		}
	}
	return fmt.Sprintf("%s About %s more for a call.", lead, quantity.Duration(*r.MoreS))
}

// aside is the word for away from ambient, or towards it.
func (p *picture) aside(away bool) string {
	switch {
	case p.rig.draws() && away:
		return "deeper than"
	case p.rig.draws():
		return "less deep than"
	case away:
		return "above"
	}
	return "below"
}

// sinceShut turns the hold's axis into the time since the supply was shut, which is
// what people count.
func (p *picture) sinceShut(s float64) float64 {
	if p.hold.IsolatedAt == nil {
		return s
	}
	return s - p.axis(*p.hold.IsolatedAt)
}

func (p *picture) pumping() string {
	return runsheet.PumpingSays(p.last(Near), p.rig.Target.Pa, p.rig.draws(), p.rig.Gauge.DivisionPa(), p.unit)
}
