package gauges

import (
	"fmt"
	"testing"

	"idlehiss/core/judge"
	"idlehiss/core/physics"
	"idlehiss/core/runsheet"
	"idlehiss/core/trace"
	"idlehiss/library"
)

// A sound loop and leaking ones, pumped and held on a stand-in whose creep has
// three times, none of them in the judge's library: watched all along, no
// hold may be called wrongly, and all must be called within a quarter of an hour.
func TestSimulatedLoopsAreCalledRight(t *testing.T) {
	circuits, err := library.Circuits()
	if err != nil {
		t.Fatal(err)
	}
	const ambient, target = 101325.0, 110e3
	for _, air := range []float64{0.25e-3, 0.45e-3, 0.8e-3} {
		house := runsheet.House(air, target, ambient)
		for ratio, want := range map[float64]judge.Call{0: judge.Tight, 0.5: judge.Tight, 2: judge.Leaking, 4: judge.Leaking} {
			for seed := range 2 {
				spec := Spec{AirM3: air, RefPa: target, NoisePa: 60}
				if ratio > 0 {
					spec.Part, spec.LeakM3PeS = "radiator", physics.StandardFlow(house.PaPerS*ratio, air, physics.StandardK)
				}
				const digit = 100.0
				st, err := New(fmt.Sprintf("hold %d %v %v", seed, air, ratio), spec, &circuits[0], false, 20e-6, digit, ambient, nil)
				if err != nil {
					t.Fatal(err)
				}
				at := target
				l, err := judge.NewLive(judge.Question{AmbientPa: ambient, AtPa: &at, LimitPaPerS: house.PaPerS, GasM3: air, GasSE: air / 20, Gauge: judge.Gauge{DigitalPa: digit}}, nil)
				if err != nil {
					t.Fatal(err)
				}
				now, pumped := 0.0, 0.0
				for ; pumped < target-2e3; pumped = st.Read(now, int(now)) {
					now++
					st.Do(Action{now, Stroke})
				}
				call, shut := judge.NotYet, now
				for ; call == judge.NotYet && now < shut+900; now++ {
					l.Reading(trace.Reading{AtS: now, GaugePa: st.Read(now, int(now)), How: trace.Read})
					if int(now)%2 == 0 {
						call = l.Report().Call
					}
				}
				if call != want {
					t.Errorf("%.2f L of air, leak %v times the allowance: called %s after %v s, want %s", air*1e3, ratio, call, now-shut, want)
				}
			}
		}
	}
}
