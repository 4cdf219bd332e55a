package simulate

import (
	"math"
	"testing"

	"idlehiss/core/physics"
)

const air = 101325.0

// within checks against a closed form; share of the figure.
func within(t *testing.T, what string, got, want, share float64) {
	t.Helper()
	if math.Abs(got-want) > share*math.Abs(want) {
		t.Errorf("%s: %.6g, the closed form has %.6g", what, got, want)
	}
}

func start(t *testing.T, sys System) *Sim {
	t.Helper()
	sim, err := New(sys)
	if err != nil {
		t.Fatal(err)
	}
	return sim
}

func TestStrokesFollowBoyleBothWays(t *testing.T) {
	const v, stroke = 0.45e-3, 30e-6
	sim := start(t, System{AmbientPa: air, Chambers: []Chamber{{GasM3: v}}})
	for n := 1; n <= 20; n++ {
		sim.Stroke(0, stroke)
		within(t, "pressed in", sim.GaugePa(0)+air, air*(1+float64(n)*stroke/v), 1e-9)
	}
	sim = start(t, System{AmbientPa: air, Chambers: []Chamber{{GasM3: v}}})
	for n := 1; n <= 20; n++ {
		sim.Stroke(0, -stroke)
		within(t, "drawn out", sim.GaugePa(0)+air, air*math.Pow(v/(v+stroke), float64(n)), 1e-9)
	}
}

// Strokes too quick for the walls compress all the gas adiabatically; left alone
// it comes back to Boyle's pressure.
func TestPumpedAirWarmsAdiabatically(t *testing.T) {
	const v, stroke, n = 0.6e-3, 30e-6, 20
	sim := start(t, System{AmbientPa: air, Chambers: []Chamber{{GasM3: v, Heats: 1, CoolsS: 1e6}}})
	for range n {
		sim.Stroke(0, stroke)
	}
	within(t, "warm", sim.GaugePa(0)+air, air*math.Pow(1+n*stroke/v, 1.4), 0.005)
	sim = start(t, System{AmbientPa: air, Chambers: []Chamber{{GasM3: v, Heats: 1, CoolsS: 3}}})
	for range n {
		sim.Stroke(0, stroke)
	}
	warm := sim.GaugePa(0)
	sim.Advance(60)
	within(t, "cooled", sim.GaugePa(0)+air, air*(1+n*stroke/v), 1e-6)
	if warm < sim.GaugePa(0)*1.2 {
		t.Errorf("pumped at once it stands at %.0f, cooled at %.0f", warm, sim.GaugePa(0))
	}
}

// A choked hole empties a vessel exponentially: p = p₀·e^(−t·C_d·A·ψ·√(RT)…/V).
func TestAHoleBlowsDownAVessel(t *testing.T) {
	const v, from, d = 50e-3, 900e3, 1e-3
	q := physics.OrificeStandardFlow(from+air, air, d, physics.DischargeCoefficient, physics.StandardK)
	sim := start(t, System{AmbientPa: air, Chambers: []Chamber{{GasM3: v}}, Passages: []Passage{{To: Outside, Law: physics.Orifice, StdM3PeS: q, RefPa: from, Part: "hole"}}})
	sim.Stroke(0, v*from/air)
	k := q * physics.StandardPa / v / (from + air) // 1/s while choked
	for range 10 {
		sim.Advance(10)
		if want := (from + air) * math.Exp(-k*sim.Now()); want > air/0.5283 {
			within(t, "choked", sim.GaugePa(0)+air, want, 0.005)
		}
	}
	// Below that the fall is integrated here with steps of a thousandth.
	p := sim.GaugePa(0) + air
	for range 300_000 {
		p -= 1e-3 * physics.OrificeStandardFlow(p, air, d, physics.DischargeCoefficient, physics.StandardK) * physics.StandardPa / v
	}
	sim.Advance(300)
	within(t, "unchoked", sim.GaugePa(0)+air, p, 0.005)
}

