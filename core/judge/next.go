package judge

const (
	soonS      = 600.0 // a wait that is worth it
	muchAirM3  = 1.5e-3
	coarseHold = 600.0 // s: a gauge that shows nothing of the allowance by then is too coarse
)

// next is the best step after a hold that could not be called, in the order of
// what it costs; nil after a call.
func (r *running) next(v *verdict, rep *Report, q *Question) *Reason {
	if rep.Call != NotYet {
		return nil
	}
	best := r.bestNext(v, rep, q)
	return &best
}

func (r *running) bestNext(v *verdict, rep *Report, q *Question) Reason {
	settles := v.rests < restsSure && rep.RateKPaPerMin.Value < rep.LimitKPaPerMin
	more := 0.0
	if rep.MoreS != nil {
		more = *rep.MoreS
	}
	switch {
	case v.rising:
		return because(NextSteady)
	case rep.AtLimit:
		return because(NextDecide)
	case v.waits == FellMuch:
		return because(NextTopUp)
	case 2*zSure*q.RigSE > v.limit:
		return because(NextProveRig)
	case q.Gauge.StepPa() > v.limit*coarseHold:
		return because(NextFinerGauge, figureStep, kpa(q.Gauge.StepPa()), figureAllowed, kpa(v.limit*coarseHold))
	case more > 0 && more <= soonS:
		return because(NextHoldOn, figureMore, more)
	case q.Coolant && q.GasM3 > muchAirM3:
		return because(NextFill, figureAir, q.GasM3*1e3)
	case settles && r.lastT > earlyS:
		return because(NextTopUp)
	case more > 0:
		return because(NextHoldOrFiner, figureMore, more)
	}
	return because(NextHoldOn)
}
