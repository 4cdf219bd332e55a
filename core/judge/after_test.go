package judge

import (
	"idlehiss/core/quantity"
	"idlehiss/core/terms"
	"math"
	"math/rand/v2"
	"strings"
	"testing"

	"idlehiss/core/trace"
)

// What is said after a hold that could not be called, by why it could not.
func TestTheBestNextStepAfterANonCall(t *testing.T) {
	ask := func(q Question, tr *trace.Trace) Report {
		t.Helper()
		q.AmbientPa = 101325
		rep, err := Judge(tr, q, nil, false)
		if err != nil {
			t.Fatal(err)
		}
		return rep
	}
	digital := Gauge{DigitalPa: 100}
	for code, rep := range map[Code]Report{
		NextHoldOn:     ask(Question{LimitPaPerS: 1000. / 60, Gauge: digital}, held(110, 1.25, 0, 1, 40)),
		NextFinerGauge: ask(Question{LimitPaPerS: 2, Gauge: Gauge{DivisionPa: 20e3}}, &trace.Trace{Readings: []trace.Reading{{AtS: 0, GaugePa: 110e3}, {AtS: 60, GaugePa: 110e3}, {AtS: 120, GaugePa: 105e3}, {AtS: 180, GaugePa: 105e3}}}),
		NextSteady:     ask(Question{LimitPaPerS: 1000. / 60, Gauge: digital}, held(90, -4, 0, 1, 90)),
		NextProveRig:   ask(Question{LimitPaPerS: 1000. / 60, Gauge: digital, RigPaPerS: 5, RigSE: 12, GasM3: 1e-3}, held(110, 1, 0, 1, 300)),
	} {
		if rep.Call != NotYet || rep.NextStep == nil || rep.NextStep.Code != code || rep.Next == "" {
			t.Errorf("%s, next %+v %q; it should be %s (%v)", rep.Call, rep.NextStep, rep.Next, code, rep.Why)
		}
	}
	if rep := ask(Question{LimitPaPerS: 1000. / 60, Gauge: digital}, held(110, 0, 0, 1, 300)); rep.Call != Tight || rep.Next != "" {
		t.Errorf("after %s the next step is %q", rep.Call, rep.Next)
	}
}

// A rate with its doubt, as a report has it.
func rated(value, low, high float64) Report {
	return Report{RateKPaPerMin: &Interval{value, low, high}}
}

func TestComparingTwoHolds(t *testing.T) {
	c, err := Compare(rated(1, 0.9, 1.1), rated(1.5, 1.3, 1.8))
	if err != nil || !c.SurelyDifferent || c.Faster < 0.999 || math.Abs(c.Difference.Value-0.5) > 1e-12 || math.Abs(*c.PerCent-50) > 1e-9 {
		t.Errorf("%+v %v", c, err)
	}
	// Each side takes the doubt on that side of both.
	if want := 0.5 - math.Hypot(0.2, 0.1); math.Abs(c.Difference.Low-want) > 1e-12 {
		t.Errorf("low %v, should be %v", c.Difference.Low, want)
	}
	if c, _ := Compare(rated(1, 0.5, 1.5), rated(1.1, 0.6, 1.6)); c.SurelyDifferent || c.Faster < 0.5 || c.Faster > 0.7 || c.Sentence == "" {
		t.Errorf("%+v", c)
	}
	if c, _ := Compare(rated(0.1, -0.2, 0.4), rated(1, 0.9, 1.1)); c.PerCent != nil {
		t.Errorf("a per cent of what may be nothing: %v", *c.PerCent)
	}
	if _, err := Compare(Report{}, rated(1, 1, 1)); err == nil {
		t.Error("compared with what was never judged")
	}
	// What makes two holds unlike is said: the pressure, and air that is not known.
	high, low := rated(1, 0.9, 1.1), rated(1.5, 1.3, 1.8)
	high.TestPressureKPa, low.TestPressureKPa = 110, 80
	if c, _ := Compare(high, low); len(c.Cautions) != 2 || !strings.Contains(c.Cautions[0], "110 and 80") || !strings.Contains(c.Cautions[1], "neither") {
		t.Errorf("%q", c.Cautions)
	}
	low.TestPressureKPa = 108
	high.FlowCm3PerMin, low.FlowCm3PerMin = &Interval{6, 5, 7}, &Interval{3, 2, 4}
	if c, _ := Compare(high, low); !c.ByFlow || len(c.Cautions) != 0 || c.Difference.Value != -3 {
		t.Errorf("%+v", c)
	}
	// Odds from rates agree with how often the second is really the faster.
	same, _ := Compare(rated(1, 0.8, 1.2), rated(1, 0.8, 1.2))
	if math.Abs(same.Faster-0.5) > 1e-9 {
		t.Errorf("alike, and yet %v", same.Faster)
	}
}

