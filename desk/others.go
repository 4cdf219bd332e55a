package desk

import (
	"io"
	"iter"
	"sync/atomic"
	"time"
)

// Others counts what is being answered just now, so that work that takes long gives way to it.
type Others struct{ n atomic.Int64 }

// How long work gives way at a time, and how often it looks. Whatever waits for ever, it goes on.
const (
	giveWay = 5 * time.Millisecond
	looks   = 500 * time.Microsecond
)

// In counts one; out ends it.
func (o *Others) In() (out func()) {
	o.n.Add(1)
	return func() { o.n.Add(-1) }
}

// GiveWay waits while others are answered.
func (o *Others) GiveWay() {
	for waited := time.Duration(0); waited < giveWay && o.n.Load() > 0; waited += looks {
		time.Sleep(looks)
	}
}

// atOnce is how much is read from a stream before others get their turn, bytes.
const atOnce = 256 << 10

// Reading reads a stream, and gives way every while.
func (o *Others) Reading(r io.Reader) io.Reader { return &polite{Reader: r, others: o} }

type polite struct {
	io.Reader
	others *Others
	past   int // bytes since others had their turn
}

func (p *polite) Read(b []byte) (int, error) {
	n, err := p.Reader.Read(b)
	if p.past += n; p.past > atOnce {
		p.past = 0
		p.others.GiveWay()
	}
	return n, err
}

// aWhile is as many as are worked through before others get their turn.
const aWhile = 2000

// Giving goes through a list at hand as through what is read from the book, and gives way every while.
func Giving[T any](o *Others, list iter.Seq[T]) iter.Seq2[T, error] {
	return func(yield func(T, error) bool) {
		n := 0
		for x := range list {
			if n++; n%aWhile == 0 {
				o.GiveWay()
			}
			if !yield(x, nil) {
				return
			}
		}
	}
}
