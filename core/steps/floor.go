package steps

import (
	"fmt"
	"math"

	"idlehiss/core/circuit"
	"idlehiss/core/physics"
	"idlehiss/core/slate"
)

func askFloor(_ circuit.Step, _ *circuit.Circuit, g Given) Ask {
	return Ask{Fields: []slate.Field{
		g.pressure("lifted", "It lifted at", "the highest the needle reached"),
		g.pressure("held", "It fell back to and held", "after a quarter of a minute"),
		yesNo("clean", "Ring and seat clean and wetted"),
	}}
}

// judgeFloor holds where a relief lifts and where it holds against its mark. Dirt
// and a dry ring fail good caps, so that a bad one is bad only once it was cleaned.
func judgeFloor(sh *sheet) (Outcome, error) {
	var out Outcome
	if !sh.in.Given("lifted") || !sh.in.Given("held") {
		return Outcome{Verdict: Unknown, Sentence: "Pump slowly past the mark and note where it lifts and where it holds."}, nil
	}
	lifted, held := sh.in.SI("lifted"), sh.in.SI("held")
	if held > lifted {
		return out, CellError{"", "held", fmt.Errorf("it cannot hold more than it lifted at: %s after %s", kpa(held), kpa(lifted))}
	}
	if sh.given.Mark == nil {
		return Outcome{Verdict: Unknown, Sentence: "The mark comes first: a floor is held against it."}, nil
	}
	tolerance := float64(sh.step.Tolerance)
	low, high := sh.given.Mark.LowPa, sh.given.Mark.HighPa
	out.Figures = []slate.Figure{figure("lifted_kpa", "Lifted", lifted, "kPa"), figure("held_kpa", "Held", held, "kPa")}
	out.Verdict = Good
	switch {
	case held < 0.3*low:
		out.Verdict, out.Sentence = Bad, fmt.Sprintf("It does not hold: %s left of %s.", kpa(held), kpa(lifted))
	case lifted < low-tolerance:
		out.Verdict, out.Sentence = Bad, fmt.Sprintf("It lifts at %s, %s under its mark.", kpa(lifted), kpa(low-lifted))
	case held < low-2*tolerance:
		out.Verdict, out.Sentence = Bad, fmt.Sprintf("It lifts at %s but holds only %s.", kpa(lifted), kpa(held))
	case lifted > high+tolerance:
		out.Verdict, out.Sentence = Bad, fmt.Sprintf("It lifts only at %s, %s over its mark: that loads every hose.", kpa(lifted), kpa(lifted-high))
	default:
		out.Sentence = fmt.Sprintf("Lifts at %s and holds %s: right for its mark.", kpa(lifted), kpa(held))
	}
	// What the floor costs is told in kelvin, for a common half-and-half fill.
	atMark, err1 := physics.BoilingPoint(physics.EthyleneGlycol, 0.5, low+sh.given.AmbientPa)
	atHeld, err2 := physics.BoilingPoint(physics.EthyleneGlycol, 0.5, held+sh.given.AmbientPa)
	if err1 == nil && err2 == nil && atMark-atHeld > 1.5 {
		out.Notes = append(out.Notes, fmt.Sprintf("Half-and-half coolant boils at %.0f °C at what it holds, %.0f °C at its mark.", atHeld-273.15, atMark-273.15))
	}
	if out.Verdict == Bad && sh.in.Text("clean") != "yes" {
		out.Verdict = Unknown
		out.Sentence += " Clean and wet its ring and seat and repeat before it is condemned."
	}
	if off := math.Abs(held - low); out.Verdict == Good && off > tolerance {
		out.Notes = append(out.Notes, fmt.Sprintf("It holds %s from its mark: within what is usual, near its edge.", kpa(off)))
	}
	return out, nil
}
