package judge

import "math"

// NearlyFullM3 is the air that is left in a loop filled with care (docs/PHYSICS.md, Leak flow):
// the same weep moves a needle the faster the less air there is.
const NearlyFullM3 = 0.05e-3

// explain gives the reasons of a report, the most important first.
func (r *running) explain(rep *Report, q Question, rate Interval, v *verdict) {
	limit := v.limit
	inKPa := func(pairs ...any) []any { // rates among the pairs are Pa/s
		for i := 1; i < len(pairs); i += 2 {
			pairs[i] = kpaPerMin(pairs[i].(float64))
		}
		return pairs
	}
	interval := func(c Code) {
		rep.say(c, inKPa(figureLow, rate.Low, figureHigh, rate.High, figureLimit, limit)...)
	}
	switch rep.Call {
	case Tight:
		if rep.Shape == ShapeSettling || rep.Shape == ShapeTight {
			rep.say(LosesLittle, inKPa(figureLimit, limit)...)
		} else {
			rep.say(LosesLess, inKPa(figureRate, rate.Value, figureLimit, limit)...)
		}
	case Leaking:
		if v.lost > 0 {
			rep.say(LostMuch, figureFall, kpa(v.lost), figureHeld, r.lastT)
			break
		}
		rep.say(LosesMore, inKPa(figureRate, rate.Value, figureLow, rate.Low, figureHigh, rate.High, figureLimit, limit)...)
	default:
		switch {
		case rep.Shape == ShapeRising:
			rep.say(PressureRises)
		case rep.AtLimit:
			interval(LiesAtLimit)
		default:
			interval(Undecided)
		}
		switch v.waits {
		case "":
		case HeldTooShort:
			rep.say(HeldTooShort, figureHeld, leastHoldS)
		case FellMuch:
			rep.say(FellMuch, figureFall, rep.FellKPa)
		case AllowanceUnsure:
			rep.say(AllowanceUnsure, figureShare, q.GasSE/q.GasM3)
		default:
			rep.say(v.waits)
		}
		if rep.MoreS != nil && *rep.MoreS > 0 {
			rep.say(TimeLeft, figureMore, *rep.MoreS)
		}
	}
	if rep.MissedMLPerH != nil {
		rep.say(CouldHide, figureMissed, *rep.MissedMLPerH, figureFilled, *rep.MissedMLPerH*math.Min(1, NearlyFullM3/q.GasM3))
	}
	if step, fall := q.Gauge.StepPa(), limit*r.lastT; rep.Call == NotYet && step > fall {
		rep.say(GaugeCoarse, figureStep, kpa(step), figureAllowed, kpa(fall))
	}
	rep.say(ShapeSeen, figureShare, rep.ShapeShare)
	if q.RigPaPerS > rigWorthSaying*limit {
		rep.say(RigTakenOff, inKPa(figureRig, q.RigPaPerS)...)
	}
	if rep.Call == Leaking && q.RigProven != nil && !*q.RigProven {
		rep.say(RigUnproven)
	}
	for _, n := range q.NotTested {
		rep.Reasons = append(rep.Reasons, Reason{Code: PartNotTested, Figures: map[string]float64{}, Text: n})
	}
}

// rigWorthSaying is the share of the limit from which the rig's own loss is named.
const rigWorthSaying = 0.005
