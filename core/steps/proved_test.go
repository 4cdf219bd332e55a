package steps

import (
	"math"
	"strings"
	"testing"

	"idlehiss/core/judge"
	"idlehiss/core/quantity"
	"idlehiss/core/terms"
)

// aTest is a called hold; change makes it another.
func aTest(id string, call judge.Call, kPaPerMin float64, change ...func(*Tested)) Tested {
	x := Tested{ID: id, Step: "hold", Condition: terms.Condition{Warmth: terms.Cold}, Under: "cold", TargetPa: 110e3, GasM3: 0.6e-3, LimitPaPerS: 1000. / 60,
		Unit: quantity.MustNamed("psi", quantity.Pressure), Report: &judge.Report{Call: call, RateKPaPerMin: &judge.Interval{Value: kPaPerMin, Low: kPaPerMin - 0.1, High: kPaPerMin + 0.1}, TestPressureKPa: 110}}
	for _, do := range change {
		do(&x)
	}
	return x
}

// A repair is proved by a tight hold that is like the one which leaked, of every step that leaked, and by nothing less.
func TestWhatProvesARepair(t *testing.T) {
	leaks, tight := aTest("was", judge.Leaking, 2.4), aTest("is", judge.Tight, 0)
	other := func(x *Tested) { x.Step = "second" }
	hot := func(x *Tested) { x.Condition, x.Under = terms.Condition{Warmth: terms.Hot}, "hot" }
	noted := func(x *Tested) { x.Condition.Note, x.Under = "something moved", "cold, something moved" }
	for name, x := range map[string]struct {
		before, after []Tested
		want          terms.Proof
		unlike        int
		of            [2]string // before, after
	}{
		"not held again":             {[]Tested{leaks}, nil, terms.Unproved, 0, [2]string{"was", ""}},
		"in the same way":            {[]Tested{leaks}, []Tested{tight}, terms.Proved, 0, [2]string{"was", "is"}},
		"a note makes no difference": {[]Tested{leaks}, []Tested{aTest("is", judge.Tight, 0, noted)}, terms.Proved, 0, [2]string{"was", "is"}},
		"hot":                        {[]Tested{leaks}, []Tested{aTest("is", judge.Tight, 0, hot)}, terms.ProvedUnlike, 1, [2]string{"was", "is"}},
		"hot, but cold before":       {[]Tested{leaks}, []Tested{tight, aTest("hot", judge.Tight, 0, hot)}, terms.Proved, 0, [2]string{"was", "is"}},
		"cold tight, then hot leaks": {[]Tested{leaks}, []Tested{tight, aTest("hot", judge.Leaking, 1, hot)}, terms.StillLeaks, 1, [2]string{"was", "hot"}},
		"at a lower pressure":        {[]Tested{leaks}, []Tested{aTest("is", judge.Tight, 0, func(x *Tested) { x.TargetPa = 70e3 })}, terms.ProvedUnlike, 1, [2]string{"was", "is"}},
		"with more air":              {[]Tested{leaks}, []Tested{aTest("is", judge.Tight, 0, func(x *Tested) { x.GasM3 = 1.2e-3 })}, terms.ProvedUnlike, 1, [2]string{"was", "is"}},
		"with less air":              {[]Tested{leaks}, []Tested{aTest("is", judge.Tight, 0, func(x *Tested) { x.GasM3, x.LimitPaPerS = 0.2e-3, 50 })}, terms.Proved, 0, [2]string{"was", "is"}},
		"with more allowed":          {[]Tested{leaks}, []Tested{aTest("is", judge.Tight, 0, func(x *Tested) { x.LimitPaPerS = 100 })}, terms.ProvedUnlike, 1, [2]string{"was", "is"}},
		"it still leaks":             {[]Tested{leaks}, []Tested{aTest("is", judge.Leaking, 2.3)}, terms.StillLeaks, 0, [2]string{"was", "is"}},
		"it cannot be pumped up":     {[]Tested{leaks}, []Tested{aTest("is", judge.NeverReached, 0)}, terms.StillLeaks, 0, [2]string{"was", "is"}},
		"without a call":             {[]Tested{leaks}, []Tested{aTest("is", judge.NotYet, 0)}, terms.ProofUnclear, 0, [2]string{"was", "is"}},
		"nothing was held before":    {nil, []Tested{tight}, terms.Proved, 0, [2]string{"", "is"}},
		"nothing leaked before":      {[]Tested{aTest("was", judge.Tight, 0)}, []Tested{tight}, terms.Proved, 0, [2]string{"was", "is"}},
		"another step held again":    {[]Tested{leaks}, []Tested{aTest("is", judge.Tight, 0, other)}, terms.Unproved, 0, [2]string{"was", ""}},
		"one of two steps":           {[]Tested{leaks, aTest("was2", judge.Leaking, 1, other)}, []Tested{tight}, terms.Unproved, 0, [2]string{"was2", ""}},
		"both steps":                 {[]Tested{leaks, aTest("was2", judge.Leaking, 1, other)}, []Tested{aTest("is2", judge.Tight, 0, other), tight}, terms.Proved, 0, [2]string{"was", "is"}},
		"the last leak before":       {[]Tested{aTest("first", judge.Leaking, 5), leaks, aTest("hm", judge.NotYet, 1)}, []Tested{tight}, terms.Proved, 0, [2]string{"was", "is"}},
	} {
		p := ProveRepair(x.before, x.after)
		if p.State != x.want || len(p.Unlike) != x.unlike || [2]string{p.Before, p.After} != x.of || p.Says == "" {
			t.Errorf("%s: %+v", name, p)
		}
	}
}

