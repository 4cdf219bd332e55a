package logbook

import (
	"context"
	"encoding/json"
	"errors"
	"path/filepath"
	"slices"
	"testing"
	"time"
)

// Readings that came ahead of their hold are its own once it is added; where it never is they are gone at the next
// opening, and meanwhile nothing counts them.
func TestReadingsAheadOfTheirHold(t *testing.T) {
	ctx, folder := context.Background(), t.TempDir()
	b := open(t, folder)
	filled(t, b)
	ahead := func(id string) (all []Reading) {
		for i := range 2*aheadAtOnce + 1 {
			all = append(all, Reading{HoldID: id, Gauge: 1, Seq: i + 1, At: start.Add(time.Duration(i) * time.Second), Value: 110, Unit: "kPa", How: "read", By: "Maren", Device: "file"})
		}
		return all
	}
	add := func(id string, more error) error {
		return b.Batch(ctx, func(tx *Tx) error {
			return errors.Join(tx.AddHold(Hold{Stamp: stamp(id), JobID: "j1", Purpose: "test", Chamber: "loop", Rig: json.RawMessage(`{}`), State: "ended"}), tx.Arrived(id), more)
		})
	}
	check := func(orphans int) {
		t.Helper()
		r, err := Check(ctx, filepath.Join(folder, File))
		if err != nil || len(r.Orphans) != orphans {
			t.Errorf("%+v, %v", r.Orphans, err)
		}
	}
	for _, id := range []string{"came", "refused", "broke-off"} {
		if err := b.AddAhead(ctx, id, slices.Values(ahead(id)), func() {}); err != nil {
			t.Fatal(err)
		}
	}
	check(0)
	if err := b.AddAhead(ctx, "refused", slices.Values(ahead("refused")), func() {}); !Refused(err) {
		t.Errorf("a second time on its way: %v", err)
	}
	if err := add("came", nil); err != nil {
		t.Error(err)
	}
	if err := add("refused", errors.New("no")); err == nil {
		t.Error("it was added")
	}
	if err := errors.Join(b.TakeBack(ctx, "refused"), b.TakeBack(ctx, "came")); err != nil {
		t.Error(err)
	}
	stopped, cancel := context.WithCancel(ctx)
	cancel()
	if err := b.AddAhead(stopped, "stopped", slices.Values(ahead("stopped")), func() {}); err == nil {
		t.Error("it went on")
	}
	closeAll(t)
	b = open(t, folder)
	for id, want := range map[string]int{"came": 2*aheadAtOnce + 1, "refused": 0, "broke-off": 0, "stopped": 0} {
		if n := len(read(t, b, id)); n != want {
			t.Errorf("%s: %d readings, want %d", id, n, want)
		}
	}
	check(0)
	// Others keep asking that what they write belongs to something.
	if err := b.Batch(ctx, func(tx *Tx) error { return tx.AddReadings(ahead("nobody")...) }); !Refused(err) {
		t.Errorf("readings of no hold: %v", err)
	}
}
