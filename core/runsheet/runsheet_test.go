package runsheet

import (
	"math"
	"strings"
	"testing"

	"idlehiss/core/circuit"
	"idlehiss/core/judge"
	"idlehiss/core/quantity"
	"idlehiss/core/terms"
)

// tester is a common face: bar outside, psi inside.
func tester(read int) Gauge {
	return Gauge{Name: "tester", Kind: "needle", Read: read, Rings: []Ring{
		{Unit: "bar", From: 0, To: 2.5, Division: 0.05, Numbered: 0.5},
		{Unit: "psi", From: 0, To: 36, Division: 0.5, Numbered: 5},
	}}
}

func mark(t *testing.T, text string) quantity.Reading {
	t.Helper()
	m, err := quantity.DecodeMark(text, quantity.CapMarks)
	if err != nil {
		t.Fatal(err)
	}
	return m.Readings[0]
}

func TestAimRoundsByTheRule(t *testing.T) {
	parts := []Limit{{Of: "radiator", Pa: 230e3, CeilingPa: 230e3, Source: "circuit"}}
	for _, c := range []struct {
		mark, school string
		ring         int
		printed      string
	}{
		{"1.1", "exactly", 0, "1.10 bar"},
		{"1.1", "exactly", 1, "16.0 psi"},     // 15.95 psi: the nearest mark lies inside 1.05 to 1.15 bar
		{"109 kPa", "exactly", 1, "15.5 psi"}, // good to half a kPa: 16.0 psi would be past it
		{"16", "exactly", 0, "1.10 bar"},
		{"13-15", "exactly", 1, "13.0 psi"},
		{"13-15", "middle", 1, "14.0 psi"},
		{"13-15", "at-least", 1, "15.0 psi"},
		{"0.9", "margin", 0, "1.10 bar"},
		{"0.9", "modest", 0, "0.90 bar"},
	} {
		got, err := Aim(TargetSchool{ID: c.school, Title: c.school}, mark(t, c.mark), "cap", parts, tester(c.ring))
		if err != nil || got.Printed != c.printed {
			t.Errorf("%s, %s, ring %d: %q %v, want %q", c.mark, c.school, c.ring, got.Printed, err, c.printed)
		}
		if got.Pa > got.Weakest.CeilingPa*(1+1e-9) {
			t.Errorf("%s %s: %v is above the %s's %v", c.mark, c.school, got.Pa, got.Weakest.Of, got.Weakest.CeilingPa)
		}
	}
}

func TestNothingIsEverProposedAboveTheWeakestLimit(t *testing.T) {
	soft := []Limit{{Of: "plastic stub", Pa: 80e3, CeilingPa: 80e3, Source: "circuit"}}
	for _, text := range []string{"0.9", "1.1", "16", "13-15", "110 kPa", "2", "200 kPa", "7"} {
		for _, school := range []string{"exactly", "middle", "at-least", "margin", "modest"} {
			got, err := Aim(TargetSchool{ID: school}, mark(t, text), "cap", soft, tester(1))
			if err == nil && got.Pa > 80e3 {
				t.Errorf("%s, %s: proposes %v Pa through a part good for 80 kPa", text, school, got.Pa)
			}
		}
	}
	if _, err := Aim(TargetSchool{ID: "margin"}, mark(t, "1.1"), "cap", nil, tester(1)); err == nil {
		t.Error("a margin was offered with no part limit known")
	}
}

func TestOfferedSchools(t *testing.T) {
	all := []TargetSchool{{ID: "exactly"}, {ID: "middle"}, {ID: "at-least"}, {ID: "margin"}, {ID: "modest"}}
	names := func(text string, limits []Limit) string {
		var out []string
		for _, s := range Offered(all, mark(t, text), limits) {
			out = append(out, s.ID)
		}
		return strings.Join(out, " ")
	}
	if got := names("1.1", nil); got != "exactly at-least" {
		t.Errorf("1.1: %s", got)
	}
	if got := names("0.9-1.0", []Limit{{Pa: 230e3, CeilingPa: 230e3}}); got != "exactly middle at-least margin modest" {
		t.Errorf("0.9-1.0: %s", got)
	}
}

func TestOverrideNeedsAReasonAndIsSaid(t *testing.T) {
	limits := []Limit{MarkLimit(mark(t, "1.1"), "cap")}
	if _, err := Typed(125e3, limits, ""); err == nil || !strings.Contains(err.Error(), "cap at 110 kPa") {
		t.Error(err)
	}
	got, err := Typed(125e3, limits, "bare core out of the car, plate says 2 bar")
	if err != nil || !got.Over || !strings.Contains(got.Says, "ABOVE") || !strings.Contains(got.Says, "plate says") {
		t.Errorf("%+v %v", got, err)
	}
	if got, err := Typed(100e3, limits, ""); err != nil || got.Over {
		t.Errorf("%+v %v", got, err)
	}
}

