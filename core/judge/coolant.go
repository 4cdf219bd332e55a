package judge

import "idlehiss/core/terms"

// Coolant is the loss on the road that a fall means, mL of hot coolant an hour, by how the leak was
// noticed: dripping it is liquid that left in the test, hissing the same passage with coolant in
// it (docs/PHYSICS.md, Leak flow). Until that is known it spans both, and the larger is its value.
// It is nil where the loop holds no coolant or its air is not known.
func (r *Report) Coolant(e terms.Escape) *Interval {
	switch {
	case r.LossMLPerH == nil || r.WeepMLPerH == nil || e == terms.Hissed:
		return r.LossMLPerH
	case e == terms.Dripped:
		return r.WeepMLPerH
	}
	return &Interval{r.WeepMLPerH.Value, r.LossMLPerH.Low, r.WeepMLPerH.High}
}
