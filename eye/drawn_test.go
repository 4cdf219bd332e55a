package eye

import (
	"fmt"
	"math/rand/v2"
	"testing"

	"idlehiss/core/judge"
	"idlehiss/core/physics"
	"idlehiss/core/quantity"
	"idlehiss/core/runsheet"
	"idlehiss/core/trace"
	"idlehiss/gauges"
	"idlehiss/library"
)

// A sound loop and leaking ones behind the drawn needle, filmed, and tapped some seconds after it is asked for: watched all
// along, none may be called wrongly.
func TestADrawnNeedleIsCalledRightly(t *testing.T) {
	if testing.Short() {
		t.Skip("long: it runs without the race detector")
	}
	circuits, err := library.Circuits()
	if err != nil {
		t.Fatal(err)
	}
	const ambient, target, division = 101325.0, 110e3, 5e3
	for _, air := range []float64{0.45e-3, 0.8e-3} {
		house := runsheet.House(air, target, ambient, quantity.MustNamed("kPa", quantity.Pressure))
		for ratio, want := range map[float64]judge.Call{0: judge.Tight, 0.5: judge.Tight, 2: judge.Leaking, 4: judge.Leaking} {
			for seed := uint64(2); seed < 4; seed++ { // slowly pumped: what settles meets the needle half-way
				rng := rand.New(rand.NewPCG(seed, 3))
				spec := gauges.Spec{AirM3: air, RefPa: target}
				if ratio > 0 {
					spec.Part, spec.LeakM3PerS = "radiator", physics.StandardFlow(house.PaPerS*ratio, air, physics.StandardK)
				}
				st, err := gauges.New(fmt.Sprint("hold ", seed), spec, &circuits[0], circuits[0].Tests()[0], false, 20e-6, division, ambient, nil)
				if err != nil {
					t.Fatal(err)
				}
				at := target
				l, err := judge.NewLive(judge.Question{AmbientPa: ambient, AtPa: &at, LimitPaPerS: house.PaPerS, GasM3: air, GasSE: air / 20, Gauge: judge.Gauge{DivisionPa: division, FrictionPa: 4e3}}, nil)
				if err != nil {
					t.Fatal(err)
				}
				d := &drawn{stand: st}
				now := 0.0
				for ; d.pa < target-2e3; d.play(now, division) {
					now += 1 + 0.5*float64(seed)
					st.Do(gauges.Action{AtS: now, Kind: gauges.Stroke})
					now += 0.2
				}
				call, shut, tapAt := judge.NotYet, now, -1.0
				l.Event(trace.Event{AtS: now, Kind: trace.Isolate})
				for now++; call == judge.NotYet && now < shut+1500; now++ {
					if tapAt >= 0 && now >= tapAt {
						st.Do(gauges.Action{AtS: now, Kind: gauges.Tap})
						l.Event(trace.Event{AtS: now, Kind: trace.Tap})
						tapAt = -1
					}
					d.play(now, division)
					l.Reading(trace.Reading{AtS: now, GaugePa: d.pa + 0.02*division*rng.NormFloat64(), How: trace.Camera})
					if due, _ := l.Taps(now); due && tapAt < 0 {
						tapAt = now + 1 + 3*rng.ExpFloat64()
					}
					if c, firm := l.Look(); firm {
						call = c
					}
				}
				if call != want {
					t.Errorf("%.2f L of air, leak %v times the allowance, %d: called %s after %v s, want %s", air*1e3, ratio, seed, call, now-shut, want)
				}
			}
		}
	}
}
