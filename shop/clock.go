package shop

import (
	"context"
	"encoding/json"
	"errors"
	"sync/atomic"
	"time"

	"idlehiss/logbook"
)

// Clock is the shop's one clock. It stands still while the shop is off, and never runs backwards: neither over a
// restart nor when the computer's clock is set back. While the shop is open it runs by what has gone by, a sleep of the
// computer included, whatever its clock is set to.
type Clock struct {
	start time.Time
	wall  func() time.Time
	gone  func() time.Duration // since the start
	rate  float64
	kept  atomic.Int64 // of the computer, ns gone: when it was last kept
}

// Now is the shop's time.
func (c *Clock) Now() time.Time {
	return c.start.Add(time.Duration(float64(c.gone()) * c.rate)).Truncate(time.Microsecond)
}

// Speed is how fast it runs.
func (c *Clock) Speed() float64 { return c.rate }

// clockSetting is where the book keeps how the clock stood.
const clockSetting = "clock"

// stood is what is kept.
type stood struct {
	Shop int64 `json:"shop"` // µs
}

// How often it is kept: often where it is ahead of the computer's, as after practice or where that was set back. What
// was taken down since is found in the book.
const (
	keepClock      = time.Minute
	keepClockAhead = time.Second
	aheadBy        = time.Second
)

// NewClock goes on from the computer's time, or from where the folder's clock stood and from the latest entry, where
// one of these lies ahead of it.
func NewClock(ctx context.Context, book *logbook.Book, speed float64) (*Clock, error) {
	return newClock(ctx, book, speed, time.Now, sinceBoot())
}

func newClock(ctx context.Context, book *logbook.Book, speed float64, wall func() time.Time, gone func() time.Duration) (*Clock, error) {
	raw, err := book.Setting(ctx, clockSetting)
	if err != nil {
		return nil, err
	}
	var was stood
	if raw != "" {
		if err := json.Unmarshal([]byte(raw), &was); err != nil {
			return nil, err
		}
	}
	latest, err := book.Latest(ctx)
	if err != nil {
		return nil, err
	}
	c := &Clock{start: wall().UTC(), wall: wall, gone: gone, rate: speed}
	for _, at := range []time.Time{time.UnixMicro(was.Shop).UTC(), latest} {
		if at.After(c.start) {
			c.start = at
		}
	}
	if err := c.keep(ctx, book); err != nil && !errors.Is(err, logbook.ErrCannotKeep) {
		return nil, err // it is kept when the disk takes it
	}
	return c, nil
}

func (c *Clock) keep(ctx context.Context, book *logbook.Book) error {
	kept, err := json.Marshal(stood{c.Now().UnixMicro()})
	if err != nil {
		return err
	}
	return book.Batch(ctx, func(tx *logbook.Tx) error { return tx.SetSetting(clockSetting, string(kept)) })
}

// keepAt keeps it when it is time to.
func (c *Clock) keepAt(ctx context.Context, book *logbook.Book) {
	every := keepClock
	if c.Now().Sub(c.wall()) > aheadBy {
		every = keepClockAhead
	}
	if gone := c.gone(); gone-time.Duration(c.kept.Load()) >= every {
		c.kept.Store(int64(gone))
		_ = c.keep(ctx, book) // the next time, then
	}
}
