package judge

import (
	"fmt"

	"idlehiss/core/quantity"
)

const (
	soonS      = 600.0 // a wait that is worth it
	muchAirM3  = 1.5e-3
	coarseHold = 600.0 // s: a gauge that shows nothing of the allowance by then is too coarse
)

// next is the best step after a hold that could not be called, in the order of
// what it costs; empty after a call.
func (r *running) next(v *verdict, rep *Report, q *Question) string {
	if rep.Call != NotYet {
		return ""
	}
	settles := v.rests < restsSure && rep.RateKPaPerMin.Value < rep.LimitKPaPerMin
	switch {
	case v.rising:
		return "Let its temperature stand still, or read it beside the pressure, and hold again."
	case rep.AtLimit:
		return "It lies at the limit, and more time will not move it: decide by the size of the loss, or compare it with a hold after warming."
	case 2*zSure*q.RigSE > v.limit:
		return "Prove the rig for longer: what it may lose itself, dead-headed, is as much as the allowance."
	case q.Gauge.StepPa() > v.limit*coarseHold:
		return fmt.Sprintf("Take a finer gauge: one step of this one is %s kPa, and ten minutes allow %s.", quantity.Significant(kpa(q.Gauge.StepPa()), 2), quantity.Significant(kpa(v.limit*coarseHold), 2))
	case rep.MoreS != nil && *rep.MoreS > 0 && *rep.MoreS <= soonS:
		return fmt.Sprintf("Hold on: about %s more.", quantity.Clock(*rep.MoreS))
	case q.Coolant && q.GasM3 > muchAirM3:
		return fmt.Sprintf("Fill the system: there are %s L of air in it, and with half of that the same leak falls twice as fast.", quantity.Significant(q.GasM3*1e3, 2))
	case settles && r.lastT > earlyS:
		return "Top up to the test pressure and hold again: what settles comes back smaller, a leak at the same slope."
	case rep.MoreS != nil && *rep.MoreS > 0:
		return fmt.Sprintf("Hold on, about %s more; a finer gauge or less air would be sooner.", quantity.Clock(*rep.MoreS))
	}
	return "Hold on: how long cannot be told yet."
}