// A plan follows the judge's own rule: a finer gauge or a larger allowance is sooner.
func TestAPlanIsSoonerWithAFinerGauge(t *testing.T) {
	if testing.Short() {
		t.Skip("long: it runs without the race detector")
	}
	at := 110e3
	plan := func(limitKPaPerMin float64, g Gauge) Times {
		t.Helper()
		p, err := PlanHold(Question{AmbientPa: 101325, AtPa: &at, LimitPaPerS: limitKPaPerMin * 1e3 / 60, Gauge: g})
		if err != nil {
			t.Fatal(err)
		}
		return p
	}
	needle, fine, loose := plan(0.5, Gauge{DivisionPa: 2e3}), plan(0.5, Gauge{DigitalPa: 100}), plan(5, Gauge{DigitalPa: 100})
	if needle.TightS == nil || fine.TightS == nil || loose.TightS == nil || !(*loose.TightS <= *fine.TightS && *fine.TightS < *needle.TightS) {
		t.Errorf("tight after %v (needle), %v (digital), %v (ten times the allowance)", value(needle.TightS), value(fine.TightS), value(loose.TightS))
	}
	if none := plan(0.002, Gauge{DivisionPa: 5e3}); none.TightS != nil || none.LeakingS != nil || none.Says(true) == "" {
		t.Errorf("a gauge that cannot see it: %s", none.Says(true))
	}
	if _, err := PlanHold(Question{AmbientPa: 101325, LimitPaPerS: 1, Gauge: Gauge{DigitalPa: 100}}); err == nil {
		t.Error("planned without a test pressure")
	}
}

// Gas behind the leak and liquid before it fall alike and lose differently, cold
// and hot; all follow from the rate, the air and the pressure (PHYSICS §3).
func TestBothSidesOfALoss(t *testing.T) {
	q := Question{AmbientPa: 101325, LimitPaPerS: 1000. / 60, Gauge: Gauge{DigitalPa: 100}, GasM3: 0.6e-3, GasSE: 0.02e-3, Coolant: true}
	rep, err := Judge(held(110, 3, 0, 1, 300), q, nil, false)
	if err != nil {
		t.Fatal(err)
	}
	rate := rep.RateKPaPerMin.Value * 1e3 / 60
	p := rep.TestPressureKPa*1e3 + 101325
	for name, pair := range map[string][2]float64{
		"liquid, cold":     {rep.WeepColdMLPerH.Value, q.GasM3 * rate / p * 3600e6},
		"liquid, hot":      {rep.WeepMLPerH.Value, q.GasM3 * rate / p * 3600e6 * 3.9 / 0.8},
		"gas side, colder": {rep.LossColdMLPerH.Value, rep.LossMLPerH.Value * 0.8 / 3.9},
	} {
		if math.Abs(pair[0]/pair[1]-1) > 1e-6 {
			t.Errorf("%s: %v mL/h, should be %v", name, pair[0], pair[1])
		}
	}
	half := (rep.RateKPaPerMin.High - rep.RateKPaPerMin.Low) / 3.92
	if math.Abs(*rep.SmallestKPaPerMin/(3.29*half)-1) > 1e-6 || *rep.SmallestMLPerH <= 0 {
		t.Errorf("the smallest leak seen: %v of ±%v", *rep.SmallestKPaPerMin, half)
	}
}