func TestGaugeFit(t *testing.T) {
	coarse := Gauge{Kind: "needle", Rings: []Ring{{Unit: "bar", From: 0, To: 10, Division: 0.2}}}
	a := coarse.Fit(110e3, 2000./300, 300) // 2 kPa in 5 min
	says := strings.Join(a.Says, " ")
	if a.Fits || !a.OffMiddle || !a.TooCoarse || !strings.Contains(says, "0.01 bar") || !strings.Contains(says, "1 h 40 min") {
		t.Errorf("%+v", a)
	}
	if a := tester(0).Fit(110e3, 10e3/120., 300); !a.Fits {
		t.Errorf("%+v", a)
	}
	if a := tester(0).Fit(300e3, 0, 0); a.Fits || !strings.Contains(a.Says[0], "ends at") {
		t.Errorf("%+v", a)
	}
	for says, g := range map[string]Gauge{
		"needle or digital": {Kind: "dial"},
		"one to three":      {Kind: "needle"},
		"face has 1":        {Kind: "needle", Read: 1, Rings: []Ring{{Unit: "bar", To: 1, Division: 0.1}}},
		"no unit":           {Kind: "needle", Rings: []Ring{{Unit: "stone", To: 1, Division: 0.1}}},
		"run upwards":       {Kind: "needle", Rings: []Ring{{Unit: "bar", From: 2, To: 1, Division: 0.1}}},
	} {
		if err := g.Faults(); err == nil || !strings.Contains(err.Error(), says) {
			t.Errorf("%s: %v", says, err)
		}
	}
}

func TestAllowances(t *testing.T) {
	// 1 mL/h hot at 110 kPa over 0.6 L, worked by hand from PHYSICS §3: 1.13 cm³/min, 0.19 kPa/min.
	h := House(6e-4, 110e3, 101325, quantity.MustNamed("kPa", quantity.Pressure))
	if math.Abs(h.FlowM3PerS*60e6-1.130) > 0.005 || math.Abs(h.PaPerS*60/1e3-0.1909) > 0.002 {
		t.Errorf("%+v", h)
	}
	still := OfSchool(judge.School{ID: "still", Title: "Still", HoldS: 300}, tester(1))
	if math.Abs(still.PaPerS*300-0.125*6894.757293168) > 1e-6 {
		t.Errorf("%+v", still)
	}
	if a, err := TypedAllowance("2 psi in 5 min", tester(1), 101325); err != nil || math.Abs(a.PaPerS-2*6894.757293/300) > 1e-6 {
		t.Errorf("%+v %v", a, err)
	}
	if _, err := TypedAllowance("0 in 5 min", tester(1), 101325); err == nil {
		t.Error("an allowance of nothing was taken")
	}
}

func TestAGaugeBesideABetterOne(t *testing.T) {
	g := Gauge{Kind: "needle", Class: 1.6, Rings: []Ring{{Unit: "kPa", To: 250, Division: 5, Numbered: 50}}}
	high := []Beside{{20e3, 19e3}, {100e3, 95e3}, {200e3, 190e3}} // five per cent too high
	c, err := g.Against(high)
	if err != nil || c.Within || math.Abs(c.Gain-0.95) > 2*c.GainSE || math.Abs(c.WorstPa-10e3) > 1 {
		t.Errorf("%+v %v", c, err)
	}
	c, _ = g.Against([]Beside{{52e3, 50e3}, {102e3, 100e3}, {152e3, 150e3}})
	if !c.Within || math.Abs(c.OffsetPa+2e3) > 2*c.OffsetSE || math.Abs(c.Gain-1) > 2*c.GainSE {
		t.Errorf("%+v", c)
	}
	if c, _ = g.Against([]Beside{{100e3, 98e3}}); c.Gain != 1 || c.OffsetPa != -2e3 {
		t.Errorf("one pressure: %+v", c)
	}
	if _, err := g.Against(nil); err == nil {
		t.Error("compared with nothing")
	}
	for pa, want := range map[float64]Rest{0: AtZero, 3e3: WithinClass, 12e3: OffZero} {
		if got := g.Rests(pa); got != want {
			t.Errorf("at rest at %v: %v", pa, got)
		}
	}
}

// Closing one place opens another: a plate's bolts are ticked again at every pressure
// after they were first tightened, and at none before.
func TestAPlateIsNippedAgainAtEveryPressure(t *testing.T) {
	hold := func(id string) circuit.Step {
		return circuit.Step{ID: id, Title: id, Kind: circuit.Hold, Targets: []circuit.Target{{ID: "usual", At: 140e3}}}
	}
	c := circuit.Circuit{Chambers: []circuit.Chamber{{ID: "water", Volume: 2e-3}}, Ports: []circuit.Port{{ID: "in", Chamber: "water"}},
		Steps: []circuit.Step{hold("before"), {ID: "plate", Kind: circuit.Tighten, Bolts: &circuit.Bolts{Rows: []int{5, 5}, Renip: true}}, hold("first"), hold("second")}}
	nipped := map[string]bool{}
	for _, st := range Stages(&c) {
		for _, x := range st.Ticks {
			nipped[x.ID] = strings.HasPrefix(x.ID, "nip-")
		}
	}
	if !nipped["nip-first"] || !nipped["nip-second"] || nipped["nip-before"] || nipped["nip-plate"] {
		t.Errorf("%v", nipped)
	}
	c.Steps[1].Bolts.Renip = false
	for _, st := range Stages(&c) {
		if len(st.Ticks) > 0 && st.ID != terms.FirstLook {
			t.Errorf("%s: %v", st.ID, st.Ticks)
		}
	}
}

