package steps

import (
	"math"

	"idlehiss/core/judge"
	"idlehiss/core/slate"
	"idlehiss/core/terms"
)

// OfHold is a hold's report as the outcome of its step.
func OfHold(r *judge.Report) Outcome {
	out := Outcome{Verdict: Unknown, Sentence: "No call yet.", Figures: []slate.Figure{}, Notes: []string{}, Rows: []RowOutcome{}, Failed: []string{}, Bolts: []Bolt{}}
	if r == nil {
		return out
	}
	switch r.Call {
	case judge.Tight:
		out.Verdict, out.Sentence = Good, "Tight."
	case judge.Leaking:
		out.Verdict, out.Sentence = Bad, "Leaking."
	case judge.NeverReached:
		out.Verdict, out.Sentence = Bad, "Never reached the target."
	}
	if len(r.Why) > 0 {
		out.Sentence += " " + r.Why[0]
	}
	return out
}

// ProofSays is what a rig proof came to.
var ProofSays = map[judge.Call]string{
	judge.Tight:        "The rig holds on its own.",
	judge.Leaking:      "The rig itself leaks.",
	judge.NeverReached: "The rig itself leaks: it could not be pumped up.",
	judge.NotYet:       "The rig proof ended without a call.",
}

// wholeMost is the share of the test pressure that a hold may lose, whatever its school
// allows and whether it settled or leaked, and still be drawn whole.
const wholeMost = 0.1

// RingOf draws a report. A loss that is surely there but allowed is a nick.
func RingOf(r *judge.Report) terms.Ring {
	switch {
	case r == nil:
		return terms.RingDotted
	case r.Call == judge.Leaking || r.Call == judge.NeverReached:
		return terms.RingCut
	case r.Call == judge.Tight:
		if r.RateKPaPerMin != nil && r.RateKPaPerMin.Low > 0 && (r.Shape == judge.ShapeLeak || r.Shape == judge.ShapeSettlingLeak) {
			return terms.RingNicked
		}
		if r.FellKPa > wholeMost*math.Abs(r.TestPressureKPa) {
			return terms.RingNicked
		}
		return terms.RingWhole
	}
	return terms.RingDotted
}

// RingOfVerdict draws a step's verdict.
func RingOfVerdict(v Verdict) terms.Ring {
	return map[Verdict]terms.Ring{Good: terms.RingWhole, Bad: terms.RingCut, Unknown: terms.RingDotted}[v]
}