// dp/dT = p·(V_g/T + β·V_l)/V (PHYSICS §4), and p ∝ T when dry.
func TestWarmthRaisesDryAndFilledSystems(t *testing.T) {
	for _, c := range []struct{ gas, liquid float64 }{{0.6e-3, 0}, {0.6e-3, 7e-3}, {0.1e-3, 7e-3}} {
		sim := start(t, System{AmbientPa: air, Chambers: []Chamber{{GasM3: c.gas, LiquidM3: c.liquid}}})
		sim.Stroke(0, c.gas*110e3/air)
		before := sim.GaugePa(0)
		const dt = 0.05
		sim.Warm(0, physics.StandardK+dt, 10)
		sim.Advance(400)
		p := before + air
		want := p * (c.gas/physics.StandardK + physics.ExpansionCoolant*c.liquid) / c.gas
		within(t, "pascals a kelvin", (sim.GaugePa(0)-before)/dt, want, 0.005)
	}
	dry := start(t, System{AmbientPa: air, Chambers: []Chamber{{GasM3: 1e-3}}})
	dry.Stroke(0, 1e-3)
	dry.Warm(0, 353.15, 30)
	dry.Advance(600)
	within(t, "p ∝ T", dry.GaugePa(0)+air, 2*air*353.15/physics.StandardK, 1e-6)
}

// Hot coolant adds its vapour: about 2 kPa a kelvin near 90 °C beside the rest.
func TestHotCoolantAddsItsVapour(t *testing.T) {
	at := func(coolant bool, celsius float64) float64 {
		sim := start(t, System{AmbientPa: air, Chambers: []Chamber{{GasM3: 0.8e-3, LiquidM3: 0.1e-3, Coolant: coolant}}})
		sim.Warm(0, celsius+273.15, 30)
		sim.Advance(900)
		return sim.GaugePa(0)
	}
	if more := (at(true, 91) - at(false, 91)) - (at(true, 90) - at(false, 90)); more < 1500 || more > 2500 {
		t.Errorf("vapour adds %.0f Pa a kelvin near 90 °C", more)
	}
}

// Liquid that weeps lets the gas grow: dP/dt = −p·q/V.
func TestLiquidWeepsAndTheGasGrows(t *testing.T) {
	const gas, q = 0.5e-3, 100e-6 / 3600
	sim := start(t, System{AmbientPa: air, Chambers: []Chamber{{GasM3: gas, LiquidM3: 2e-3}},
		Passages: []Passage{{To: Outside, Law: physics.Liquid, StdM3PeS: q, RefPa: 110e3, Part: "weep"}}})
	sim.Stroke(0, gas*110e3/air)
	p := sim.GaugePa(0)
	sim.Advance(10)
	within(t, "Pa a second", (p-sim.GaugePa(0))/10, (p+air)*q/gas, 0.005)
	if left := sim.LiquidM3(0); math.Abs(2e-3-left-10*q) > 0.005*10*q {
		t.Errorf("%v m³ of liquid left", left)
	}
}

// Two rooms joined by a wide passage come to rest between them; through a narrow
// one their difference closes exponentially.
func TestTwoRoomsComeToRest(t *testing.T) {
	for _, flow := range []float64{1e-2, 2e-7} {
		sim := start(t, System{AmbientPa: air, Chambers: []Chamber{{GasM3: 1e-3}, {GasM3: 3e-3}},
			Passages: []Passage{{From: 0, To: 1, Law: physics.Laminar, StdM3PeS: flow, RefPa: 100e3, Part: "pipe"}}})
		sim.Stroke(0, 1e-3)
		for range 4000 {
			sim.Advance(1)
			if sim.GaugePa(1) > sim.GaugePa(0)+1 {
				t.Fatalf("at %v s the second stands above the first", sim.Now())
			}
		}
		if flow > 1e-3 {
			within(t, "at rest", sim.GaugePa(0), air/4, 1e-6)
		}
	}
}

