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
		bar("after", "Read again after settling", "after charging or venting"),
	}}
}

// judgeCharge holds what stands in a vessel against its plate at today's
// temperature (PHYSICS §9), and tells the nitrogen that is missing.
func judgeCharge(sh *sheet) (Outcome, error) {
	if !sh.in.Given("plate") || !sh.in.Given("temperature") {
		return Outcome{Verdict: Unknown, Sentence: "Type the pressure on the plate (at 20 °C) and the temperature of the vessel."}, nil
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
		out.Verdict, out.Sentence = Unknown, fmt.Sprintf("At %.0f °C the gauge should show %s.", k-273.15, inBar(want))
		return out, nil
	}
	got := sh.in.SI(last)
	off, may := got-want, sh.tolerance(want)
	if err := sh.between(&out, got, k); err != nil {
		return out, err
	}
	today := fmt.Sprintf("%s at %.0f °C (should be %s)", inBar(got), k-273.15, inBar(want))
	low := sh.step.Recharge > 0 && off < -may && off >= -sh.step.Recharge/100*want
	if math.Abs(off) <= may || low {
		out.Verdict, out.Sentence = Good, "Right: "+today+"."
		if low {
			out.Sentence = fmt.Sprintf("Low, but may stay: %s. Charge it from %s %% below on.", today, quantity.Significant(sh.step.Recharge, 2))
		}
		if plate := sh.in.SI("plate"); math.Abs(got-plate) > may {
			out.Notes = append(out.Notes, "Without the temperature correction it would fail; the plate value is for 20 °C.")
		}
		return out, nil
	}
	kg := math.Abs(physics.NitrogenMass(got, want, sh.in.SI("volume"), k, sh.given.AmbientPa))
	mass := quantity.Significant(kg*1e3, 2) + " g"
	out.Figures = append(out.Figures, slate.Figure{ID: "nitrogen_g", Label: "Nitrogen", Value: kg * 1e3, Text: mass})
	out.Verdict = Bad
	if off < 0 {
		out.Sentence = fmt.Sprintf("Low: %s. About %s of dry nitrogen is missing.", today, mass)
	} else {
		out.Sentence = fmt.Sprintf("High: %s. Vent about %s.", today, mass)
	}
	out.Notes = append(out.Notes, "Charging warms the gas: let it settle and read again. Dry nitrogen only.")
	return out, nil
}

// tolerance is how far a figure (Pa) may be off: what the step says, or its share of the figure
// where that is more.
func (sh *sheet) tolerance(pa float64) float64 {
	return math.Max(float64(sh.step.Tolerance), sh.step.Percent/100*math.Abs(pa))
}

const monthsAYear = 12

// tells is the smallest loss between two services that two readings of a gauge can
// tell, Pa; shortly is how soon a service (months) says nothing of the one before.
const (
	tells   = 0.2e5
	shortly = 0.5
)

// between tells what was lost since the last service, both times brought to 20 °C:
// over months that is the leak test of a gas charge (PHYSICS §9). got is what stands
// in it now, Pa gauge at k kelvin.
func (sh *sheet) between(out *Outcome, got, k float64) error {
	b := sh.given.Before
	if b == nil || b.Months < shortly {
		return nil
	}
	was, err := read(sh.step, sh.ask.Fields, b.Entry.Fields, sh.given)
	if err != nil {
		return nil // it was read otherwise then: nothing can be compared
	}
	last := "found"
	if was.Given("after") {
		last = "after"
	}
	if !was.Given(last) || !was.Given("temperature") {
		return nil
	}
	at20 := func(pa, k float64) float64 {
		return physics.NitrogenAt(pa, k, physics.StandardK, sh.given.AmbientPa)
	}
	now, then := at20(got, k), at20(was.SI(last), was.SI("temperature"))
	lost := then - now
	ago := fmt.Sprintf("Since the service %s months ago", quantity.Significant(b.Months, 2))
	switch inBar := func(pa float64) string { return quantity.Significant(pa/1e5, 2) + " bar" }; {
	case lost < -tells:
		out.Notes = append(out.Notes, fmt.Sprintf("%s the pressure rose by %s (at 20 °C): it was charged meanwhile, or one reading is wrong.", ago, inBar(-lost)))
	case lost < tells:
		out.Notes = append(out.Notes, ago+" these readings show no loss.")
	default:
		out.Figures = append(out.Figures, slate.Figure{ID: "lost_bar_per_month", Label: "Lost a month", Value: lost / 1e5 / b.Months, Text: inBar(lost/b.Months) + " at 20 °C"})
		note := fmt.Sprintf("%s the pressure fell by %s (at 20 °C), %s a month.", ago, inBar(lost), inBar(lost/b.Months))
		if a := sh.step.Yearly; a[1] > 0 {
			percent := 100 * lost / b.Months * monthsAYear / then
			switch share := quantity.Significant(percent, 2); {
			case percent > a[1]:
				out.Notes = append(out.Notes, fmt.Sprintf("It loses %s %% a year, more than the %s %% that pass through a sound one: look for the leak.", share, quantity.Significant(a[1], 2)))
			default:
				out.Notes = append(out.Notes, fmt.Sprintf("It loses %s %% a year. A sound one loses %s to %s %%.", share, quantity.Significant(a[0], 2), quantity.Significant(a[1], 2)))
			}
		}
		if spare := now - (sh.in.SI("plate") - max(sh.tolerance(sh.in.SI("plate")), sh.step.Recharge/100*sh.in.SI("plate"))); spare > 0 {
			note += fmt.Sprintf(" At that rate it is too low in about %s months.", quantity.Significant(spare/(lost/b.Months), 2))
		}
		out.Notes = append(out.Notes, note)
	}
	return nil
}
