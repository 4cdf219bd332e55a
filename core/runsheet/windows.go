package runsheet

import (
	"fmt"
	"strconv"

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
		say("Down to %s: not before %s, not after %s, at each gauge. Far behind near: %s at most.", inKPa(s.To), t(s.Within[0]), t(s.Within[1]), t(s.Lag))
	case circuit.CrossWatch:
		say("Watched for %s. It may move %s.", t(s.Over), s.Allowance())
	case circuit.Floor:
		says := fmt.Sprintf("Lifts within %s of its mark", inKPa(s.Tolerance))
		if s.Percent > 0 {
			says += fmt.Sprintf(" (or %s %%, the larger)", percent(s.Percent))
		}
		if s.Holds > 0 {
			says += fmt.Sprintf(", holds %s %% of it", percent(s.Holds))
		}
		if s.Stuck > 0 {
			says += fmt.Sprintf(". Not lifted %s past it: stuck", inKPa(s.Stuck))
		}
		out = append(out, says+".")
	case circuit.Charge:
		if s.Percent > 0 {
			say("Right within %s %% of what it should show today.", percent(s.Percent))
		}
		if s.Recharge > 0 {
			say("Charged again from %s %% below on.", percent(s.Recharge))
		}
		if s.Yearly[1] > 0 {
			say("A sound one loses %s to %s %% a year.", percent(s.Yearly[0]), percent(s.Yearly[1]))
		}
	}
	for _, l := range s.Looks {
		if l.Within > 0 {
			say("%s: within %s.", l.Title, t(l.Within))
		}
	}
	return out
}

// inKPa and percent write figures of a file as a person would.
func inKPa(p circuit.Pressure) string { return percent(float64(p)/1e3) + " kPa" }

func percent(v float64) string { return strconv.FormatFloat(quantity.TenDigits(v), 'f', -1, 64) }
