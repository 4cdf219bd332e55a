package judge

import (
	"math"
	"math/rand/v2"
	"testing"

	"idlehiss/core/quantity"
	"idlehiss/core/trace"
)

// Whatever is seen of a hold, watched or whole: where the interval of the loss lies on one side of
// the allowance the call is made, or the report says what holds it back; and what is called while
// watching is what the whole says.
func TestWhatHoldsACallBackIsSaid(t *testing.T) {
	seen := map[Code]int{}
	for _, c := range truths(t) {
		q := c.question(t)
		tr := load(t, c.File, q.AmbientPa)
		if q.Gauge.DivisionPa == 0 && q.Gauge.DigitalPa == 0 {
			q.Gauge.DigitalPa = InferStep(tr)
		}
		l, err := NewLive(q, nil)
		if err != nil {
			t.Fatal(err)
		}
		next := 0
		for n, r := range tr.Readings {
			for ; next < len(tr.Events) && tr.Events[next].AtS <= r.AtS; next++ {
				l.Event(tr.Events[next])
			}
			l.Reading(r)
			if n%(1+n/8) != 0 && n != len(tr.Readings)-1 {
				continue
			}
			l.Watch(false)
			whole := l.Report()
			l.Watch(true)
			watched := l.Report()
			if watched.Call != NotYet && watched.Call != whole.Call {
				t.Errorf("%s after %d readings: watched %s, as a whole %s", c.File, n+1, watched.Call, whole.Call)
			}
			for _, rep := range []Report{whole, watched} {
				i := rep.RateKPaPerMin
				if rep.Call != NotYet || i == nil || i.Low <= rep.LimitKPaPerMin && i.High >= rep.LimitKPaPerMin {
					continue
				}
				said := false
				for _, code := range HoldBacks {
					if _, ok := rep.Says(code); ok {
						said = true
						seen[code]++
					}
				}
				if !said || rep.NextStep == nil {
					t.Errorf("%s after %d readings: %.3g to %.3g of %.3g kPa/min is not called, and nothing says why: %v", c.File, n+1, i.Low, i.High, rep.LimitKPaPerMin, rep.Why)
				}
			}
		}
	}
	if seen[WaitsToBeSure] == 0 {
		t.Errorf("held back by %v", seen)
	}
}

// leaps are readings of a circuit that lost something at an instant and gives a share of it back.
func leaps(fallPa, backShare float64, everyS, stepPa, noisePa float64) []trace.Reading {
	rng := rand.New(rand.NewPCG(5, 5))
	var out []trace.Reading
	const at, when, held = 60e3, 290.0, 600.0
	for s := 0.0; s <= held; s += everyS {
		v := at - 600*(1-math.Exp(-s/12))
		if s > when {
			v -= fallPa * (1 - backShare*(1-math.Exp(-(s-when)/30)))
		}
		out = append(out, trace.Reading{AtS: s, GaugePa: math.Round((v+noisePa*rng.NormFloat64())/stepPa) * stepPa, How: trace.Read})
	}
	return out
}

// A sudden loss is not a leak: one too small for any reading to show is found looking back,
// and what comes back after one is no rise.
func TestASuddenLossIsNoLeak(t *testing.T) {
	at := 60e3
	needle, digital := Gauge{DivisionPa: 2000}, Gauge{DigitalPa: 50}
	for _, c := range []struct {
		name     string
		gauge    Gauge
		readings []trace.Reading
		step     bool
	}{
		{"three quarters of a division on a needle", needle, leaps(1500, 0, 20, 500, 240), true},
		{"a tenth goes, and some comes back", digital, leaps(6000, 0.06, 2, 50, 20), true},
		{"nothing happens on a needle", needle, leaps(0, 0, 20, 500, 240), false},
		{"nothing happens on a digital gauge", digital, leaps(0, 0, 2, 50, 20), false},
	} {
		l, err := NewLive(Question{AmbientPa: quantity.StandardAtmosphere, AtPa: &at, LimitPaPerS: 200. / 60, Gauge: c.gauge}, nil)
		if err != nil {
			t.Fatal(err)
		}
		for _, r := range c.readings {
			l.Reading(r)
		}
		rep := l.Report()
		if rep.Call != Tight || (rep.Shape == ShapeStep) != c.step {
			t.Errorf("%s: %s, %s: %v", c.name, rep.Call, rep.Shape, rep.Why)
		}
		if c.step && (len(rep.Steps) != 1 || math.Abs(rep.Steps[0].AtS-290) > 25 || rep.Steps[0].KPa > -1) {
			t.Errorf("%s: %+v", c.name, rep.Steps)
		}
	}
}

// The fork's sides are drawn in one piece: what would be called at one moment is not taken back at
// the next.
func TestTheForkIsNotBroken(t *testing.T) {
	q := Question{AmbientPa: 101325, LimitPaPerS: 400. / 60, Gauge: Gauge{DigitalPa: 100}}
	drawn := 0
	for seed := range uint64(4) {
		l, err := NewLive(q, nil)
		if err != nil {
			t.Fatal(err)
		}
		l.Watch(true)
		for i, r := range creeping(rand.New(rand.NewPCG(seed, 1)), 0, 400) {
			l.Reading(r)
			if i%10 != 9 {
				continue
			}
			rep := l.Report()
			fork := l.Fork(rep.AheadS())
			ended, begun := false, false
			for k := len(fork) - 1; k >= 0; k-- {
				has := fork[k].TightAboveKPa != nil
				if has && ended && begun {
					t.Fatalf("seed %d, %d s: tight is drawn at %.0f s, broken off, and drawn again", seed, i, fork[k].AtS)
				}
				begun = begun || has
				ended = begun && !has
				if has {
					drawn++
				}
			}
		}
	}
	if drawn < 100 {
		t.Errorf("only %d points were drawn", drawn)
	}
}