// A tight call on a loop full of coolant says what weep it cannot exclude: V·(dP/dt)/p cold as in
// the test (docs/PHYSICS.md, Leak flow), and as much more as hot coolant is thinner.
func TestATightLoopSaysWhatItCouldHide(t *testing.T) {
	at := 110e3
	for _, c := range []struct {
		gas     float64 // m³
		coolant bool
		call    Call
		rate    float64 // kPa a minute, lost
	}{{0.55e-3, true, Tight, 0}, {0.04e-3, true, Tight, 0}, {0.55e-3, false, Tight, 0}, {0.55e-3, true, Leaking, 4}} {
		l, err := NewLive(Question{AmbientPa: quantity.StandardAtmosphere, AtPa: &at, LimitPaPerS: 1000. / 60, GasM3: c.gas, Coolant: c.coolant, Gauge: Gauge{DivisionPa: 5000}}, nil)
		if err != nil {
			t.Fatal(err)
		}
		rng := rand.New(rand.NewPCG(3, 3))
		for s := 0.0; s <= 1800; s += 20 {
			l.Reading(trace.Reading{AtS: s, GaugePa: math.Round((at-c.rate*1e3*s/60+600*rng.NormFloat64())/1250) * 1250, How: trace.Read})
		}
		rep := l.Report()
		hides := c.coolant && c.call == Tight
		if x, says := rep.Says(CouldHide); rep.Call != c.call || (rep.MissedMLPerH != nil) != hides || says != hides {
			t.Errorf("%+v: %s, missed %v: %v", c, rep.Call, rep.MissedMLPerH, rep.Why)
		} else if hides {
			cold := c.gas * rep.RateKPaPerMin.High * 1e3 * 60 / (at + quantity.StandardAtmosphere) * 1e6 // mL an hour
			if want := cold * 3.9 / 0.8; math.Abs(*rep.MissedMLPerH/want-1) > 0.02 {
				t.Errorf("%+v: %.3g mL an hour, by hand %.3g", c, *rep.MissedMLPerH, want)
			}
			if filled, want := x.Figures[figureFilled], *rep.MissedMLPerH*math.Min(1, 0.05e-3/c.gas); math.Abs(filled/want-1) > 1e-9 {
				t.Errorf("%+v: filled %.3g mL an hour, by hand %.3g", c, filled, want)
			}
		}
	}
}

