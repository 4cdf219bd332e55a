package judge

import (
	"math"
	"reflect"
	"testing"

	"idlehiss/core/quantity"
	"idlehiss/core/trace"
)

// What no gauge or thermometer can show changes nothing of what is said.
func TestImpossibleFiguresAreLeftOut(t *testing.T) {
	at := 110e3
	question := Question{AmbientPa: quantity.StandardAtmosphere, AtPa: &at, LimitPaPerS: 5, Gauge: Gauge{DigitalPa: 100}, GasM3: 0.5e-3, LiquidM3: 7e-3}
	judged := func(with float64, put bool) Report {
		l, err := NewLive(question, nil)
		if err != nil {
			t.Fatal(err)
		}
		for n := range 60 {
			s := float64(5 * n)
			if put && n%7 == 3 {
				l.Reading(trace.Reading{AtS: s, GaugePa: with, How: trace.Read})
				l.Reading(trace.Reading{AtS: with, GaugePa: 110e3, How: trace.Read})
				l.Temperature(trace.Sample{AtS: s, Value: with})
			}
			l.Temperature(trace.Sample{AtS: s, Value: 20})
			l.Reading(trace.Reading{AtS: s, GaugePa: math.Round(1100-s/40) * 100, How: trace.Read})
		}
		return l.Report()
	}
	want := judged(0, false)
	if want.Call != Tight && want.Call != Leaking {
		t.Fatalf("the plain hold is not called: %s", want.Call)
	}
	for _, odd := range []float64{math.NaN(), math.Inf(1), math.Inf(-1), 1e308, -1e308, -1e10} {
		if got := judged(odd, true); !reflect.DeepEqual(got, want) {
			t.Errorf("with %g between: %+v, want %+v", odd, got.RateKPaPerMin, want.RateKPaPerMin)
		}
	}
}
