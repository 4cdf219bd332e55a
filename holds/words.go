package holds

import (
	"fmt"

	"idlehiss/core/judge"
	"idlehiss/core/runsheet"
	"idlehiss/core/steps"
	"idlehiss/core/terms"
)

// The sentences of this room. No rule reads them.

const (
	wrongPress   = "wrong press"
	notBelieved  = "not believed yet"
	gapServerOff = "the server was off"
)

func (p *picture) alarmText(a terms.Alarm) string {
	div := p.rig.Gauge.DivisionPa()
	switch a {
	case terms.OverLimit:
		return fmt.Sprintf("Over the limit of %s. Bleed down now.", p.unit.Show(p.rig.Limit.Pa, div))
	case terms.StopEngine:
		return fmt.Sprintf("Stop the engine now: %s, and nothing relieves the loop.", p.unit.Show(p.last(Near).Pa, div))
	}
	return ""
}

// under is the condition of a hold in words.
func (rec *record) under() string { return runsheet.UnderSays(rec.step, rec.hold.Condition) }

// sentence is the one line of plain words under a hold.
func (p *picture) sentence(r *judge.Report, fork []steps.ForkAt) string {
	switch {
	case p.over():
		return p.alarmText(terms.OverLimit)
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
	a := steps.Ahead{Fork: fork, NowPa: p.digest().Near.Pa, Draws: p.rig.draws(), Unit: p.unit, StepPa: p.rig.Gauge.ForJudge().StepPa()}
	if p.hold.IsolatedAt != nil {
		a.ShutS = p.axis(*p.hold.IsolatedAt)
	}
	return a.Says(r)
}

func (p *picture) pumping() string {
	return runsheet.PumpingSays(p.last(Near), p.rig.Target.Pa, p.rig.draws(), p.rig.Gauge.DivisionPa(), p.unit)
}
