package steps

import (
	"fmt"
	"math"

	"idlehiss/core/circuit"
	"idlehiss/core/physics"
	"idlehiss/core/quantity"
	"idlehiss/core/slate"
)

func askFloor(_ circuit.Step, _ *circuit.Circuit, g Given) Ask {
	return Ask{Fields: []slate.Field{
		g.pressure("lifted", "It lifted at", "the highest the needle reached"),
		g.pressure("held", "It fell to and held", "after a minute"),
		yesNo("clean", "Ring and seat clean and wetted"),
		g.pressure("again-lifted", "Cleaned and tried again: it lifted at", "only where it was tried again"),
		g.pressure("again-held", "and held", "after a minute"),
	}}
}

// judgeFloor holds where a relief lifts and where it holds against its mark. Dirt
// and a dry ring fail good caps, so that a bad one is bad only once it was cleaned. A second try,
// cleaned, is compared with the first and decides.
func judgeFloor(sh *sheet) (Outcome, error) {
	first, err := sh.floor("lifted", "held", sh.in.Text("clean") == "yes")
	if err != nil || !sh.in.Given("again-lifted") || !sh.in.Given("again-held") || len(first.Figures) == 0 {
		return first, err
	}
	again, err := sh.floor("again-lifted", "again-held", true)
	if err != nil {
		return again, err
	}
	again.Sentence = fmt.Sprintf("Cleaned: %s First try: it lifted at %s and held %s.", quantity.Lower(again.Sentence), kpa(sh.in.SI("lifted")), kpa(sh.in.SI("held")))
	again.Figures = append(first.Figures, again.Figures...)
	return again, nil
}

// stuckShare is the share of its mark above which a relief that has not lifted is stuck, where
// that is more than the step's own figure. Shop practice.
const stuckShare = 0.25

// floor is one try.
func (sh *sheet) floor(liftedAt, heldAt string, clean bool) (Outcome, error) {
	var out Outcome
	if !sh.in.Given(liftedAt) || !sh.in.Given(heldAt) {
		return Outcome{Verdict: Unknown, Sentence: "Pump slowly past the mark. Note where it lifts and where it holds."}, nil
	}
	lifted, held := sh.in.SI(liftedAt), sh.in.SI(heldAt)
	if held > lifted {
		return out, CellError{"", heldAt, fmt.Errorf("it cannot hold %s after it lifted at %s: check both", kpa(held), kpa(lifted))}
	}
	if sh.given.Mark == nil {
		return Outcome{Verdict: Unknown, Sentence: "Type the mark first: the floor is compared with it."}, nil
	}
	tolerance := sh.tolerance(sh.given.Mark.LowPa)
	low, high := sh.given.Mark.LowPa, sh.given.Mark.HighPa
	out.Figures = []slate.Figure{figure(liftedAt+"_kpa", "Lifted", lifted, "kPa"), figure(heldAt+"_kpa", "Held", held, "kPa")}
	out.Verdict = Good
	leastHeld := low - 2*tolerance
	if sh.step.Holds > 0 {
		leastHeld = sh.step.Holds / 100 * low
	}
	switch {
	case held < 0.3*low:
		out.Verdict, out.Sentence = Bad, fmt.Sprintf("It does not hold: %s left of %s.", kpa(held), kpa(lifted))
	case lifted < low-tolerance:
		out.Verdict, out.Sentence = Bad, fmt.Sprintf("It lifts at %s, %s under its mark.", kpa(lifted), kpa(low-lifted))
	case held < leastHeld:
		out.Verdict, out.Sentence = Bad, fmt.Sprintf("It lifts at %s but holds only %s; it must hold %s.", kpa(lifted), kpa(held), kpa(leastHeld))
	case sh.step.Stuck > 0 && lifted > high+math.Max(float64(sh.step.Stuck), stuckShare*high):
		out.Verdict, out.Sentence = Bad, fmt.Sprintf("Stuck: at %s, %s over its mark, it had hardly lifted.", kpa(lifted), kpa(lifted-high))
	case lifted > high+tolerance:
		out.Verdict, out.Sentence = Bad, fmt.Sprintf("It lifts only at %s, %s over its mark: too much for the hoses.", kpa(lifted), kpa(lifted-high))
	default:
		out.Sentence = fmt.Sprintf("Lifts at %s and holds %s: right for its mark.", kpa(lifted), kpa(held))
	}
	// What the floor costs is told in kelvin, for a common half-and-half fill.
	atMark, err1 := physics.BoilingPoint(physics.EthyleneGlycol, 0.5, low+sh.given.AmbientPa)
	atHeld, err2 := physics.BoilingPoint(physics.EthyleneGlycol, 0.5, held+sh.given.AmbientPa)
	if err1 == nil && err2 == nil && atMark-atHeld > 1.5 {
		out.Notes = append(out.Notes, fmt.Sprintf("50 %% coolant boils at %.0f °C at the pressure held, at %.0f °C at the mark.", atHeld-273.15, atMark-273.15))
	}
	if out.Verdict == Bad && !clean {
		out.Verdict = Unknown
		out.Sentence += " Clean and wet the seal ring and the seat and repeat before you reject it. Both tries are kept."
	}
	if off := math.Abs(held - low); out.Verdict == Good && off > tolerance {
		out.Notes = append(out.Notes, fmt.Sprintf("It holds %s from its mark: usual, but near the edge.", kpa(off)))
	}
	return out, nil
}
