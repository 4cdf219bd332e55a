package steps

import (
	"fmt"
	"math"
	"strings"

	"idlehiss/core/circuit"
	"idlehiss/core/physics"
	"idlehiss/core/quantity"
	"idlehiss/core/slate"
)

func askFeed(s circuit.Step, _ *circuit.Circuit, _ Given) Ask {
	litres := func(q quantity.M3PerS) string { return quantity.Significant(float64(q)*60e3, 3) + " L/min" }
	return Ask{
		Fields: []slate.Field{
			{ID: "tank", Label: "Compressor's tank", Kind: slate.Kind(quantity.Volume), Unit: "L", Help: "see its plate, such as 100 L ± 3 L"},
			{ID: "usual", Label: "Normal loss", Kind: slate.Kind(quantity.Flow), Unit: "L/min", Default: litres(s.Usual), Help: "past valves and rings of a sound engine"},
			{ID: "allowed", Label: "Allowed on top", Kind: slate.Kind(quantity.Flow), Unit: "L/min", Default: litres(s.Allowed)},
		},
		Columns: []slate.Field{
			bar("from", "Tank at the start", "such as 7 bar"), bar("to", "Tank at the end", ""), // on the tank's own gauge
			{ID: "time", Label: "In", Kind: slate.Kind(quantity.Time), Unit: "s", Help: "such as 1:30"},
		},
		Rows:  []Row{{ID: "still", Title: "Nothing moved"}, {ID: "moved", Title: "Joints moved by hand"}},
		Grows: "condition",
		Clock: clock(s, "Pump shut off, tank read", "time"),
	}
}

// judgeFeed turns the fall of the supply's tank, its pump off, into a flow
// (PHYSICS §3), takes off what passes anyway, and holds the rest against what may
// leave, for each condition.
func judgeFeed(sh *sheet) (Outcome, error) {
	var out Outcome
	usual, allowed := sh.in.SI("usual"), sh.in.SI("allowed")
	litres := func(q float64) string { return quantity.Significant(q*60e3, 3) + " L/min" }
	flows := map[string]float64{}
	for _, l := range sh.lines {
		r := RowOutcome{ID: l.ID, Verdict: Unknown, Says: "not measured"}
		if l.Given("from") && l.Given("to") && l.Given("time") && sh.in.Given("tank") {
			fall, t, v := l.SI("from")-l.SI("to"), l.SI("time"), sh.in.SI("tank")
			if fall < 0 {
				return out, CellError{l.ID, "to", fmt.Errorf("the tank's pressure rose: shut its pump off while you measure")}
			}
			if t <= 0 || v <= 0 {
				return out, CellError{l.ID, "time", fmt.Errorf("the tank's volume and the time must be above zero")}
			}
			q := physics.StandardFlow(fall/t, v, physics.StandardK)
			rel := math.Hypot(math.Hypot(l.SE("from"), l.SE("to"))/math.Max(fall, 1), math.Hypot(l.SE("time")/t, sh.in.SE("tank")/v))
			se := math.Hypot(q*rel, sh.in.SE("usual"))
			leak := q - usual
			flows[l.ID] = leak
			switch {
			case leak-1.96*se > allowed:
				r.Verdict = Bad
			case leak+1.96*se < allowed:
				r.Verdict = Good
			}
			r.Says = fmt.Sprintf("%s in all, %s more than normal (± %s)", litres(q), litres(math.Max(0, leak)), quantity.Significant(1.96*se*60e3, 2))
			if r.Verdict == Unknown {
				r.Says += "; measure for longer"
			}
			out.Figures = append(out.Figures, slate.InUnit("leak_"+l.ID, l.Title, leak, "L/min", quantity.Flow))
		}
		out.Rows = append(out.Rows, r)
	}
	measured := of(out.Rows, Good) + of(out.Rows, Bad)
	switch still, moved := flows["still"], flows["moved"]; {
	case of(out.Rows, Bad) > 0 && len(flows) > 1 && out.Rows[0].Verdict == Good && moved > still:
		out.Verdict, out.Sentence = Bad, fmt.Sprintf("A joint leaks only when it is moved: %s moved, %s at rest.", litres(moved), litres(math.Max(0, still)))
	case of(out.Rows, Bad) > 0:
		out.Verdict, out.Sentence = Bad, fmt.Sprintf("Leaks too much: %s.", strings.ToLower(sh.names(out.Rows, Bad)))
	case measured > 0 && out.Rows[1].Verdict == Unknown:
		out.Verdict, out.Sentence = Unknown, "Within the allowance at rest. Now move every joint and measure again."
	case measured > 0 && out.Rows[0].Verdict == Good:
		out.Verdict, out.Sentence = Good, "Within the allowance, at rest and moved."
	default:
		out.Verdict, out.Sentence = Unknown, "Fill the tank, shut off its pump, and time the fall."
	}
	out.Notes = []string{"A hiss or a bubble at a joint counts more than the flow."}
	return out, nil
}