func TestReliefsLipsAndValves(t *testing.T) {
	wide := func(p Passage) Passage {
		p.Law, p.StdM3PeS, p.RefPa = physics.Orifice, 5e-3, 100e3
		return p
	}
	// A relief that lifts at 120 and reseats at 110 kPa leaves the pressure there.
	sim := start(t, System{AmbientPa: air, Chambers: []Chamber{{GasM3: 0.6e-3}}, Passages: []Passage{wide(Passage{To: Outside, Lifts: 120e3, Reseats: 110e3, Part: "cap"})}})
	sim.Stroke(0, 0.6e-3*119e3/air)
	sim.Advance(60)
	within(t, "below the lift", sim.GaugePa(0), 119e3, 1e-9)
	sim.Stroke(0, 30e-6)
	sim.Advance(60)
	if g := sim.GaugePa(0); g > 110e3 || g < 108e3 {
		t.Errorf("after lifting it stands at %.0f", g)
	}
	// A lip holds one way only.
	lip := func(m3 float64) float64 {
		sim := start(t, System{AmbientPa: air, Chambers: []Chamber{{GasM3: 0.6e-3}}, Passages: []Passage{wide(Passage{From: Outside, To: 0, OneWay: true, Part: "seal"})}})
		sim.Stroke(0, m3)
		sim.Advance(120)
		return sim.GaugePa(0)
	}
	if p, v := lip(0.3e-3), lip(-0.3e-3); p < 50e3 || math.Abs(v) > 100 {
		t.Errorf("a lip holds %.0f Pa of pressure and %.0f of vacuum", p, v)
	}
	// A lever pressed drops it at once; let go it holds again. A supply fills it.
	sim = start(t, System{AmbientPa: air, Chambers: []Chamber{{GasM3: 0.2e-3}, {HeldPa: new(45e3)}},
		Passages: []Passage{wide(Passage{To: Outside, Shut: true, Part: "needle"}), wide(Passage{From: 1, To: 0, Part: "supply"})}})
	sim.Advance(20)
	within(t, "on the supply", sim.GaugePa(0), 45e3, 1e-3)
	sim.Work("supply", false)
	sim.Work("needle", true)
	sim.Advance(0.01)
	sim.Work("needle", false)
	dropped := sim.GaugePa(0)
	sim.Advance(100)
	if dropped > 40e3 || dropped < 1e3 || sim.GaugePa(0) != dropped {
		t.Errorf("after the lever %.0f, later %.0f", dropped, sim.GaugePa(0))
	}
	for name, bad := range map[string]System{
		"no air":         {AmbientPa: air, Chambers: []Chamber{{ID: "x"}}},
		"no chamber":     {AmbientPa: air},
		"reseats above":  {AmbientPa: air, Chambers: []Chamber{{GasM3: 1}}, Passages: []Passage{{To: Outside, RefPa: 1, Lifts: 1, Reseats: 2}}},
		"leads nowhere":  {AmbientPa: air, Chambers: []Chamber{{GasM3: 1}}, Passages: []Passage{{To: 4, RefPa: 1}}},
		"no liquid":      {AmbientPa: air, Chambers: []Chamber{{GasM3: 1}}, Passages: []Passage{{To: Outside, RefPa: 1, Law: physics.Liquid}}},
		"at no pressure": {AmbientPa: air, Chambers: []Chamber{{GasM3: 1}}, Passages: []Passage{{To: Outside}}},
	} {
		if _, err := New(bad); err == nil {
			t.Errorf("%s was taken", name)
		}
	}
}

// ten is a circuit of ten chambers in a ring, leaking and creeping.
func ten() System {
	sys := System{AmbientPa: air}
	for i := range 10 {
		sys.Chambers = append(sys.Chambers, Chamber{GasM3: 0.3e-3 * float64(i+1), Heats: 0.3, CoolsS: 2, Gives: []Give{{1e-11, 6}, {2e-11, 40}}})
		sys.Passages = append(sys.Passages, Passage{From: i, To: (i + 1) % 10, Law: physics.Laminar, StdM3PeS: 2e-6, RefPa: 50e3, Part: "pipe"})
	}
	sys.Passages = append(sys.Passages, Passage{From: 4, To: Outside, Law: physics.Laminar, StdM3PeS: 5e-8, RefPa: 110e3, Part: "weep"},
		Passage{From: 7, To: Outside, Law: physics.Orifice, StdM3PeS: 3e-8, RefPa: 110e3, Part: "hole"})
	return sys
}

func TestGasIsKeptOverAnHour(t *testing.T) {
	sim := start(t, ten())
	for range 60 {
		sim.Stroke(0, 0.2e-3)
		sim.Advance(0.5)
	}
	before := sim.Gas()
	sim.Advance(3600)
	within(t, "gas after an hour", sim.Gas(), before, 1e-9)
	if sim.GaugePa(0) > 100e3 || sim.GaugePa(0) < 100 {
		t.Errorf("after an hour it stands at %.0f", sim.GaugePa(0))
	}
	// Played again it is the same to the last bit.
	again := start(t, ten())
	for range 60 {
		again.Stroke(0, 0.2e-3)
		again.Advance(0.5)
	}
	again.Advance(3600)
	for i := range 10 {
		if again.GaugePa(i) != sim.GaugePa(i) {
			t.Errorf("played again chamber %d stands at %v, not %v", i, again.GaugePa(i), sim.GaugePa(i))
		}
	}
}

func BenchmarkOneHourOfTenChambers(b *testing.B) {
	for b.Loop() {
		sim, err := New(ten())
		if err != nil {
			b.Fatal(err)
		}
		sim.Stroke(0, 5e-3)
		sim.Advance(3600)
	}
}
