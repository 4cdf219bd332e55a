package holds

import (
	"context"
	"fmt"
	"sync"
	"sync/atomic"
	"testing"
	"time"

	"idlehiss/core/judge"
	"idlehiss/core/quantity"
	"idlehiss/core/runsheet"
	"idlehiss/core/terms"
	"idlehiss/core/trace"
	"idlehiss/desk"
	"idlehiss/kit"
	"idlehiss/library"
	"idlehiss/logbook"
	"idlehiss/snapshot"
)

// hand is a clock set by hand.
type hand struct {
	mu  sync.Mutex
	now time.Time
}

func (h *hand) Now() time.Time {
	h.mu.Lock()
	defer h.mu.Unlock()
	return h.now
}

func (h *hand) set(now time.Time) {
	h.mu.Lock()
	defer h.mu.Unlock()
	h.now = now
}

func (h *hand) Speed() float64 { return 1 }

// room is a room on a book of its own, with what is needed to begin holds in it.
type room struct {
	*testing.T
	*Room
	clock *hand
	basis snapshot.Basis
	n     int
}

func open(t *testing.T) *room {
	ctx := context.Background()
	book, err := logbook.Open(ctx, t.TempDir())
	if err != nil {
		t.Fatal(err)
	}
	r := &room{T: t, clock: &hand{now: time.Date(2026, 3, 2, 8, 0, 0, 0, time.UTC)}}
	d := &desk.Desk{Book: book, Clock: r.clock, AmbientPa: quantity.StandardAtmosphere, Tell: func(desk.Topic, any) {}}
	if r.Room, err = New(ctx, d); err != nil {
		t.Fatal(err)
	}
	t.Cleanup(func() {
		r.Close()
		if err := book.Close(); err != nil {
			t.Error(err)
		}
	})
	c, err := library.Circuit("cooling-header-tank")
	if err != nil {
		t.Fatal(err)
	}
	raw, hash, err := snapshot.Snapshot{Circuit: c}.Encode()
	if err != nil {
		t.Fatal(err)
	}
	j := logbook.Job{Stamp: r.stamp(), Complaint: "routine", Snapshot: raw, Hash: hash}
	j.ID = "job"
	if err := book.Batch(ctx, func(tx *logbook.Tx) error {
		m, err := tx.MachineNamed(r.stamp(), "Bin carrier 4")
		if err != nil {
			return err
		}
		j.MachineID = m.ID
		return tx.AddJob(j)
	}); err != nil {
		t.Fatal(err)
	}
	if r.basis, err = snapshot.Of(ctx, book, j, nil); err != nil {
		t.Fatal(err)
	}
	return r
}

func (r *room) write() desk.Write {
	r.n++
	r.clock.set(r.clock.Now().Add(time.Second))
	return desk.Write{ID: fmt.Sprintf("write-%06d", r.n), By: "Maren", Device: "test"}
}

func (r *room) stamp() logbook.Stamp { return r.desk0().Stamp(r.write()) }

func (r *room) desk0() *desk.Desk {
	if r.Room == nil {
		return &desk.Desk{Clock: r.clock}
	}
	return r.desk
}

// begun begins a hold at a target, Pa.
func (r *room) begun(target float64) string {
	r.Helper()
	g := runsheet.Gauge{ID: "tester", Name: "tester", Kind: terms.Needle, Rings: []runsheet.Ring{{Unit: "kPa", To: 250, Division: 5, Numbered: 50}}}
	b := Beginning{JobID: "job", Machine: "Bin carrier 4", Basis: r.basis, Chamber: "loop", Purpose: terms.Test,
		Rig: Rig{Pump: runsheet.Pump{ID: "p", StrokeM3: 20e-6, StrokeSE: 1e-6}, Target: runsheet.Target{Pa: target}, Limit: runsheet.Limit{Of: "cap", Pa: 150e3, CeilingPa: 150e3},
			Wanted: runsheet.Wanted{From: runsheet.FromTyped, Text: "1 kPa in 1 min"}, Allowance: runsheet.Allowance{PaPerS: 1000. / 60}, AmbientPa: quantity.StandardAtmosphere}}
	b.Rig.On(kit.Gauge{Gauge: g}, nil)
	h, err := b.Encode(r.stamp())
	if err != nil {
		r.Fatal(err)
	}
	if err := r.desk.Book.Batch(r.Context(), func(tx *logbook.Tx) error { return tx.AddHold(h) }); err != nil {
		r.Fatal(err)
	}
	if err := r.Begin(r.Context(), h, b); err != nil {
		r.Fatal(err)
	}
	return h.ID
}

