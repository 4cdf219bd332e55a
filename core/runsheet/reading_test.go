package runsheet_test

import (
	"math"
	"strings"
	"testing"

	"idlehiss/core/quantity"
	"idlehiss/core/runsheet"
	"idlehiss/core/terms"
)

// The needle may stand anywhere between nothing and the limit, pumping or held, under pressure or vacuum: the
// target is among the marks, none lies beyond the limit, one is waited for, and it lies where the needle goes.
func TestTheMarksLeadToTheTargetAndNotBeyondTheLimit(t *testing.T) {
	faces := []struct {
		ring             runsheet.Ring
		target, ceiling  float64 // in the ring's unit
		wantDown, wantUp float64 // from three quarters of the target: the next when held, and while pumped
	}{
		{runsheet.Ring{Unit: "psi", To: 30, Division: 0.5, Numbered: 5}, 16, 16, 11.5, 15},
		{runsheet.Ring{Unit: "bar", To: 2.5, Division: 0.05, Numbered: 0.5}, 1.1, 1.15, 0.8, 1},
		{runsheet.Ring{Unit: "inHg", From: -30, Division: 0.5, Numbered: 5}, -10, -10, -7, -10},
	}
	for _, f := range faces {
		g := runsheet.Gauge{Kind: terms.Needle, Rings: []runsheet.Ring{f.ring}}
		u := quantity.MustNamed(f.ring.Unit, quantity.Pressure)
		sign := math.Copysign(1, f.target)
		for _, state := range []terms.HoldState{terms.Pumping, terms.Holding} {
			for share := 0.0; share <= 1; share += 0.0625 {
				at := runsheet.Standing{Pa: u.SI(share * f.target), Seen: share > 0}
				targets, likely := 0, 0
				for _, m := range g.NextMarks(at, state, u.SI(f.target), math.Abs(u.SI(f.ceiling))) {
					out := sign * m.Value
					if out > math.Abs(f.ceiling)+1e-9 || out < 0 {
						t.Errorf("%s %s at %g of the target: the mark %g lies beyond the limit %g or zero", f.ring.Unit, state, share, m.Value, f.ceiling)
					}
					if m.Target {
						targets++
					}
					if !m.Likely {
						continue
					}
					likely++
					if ahead := out - sign*u.Of(at.Pa); at.Seen && (ahead > 1e-6) != (state == terms.Pumping) {
						t.Errorf("%s %s at %g of the target: waits for %g, where the needle does not go", f.ring.Unit, state, share, m.Value)
					}
					if want := map[terms.HoldState]float64{terms.Holding: f.wantDown, terms.Pumping: f.wantUp}[state]; share == 0.75 && math.Abs(m.Value-want) > 1e-9 {
						t.Errorf("%s %s at three quarters: waits for %g, want %g", f.ring.Unit, state, m.Value, want)
					}
				}
				if targets != 1 || likely != 1 && !(state == terms.Pumping && share == 1) {
					t.Errorf("%s %s at %g of the target: the target is there %d times, %d marks are waited for", f.ring.Unit, state, share, targets, likely)
				}
			}
		}
	}
}

// What a person types of a gauge is in any unit; under vacuum 7 and −7 mean the same.
func TestAReadingIsTypedInAnyUnit(t *testing.T) {
	psi := runsheet.Gauge{Kind: terms.Needle, Rings: []runsheet.Ring{{Unit: "psi", To: 30, Division: 0.5}}}
	inHg := runsheet.Gauge{Kind: terms.Needle, Rings: []runsheet.Ring{{Unit: "inHg", From: -30, Division: 0.5}}}
	for _, c := range []struct {
		g     runsheet.Gauge
		text  string
		draws bool
		want  float64
	}{
		{psi, "29.0 psi", false, 29}, {psi, "29", false, 29}, {psi, "1,1 bar", false, 15.954151}, {psi, "110 kPa", false, 15.954151},
		{inHg, "7", true, -7}, {inHg, "-7", true, -7}, {inHg, "7 inHg", true, -7}, {inHg, "−7 inHg", true, -7}, {inHg, "7 inHg vac", true, -7}, {inHg, "23.7 kPa", true, -6.998605},
	} {
		if got, err := c.g.TypedOn(c.text, c.draws, quantity.StandardAtmosphere); err != nil || math.Abs(got-c.want) > 1e-6 {
			t.Errorf("%q is %g %v, want %g", c.text, got, err, c.want)
		}
	}
	for text, wants := range map[string]string{"15-16": "two figures", "sixteen": "not a number", "3 wombats": "wombats"} {
		if _, err := psi.TypedOn(text, false, quantity.StandardAtmosphere); err == nil || !strings.Contains(err.Error(), wants) {
			t.Errorf("%q: %v, want it refused with %q", text, err, wants)
		}
	}
}

// When the gauge is read next: often at first, less often the longer it holds, sooner where that settles the
// call, three times for a rig proof, and never once it is called.
func TestWhenTheGaugeIsReadNext(t *testing.T) {
	for _, c := range []struct {
		name string
		l    runsheet.Looking
		at   float64
		why  runsheet.LookWhy
	}{
		{"nothing read", runsheet.Looking{ShutS: 30}, 30, runsheet.LookFirst},
		{"early", runsheet.Looking{ShutS: 30, ReadS: []float64{40}}, 60, runsheet.LookEarly},
		{"after six minutes", runsheet.Looking{ShutS: 30, ReadS: []float64{40, 390}}, 510, runsheet.LookWatch},
		{"after an hour", runsheet.Looking{ReadS: []float64{3600}}, 3900, runsheet.LookWatch},
		{"a call in sight", runsheet.Looking{ShutS: 30, ReadS: []float64{40, 390}, MoreS: new(70.0)}, 460, runsheet.LookSettles},
		{"a call in two seconds", runsheet.Looking{ShutS: 30, ReadS: []float64{40, 390}, MoreS: new(2.0)}, 410, runsheet.LookSettles},
		{"second of a proof", runsheet.Looking{Proof: true, ReadS: []float64{2}}, 32, runsheet.LookProof},
		{"third of a proof, the second late", runsheet.Looking{Proof: true, ReadS: []float64{2, 58}}, 73, runsheet.LookProof},
		{"left running", runsheet.Looking{LeftRun: true, ReadS: []float64{7200}}, 9600, runsheet.LookLeft},
	} {
		if got := runsheet.ReadNext(c.l); got == nil || got.AtS != c.at || got.Why != c.why || got.Says == "" {
			t.Errorf("%s: %+v, want at %g, %s", c.name, got, c.at, c.why)
		}
	}
	if got := runsheet.ReadNext(runsheet.Looking{Called: true}); got != nil {
		t.Errorf("called, and still wanted: %+v", got)
	}
}
