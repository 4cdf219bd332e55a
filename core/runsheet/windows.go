package runsheet

import (
	"fmt"

	"idlehiss/core/circuit"
	"idlehiss/core/quantity"
)

// Windows are the times and bounds by which a step is judged, in words, where it is not a hold:
// what two people at two ends read off the sheet.
func Windows(s circuit.Step) []string {
	out := []string{}
	say := func(format string, a ...any) { out = append(out, fmt.Sprintf(format, a...)) }
	t := func(v quantity.S) string { return quantity.Duration(float64(v)) }
	switch s.Kind {
	case circuit.TimedFall:
		say("Down to %s: not before %s, not after %s, at each gauge. Far behind near: %s at most.", kpa(float64(s.To)), t(s.Within[0]), t(s.Within[1]), t(s.Lag))
	case circuit.CrossWatch:
		say("Watched for %s. It may move %s.", t(s.Over), s.Allowance())
	case circuit.Floor:
		says := fmt.Sprintf("Lifts within %s of its mark", kpa(float64(s.Tolerance)))
		if s.Percent > 0 {
			says += fmt.Sprintf(" (or %s %%, the larger)", quantity.Significant(s.Percent, 2))
		}
		if s.Holds > 0 {
			says += fmt.Sprintf(", holds %s %% of it", quantity.Significant(s.Holds, 2))
		}
		if s.Stuck > 0 {
			says += fmt.Sprintf(". Not lifted %s past it: stuck", kpa(float64(s.Stuck)))
		}
		out = append(out, says+".")
	case circuit.Charge:
		if s.Percent > 0 {
			say("Right within %s %% of what it should show today.", quantity.Significant(s.Percent, 2))
		}
		if s.Recharge > 0 {
			say("Charged again from %s %% below on.", quantity.Significant(s.Recharge, 2))
		}
		if s.Yearly[1] > 0 {
			say("A sound one loses %s to %s %% a year.", quantity.Significant(s.Yearly[0], 2), quantity.Significant(s.Yearly[1], 2))
		}
	}
	for _, l := range s.Looks {
		if l.Within > 0 {
			say("%s: within %s.", l.Title, t(l.Within))
		}
	}
	return out
}
