package shop

import (
	"context"
	"fmt"
	"math"
	"math/rand/v2"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"testing"
	"time"

	"idlehiss/core/runsheet"
	"idlehiss/core/terms"
	"idlehiss/core/trace"
	"idlehiss/gauges"
	"idlehiss/kit"
	"idlehiss/logbook"
)

// wired is a shop on a running clock with a gauge on the wire, whose pressure is
// given.
type wired struct {
	*testing.T
	*Shop
	n      int
	served *gauges.Served
	gauge  kit.Gauge
}

// fast is how fast that clock runs: a gauge that is asked every 0.02 s speaks
// five times a second on it.
const fast = 10

func wire(t *testing.T, pressure func(s float64) float64) *wired {
	folder := t.TempDir()
	book, err := logbook.Open(t.Context(), folder)
	if err != nil {
		t.Fatal(err)
	}
	clock, err := NewClock(t.Context(), book, fast)
	if err != nil {
		t.Fatal(err)
	}
	w := &wired{T: t}
	if w.Shop, err = New(t.Context(), book, clock, Options{GaugesAt: gauges.Allowed{"127.0.0.1"}}); err != nil {
		t.Fatal(err)
	}
	begun := clock.Now()
	rng := rand.New(rand.NewPCG(1, 2))
	// A register map of the shop's own.
	if err := os.Mkdir(filepath.Join(folder, "registers"), 0o755); err != nil {
		t.Fatal(err)
	}
	own := "id: own\ntitle: Our own\ntable: input\nevery: 0.02 s\nunit: kPa\npressure: {address: 7, type: float32, order: CDAB}\n"
	if err := os.WriteFile(filepath.Join(folder, "registers", "own.yaml"), []byte(own), 0o644); err != nil {
		t.Fatal(err)
	}
	m, err := gauges.ParseMap([]byte(own))
	if err != nil {
		t.Fatal(err)
	}
	w.served, err = gauges.Serve("127.0.0.1:0", m, 250e3, func() float64 {
		return math.Round((pressure(clock.Now().Sub(begun).Seconds())+110*rng.NormFloat64())/100) * 100 // enough for sixty readings to show it
	})
	if err != nil {
		t.Fatal(err)
	}
	t.Cleanup(func() {
		w.Shop.Close()
		w.served.Close()
		if err := book.Close(); err != nil {
			t.Error(err)
		}
	})
	face := runsheet.Gauge{Name: "wire gauge", Kind: terms.Digital, Rings: []runsheet.Ring{{Unit: "kPa", To: 250, Division: 0.1, Numbered: 50}}}
	if w.gauge, err = w.Kit.AddGauge(t.Context(), w.write(), NewGauge{Gauge: face, Address: w.served.Address(), MapID: "own"}); err != nil {
		t.Fatal(err)
	}
	return w
}

func (w *wired) write() Write {
	w.n++
	return Write{ID: fmt.Sprintf("wired-%06d", w.n), By: "Ilse", Device: "bench"}
}

// held begins a hold at 16 psi on the gauge and shuts the supply.
func (w *wired) held() HoldView {
	w.Helper()
	j, err := w.Jobs.Begin(w.Context(), StartJob{Write: w.write(), Machine: "Tipping trailer", Mark: "16 psi"})
	if err != nil {
		w.Fatal(err)
	}
	for _, item := range []string{"cold", "still", "eyes-on"} {
		if _, err = w.Jobs.Tick(w.Context(), j.Of, Tick{Write: w.write(), Item: item, On: true}); err != nil {
			w.Fatal(err)
		}
	}
	if _, err = w.Jobs.SetPlan(w.Context(), j.Of, Plan{Write: w.write(), School: "exactly", Gauge: w.gauge.ID, Allowance: "typed", AllowanceText: "1 kPa/min"}); err != nil {
		w.Fatal(err)
	}
	begun, err := w.Jobs.Start(w.Context(), j.Of, StartHold{Write: w.write(), Purpose: terms.Test})
	if err != nil {
		w.Fatal(err)
	}
	w.until("readings", begun.Of, func(h HoldView) bool { return h.LastSeq > 10 })
	if _, err = w.Holds.Event(w.Context(), begun.Of, HoldEvent{Write: w.write(), Kind: trace.Isolate}); err != nil {
		w.Fatal(err)
	}
	h, err := w.Holds.Hold(w.Context(), begun.Of)
	if err != nil {
		w.Fatal(err)
	}
	return h
}

// until waits until a hold is as wanted.
func (w *wired) until(what, hold string, ok func(HoldView) bool) HoldView {
	w.Helper()
	patience, cancel := context.WithTimeout(w.Context(), 30*time.Second)
	defer cancel()
	for {
		h, err := w.Holds.Hold(w.Context(), hold)
		if err != nil {
			w.Fatal(err)
		}
		if ok(h) {
			return h
		}
		select {
		case <-patience.Done():
			w.Fatalf("waited in vain for %s; faults %+v, value %+v, sentence %q", what, h.Faults, h.Value, h.Sentence)
		case <-time.After(10 * time.Millisecond):
		}
	}
}

