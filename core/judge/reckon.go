package judge

import "idlehiss/core/quantity"

// What a report means for whoever acts on it: whether it explains what is lost,
// and what the call hangs on.

// Shares of a reported loss: below noCause a leak is not its cause, from mostOfLoss on
// it is, up to allOfLoss without surprise. Shop practice.
const (
	noCause    = 0.3
	mostOfLoss = 0.7
	allOfLoss  = 1.5
)

// Explains holds a call against what is reported to be lost (m³/s of liquid); empty
// where one of the two is not known, or a tight loop could not hide so much. Below the liquid line the
// same fall is far more liquid: that is said where only it would do.
func (r *Report) Explains(reportedM3PerS float64) string {
	if r.LossMLPerH == nil || r.Call == NotYet || reportedM3PerS <= 0 {
		return ""
	}
	if r.Call == Tight {
		if reported := reportedM3PerS * mlPerHour; r.MissedMLPerH != nil && reported <= *r.MissedMLPerH {
			return CouldHideLoss(reported)
		}
		return ""
	}
	above := r.LossMLPerH.Value / (reportedM3PerS * mlPerHour)
	if r.WeepMLPerH != nil {
		if below := r.WeepMLPerH.Value / (reportedM3PerS * mlPerHour); above < noCause && below >= noCause {
			wet := ExplainsLoss(below)
			return "Above the liquid line it is too small to be the cause. From below the line: " + quantity.Lower(wet)
		}
	}
	return ExplainsLoss(above)
}
