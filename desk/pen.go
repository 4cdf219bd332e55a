package desk

import (
	"context"
	"fmt"
	"sync"

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

// Take writes without a client's id, for what the server itself takes down, such as the
// readings of a gauge. It returns once that is committed.
func (d *Desk) Take(ctx context.Context, fn func(*logbook.Tx) error) error {
	s := &stroke{fn, make(chan error, 1)}
	if d.pen.add(s) {
		for batch := d.pen.next(); len(batch) > 0; batch = d.pen.next() {
			d.commit(ctx, batch)
		}
	}
	return <-s.done
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

// commit writes a batch together. If one of it cannot be written, each is written by
// itself: a bad one takes no other with it.
func (d *Desk) commit(ctx context.Context, batch []*stroke) {
	ctx = context.WithoutCancel(ctx) // who leads may leave; the others have not
	err := d.Book.Batch(ctx, func(tx *logbook.Tx) error {
		for _, s := range batch {
			if err := s.write(tx); err != nil {
				return err
			}
		}
		return nil
	})
	for _, s := range batch {
		if err != nil && len(batch) > 1 {
			s.done <- d.Book.Batch(ctx, s.write)
		} else {
			s.done <- err
		}
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