// What stands in it and what it pushes with is said before anything is pumped: by the largest part
// whose area is known, not by a plug, and filling only where it may be.
func TestTheThrustIsOfTheLargestPart(t *testing.T) {
	c := circuit.Circuit{Chambers: []circuit.Chamber{{ID: "water", Volume: 2.5e-3}}, Ports: []circuit.Port{{ID: "out", Chamber: "water"}}, Parts: []circuit.Part{
		{ID: "deck", Title: "Deck under the plate", Between: [2]string{"water", circuit.Outside}, Opening: true, Close: "plate", Area: 0.06},
		{ID: "plug", Title: "Core plug", Between: [2]string{"water", circuit.Outside}, Area: 0.001},
	}}
	s := circuit.Step{ID: "hold", Kind: circuit.Hold}
	e, ok := StoredIn(&c, s, 200e3, 101325)
	if !ok || math.Abs(e.Newtons-12e3) > 1 || e.Part != "Deck under the plate" {
		t.Errorf("%+v: %s", e, e.Says())
	}
	c.Parts[0].Area = 0
	if e, ok = StoredIn(&c, s, 200e3, 101325); e.Part != "Core plug" || !ok {
		t.Errorf("the next largest: %+v", e)
	}
	c.Parts[1].Area, c.Chambers[0].Volume = 0, 60e-3
	if e, ok = StoredIn(&c, s, 800e3, 101325); !ok || !e.AskFill || e.Part != "" || e.Fill != "" {
		t.Errorf("not to be filled: %s", e.Says())
	}
	c.Fill = circuit.Water
	if e, _ = StoredIn(&c, s, 800e3, 101325); e.Fill != circuit.Water {
		t.Errorf("to be filled: %s", e.Says())
	}
}

// A target that is said otherwise than it is pumped is seen, whatever is wrong with it.
func TestAWrongProposalIsSeen(t *testing.T) {
	mark := quantity.Reading{LowPa: 110e3, HighPa: 110e3}
	sound := Target{Pa: 110e3, School: "at-least", Printed: "110 kPa", Weakest: Limit{Of: "hose", Pa: 150e3, CeilingPa: 150e3}, WantPa: 110e3, Cause: AsWanted}
	if says := Misproposed(sound, &mark); says != "" {
		t.Errorf("a sound one: %s", says)
	}
	for what, wrong := range map[string]func(*Target){
		"no figure":          func(x *Target) { x.Pa = math.NaN() },
		"no figure in words": func(x *Target) { x.Says = "Pump to NaN kPa." },
		"below at least":     func(x *Target) { x.Pa, x.Printed, x.Cause = 105e3, "105 kPa", Rounded },
		"another is printed": func(x *Target) { x.Printed = "16 kPa" },
		"beyond the limit":   func(x *Target) { x.Weakest.CeilingPa = 100e3 },
		"the limit not named": func(x *Target) {
			x.School, x.Pa, x.Printed, x.WantPa, x.Cause = "exactly", 150e3, "150 kPa", 200e3, Rounded
		},
		"a limit that is none": func(x *Target) { x.Cause = CutByPart },
		"rounding not named":   func(x *Target) { x.WantPa = 112e3 },
	} {
		x := sound
		wrong(&x)
		if Misproposed(x, &mark) == "" {
			t.Errorf("%s is not seen", what)
		}
	}
}

// An allowance that is a flow becomes a fall in the air that was measured; before that it waits
// for the strokes, and the needle must stand still.
func TestAFlowIsAllowed(t *testing.T) {
	g := tester(1)
	s := circuit.Step{Kind: circuit.Hold, Allow: "2 cm3/min"}
	w := Wanted{From: FromSheet, Text: "2 cm3/min"}
	schools := []judge.School{{ID: "five-minutes-still", Title: "Five minutes, needle still", HoldS: 300}}
	a, asked := w.Resolve(s, g, schools, 1e-3, 140e3, 101325)
	if want := 2e-6 / 60 * 101325 / 1e-3; math.Abs(a.PaPerS-want) > 1e-9 || asked != a.PaPerS || a.From != FromSheet || math.Abs(a.FlowM3PerS*60e6-2) > 1e-9 {
		t.Errorf("%+v, want %.4g Pa/s", a, want)
	}
	if later, asked := w.Resolve(s, g, schools, 0, 140e3, 101325); later.FlowM3PerS != 0 || asked != 0 || later.HoldS != 300 || later.PaPerS <= 0 {
		t.Errorf("before the air is known: %+v", later)
	}
	if CheckAllowance("2 cm3/min", g, 101325) != nil || CheckAllowance("2 cm3", g, 101325) == nil || CheckAllowance("0 cm3/min", g, 101325) == nil {
		t.Error("what is a flow is taken, what is none is refused")
	}
}
