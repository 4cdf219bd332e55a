package desk

import (
	"context"
	"sync/atomic"
	"time"

	"idlehiss/logbook"
)

// Round is several who may have something to write at the same moment: it goes into one commit, which writes a page for
// all of them. Nobody is waited for long.
type Round struct {
	desk *Desk
	out  atomic.Int32 // so many have not said yet whether they have something
	all  chan struct{}
}

// roundMost is how long a commit waits for the slowest of a round.
const roundMost = 10 * time.Millisecond

// Round begins one of so many.
func (d *Desk) Round(many int) *Round {
	r := &Round{desk: d, all: make(chan struct{})}
	r.out.Store(int32(many))
	return r
}

// Take writes what one of the round has, as Desk.Take does.
func (r *Round) Take(ctx context.Context, fn func(*logbook.Tx) error) error {
	return r.desk.take(ctx, fn, r.Pass, r.wait)
}

// Pass says that one of the round has nothing.
func (r *Round) Pass() {
	if r.out.Add(-1) == 0 {
		close(r.all)
	}
}

func (r *Round) wait() {
	select {
	case <-r.all:
	case <-time.After(roundMost):
	}
}