func (r *room) press(hold, kind string) {
	r.Helper()
	if _, err := r.Event(r.Context(), hold, HoldEvent{Write: r.write(), Kind: kind}); err != nil {
		r.Fatal(err)
	}
}

func (r *room) stands(hold string, value float64) HoldView {
	r.Helper()
	if _, err := r.Reading(r.Context(), hold, TypedReading{Write: r.write(), Value: new(value), How: trace.Read}); err != nil {
		r.Fatal(err)
	}
	return r.looked(hold)
}

func (r *room) looked(hold string) HoldView {
	r.Helper()
	r.Quiet(r.Context())
	h, err := r.Hold(r.Context(), hold)
	if err != nil {
		r.Fatal(err)
	}
	return h
}

// A judge that breaks down over one hold: that hold says that it cannot be judged, keeps
// every reading and every press, and can be ended; the other is called as if nothing were,
// and both can be looked at, also after a restart with a sound judge.
func TestOneHoldThatCannotBeJudged(t *testing.T) {
	r := open(t)
	const odd, sound = 120e3, 100e3
	var broken atomic.Bool
	broken.Store(true)
	r.report = func(j *judge.Live) judge.Report {
		rep := j.Report()
		if broken.Load() && rep.TestPressureKPa > (odd+sound)/2/1e3 {
			panic("the fit has run away")
		}
		return rep
	}
	bad, good := r.begun(odd), r.begun(sound)
	for hold, at := range map[string]float64{bad: odd, good: sound} {
		r.press(hold, trace.Stroke)
		r.stands(hold, at/1e3)
		r.press(hold, trace.Isolate)
	}
	for n := range 12 {
		r.clock.set(r.clock.Now().Add(15 * time.Second))
		r.stands(bad, odd/1e3-2.5*float64(n))
		r.stands(good, sound/1e3-2.5*float64(n))
	}
	b := r.looked(bad)
	if b.Unjudged == "" || b.Report != nil || len(b.Calls) != 0 || len(b.Points) != 13 || b.State != terms.Holding {
		t.Errorf("unjudged %q, %d calls, %d readings, %s", b.Unjudged, len(b.Calls), len(b.Points), b.State)
	}
	if g := r.looked(good); g.Unjudged != "" || len(g.Calls) == 0 || g.Calls[0].Call != judge.Leaking {
		t.Errorf("the other: %q, %+v", g.Unjudged, g.Calls)
	}
	if n := len(r.Running()); n != 2 {
		t.Errorf("%d holds in the line-up", n)
	}
	rows, err := r.desk.Book.HoldsOf(t.Context(), "job")
	if err != nil {
		t.Fatal(err)
	}
	if all, err := r.Summaries(t.Context(), Case{Machine: "Bin carrier 4", Basis: r.basis, Holds: rows}); err != nil || len(all) != 2 {
		t.Errorf("%d summaries, %v", len(all), err)
	}
	r.press(bad, trace.Release)
	if b = r.looked(bad); b.State != terms.Ended || b.Unjudged == "" {
		t.Errorf("ended, it is %s and says %q", b.State, b.Unjudged)
	}
	broken.Store(false)
	if b = r.looked(bad); b.Unjudged != "" || b.Report == nil {
		t.Errorf("with a sound judge: %q", b.Unjudged)
	}
}
