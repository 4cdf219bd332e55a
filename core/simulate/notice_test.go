package simulate

import (
	"math"
	"testing"

	"idlehiss/core/circuit"
	"idlehiss/core/hunt"
	"idlehiss/core/physics"
)

// methods are two of gas, one of liquid and one that oil forbids (PHYSICS §11).
var methods = []hunt.Method{
	{ID: "ears", Title: "Ears", LeastGas: 0.5e-6, Takes: 10, Shows: "a hiss"},
	{ID: "soap", Title: "Soap", LeastGas: 1e-9, Takes: 60, Waits: 60, Shows: "froth"},
	{ID: "powder", Title: "Powder", LeastLiquid: 1e-7 / 3600, Takes: 60, Waits: 4 * 3600, Shows: "a dark spot"},
	{ID: "hand", Title: "Hand", LeastGas: 1e-6, Takes: 15, Never: []hunt.Place{hunt.OilPressure}, Shows: "a breath"},
}

func TestWhatIsNoticedWhere(t *testing.T) {
	parts := []circuit.Part{{ID: "hose", Reach: 60}, {ID: "core", Reach: 180}, {ID: "bleed", Reach: 60}, {ID: "sound", Reach: 60}, {ID: "weep", Reach: 120}, {ID: "inner", Reach: 60}}
	leak := func(part string, std float64) Passage {
		return Passage{Part: part, To: Outside, Law: physics.Laminar, StdM3PeS: std, RefPa: 100e3}
	}
	meant := leak("bleed", 2e-6)
	meant.Meant = true
	sim := start(t, System{AmbientPa: air, Chambers: []Chamber{{GasM3: 5e-3, LiquidM3: 5e-3}, {GasM3: 1e-3}}, Passages: []Passage{
		leak("hose", 5e-6), leak("core", 1e-8), meant,
		{Part: "weep", To: Outside, Law: physics.Liquid, StdM3PeS: 1e-6 / 3600, RefPa: 100e3},
		{Part: "inner", To: 1, Law: physics.Laminar, StdM3PeS: 5e-6, RefPa: 100e3}}})
	sim.Stroke(0, 5e-3*100e3/air)
	look := func(oil bool) map[string]Notice {
		by := map[string]Notice{}
		for _, n := range sim.Notices(parts, methods, 100e3, func(circuit.Part) []hunt.Place { return map[bool][]hunt.Place{true: {hunt.OilPressure}}[oil] }, 7) {
			by[n.Part+" "+n.Method] = n
		}
		return by
	}
	by := look(false)
	for name, want := range map[string]bool{"hose ears": true, "hose soap": true, "hose hand": true, "hose powder": false,
		"core ears": false, "core soap": true, "sound soap": false, "weep powder": true, "weep soap": false, "inner ears": false, "bleed ears": true} {
		if n := by[name]; n.Seen != want || n.Seen != (n.Shows != "") {
			t.Errorf("%s: seen %v with chance %.3f at %.3g m³/s", name, n.Seen, n.Chance, n.M3PerS)
		}
	}
	if n := by["core soap"]; n.Minutes() != 5 || n.HandsS != 240 || n.WaitS != 60 {
		t.Errorf("soap at the core takes %v min", n.Minutes())
	}
	if !by["bleed ears"].Meant || by["hose ears"].Meant {
		t.Error("what is meant to breathe is not told from what is not")
	}
	if n := look(true)["hose hand"]; n.Seen || !n.Forbidden {
		t.Errorf("a hand at oil under pressure: %+v", n)
	}
	// Half of the looks see what the method sees at least; none sees a breath inwards.
	if c := methods[0].Chance(0.5e-6, false); math.Abs(c-0.475) > 1e-9 {
		t.Errorf("at the least that ears hear the chance is %v", c)
	}
	vacuum := leak("hose", -5e-6)
	vacuum.RefPa = -30e3
	sim = start(t, System{AmbientPa: air, Chambers: []Chamber{{GasM3: 5e-3}}, Passages: []Passage{vacuum}})
	sim.Stroke(0, -3e-3)
	if n := sim.Notices(parts[:1], methods, -30e3, func(circuit.Part) []hunt.Place { return nil }, 7)[1]; n.Seen || n.M3PerS != 0 {
		t.Errorf("soap at a seal that draws in: %+v", n)
	}
}

