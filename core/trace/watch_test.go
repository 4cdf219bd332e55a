package trace

import (
	"math"
	"math/rand/v2"
	"slices"
	"testing"

	"idlehiss/core/quantity"
)

// watched plays a held pressure, spoilt by what, through a watch: a reading a
// tenth of a second, figures of 0.1 kPa with 60 Pa of noise.
func watched(w *Watch, spoil func(t, pa float64) (float64, bool)) (left map[int]float64, named map[GaugeFault]bool, doubted float64) {
	rng := rand.New(rand.NewPCG(3, 5))
	left, named = map[int]float64{}, map[GaugeFault]bool{}
	struck := map[int]bool{}
	said := map[int]float64{}
	shown, count := 0.0, uint64(0)
	for i := range 900 {
		t := float64(i) / 10
		// Figures settle by 4 kPa in half a minute and leak a little.
		pa := 100e3 + 4e3*math.Exp(-t/20) - 15*t
		measured := math.Round((pa+60*rng.NormFloat64())/100) * 100
		fresh := true
		if spoil != nil {
			measured, fresh = spoil(t, measured)
		}
		if fresh {
			shown = measured
			count++
		}
		said[i] = shown
		f := w.Look(i, Reading{AtS: t, GaugePa: shown, How: Read}, true, count)
		for _, s := range f.Stand {
			left[s] = said[s]
		}
		for _, s := range f.Strike {
			delete(left, s)
			struck[s] = true
		}
		if f.Fault != "" {
			named[f.Fault] = true
		}
		if f.Doubt {
			doubted++
		}
	}
	for s := range struck {
		if _, both := left[s]; both {
			panic("a reading both stands and is struck")
		}
	}
	return left, named, doubted
}

func plainWatch() *Watch {
	return &Watch{LowPa: 0, HighPa: 250e3, DigitPa: 100, Unit: quantity.MustNamed("kPa", quantity.Pressure)}
}

func TestASoundGaugeIsBelieved(t *testing.T) {
	quiet := func(_, pa float64) (float64, bool) { return math.Round(pa/2000) * 2000, true } // coarse and still
	burst := func(t, pa float64) (float64, bool) {
		if t > 40 {
			pa = math.Round(pa*math.Exp((40-t)/0.9)/100) * 100
		}
		return pa, true
	}
	for name, spoil := range map[string]func(t, pa float64) (float64, bool){"as it is": nil, "coarse": quiet, "a hose bursts": burst} {
		left, named, _ := watched(plainWatch(), spoil)
		if len(left) != 900 || len(named) != 0 {
			t.Errorf("%s: %d of 900 readings believed, faults %v", name, len(left), named)
		}
	}
}

func TestFaultsAreNamedAndLeftOut(t *testing.T) {
	within := func(from, to float64, f func(pa float64) float64) func(t, pa float64) (float64, bool) {
		return func(t, pa float64) (float64, bool) {
			if t >= from && t < to {
				return f(pa), true
			}
			return pa, true
		}
	}
	psi := func(pa float64) float64 { return math.Round(pa/6894.757*10) / 10 * 1000 }
	held := func(t, pa float64) (float64, bool) { return pa, t < 40 || t >= 60 }
	for _, c := range []struct {
		name   string
		spoil  func(t, pa float64) (float64, bool)
		counts bool
		want   GaugeFault
		least  int // readings that must be believed
		wrong  int // false ones that may be, before it can be known
	}{
		{"one spike", within(40, 40.05, func(float64) float64 { return 180e3 }), false, Jumped, 899, 0},
		{"a spike of two down to nothing", within(40, 40.15, func(float64) float64 { return 0 }), false, Jumped, 898, 0},
		{"ten seconds of psi", within(40, 50, psi), false, OtherUnit, 799, 0},
		{"at its upper stop", within(40, 50, func(float64) float64 { return 250e3 }), false, OffScale, 799, 0},
		{"mbar, which is off its scale too", within(40, 50, func(pa float64) float64 { return pa * 10 }), false, OtherUnit, 799, 0},
		{"frozen, seen by its noise", held, false, Stuck, 690, 1},
		{"frozen, seen by its counter", held, true, Stuck, 699, 1},
	} {
		w := plainWatch()
		w.Counts = c.counts
		left, named, doubted := watched(w, c.spoil)
		if !named[c.want] || len(left) < c.least || doubted == 0 && c.want != Jumped {
			t.Errorf("%s: named %v, %d readings believed, want at least %d; doubted %v", c.name, named, len(left), c.least, doubted)
		}
		wrong := 0
		for s, v := range left {
			at := float64(s) / 10
			if math.Abs(v-(100e3+4e3*math.Exp(-at/20)-15*at)) > 450 {
				wrong++
			}
		}
		if wrong > c.wrong {
			t.Errorf("%s: %d false readings were believed", c.name, wrong)
		}
		if _, ok := left[899]; !ok {
			t.Errorf("%s: it did not come back by itself", c.name)
		}
	}
}

// A gauge that is asked oftener than it measures gives each of its measurements
// more than once: that is no fault, and each counts once.
func TestAGaugeAskedTooOftenIsBelievedOnce(t *testing.T) {
	w := plainWatch()
	w.Counts = true
	n := 0
	left, named, doubted := watched(w, func(_, pa float64) (float64, bool) {
		n++
		return pa, n%3 == 1
	})
	if len(left) != 300 || len(named) != 0 || doubted != 0 {
		t.Errorf("%d of 300 measurements believed, faults %v, %v doubted", len(left), named, doubted)
	}
}

// A press of the pump in the midst of it is no fault, and what was held back by a
// step that stays is believed after all.
func TestAStepThatStaysIsThePressure(t *testing.T) {
	w := plainWatch()
	var stand []int
	for i := range 60 {
		v := 100e3
		if i >= 30 {
			v = 62e3
		}
		f := w.Look(i, Reading{AtS: float64(i), GaugePa: v + float64(i%2)*100, How: Read}, true, 0)
		stand = append(stand, f.Stand...)
		if f.Fault != "" || len(f.Strike) > 0 {
			t.Fatalf("at %d: %+v", i, f)
		}
	}
	if len(stand) != 60 || !slices.IsSorted(stand) {
		t.Errorf("%d of 60 stand, in order %v", len(stand), slices.IsSorted(stand))
	}
	w.Done()
	if f := w.Look(60, Reading{AtS: 60, GaugePa: 90e3, How: Read}, false, 0); len(f.Stand) != 1 {
		t.Errorf("after a stroke: %+v", f)
	}
}