// What it lost and loses is said in the unit of the gauge, and how sure it is.
func TestARepairIsSaidInTheReadersUnit(t *testing.T) {
	p := ProveRepair([]Tested{aTest("was", judge.Leaking, 2.4)}, []Tested{aTest("is", judge.Tight, 0.05)})
	if p.Lost != "0.35 psi/min (0.33 to 0.36)" || !strings.HasPrefix(p.Loses, "Under ") || !strings.Contains(p.Loses, "psi/h") && !strings.Contains(p.Loses, "psi/min") {
		t.Errorf("%q, %q", p.Lost, p.Loses)
	}
	if c, err := judge.Compare(*aTest("", "", 2.4).Report, *aTest("", "", 0.05).Report); err != nil || p.Sure != quantity.Capital(judge.Likelihood(1-c.Faster))+" that it loses less than before." {
		t.Errorf("%q %v", p.Sure, err)
	}
}

// A charge that falls evenly is told with its rate and the day on which it is too low; one that was charged between two services
// begins there; one that only wavers by what a gauge can tell shows no loss.
func TestTheTrendOfACharge(t *testing.T) {
	const month = 365.25 / 12
	at := func(n, foundBar, leftBar float64) ChargeRead {
		return ChargeRead{Day: 20_000 + n*month, FoundPa: foundBar * 1e5, LeftPa: leftBar * 1e5, LeastPa: 27e5}
	}
	got, ok := TrendOf([]ChargeRead{at(0, 24, 30), at(6, 29.4, 29.4), at(12, 28.8, 28.8)}) // charged at first
	if !ok || got.Reads != 3 || math.Abs(got.PaPerMonth-0.1e5) > 1 || got.Low <= 0 || got.TooLowDay == nil {
		t.Fatalf("%v %+v", ok, got)
	}
	if months := (*got.TooLowDay - 20_000) / month; math.Abs(months-30) > 0.01 || *got.Earliest >= *got.TooLowDay || *got.Latest <= *got.TooLowDay {
		t.Errorf("too low after %v months, from %v to %v", months, *got.Earliest, *got.Latest)
	}
	for name, reads := range map[string][]ChargeRead{
		"one":                       {at(0, 29, 29)},
		"two of one week":           {at(0, 29, 29), at(0.2, 28.9, 28.9)},
		"charged at the last":       {at(0, 29, 29), at(6, 28, 30)},
		"charged by somebody since": {at(0, 29, 29), at(6, 30, 30)},
	} {
		if got, ok := TrendOf(reads); ok {
			t.Errorf("%s: %+v", name, got)
		}
	}
	if got, ok := TrendOf([]ChargeRead{at(0, 29, 29), at(1, 28.95, 28.95), at(2, 29, 29)}); !ok || got.TooLowDay != nil || got.High <= 0 {
		t.Errorf("wavering: %v %+v", ok, got)
	}
	if got, ok := TrendOf([]ChargeRead{at(0, 29, 29), at(12, 26, 26)}); !ok || got.TooLowDay != nil {
		t.Errorf("too low already: %v %+v", ok, got)
	}
}
