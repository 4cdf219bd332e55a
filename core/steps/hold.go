package steps

import (
	"math"

	"idlehiss/core/judge"
	"idlehiss/core/quantity"
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

// HoldSays is what a hold came to in one line; empty while it is neither called nor clear why it
// cannot be.
func HoldSays(r *judge.Report, u quantity.Unit) string {
	switch r.Call {
	case judge.Tight:
		switch {
		case RingOf(r) == terms.RingNicked || r.Shape == judge.ShapeSettlingLeak || r.Shape == judge.ShapeLeak:
			return "Tight enough: it loses less than is allowed."
		case r.Shape == judge.ShapeSettling:
			return "Tight. The fall was settling, not a leak."
		}
		return "Tight."
	case judge.Leaking:
		if r.RateKPaPerMin == nil {
			return "Leaking."
		}
		return "Leaking. " + u.Rate(r.RateKPaPerMin.Value*1e3/60, 2) + "."
	case judge.NeverReached:
		return "Never reached the target: adapter not seated, a large leak, or a forgotten opening."
	}
	switch {
	case r.Shape == judge.ShapeRising:
		return "Rising: heat or gas is coming in. A rise can hide a leak."
	case r.AtLimit:
		return "At the limit. The readings cannot decide either way."
	}
	return ""
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
