package gauges

import (
	"math"
	"testing"

	"idlehiss/library"
)

func TestAStandInResumesWhereItWas(t *testing.T) {
	c, err := library.Circuit("cooling-header-tank")
	if err != nil {
		t.Fatal(err)
	}
	spec := Spec{AirM3: 6e-4, Part: "radiator", LeakM3PerS: 5e-8, RefPa: 110e3, NoisePa: 60}
	var done []Action
	for i := range 24 {
		done = append(done, Action{AtS: float64(i), Kind: Stroke})
	}
	through, err := New("h1", spec, &c, c.Tests()[0], false, 3e-5, 100, 101325, done[:10:10])
	if err != nil {
		t.Fatal(err)
	}
	for s := range 300 {
		if s >= 10 && s < 24 {
			through.Do(done[s])
		}
		through.Read(float64(s), s)
	}
	again, err := New("h1", spec, &c, c.Tests()[0], false, 3e-5, 100, 101325, done)
	if err != nil {
		t.Fatal(err)
	}
	a, b := through.Read(300, 300), again.Read(300, 300)
	if math.Abs(a-b) > 1e-6 || a < 80e3 {
		t.Errorf("played through it shows %.0f, resumed %.0f", a, b)
	}
	again.Do(Action{AtS: 301, Kind: Release})
	if left := again.Read(320, 301); math.Abs(left) > 4000 {
		t.Errorf("let go and still %.0f Pa", left)
	}
}

func TestARigProofSqueezesTheRigOnly(t *testing.T) {
	c, err := library.Circuit("cooling-header-tank")
	if err != nil {
		t.Fatal(err)
	}
	spec := Spec{AirM3: 6e-4, Part: "radiator", LeakM3PerS: 5e-8, RefPa: 110e3}
	g, err := New("h2", spec, &c, c.Tests()[0], true, 3e-5, 100, 101325, []Action{{0, Stroke}, {1, Stroke}, {2, Stroke}, {3, Stroke}, {4, Stroke}, {5, Stroke}})
	if err != nil {
		t.Fatal(err)
	}
	early, late := g.Read(60, 1), g.Read(240, 2)
	if early < 100e3 || math.Abs(early-late) > 200 {
		t.Errorf("six strokes into a dead-headed rig: %.0f, then %.0f Pa", early, late)
	}
	if _, err := New("h3", Spec{AirM3: 1e-4, Part: "flux pipe", LeakM3PerS: 1}, &c, c.Tests()[0], false, 3e-5, 100, 101325, nil); err == nil {
		t.Error("a leak at no part was taken")
	}
}
