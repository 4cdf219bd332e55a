package steps

import (
	"fmt"
	"math"

	"idlehiss/core/circuit"
	"idlehiss/core/judge"
	"idlehiss/core/quantity"
	"idlehiss/core/slate"
)

// sureFaster is how likely it must be that the second hold loses faster, and matters
// the share of what may be lost below which even a sure difference is none.
const (
	sureFaster = 0.95
	matters    = 0.1
)

// OfTwo is the outcome of a step that is held under two conditions and asks whether
// the second loses faster than the first: not whether either is tight. Nil is a hold
// that was not done; allowance is what may be lost at the step, Pa/s: within as much, what is
// not surely faster passes.
func OfTwo(s circuit.Step, first, second *judge.Report, allowance float64) Outcome {
	out := OfHold(nil)
	a, b := s.Conditions[0].Title, s.Conditions[1].Title
	switch {
	case first == nil && second == nil:
		out.Sentence = fmt.Sprintf("Held twice: %s, then %s.", a, b)
		return out
	case first == nil || first.RateKPaPerMin == nil:
		out.Sentence = fmt.Sprintf("Not held yet: %s.", a)
		return out
	}
	rate := func(id, label string, r judge.Interval) slate.Figure {
		f := slate.InUnit(id, quantity.Capital(label), r.Value*1e3, "kPa", quantity.Pressure)
		f.Text = quantity.Significant(r.Value, 2) + " kPa a minute"
		if r.Low <= 0 { // nothing is surely lost
			f.Text = "under " + quantity.Significant(math.Max(r.High, 0), 2) + " kPa a minute"
		}
		f.Low, f.High = &r.Low, &r.High
		return f
	}
	out.Figures = append(out.Figures, rate("first_kpa_per_min", a, *first.RateKPaPerMin))
	if second == nil || second.RateKPaPerMin == nil {
		out.Sentence = fmt.Sprintf("Lost %s kPa a minute (%s). Now hold it %s.", quantity.Significant(first.RateKPaPerMin.Value, 2), a, b)
		return out
	}
	out.Figures = append(out.Figures, rate("second_kpa_per_min", b, *second.RateKPaPerMin))
	// The volume is the same both times: the falls themselves are compared.
	bare := func(r judge.Report) judge.Report { r.FlowCm3PerMin = nil; return r }
	c, err := judge.Compare(bare(*first), bare(*second))
	if err != nil {
		out.Sentence = err.Error()
		return out
	}
	more := quantity.Significant(c.Difference.Value, 2)
	switch may := allowance * 60 / 1e3; {
	case c.Faster >= sureFaster && c.SurelyDifferent && c.Difference.Value > matters*may:
		out.Verdict, out.Sentence = Bad, fmt.Sprintf("Faster by %s kPa a minute %s: %s.", more, b, s.Faster)
	case c.Difference.High <= may:
		out.Verdict, out.Sentence = Good, fmt.Sprintf("No faster %s than %s, within the allowance.", b, a)
	default:
		out.Sentence = fmt.Sprintf("%s to %s kPa a minute faster %s: hold both for longer.", quantity.Significant(c.Difference.Low, 2), quantity.Significant(c.Difference.High, 2), b)
	}
	return out
}
