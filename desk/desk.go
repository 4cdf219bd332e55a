// Package desk is where writes are taken in: who wrote what, from which device and
// when. Each counts once, however often it is sent, and is answered with a receipt. It
// owns no state but the queue of its pen; the rooms above hand it what is to be written
// and it knows nothing of them.
//
// Locks. Every lock of the program guards one map or one list for the length of a look:
// while it is held nothing is read from or written to the book, nothing is computed and
// no other lock is taken. So no order of locks is needed, and no request can wait for
// another's work. What must be done one thing after another on a live hold is done by
// that hold's own goroutine (package holds).
package desk

import (
	"context"
	"encoding/json"
	"errors"
	"iter"
	"time"

	"github.com/google/uuid"

	"idlehiss/core/quantity"
	"idlehiss/gauges"
	"idlehiss/logbook"
)

// Clock is the server's one clock. It may run faster than the wall, for tests and
// practice.
type Clock interface {
	Now() time.Time
	Speed() float64
}

// Topic says what a message of the event stream is about.
type Topic string

// The topics of the event stream.
const (
	HoldNews  Topic = "hold"  // a hold as it is now, or what is new of it
	JobNews   Topic = "job"   // which job changed, and what of it
	BenchNews Topic = "bench" // what is listed changed: jobs or kit
	DoorNews  Topic = "door"  // a device was signed out
	KeepNews  Topic = "keep"  // whether what is entered is kept, and what backups there are
	ResetNews Topic = "reset" // too much was missed: ask for everything
)

// Desk is handed to every room: the book, the clock, and the way to the pages.
type Desk struct {
	Book      *logbook.Book
	Clock     Clock
	GaugesAt  gauges.Allowed   // where gauges may be asked
	AmbientPa float64          // air pressure at the shop, absolute
	Tell      func(Topic, any) // sends to every open page; never waits
	Others    Others           // who is being answered now
	pen       pen
}

// Write is what every change carries: the id its client made, who, from where, and when
// it happened where that was not just now.
type Write struct {
	ID     string     `json:"id" minLength:"8" maxLength:"64" pattern:"^[A-Za-z0-9_-]+$" doc:"made by the client; the same id again is answered the same"`
	By     string     `json:"by" maxLength:"60" doc:"first name of who wrote it"`
	Device string     `json:"device" maxLength:"60"`
	At     *time.Time `json:"at,omitempty" doc:"moment of pressing on the server's clock; absent: now"`
}

// SentBy makes a write that of a device that is signed in: what its session says counts, whatever the body says.
func (w *Write) SentBy(device, person string) { w.Device, w.By = device, person }

// Receipt answers a write. What it changed comes by the event stream.
type Receipt struct {
	ID      string   `json:"id"`      // of the write
	Of      string   `json:"of"`      // id of the job, hold or piece of kit that it changed
	Changed []string `json:"changed"` // what of it
	Seq     int      `json:"seq"`     // of a reading; else 0
}

// Received is the receipt of a write.
func Received(w Write, of string, changed ...string) Receipt {
	return Receipt{ID: w.ID, Of: of, Changed: append([]string{}, changed...)}
}

// Changed tells the pages what of a job changed.
type Changed struct {
	ID      string   `json:"id"`
	Changed []string `json:"changed"`
}

// Stamp makes an entry's stamp; a moment that lies ahead is put to now.
func (d *Desk) Stamp(w Write) logbook.Stamp {
	now := d.Clock.Now()
	at := now
	if w.At != nil && w.At.Before(now) {
		at = w.At.UTC().Truncate(time.Microsecond)
	}
	by := w.By
	if by == "" {
		by = "someone"
	}
	return logbook.Stamp{ID: w.ID, At: at, By: by, Device: w.Device}
}

// slack is how far a page's clock may be behind the server's.
const slack = time.Minute

