package desk

import (
	"context"
	"fmt"
	"sync"
	"sync/atomic"
	"time"

	"idlehiss/logbook"
)

// pen writes what comes from many sides at once in as few commits as there is time for:
// whoever finds it idle writes, and what comes meanwhile goes together into the next
// commit.
type pen struct {
	mu      sync.Mutex // guards waiting and busy
	waiting []*stroke
	busy    bool
}

type stroke struct {
	fn   func(*logbook.Tx) error
	done chan error
}

// add queues a stroke; lead tells the caller to write what waits.
func (p *pen) add(s *stroke) (lead bool) {
	p.mu.Lock()
	defer p.mu.Unlock()
	p.waiting = append(p.waiting, s)
	lead = !p.busy
	p.busy = true
	return lead
}

// next gives what waits; with nothing left the pen is idle again.
func (p *pen) next() []*stroke {
	p.mu.Lock()
	defer p.mu.Unlock()
	batch := p.waiting
	p.waiting = nil
	p.busy = len(batch) > 0
	return batch
}

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
	return r.desk.take(ctx, fn, r)
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

// write runs the stroke. A panic in it is its own error: whoever waits is answered.
func (s *stroke) write(tx *logbook.Tx) (err error) {
	defer func() {
		if p := recover(); p != nil {
			err = fmt.Errorf("this could not be written: %v", p)
		}
	}()
	return s.fn(tx)
}
