package desk

import (
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

// write runs the stroke. A panic in it is its own error: whoever waits is answered.
func (s *stroke) write(tx *logbook.Tx) (err error) {
	defer func() {
		if p := recover(); p != nil {
			err = fmt.Errorf("this could not be written: %v", p)
		}
	}()
	return s.fn(tx)
}