// StampWithin is the stamp of what happened in something that began at a moment: what a page's clock puts a little
// before the beginning is at the beginning, and what it puts far before cannot have been pressed then.
func (d *Desk) StampWithin(w Write, begun time.Time) (logbook.Stamp, error) {
	st := d.Stamp(w)
	if early := begun.Sub(st.At); early > slack {
		return st, Refuse("at", "this was pressed %s before it began: set the clock of the device and press again", quantity.Duration(early.Seconds()))
	} else if early > 0 {
		st.At = begun
	}
	return st, nil
}

// NewID makes an id for what the server itself writes.
func NewID() string { return uuid.NewString() }

// Put writes once under the client's id and decodes the answer; ran is false where the
// write was in the book already.
func Put[T any](ctx context.Context, d *Desk, w Write, content any, fn func(*logbook.Tx, logbook.Stamp) (T, error)) (answer T, ran bool, err error) {
	raw, err := json.Marshal(content)
	var odd *json.UnsupportedValueError
	if errors.As(err, &odd) {
		return answer, false, Refuse("", "one of the figures is no number")
	}
	if err != nil {
		return answer, false, err
	}
	st := d.Stamp(w)
	var got json.RawMessage
	err = d.Take(ctx, func(tx *logbook.Tx) error {
		got, err = tx.Entry(st, raw, func(tx *logbook.Tx) (any, error) {
			ran = true
			return fn(tx, st)
		})
		return err
	})
	switch {
	case errors.Is(err, logbook.ErrChanged):
		return answer, false, Conflicts("%v", err)
	case errors.Is(err, logbook.ErrNotFound):
		return answer, false, NotThere(err)
	case err != nil:
		return answer, false, err
	}
	return answer, ran, json.Unmarshal(got, &answer)
}

// Again answers a write that is in the book already. What was acknowledged is answered
// when it is sent again, whatever became of its hold or step since.
func Again[T any](ctx context.Context, d *Desk, w Write, content any) (answer T, was bool, err error) {
	has, err := d.Book.Has(ctx, w.ID)
	if err != nil || !has {
		return answer, false, err
	}
	answer, _, err = Put[T](ctx, d, w, content, nil) // it is not called
	return answer, err == nil, err
}

// Ahead takes many readings down ahead of the hold that they belong to, so that others write in between.
func (d *Desk) Ahead(ctx context.Context, holdID string, rs iter.Seq[logbook.Reading]) error {
	err := d.Book.AddAhead(ctx, holdID, rs, d.Others.GiveWay)
	if logbook.Refused(err) {
		return Conflicts("this is on its way into the book already: wait a moment")
	}
	return err
}

// Take writes without a client's id, for what the server itself takes down, such as the
// readings of a gauge. It returns once that is committed. What others write at the same
// moment, gauges or people, goes into the same commit.
func (d *Desk) Take(ctx context.Context, fn func(*logbook.Tx) error) error {
	at := func() {}
	return d.take(ctx, fn, at, at)
}

// take tells when it is in the queue, and before it leads a commit waits for others that may come.
func (d *Desk) take(ctx context.Context, fn func(*logbook.Tx) error, in, others func()) error {
	s := &stroke{fn, make(chan error, 1)}
	lead := d.pen.add(s)
	in()
	if lead {
		others()
		d.commit(ctx, d.pen.next())
		go d.rest(ctx) // what came meanwhile keeps nobody waiting whose own is in the book
	}
	return <-s.done
}

// rest commits what waits until nothing does.
func (d *Desk) rest(ctx context.Context) {
	for batch := d.pen.next(); len(batch) > 0; batch = d.pen.next() {
		d.commit(ctx, batch)
	}
}

// commit writes a batch together; each of it lands or not by itself.
func (d *Desk) commit(ctx context.Context, batch []*stroke) {
	ctx = context.WithoutCancel(ctx) // who leads may leave; the others have not
	if len(batch) == 1 {
		batch[0].done <- d.Book.Batch(ctx, batch[0].write)
		return
	}
	var fns []func(*logbook.Tx) error
	for _, s := range batch {
		fns = append(fns, s.write)
	}
	for i, err := range d.Book.Together(ctx, fns) {
		batch[i].done <- err
	}
}
