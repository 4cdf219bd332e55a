// Package shop wires the rooms into the running application and owns what is of all of
// them: the clock, the event stream, the bench, the paper. It knows nothing of HTTP or
// SQL; clock, book and library are handed in. Each room owns its own state; pages and
// commands ask the rooms themselves.
package shop

import (
	"context"
	"sync"
	"time"

	"idlehiss/bundle"
	"idlehiss/catalogue"
	"idlehiss/core/quantity"
	"idlehiss/desk"
	"idlehiss/door"
	"idlehiss/eye"
	"idlehiss/gauges"
	"idlehiss/holds"
	"idlehiss/jobs"
	"idlehiss/kit"
	"idlehiss/logbook"
	"idlehiss/record"
)

// Shop is the application at work.
type Shop struct {
	Holds     *holds.Room
	Eye       *eye.Room
	Jobs      *jobs.Room
	Kit       *kit.Room
	Door      *door.Room
	Catalogue *catalogue.Room
	Bundles   *bundle.Room
	Record    *record.Room
	Keep      *Keeping

	desk *desk.Desk
	bus  *bus
	demo bool

	stop context.CancelFunc
	done sync.WaitGroup // of both that run by themselves
}

// Options are what the outside decides.
type Options struct {
	AmbientPa float64
	Demo      bool
	Backups   Backups
	GaugesAt  gauges.Allowed
}

// New opens the shop on a book: holds in progress go on, with the gap shown.
func New(ctx context.Context, book *logbook.Book, clock desk.Clock, o Options) (*Shop, error) {
	if o.AmbientPa == 0 {
		o.AmbientPa = quantity.StandardAtmosphere
	}
	s := &Shop{bus: newBus(), demo: o.Demo}
	s.desk = &desk.Desk{Book: book, Clock: clock, AmbientPa: o.AmbientPa, GaugesAt: o.GaugesAt, Tell: s.bus.send}
	s.Keep = newKeeping(s.desk, o.Backups)
	var err error
	if s.Catalogue, err = catalogue.New(book.Folder()); err != nil {
		return nil, err
	}
	if s.Kit, err = kit.New(ctx, s.desk, func() map[string]string { return s.Holds.InUse("") }); err != nil {
		return nil, err
	}
	if s.Holds, err = holds.New(ctx, s.desk); err != nil {
		return nil, err
	}
	s.Door, s.Eye = door.New(s.desk), eye.New(s.Holds)
	s.Bundles = bundle.New(s.desk, s.Holds)
	if s.Jobs, err = jobs.New(s.desk, s.Kit, s.Catalogue, s.Holds); err != nil {
		s.Holds.Close()
		return nil, err
	}
	if s.Record, err = record.New(s.desk, s.Kit, s.Jobs, s.Holds); err != nil {
		s.Holds.Close()
		return nil, err
	}
	s.Holds.OnCall(s.Jobs.Called)
	run, stop := context.WithCancel(context.Background())
	s.stop = stop
	s.done.Go(func() { s.run(run) })
	s.done.Go(func() { s.keepAtIt(run) })
	return s, nil
}

// Reader is the shop of a book for what leaves it and what is taken over, with a new shop's kit where it can be written
// to: nothing runs, and it needs no closing.
func Reader(ctx context.Context, book *logbook.Book, clock desk.Clock) (*Shop, error) {
	s := &Shop{bus: newBus(), desk: &desk.Desk{Book: book, Clock: clock, AmbientPa: quantity.StandardAtmosphere, Tell: func(desk.Topic, any) {}}}
	s.Holds = holds.Reader(s.desk)
	s.Bundles = bundle.New(s.desk, s.Holds)
	var err error
	if s.Kit, err = kit.New(ctx, s.desk, func() map[string]string { return nil }); err != nil {
		return nil, err
	}
	if s.Catalogue, err = catalogue.New(book.Folder()); err != nil {
		return nil, err
	}
	if s.Jobs, err = jobs.New(s.desk, s.Kit, s.Catalogue, s.Holds); err != nil {
		return nil, err
	}
	s.Record, err = record.New(s.desk, s.Kit, s.Jobs, s.Holds)
	return s, err
}

// Close stops the gauges. Holds stay open in the book.
func (s *Shop) Close() {
	s.stop()
	s.done.Wait()
	s.Holds.Close()
}

// Now is the shop's time and how fast it runs.
func (s *Shop) Now() (time.Time, float64) { return s.desk.Clock.Now(), s.desk.Clock.Speed() }

// Stream opens a page's event stream, resuming after the id it last saw.
func (s *Shop) Stream(last string) (missed []Message, page <-chan Message, done func()) {
	return s.bus.open(last)
}

// StreamAt is the id of the last event so far, and the number of the last that changes what is listed.
func (s *Shop) StreamAt() (id string, listed int) { return s.bus.at() }

// How often the gauges are looked at: fifteen times a second, which groups what they say
// into one commit; seldom on a clock that hardly runs.
const (
	lookEvery = 66 * time.Millisecond
	restEvery = time.Second

	watchEvery = 200 * time.Millisecond
)

// keepAtIt sees to it that what is entered is kept.
func (s *Shop) keepAtIt(ctx context.Context) {
	tick := time.NewTicker(watchEvery)
	defer tick.Stop()
	for {
		s.Keep.watch(ctx)
		if c, ok := s.desk.Clock.(*Clock); ok {
			c.keepAt(ctx, s.desk.Book)
		}
		s.Keep.nightly(ctx)
		select {
		case <-ctx.Done():
			return
		case <-tick.C:
		}
	}
}

// run takes down what the gauges say.
func (s *Shop) run(ctx context.Context) {
	pause := lookEvery
	if s.desk.Clock.Speed() < 1 {
		pause = restEvery
	}
	tick := time.NewTicker(pause)
	defer tick.Stop()
	for {
		select {
		case <-ctx.Done():
			return
		case <-tick.C:
			s.Holds.ReadGauges(ctx)
		}
	}
}

// Others are those that are answered just now.
func (s *Shop) Others() *desk.Others { return &s.desk.Others }