// What a report means: does it explain the loss, on either side of the liquid, and
// what the call hangs on.
func TestWhatAReportMeans(t *testing.T) {
	rep := Report{Call: Leaking, LimitKPaPerMin: 1, RateKPaPerMin: &Interval{2, 1.5, 2.5}, LossMLPerH: &Interval{3, 2, 4}, WeepMLPerH: &Interval{300, 200, 400}}
	mL := func(perHour float64) float64 { return perHour / 3600e6 }
	for reported, says := range map[float64]string{3: "It explains the loss", 6: "50 %", 1: "more than was missed", 300: "From below the line", 3000: "Too small to be the cause"} {
		if got := rep.Explains(mL(reported), terms.NotNoticed); !strings.Contains(got, says) {
			t.Errorf("%v mL an hour missed: %q", reported, got)
		}
	}
	// Once it is known how it was noticed, one side counts.
	for e, says := range map[terms.Escape]string{terms.Dripped: "It explains the loss", terms.Hissed: "Too small to be the cause"} {
		if got := rep.Explains(mL(300), e); !strings.Contains(got, says) || strings.Contains(got, "below the line") {
			t.Errorf("%s, 300 mL an hour missed: %q", e, got)
		}
	}
	for e, want := range map[terms.Escape]Interval{terms.NotNoticed: {300, 2, 400}, terms.Dripped: {300, 200, 400}, terms.Hissed: {3, 2, 4}} {
		if got := rep.Coolant(e); got == nil || *got != want {
			t.Errorf("%q: %+v mL an hour, want %+v", e, got, want)
		}
	}
	if rep.Explains(0, terms.NotNoticed) != "" || (&Report{Call: Leaking}).Explains(mL(3), terms.NotNoticed) != "" {
		t.Error("explains without a figure to explain by")
	}
	// A tight loop may hide so much, and no more.
	dry := Report{Call: Tight, LossMLPerH: &Interval{}, MissedMLPerH: pa(70)}
	if got := dry.Explains(mL(20), terms.NotNoticed); !strings.Contains(got, "20 mL an hour") || dry.Explains(mL(100), terms.NotNoticed) != "" {
		t.Errorf("a tight loop that may hide 70 mL an hour: %q, and of 100 %q", got, dry.Explains(mL(100), terms.NotNoticed))
	}
	for call, says := range map[Call]string{Leaking: "1.5 kPa/min", Tight: "2.5 kPa/min", NotYet: "1.5 to 2.5 kPa/min", NeverReached: ""} {
		rep.Call = call
		if got := rep.Changes(quantity.MustNamed("kPa", quantity.Pressure)); !strings.Contains(got, says) || (got == "") != (says == "") {
			t.Errorf("%s: %q", call, got)
		}
	}
}

// A rig's loss on a system goes by the volumes, with the doubt of all three.
func TestARigOnASystem(t *testing.T) {
	loss, se := OnSystem(30, 3, 0.06e-3, 0.003e-3, 0.6e-3, 0.03e-3)
	if math.Abs(loss-3) > 1e-9 || math.Abs(se-math.Hypot(0.3, 3*math.Hypot(0.05, 0.05))) > 1e-9 {
		t.Errorf("%v ± %v", loss, se)
	}
	for _, unknown := range [][2]float64{{0, 1}, {1, 0}} {
		if loss, se := OnSystem(30, 3, unknown[0], 0, unknown[1], 0); loss != 0 || se != 0 {
			t.Errorf("with a volume unknown %v ± %v is taken off", loss, se)
		}
	}
}

// A loop that cools by itself falls as one that leaks, and one that warms hides a leak: with its
// temperature unread nothing is called.
func TestNoFallIsJudgedWhileNobodyReadsTheWarmth(t *testing.T) {
	at := 110e3
	hold := func(perS float64) *trace.Trace {
		tr := &trace.Trace{}
		for i := range 200 {
			v := at - perS*float64(i)*2 + 40*float64(i%3-1)
			tr.Readings = append(tr.Readings, trace.Reading{AtS: float64(i) * 2, GaugePa: math.Round(v/100) * 100, How: trace.Read})
		}
		return tr
	}
	q := Question{AmbientPa: 101325, AtPa: &at, LimitPaPerS: 5, Gauge: Gauge{DigitalPa: 100}, Coolant: true}
	for _, c := range []struct {
		perS   float64
		unread bool
		want   Call
	}{{25, false, Leaking}, {25, true, NotYet}, {0, true, NotYet}, {0, false, Tight}} {
		q.WarmthUnread = c.unread
		rep, err := Judge(hold(c.perS), q, nil, false)
		if err != nil || rep.Call != c.want {
			t.Errorf("%v Pa/s, unread %v: %s %v, want %s", c.perS, c.unread, rep.Call, err, c.want)
		}
		if c.unread && (rep.MoreS != nil || rep.Fork != nil) {
			t.Errorf("%v Pa/s, unread: a call is promised in %v s", c.perS, *rep.MoreS)
		}
		if c.want == NotYet && (len(rep.Reasons) == 0 || rep.Reasons[0].Code != WarmthNotRead || rep.NextStep == nil || rep.NextStep.Code != NextReadTemp) {
			t.Errorf("it does not say why: %v, %s", rep.Why, rep.Next)
		}
	}
}
