package gauges

import "sync"

// Inbox holds what a gauge on the wire has said and nobody has taken down yet.
type Inbox struct {
	mu   sync.Mutex // guards the two
	said []Said
	lost string
}

// Put adds an answer.
func (b *Inbox) Put(s Said) {
	b.mu.Lock()
	defer b.mu.Unlock()
	b.said, b.lost = append(b.said, s), ""
}

// Miss notes why there was none.
func (b *Inbox) Miss(err error) {
	b.mu.Lock()
	defer b.mu.Unlock()
	b.lost = err.Error()
}

// Look gives what is there, and why the last answer did not come.
func (b *Inbox) Look() (said []Said, lost string) {
	b.mu.Lock()
	defer b.mu.Unlock()
	return b.said[:len(b.said):len(b.said)], b.lost
}

// Drop takes the first n away once they are kept.
func (b *Inbox) Drop(n int) {
	b.mu.Lock()
	defer b.mu.Unlock()
	b.said = append([]Said(nil), b.said[n:]...)
}
