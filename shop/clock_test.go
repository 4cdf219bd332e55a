package shop

import (
	"context"
	"errors"
	"testing"
	"time"

	"idlehiss/logbook"
)

// The clock stands still while the shop is off, whatever its speed, runs through a sleep of the computer, and goes back
// for nothing: not for a kill before it was kept, nor for a computer whose clock was set back.
func TestTheClockGoesForwardOnly(t *testing.T) {
	ctx := context.Background()
	folder := t.TempDir()
	wall := time.Date(2026, 5, 4, 8, 0, 0, 0, time.UTC)
	var gone time.Duration
	open := func(speed float64) (*Clock, *logbook.Book) {
		b, err := logbook.Open(ctx, folder)
		if err != nil {
			t.Fatal(err)
		}
		gone = 0
		c, err := newClock(ctx, b, speed, func() time.Time { return wall }, func() time.Duration { return gone })
		if err != nil {
			t.Fatal(err)
		}
		return c, b
	}
	job := func(b *logbook.Book, id string, at time.Time) {
		st := logbook.Stamp{ID: id, At: at}
		err := b.Batch(ctx, func(tx *logbook.Tx) error {
			m, err := tx.MachineNamed(st, "Cider press")
			return errors.Join(err, tx.AddJob(logbook.Job{Stamp: st, MachineID: m.ID, Snapshot: []byte("{}")}))
		})
		if err != nil {
			t.Fatal(err)
		}
	}
	c, b := open(7200)
	gone = 10 * time.Second
	practised := c.Now()
	if want := wall.Add(20 * time.Hour); !practised.Equal(want) {
		t.Errorf("ten seconds of practice: %v", practised)
	}
	job(b, "first", practised)
	b.Close() // killed before the clock was kept
	wall = wall.Add(time.Hour)
	c, b = open(7200)
	if !c.Now().Equal(practised) {
		t.Errorf("off for an hour: %v, not %v", c.Now(), practised)
	}
	gone = 2 * time.Second
	c.keepAt(ctx, b)
	kept := c.Now()
	b.Close()
	wall = wall.Add(-30 * 24 * time.Hour)
	c, b = open(1)
	if !c.Now().Equal(kept) {
		t.Errorf("the computer's clock set back: %v, not %v", c.Now(), kept)
	}
	gone = 9 * time.Hour // it slept
	if !c.Now().Equal(kept.Add(9 * time.Hour)) {
		t.Errorf("after a sleep %v", c.Now())
	}
	b.Close()
	wall = kept.Add(90 * 24 * time.Hour)
	c, b = open(1)
	defer b.Close()
	if !c.Now().Equal(wall) {
		t.Errorf("with the computer ahead again %v", c.Now())
	}
}