func (w *wired) fault(hold string, kind trace.GaugeFault, says ...string) {
	w.Helper()
	h := w.until("the fault "+string(kind), hold, func(h HoldView) bool { return len(h.Faults) == 1 && h.Faults[0].Kind == kind })
	for _, s := range says {
		if !strings.Contains(h.Faults[0].Says, s) {
			w.Errorf("%s: %q does not say %q", kind, h.Faults[0].Says, s)
		}
	}
}

// A gauge whose plug is pulled, that freezes, spikes, goes off its scale and
// changes its unit in the midst of a hold: each is named, what it says meanwhile
// is left out, it comes back by itself, and the call is that of a sound gauge.
func TestAGaugeAtFaultMakesNoFalseCall(t *testing.T) {
	// Losing a little over the allowance would be called early if a fault made it
	// look tighter; so would a sound loop if one made it look worse.
	for name, c := range map[string]struct {
		rate  float64 // Pa/s
		wrong string
	}{"losing 0.75 kPa a minute of 1 allowed": {12.5, "leaking"}, "losing 1.6 kPa a minute": {26, "tight"}} {
		t.Run(name, func(t *testing.T) {
			t.Parallel()
			w := wire(t, func(s float64) float64 { return 110e3 - c.rate*s })
			h := w.held()
			good := func(h HoldView) bool { return len(h.Faults) == 0 }
			w.until("it has shown its noise", h.ID, func(x HoldView) bool { return x.LastSeq > h.LastSeq+60 })
			if err := w.served.Pull(true); err != nil {
				t.Fatal(err)
			}
			w.fault(h.ID, "silent", "No reading from wire gauge", "comes back by itself")
			if err := w.served.Pull(false); err != nil {
				t.Fatal(err)
			}
			w.until("it comes back", h.ID, good)
			w.served.Freeze(true)
			w.fault(h.ID, "stuck", "repeats one figure")
			w.served.Freeze(false)
			w.until("it moves again", h.ID, good)
			w.served.OverRange(true)
			w.fault(h.ID, "off-scale", "ends at 250")
			if v := w.until("the alarm", h.ID, func(h HoldView) bool { return h.OverLimit }); !strings.Contains(v.Sentence, "Over the limit") {
				t.Errorf("%q", v.Sentence)
			}
			w.served.OverRange(false)
			w.until("it is on its scale", h.ID, good)
			if err := w.served.Show("psi"); err != nil {
				t.Fatal(err)
			}
			w.fault(h.ID, "other-unit", "show psi now, not kPa")
			if err := w.served.Show("kPa"); err != nil {
				t.Fatal(err)
			}
			w.until("it shows kPa", h.ID, good)
			w.served.Spike(-60e3)
			w.fault(h.ID, "jumped", "jumped to", "and back")

			last := w.until("it goes on", h.ID, func(h HoldView) bool { return h.NowS > 90 })
			for _, made := range last.Calls {
				if string(made.Call) == c.wrong {
					t.Errorf("called %s at %.0f s: %+v", made.Call, made.AtS, last.Report.RateKPaPerMin)
				}
			}
			why := []string{}
			for _, g := range last.Gaps {
				why = append(why, g.Why)
				if g.ToS <= g.FromS {
					t.Errorf("a gap from %v to %v", g.FromS, g.ToS)
				}
			}
			for _, want := range []string{"no reading from the gauge", "the gauge was stuck", "the gauge was off its scale", "the gauge showed another unit"} {
				if !slices.Contains(why, want) {
					t.Errorf("no gap says that %s: %v", want, why)
				}
			}
			// Nothing is lost: every reading has its number, what is not believed is
			// struck out with its reason, and what stands lies on the true line.
			var rs []logbook.Reading
			for r, err := range w.desk.Book.Readings(t.Context(), h.ID) {
				if err != nil {
					t.Fatal(err)
				}
				rs = append(rs, r)
			}
			struck := 0
			for i, r := range rs {
				if r.Seq != i+1 {
					t.Fatalf("reading %d has number %d", i+1, r.Seq)
				}
				true_ := 110 - c.rate*r.At.Sub(rs[0].At).Seconds()/1e3
				switch off := math.Abs(r.Value - true_); {
				case r.Struck != "":
					struck++
				case off > 2 && i < len(rs)-3:
					t.Errorf("reading %d of %v kPa stands where it was %.1f", r.Seq, r.Value, true_)
				}
			}
			if struck < 15 {
				t.Errorf("%d readings struck out", struck)
			}
		})
	}
}
