package needle

import (
	"math"
	"testing"
)

func TestAScaleReadsBetweenItsMarks(t *testing.T) {
	s, err := Scale{{Angle: 45, Pa: 200e3}, {Angle: 225, Pa: 0}, {Angle: 135, Pa: 250e3}}.Sound()
	if err != nil {
		t.Fatal(err)
	}
	for angle, want := range map[float64]float64{225: 0, 315: 100e3, 45: 200e3, 90: 225e3, 135: 250e3, 144: 255e3, 220: -5e3 * 2 * 200 / 360, 585: 0} {
		if got, per := s.Read(angle); math.Abs(got-want) > 1e-6*250e3 || per <= 0 {
			t.Errorf("at %g it reads %g, want %g (%g a degree)", angle, got, want, per)
		}
	}
	for what, bad := range map[string]Scale{
		"one mark": {{225, 0}}, "the same pressure": {{225, 0}, {45, 0}}, "too near": {{225, 0}, {226, 1e5}}, "the wrong way": {{225, 0}, {220, 1e5}, {200, 2e5}},
	} {
		if _, err := bad.Sound(); err == nil {
			t.Errorf("%s is taken for a scale", what)
		}
	}
	for what, bad := range map[string]Ring{
		"no rows": {Columns: 720, Inner: 0.2, Outer: 0.7}, "a short one": {Columns: 720, Rows: 24, Inner: 0.2, Outer: 0.7, Grey: make([]uint8, 7)}, "inside out": {Columns: 720, Rows: 24, Inner: 0.7, Outer: 0.2, Grey: make([]uint8, 720*24)},
	} {
		if bad.Sound() == nil {
			t.Errorf("%s is taken for a ring", what)
		}
	}
	blank := Ring{Columns: 720, Rows: 24, Inner: 0.2, Outer: 0.7, Grey: make([]uint8, 720*24)}
	if got := Look(blank, Known{}); got.Steady() || got.Fault != Dark {
		t.Errorf("a lens cap is read: %+v", got)
	}
}
