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

// Explains holds a called leak against what is reported to be lost (m³/s of
// liquid); empty where one of the two is not known. Below the liquid line the
// same fall is far more liquid: that is said where only it would do.
func (r *Report) Explains(reportedM3PerS float64) string {
	if r.LossMLPerH == nil || r.Call == NotYet || reportedM3PerS <= 0 {
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
