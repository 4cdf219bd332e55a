package judge

import (
	"math"
	"testing"

	"idlehiss/core/quantity"
	"idlehiss/core/trace"
)

// A fall of a third and more is no settling, however well a settling curve fits it, and is
// called; one that stays within the allowance is judged as any other.
func TestAFallOfAThirdIsNoSettling(t *testing.T) {
	for _, c := range []struct {
		name  string
		share float64 // of the pressure, that goes and then stays away
		tau   float64 // s
		at    float64 // Pa
		want  Call
		lost  bool
	}{
		{"half of a loop's pressure", 0.5, 30, 110e3, Leaking, true},
		{"two fifths of a vacuum", 0.4, 40, -34e3, Leaking, true},
		{"a brake pipe that lost a fifth within a minute", 0.228, 15, 456e3, NotYet, false},
		{"a twentieth settles", 0.05, 30, 110e3, Tight, false},
		{"a seventh is much, and settles", 0.14, 30, 110e3, Tight, false},
	} {
		q := Question{AmbientPa: quantity.StandardAtmosphere, AtPa: &c.at, LimitPaPerS: 1000. / 60, Gauge: Gauge{DigitalPa: 100}}
		l, err := NewLive(q, nil)
		if err != nil {
			t.Fatal(err)
		}
		for n := range 300 {
			s := float64(2 * n)
			l.Reading(trace.Reading{AtS: s, GaugePa: math.Round(c.at*(1-c.share*(1-math.Exp(-s/c.tau)))/100) * 100, How: trace.Read})
		}
		rep := l.Report()
		if _, says := rep.Says(FellMuch); says != (c.want == NotYet) {
			t.Errorf("%s: %v", c.name, rep.Why)
		}
		if _, says := rep.Says(LostMuch); rep.Call != c.want || says != c.lost || c.lost && (rep.Shape == ShapeSettling || rep.Shape == ShapeTight) {
			t.Errorf("%s: %s, %s: %v", c.name, rep.Call, rep.Shape, rep.Why)
		}
	}
	// Ten hours at a tenth of the allowance take a third as well.
	at := 110e3
	q := Question{AmbientPa: quantity.StandardAtmosphere, AtPa: &at, LimitPaPerS: 1000. / 60, Gauge: Gauge{DigitalPa: 100}}
	l, err := NewLive(q, nil)
	if err != nil {
		t.Fatal(err)
	}
	for n := range 361 {
		s := float64(100 * n)
		l.Reading(trace.Reading{AtS: s, GaugePa: math.Round((at-s*1.2)/100) * 100, How: trace.Read})
	}
	if rep := l.Report(); rep.Call != Tight {
		t.Errorf("lost within the allowance: %s, %v", rep.Call, rep.Why)
	}
}

// Strokes without a reading, or with one look on the way up, are no stall.
func TestAStallWantsReadings(t *testing.T) {
	at := 110e3
	for _, c := range []struct {
		reads []float64 // s
		want  Call
	}{{nil, NotYet}, {[]float64{1.5}, NotYet}, {[]float64{5.5}, NotYet}, {[]float64{4.5, 6.5}, NeverReached}} {
		l, err := NewLive(Question{AmbientPa: quantity.StandardAtmosphere, AtPa: &at, LimitPaPerS: 1000. / 60, Gauge: Gauge{DivisionPa: 5000}}, nil)
		if err != nil {
			t.Fatal(err)
		}
		for n := 1; n <= 6; n++ {
			l.Event(trace.Event{AtS: float64(n), Kind: trace.Stroke})
			for _, s := range c.reads {
				if s > float64(n) && s < float64(n+1) {
					l.Reading(trace.Reading{AtS: s, GaugePa: 20e3, How: trace.Read})
				}
			}
		}
		if rep := l.Report(); rep.Call != c.want {
			t.Errorf("read at %v: %s, %v", c.reads, rep.Call, rep.Why)
		}
	}
}
