package judge

import (
	"idlehiss/core/quantity"
	"idlehiss/core/terms"
)

// What a report means for whoever acts on it: whether it explains what is lost,
// and what the call hangs on.

// Shares of a reported loss: below noCause a leak is not its cause, from mostOfLoss on
// it is, up to allOfLoss without surprise. Shop practice.
const (
	noCause    = 0.3
	mostOfLoss = 0.7
	allOfLoss  = 1.5
)

// Explains holds a call against what is reported to be lost (m³/s of liquid), by how the leak was
// noticed; empty where one of the two is not known, or a tight loop could not hide so much. Below
// the liquid line the same fall is far more liquid: until it is known, that is said where only it
// would do.
func (r *Report) Explains(reportedM3PerS float64, e terms.Escape) string {
	if r.LossMLPerH == nil || r.Call == NotYet || reportedM3PerS <= 0 {
		return ""
	}
	reported := reportedM3PerS * mlPerHour
	if r.Call == Tight {
		if r.MissedMLPerH != nil && reported <= *r.MissedMLPerH {
			return CouldHideLoss(reported)
		}
		return ""
	}
	if e == terms.Dripped && r.WeepMLPerH != nil {
		return ExplainsLoss(r.WeepMLPerH.Value / reported)
	}
	above := r.LossMLPerH.Value / reported
	if r.WeepMLPerH != nil && e == terms.NotNoticed {
		if below := r.WeepMLPerH.Value / reported; above < noCause && below >= noCause {
			wet := ExplainsLoss(below)
			return "Above the liquid line it is too small to be the cause. From below the line: " + quantity.Lower(wet)
		}
	}
	return ExplainsLoss(above)
}
