package steps

import (
	"fmt"
	"math"

	"idlehiss/core/circuit"
	"idlehiss/core/quantity"
	"idlehiss/core/slate"
)

func askWatch(s circuit.Step, c *circuit.Circuit, g Given) Ask {
	return Ask{Fields: []slate.Field{
		g.pressure("before", titleOf(c, s.Watch)+" before", "full and held"),
		g.pressure("after", titleOf(c, s.Watch)+" after", ""),
		g.pressure("far_before", "At its far end before", "if there is a gauge"),
		g.pressure("far_after", "At its far end after", ""),
		{ID: "time", Label: "Watched for", Kind: slate.Kind(quantity.Time), Unit: "s", Default: quantity.Significant(float64(s.Over), 3) + " s"},
	}, Clock: clock(s, "Charging begun", "time")}
}

func titleOf(c *circuit.Circuit, chamber string) string {
	ch, _ := c.Chamber(chamber)
	if ch.Title == "" {
		return "It"
	}
	return quantity.Capital(ch.Title)
}

// judgeWatch wants the line that was not charged to stay where it was, within
// what the step allows and the gauge can show.
func judgeWatch(sh *sheet) (Outcome, error) {
	what := titleOf(sh.circuit, sh.step.Watch)
	if !sh.in.Given("before") || !sh.in.Given("after") {
		return Outcome{Verdict: Unknown, Sentence: fmt.Sprintf("%s must not move while the other circuit is charged.", what)}, nil
	}
	over := sh.in.SI("time")
	if over <= 0 {
		return Outcome{}, CellError{"", "time", fmt.Errorf("type how long you watched it, such as 60 s")}
	}
	rate := 0.0
	if allow := sh.step.Allowance(); allow != "" {
		var err error
		if rate, _, _, err = quantity.ParseRate(allow, quantity.MustNamed("kPa", quantity.Pressure), sh.given.AmbientPa); err != nil {
			return Outcome{}, err
		}
	}
	may := math.Max(rate*over, sh.given.StepPa)
	moved := sh.in.SI("after") - sh.in.SI("before")
	out := Outcome{Verdict: Good, Figures: []slate.Figure{figure("moved_kpa", "Moved", moved, "kPa")}}
	if sh.in.Given("far_before") && sh.in.Given("far_after") {
		far := sh.in.SI("far_after") - sh.in.SI("far_before")
		out.Figures = append(out.Figures, figure("far_moved_kpa", "Moved at the far end", far, "kPa"))
		if math.Abs(far) > math.Abs(moved) {
			moved = far // either end tells
		}
	}
	switch {
	case moved > may:
		out.Verdict, out.Sentence = Bad, fmt.Sprintf("%s rose by %s: a one-way valve leaks.", what, kpa(moved))
	case moved < -may:
		out.Verdict, out.Sentence = Bad, fmt.Sprintf("%s fell by %s: it leaks itself, or a one-way valve lets it into the lower line. Vent that line and see whether it creeps up.", what, kpa(-moved))
	case over < 0.95*float64(sh.step.Over):
		out.Verdict, out.Sentence = Unknown, fmt.Sprintf("It did not move, but was watched for %s only, of %s.", quantity.Clock(over), quantity.Clock(float64(sh.step.Over)))
	default:
		out.Sentence = fmt.Sprintf("%s did not move in %s.", what, quantity.Clock(over))
	}
	return out, nil
}
