package judge

import (
	"fmt"
	"strings"

	"idlehiss/core/quantity"
)

// What a report means for whoever acts on it: whether it explains what is lost,
// and what the call hangs on.

// ExplainsLoss says whether a leak that makes a share of a reported loss is its cause.
func ExplainsLoss(share float64) string {
	pct := quantity.Significant(100*share, 2) + " %"
	switch {
	case share < noCause:
		return "Too small to be the cause: it makes " + pct + " of what was topped up. Look for another."
	case share < 0.7:
		return "It makes " + pct + " of what was topped up: a part of it. Look for another leak beside it."
	case share <= 1.5:
		return "It explains the loss: " + pct + " of what was topped up."
	}
	return "It could lose " + pct + " of what was topped up, more than was missed: figures from gas are upper ones."
}

// noCause is the share of a reported loss below which a leak is not its cause.
const noCause = 0.3

// Explains holds a called leak against what is reported to be lost (m³/s of
// liquid); empty where one of the two is not known. Below the liquid line the
// same fall is far more liquid: that is said where only it would do.
func (r *Report) Explains(reportedM3PerS float64) string {
	if r.LossMLPerH == nil || r.Call == NotYet || reportedM3PerS <= 0 {
		return ""
	}
	above := r.LossMLPerH.Value / (reportedM3PerS * 3600e6)
	if r.WeepMLPerH != nil {
		if below := r.WeepMLPerH.Value / (reportedM3PerS * 3600e6); above < noCause && below >= noCause {
			wet := ExplainsLoss(below)
			return "Above the liquid line it is too small to be the cause. From below it: " + strings.ToLower(wet[:1]) + wet[1:]
		}
	}
	return ExplainsLoss(above)
}

// Changes says how far the readings are from the other call.
func (r *Report) Changes() string {
	if r.RateKPaPerMin == nil {
		return ""
	}
	show := func(x float64) string { return quantity.Significant(x, 2) }
	rate, limit := r.RateKPaPerMin, r.LimitKPaPerMin
	switch r.Call {
	case Tight:
		return fmt.Sprintf("A steady loss above %s kPa a minute would be leaking; these readings allow %s at most, 39 times in 40.", show(limit), show(rate.High))
	case Leaking:
		return fmt.Sprintf("A steady loss below %s kPa a minute would be tight; these readings allow %s at least, 39 times in 40. An allowance above that would turn the call.", show(limit), show(rate.Low))
	case NotYet:
		return fmt.Sprintf("The allowance of %s kPa a minute lies within what these readings allow, %s to %s.", show(limit), show(rate.Low), show(rate.High))
	}
	return ""
}
