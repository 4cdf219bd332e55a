package steps

import (
	"fmt"
	"math"

	"idlehiss/core/circuit"
	"idlehiss/core/physics"
	"idlehiss/core/quantity"
	"idlehiss/core/slate"
)

// bar is a pressure that is usually read in bar, on a gauge that is not the step's own.
func bar(id, label, help string) slate.Field {
	return slate.Field{ID: id, Label: label, Kind: slate.Kind(quantity.Pressure), Unit: "bar", Help: help}
}

func askCharge(s circuit.Step, c *circuit.Circuit, _ Given) Ask {
	ch, _ := c.Chamber(c.Pressed(s).Port.Chamber)
	return Ask{Fields: []slate.Field{
		bar("plate", "Plate, at 20 °C", "such as 30 bar"),
		{ID: "temperature", Label: "Temperature of the vessel", Kind: slate.Kind(quantity.Warmth), Unit: "°C", Help: "by hand or probe, such as 5 °C"},
		bar("found", "Found", ""),
		{ID: "volume", Label: "Gas volume", Kind: slate.Kind(quantity.Volume), Unit: "L", Default: quantity.Significant(float64(ch.Volume)*1e3, 3) + " L"},
		bar("after", "Read again, settled", "after charging or venting"),
	}}
}

// judgeCharge holds what stands in a vessel against its plate at today's
// temperature (PHYSICS §9), and tells the nitrogen that is missing.
func judgeCharge(sh *sheet) (Outcome, error) {
	if !sh.in.Given("plate") || !sh.in.Given("temperature") {
		return Outcome{Verdict: Unknown, Sentence: "What the plate says at 20 °C, and how warm the vessel is today."}, nil
	}
	inBar := func(pa float64) string { return quantity.Significant(pa/1e5, 3) + " bar" }
	k := sh.in.SI("temperature")
	want := physics.Precharge(sh.in.SI("plate"), k, sh.given.AmbientPa)
	out := Outcome{Figures: []slate.Figure{figure("want_bar", "Should show today", want, "bar")}}
	last := "found"
	if sh.in.Given("after") {
		last = "after"
	}
	if !sh.in.Given(last) {
		out.Verdict, out.Sentence = Unknown, fmt.Sprintf("At %.0f °C it should show %s.", k-273.15, inBar(want))
		return out, nil
	}
	got := sh.in.SI(last)
	off := got - want
	today := fmt.Sprintf("%s at %.0f °C, where %s is right", inBar(got), k-273.15, inBar(want))
	if math.Abs(off) <= float64(sh.step.Tolerance) {
		out.Verdict, out.Sentence = Good, "Right: "+today+"."
		if plate := sh.in.SI("plate"); math.Abs(got-plate) > float64(sh.step.Tolerance) {
			out.Notes = []string{"By the plate alone it would have been called wrong: that is told at 20 °C."}
		}
		return out, nil
	}
	kg := math.Abs(physics.NitrogenMass(off, sh.in.SI("volume"), k))
	mass := quantity.Significant(kg*1e3, 2) + " g"
	out.Figures = append(out.Figures, slate.Figure{ID: "nitrogen_g", Label: "Nitrogen", Value: kg * 1e3, Text: mass})
	out.Verdict = Bad
	if off < 0 {
		out.Sentence = fmt.Sprintf("Low: %s. About %s of dry nitrogen is missing.", today, mass)
	} else {
		out.Sentence = fmt.Sprintf("High: %s. Vent about %s.", today, mass)
	}
	out.Notes = []string{"Charging warms it: let it settle and read again. Only dry nitrogen."}
	return out, nil
}
