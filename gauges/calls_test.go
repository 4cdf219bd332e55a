package gauges

import (
	"fmt"
	"math"
	"testing"

	"idlehiss/core/judge"
	"idlehiss/core/physics"
	"idlehiss/core/quantity"
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
		house := runsheet.House(air, target, ambient, quantity.MustNamed("kPa", quantity.Pressure))
		for ratio, want := range map[float64]judge.Call{0: judge.Tight, 0.5: judge.Tight, 2: judge.Leaking, 4: judge.Leaking} {
			for seed := range 2 {
				spec := Spec{AirM3: air, RefPa: target, NoisePa: 60}
				if ratio > 0 {
					spec.Part, spec.LeakM3PerS = "radiator", physics.StandardFlow(house.PaPerS*ratio, air, physics.StandardK)
				}
				const digit = 100.0
				st, err := New(fmt.Sprintf("hold %d %v %v", seed, air, ratio), spec, &circuits[0], circuits[0].Tests()[0], false, 20e-6, digit, ambient, nil)
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

// The strokes tell the air before the hose has given way all it will; the size of
// a leak is right only when that is reckoned in. What leaves is known here.
func TestTheSizeOfASimulatedLeakIsTold(t *testing.T) {
	circuits, err := library.Circuits()
	if err != nil {
		t.Fatal(err)
	}
	const ambient, target, held = 101325.0, 110e3, 300.0
	holds, missed, plain := 0, 0, 0
	for _, air := range []float64{0.25e-3, 0.35e-3, 0.8e-3} {
		for _, truth := range []float64{2, 5} { // cm³ a minute
			leak := truth * 1e-6 / 60
			told := 0.0
			const seeds = 30
			for seed := range seeds {
				st, err := New(fmt.Sprintf("size %d %v %v", seed, air, leak), Spec{AirM3: air, RefPa: target, NoisePa: 60, Part: "radiator", LeakM3PerS: leak}, &circuits[0], circuits[0].Tests()[0], false, 20e-6, 100, ambient, nil)
				if err != nil {
					t.Fatal(err)
				}
				now, seq := 0.0, 0
				climb := []physics.StrokePoint{{}}
				for climb[len(climb)-1].GaugePa < target-2e3 {
					now, seq = now+0.7+0.3*float64(seed), seq+1
					st.Do(Action{now, Stroke})
					climb = append(climb, physics.StrokePoint{Stroke: float64(seq), GaugePa: st.Read(now, seq)})
				}
				v, err := physics.TrappedAirFromStrokes(climb, 3, 20e-6, ambient)
				if err != nil {
					t.Fatal(err)
				}
				var read []trace.Reading
				for shut := now; now < shut+held; {
					now, seq = now+1, seq+1
					read = append(read, trace.Reading{AtS: now, GaugePa: st.Read(now, seq), How: trace.Read})
				}
				at := target
				q := judge.Question{AmbientPa: ambient, AtPa: &at, LimitPaPerS: runsheet.House(v.M3, target, ambient, quantity.MustNamed("kPa", quantity.Pressure)).PaPerS, GasM3: v.M3, GasSE: math.Hypot(v.SE, 0.03*v.M3), Gauge: judge.Gauge{DigitalPa: 100}}
				tr := &trace.Trace{Readings: read}
				bare, err := judge.Judge(tr, q, nil, false)
				if err != nil {
					t.Fatal(err)
				}
				q.GasByStrokes = true
				rep, err := judge.Judge(tr, q, nil, false)
				if err != nil {
					t.Fatal(err)
				}
				f := rep.FlowCm3PerMin
				holds++
				told += f.Value / truth / seeds
				if truth < f.Low || truth > f.High {
					missed++
				}
				if bare.FlowCm3PerMin.Value < f.Value {
					plain++
				}
			}
			// A small leak in much air is told with an interval that reaches to nothing.
			if clear := truth*1e-3 > 3*air; clear && math.Abs(told-1) > 0.15 {
				t.Errorf("%.2f L of air, %.0f cm³ a minute: %.2f of it is told", air*1e3, truth, told)
			}
		}
	}
	if missed > holds/20 {
		t.Errorf("%d of %d intervals miss what leaves", missed, holds)
	}
	if plain != holds {
		t.Errorf("walls that gave way make %d of %d sizes larger", plain, holds)
	}
}
