package steps

import (
	"fmt"
	"math"

	"idlehiss/core/circuit"
)

func askPresses(s circuit.Step, _ *circuit.Circuit, g Given) Ask {
	a := Ask{}
	a.Columns = append(a.Columns, g.pressure("before", "Before", ""), g.pressure("after", "Pressed", ""), g.pressure("later", "After 10 s", ""))
	for i := range s.Presses {
		r := Row{ID: fmt.Sprintf("press-%d", i+1), Title: fmt.Sprintf("Press %d", i+1)}
		if i > 0 {
			r.Defaults = map[string]string{"before": "as it was"}
		}
		a.Rows = append(a.Rows, r)
	}
	return a
}

// creeps is the share of a step that may come back before it counts as not staying.
const creeps = 0.2

// judgePresses wants each press to move the needle the right way, far enough, and
// to stay there.
func judgePresses(sh *sheet) (Outcome, error) {
	var out Outcome
	way := map[string]float64{"down": -1, "up": 1}[sh.step.Way]
	left, known := 0.0, false // by the press before
	for _, l := range sh.lines {
		r := RowOutcome{ID: l.ID, Verdict: Unknown, Says: "not done"}
		before := left
		if l.Given("before") {
			before, known = l.SI("before"), true
		}
		if known && l.Given("after") {
			moved := way * (l.SI("after") - before)
			least := math.Max(float64(sh.step.Least), sh.given.StepPa)
			switch {
			case moved < least:
				r.Verdict, r.Says = Bad, fmt.Sprintf("moves %s; must move %s %s", kpa(moved), kpa(least), sh.step.Way)
			case !l.Given("later"):
				r.Says = "moves; check that it stays"
			case math.Abs(l.SI("later")-l.SI("after")) > math.Max(creeps*moved, sh.given.StepPa)*(1+1e-9):
				r.Verdict, r.Says = Bad, fmt.Sprintf("moves, but does not stay: %s after 10 s", kpa(l.SI("later")-l.SI("after")))
			default:
				r.Verdict, r.Says = Good, fmt.Sprintf("moves %s and stays", kpa(moved))
			}
		}
		left, known = l.SI("later"), l.Given("later")
		out.Rows = append(out.Rows, r)
	}
	out.Verdict = worst(verdicts(out.Rows)...)
	switch out.Verdict {
	case Good:
		out.Sentence = fmt.Sprintf("Each of %d presses moves the needle %s, and it stays there.", len(out.Rows), sh.step.Way)
	case Bad:
		out.Sentence = fmt.Sprintf("%d of %d presses fail.", of(out.Rows, Bad), len(out.Rows))
		for _, r := range out.Rows {
			if r.Verdict == Bad {
				out.Sentence = fmt.Sprintf("It %s.", r.Says)
				break
			}
		}
	default:
		out.Sentence = fmt.Sprintf("%d of %d presses done.", of(out.Rows, Good), len(out.Rows))
	}
	return out, nil
}
