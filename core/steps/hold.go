package steps

import (
	"idlehiss/core/judge"
	"idlehiss/core/slate"
)

// OfHold is a hold's report as the outcome of its step.
func OfHold(r *judge.Report) Outcome {
	out := Outcome{Verdict: Unknown, Sentence: "Not called yet.", Figures: []slate.Figure{}, Notes: []string{}, Rows: []RowOutcome{}, Bolts: []Bolt{}}
	if r == nil {
		return out
	}
	switch r.Call {
	case judge.Tight:
		out.Verdict, out.Sentence = Good, "Tight."
	case judge.Leaking:
		out.Verdict, out.Sentence = Bad, "Leaking."
	case judge.NeverReached:
		out.Verdict, out.Sentence = Bad, "It never got there."
	}
	if len(r.Why) > 0 {
		out.Sentence += " " + r.Why[0]
	}
	return out
}
