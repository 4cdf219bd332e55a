package judge

import (
	"math"
	"testing"

	"idlehiss/core/trace"
)

// filmed plays a camera before a needle whose train holds it back by so much (Pa): the pressure falls at rate (Pa/s) from
// 110 kPa; at the moments of taps it is tapped, as long as the judge takes it to be.
func filmed(t *testing.T, friction, rate float64, taps ...float64) *Live {
	t.Helper()
	at := 110e3
	l, err := NewLive(Question{AmbientPa: 101325, AtPa: &at, LimitPaPerS: 1e3 / 60, Gauge: Gauge{DivisionPa: 5e3, FrictionPa: 4e3}}, nil)
	if err != nil {
		t.Fatal(err)
	}
	needle := at - friction // pumped up: it lags behind
	for s := 0.0; s <= 180; s++ {
		p := at - rate*s
		if len(taps) > 0 && s >= taps[0] {
			l.Event(trace.Event{AtS: s - 0.2, Kind: trace.Tap})
			taps = taps[1:]
		}
		if needle = math.Min(math.Max(needle, p-friction), p+friction); l.needle.tapping(s) {
			needle = p + 0.05*friction*math.Sin(40*s)
		}
		l.Reading(trace.Reading{AtS: s, GaugePa: needle + 60*math.Sin(97*s), How: trace.Camera})
	}
	return l
}

// A filmed needle that does not move says nothing of a leak that its friction hides, however often it is seen.
func TestANeedleThatSticksIsNotCalledTight(t *testing.T) {
	stuck := filmed(t, 3e3, 2e3/60) // twice what is allowed, and it stands: six kPa in three minutes are hidden
	if call, firm := stuck.Look(); firm {
		t.Errorf("a needle that never moved is called %s", call)
	}
	if due, _ := stuck.Taps(180); !due {
		t.Error("nobody is asked to tap it")
	}
	tapped := filmed(t, 3e3, 2e3/60, 3, 40, 80, 120)
	if call, firm := tapped.Look(); call != Leaking || !firm {
		t.Errorf("tapped, the leak is called %s, firm %t", call, firm)
	}
	if got := tapped.Report().RateKPaPerMin; got.Low > 2 || got.High < 2 || got.High-got.Low > 1 {
		t.Errorf("2 kPa/min are told as %+v", *got)
	}
	tight := filmed(t, 3e3, 0, 3, 40, 80, 120)
	if call, firm := tight.Look(); call != Tight || !firm {
		t.Errorf("tapped, the tight one is called %s, firm %t", call, firm)
	}
}

// What an eye reads beside a camera checks its marks: it is said where the two differ, and the fall is the camera's alone.
func TestAnEyeChecksTheCamera(t *testing.T) {
	for _, c := range []struct {
		off  float64
		want Code
	}{{0, EyeAgrees}, {5e3, EyeDiffers}} {
		l := filmed(t, 3e3, 0, 3, 40, 80)
		alone := *l.Report().RateKPaPerMin
		l.Reading(trace.Reading{AtS: 181, GaugePa: l.needle.seenY + c.off, How: trace.Read})
		rep := l.Report()
		if _, ok := rep.Says(c.want); !ok {
			t.Errorf("an eye %.0f Pa above the camera: %v", c.off, rep.Why)
		}
		if *rep.RateKPaPerMin != alone {
			t.Errorf("an eye %.0f Pa above the camera moves the loss from %+v to %+v", c.off, alone, *rep.RateKPaPerMin)
		}
	}
}
