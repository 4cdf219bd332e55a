package judge

import (
	"fmt"

	"idlehiss/core/quantity"
)

func (r *running) explain(rep *Report, q Question, rate Interval, limit float64) {
	say := func(format string, a ...any) { rep.Why = append(rep.Why, fmt.Sprintf(format, a...)) }
	show := func(x float64) string { return quantity.Significant(kpaPerMin(x), 2) }
	odds := ""
	if rep.RunnerUpShare > 0 && rep.ShapeShare/rep.RunnerUpShare < 100 {
		odds = fmt.Sprintf(" (%s to 1 against %s)", quantity.Significant(rep.ShapeShare/rep.RunnerUpShare, 2), words[rep.RunnerUp])
	}
	switch rep.Call {
	case Tight:
		if rep.Shape == ShapeSettling || rep.Shape == ShapeTight {
			say("Holding: it loses less than the allowance of %s kPa a minute.", show(limit))
		} else {
			say("Losing %s kPa a minute, less than the %s allowed.", show(rate.Value), show(limit))
		}
	case Leaking:
		low, high := show(rate.Low), show(rate.High)
		if low == high { // a third digit tells them apart
			low, high = quantity.Significant(kpaPerMin(rate.Low), 3), quantity.Significant(kpaPerMin(rate.High), 3)
		}
		say("Losing %s kPa a minute (%s to %s); %s is allowed.", show(rate.Value), low, high, show(limit))
	default:
		switch {
		case rep.Shape == ShapeRising:
			say("The pressure rises: heat or gas coming in, and a rise can hide a leak. Let the temperature stand still and hold again.")
		case rep.AtLimit:
			say("At the limit: between %s and %s kPa a minute, and %s is allowed. Neither side can honestly be called.", show(rate.Low), show(rate.High), show(limit))
		default:
			say("Not yet: between %s and %s kPa a minute, and %s is allowed.", show(rate.Low), show(rate.High), show(limit))
		}
		if rep.MoreS != nil && *rep.MoreS > 0 {
			say("About %s more should tell.", quantity.Clock(*rep.MoreS))
		}
	}
	if step, fall := q.Gauge.StepPa(), limit*r.lastT; rep.Call == NotYet && step > fall {
		say("This gauge cannot show the limit yet: one step is %s kPa, the allowance so far %s kPa.", quantity.Significant(kpa(step), 2), quantity.Significant(kpa(fall), 2))
	}
	say("Shape: %s%s.", words[rep.Shape], odds)
	if q.RigPaPerS > 0 && show(q.RigPaPerS) != "0" {
		say("The rig's own loss, %s kPa a minute on this system, is taken off.", show(q.RigPaPerS))
	}
	if rep.Call == Leaking && q.RigProven != nil && !*q.RigProven {
		say("This result has not survived a rig proof: the tester, its hose and its adapter may be what leaks.")
	}
	for _, n := range q.NotTested {
		say("%s", n)
	}
}

var words = map[Shape]string{
	ShapeTight: "still", ShapeSettling: "settling, not leaking", ShapeLeak: "a steady loss",
	ShapeSettlingLeak: "settling, then a steady loss", ShapeRising: "rising", ShapeUnclear: "not clear",
	ShapeStep: "a sudden loss", ShapeFloor: "falling to a floor", ShapeTemperature: "following the temperature",
}