func TestGaugesAsTheyAre(t *testing.T) {
	mean := func(r Reader, pa float64) float64 {
		sum := 0.0
		for n := range 4000 {
			sum += r.Show(pa, n)
		}
		return sum / 4000
	}
	if got := mean(Reader{StepPa: 100, NoisePa: 60, ZeroPa: 700, Span: 0.01, Seed: 2}, 100e3); math.Abs(got-101.7e3) > 5 {
		t.Errorf("a gauge with a zero and a span error shows %.0f", got)
	}
	needle := Reader{DivisionPa: 5e3, StepPa: 1250, NoisePa: 300, Seed: 2}
	marks, quarters := 0, 0
	for n := range 4000 {
		switch v := needle.Show(98.9e3+float64(n), n); {
		case math.Mod(v, 5e3) == 0:
			marks++
		case math.Mod(v, 1250) == 0:
			quarters++
		default:
			t.Fatalf("read as %v", v)
		}
	}
	if marks < 1000 || quarters < 1000 {
		t.Errorf("%d printed marks, %d quarters between", marks, quarters)
	}
	dropped, runs := 0, 0
	for n := range 8000 {
		r := Reader{Drops: 0.1, Seed: 4}
		if r.Missing(n) {
			dropped++
			if n == 0 || !r.Missing(n-1) {
				runs++
			}
		}
	}
	if dropped < 500 || dropped > 1100 || dropped/runs < dropRun {
		t.Errorf("%d of 8000 dropped, in %d runs", dropped, runs)
	}
}

// Cut off, a leak stops on the gauge; another goes on, faster out of less gas; hot, it grows as the file says.
func TestWhatAnActWouldShow(t *testing.T) {
	c := circuit.Circuit{
		Chambers: []circuit.Chamber{{ID: "loop", Holds: circuit.HoldsGas, Volume: 1e-3}},
		Ports:    []circuit.Port{{ID: "neck", Chamber: "loop"}},
		Parts: []circuit.Part{
			{ID: "hose", Between: [2]string{"loop", circuit.Outside}, Odds: 1},
			{ID: "core", Between: [2]string{"loop", circuit.Outside}, Odds: 1, Changes: map[circuit.Change]float64{circuit.WhenHot: 3}},
		},
		Steps: []circuit.Step{{ID: "hold", Kind: circuit.Hold}},
		Acts: []circuit.Act{{ID: "clamp", Cuts: []string{"core"}, Air: 0.2, Answers: []circuit.Answer{
			{Seen: circuit.Stops, Says: "It is the core."}, {Seen: circuit.Same, Says: "It is not."}}}},
	}
	leak := func(part string) Passage {
		return Passage{Part: part, To: Outside, Law: physics.Laminar, StdM3PeS: 1e-7, RefPa: 100e3}
	}
	for what, x := range map[string]struct {
		passages  []Passage
		cut, warm float64
	}{
		"the core": {[]Passage{leak("core")}, 0, 3},
		"the hose": {[]Passage{leak("hose")}, 1.25, 1},
		"both":     {[]Passage{leak("hose"), leak("core")}, 0.625, 2},
		"no leak":  {nil, -1, -1},
	} {
		sim := start(t, System{AmbientPa: air, Chambers: []Chamber{{GasM3: 1e-3}}, Passages: x.passages})
		sim.Stroke(0, 1e-3*100e3/air)
		step, _ := c.Test("")
		told := func(all []Acted) float64 {
			if len(all) == 0 {
				return -1
			}
			return all[0].Share
		}
		if cut, warm := told(sim.Acts(&c, step)), told(sim.Changes(&c)); math.Abs(cut-x.cut) > 1e-9 || math.Abs(warm-x.warm) > 1e-9 {
			t.Errorf("%s: %.3f is left after the clamp and %.3f hot, want %.3f and %.3f", what, cut, warm, x.cut, x.warm)
		}
	}
}
