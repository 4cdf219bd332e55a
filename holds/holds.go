// Package holds is the holds in progress: their readings taken down, watched, judged,
// shown and called; and those that have ended, read from the book. It owns the live
// holds. Jobs, bench and pages call it; it knows nothing of them.
//
// Each live hold has a goroutine of its own (keeper.go) that does one thing after
// another with it and publishes a picture. Looking at a hold, or listing all of them,
// waits for nobody; a hold that has ended is read from the book without any lock.
package holds

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"slices"
	"sync"

	"golang.org/x/sync/errgroup"

	"idlehiss/core/judge"
	"idlehiss/core/runsheet"
	"idlehiss/core/terms"
	"idlehiss/desk"
	"idlehiss/kit"
	"idlehiss/logbook"
	"idlehiss/snapshot"
)

// New opens the room on a book: running holds go on, with the gap shown. One that
// cannot be taken up again says why, and leaves the others alone.
func New(ctx context.Context, d *desk.Desk) (*Room, error) {
	r := &Room{desk: d, report: (*judge.Live).Report, live: map[string]*keeper{}, lost: map[string]string{}}
	r.ctx, r.stop = context.WithCancel(context.Background())
	running, err := d.Book.RunningHolds(ctx)
	if err != nil {
		return nil, err
	}
	const atOnce = 4 // while one waits for the disk another is judged
	var all errgroup.Group
	all.SetLimit(atOnce)
	for _, h := range running {
		all.Go(func() error {
			if err := safely(func() error { return r.resume(ctx, h) }); err != nil {
				r.lose(h.ID, err)
			}
			return nil
		})
	}
	return r, all.Wait()
}

// Close stops the gauges. Holds stay open in the book.
func (r *Room) Close() {
	r.stop()
	r.asking.Wait()
}

// start lets a keeper begin its work.
func (r *Room) start(rec record, sent shownSoFar) (*keeper, error) {
	k := &keeper{room: r, todo: make(chan task), gone: make(chan struct{}), restart: true, sent: sent}
	k.now.record = rec
	if err := k.attach(r.ctx); err != nil {
		k.detach()
		return nil, err
	}
	k.judgeIt()
	k.publish()
	r.add(k)
	r.asking.Go(func() { k.run(r.ctx) })
	return k, nil
}

// resume takes a running hold up again after the process was away.
func (r *Room) resume(ctx context.Context, h logbook.Hold) error {
	rec, err := read(ctx, r.desk, h, r.desk.Book.Readings(ctx, h.ID))
	if err != nil {
		return err
	}
	if near := rec.rig.near(); near.ByItself() {
		now, last := r.desk.Clock.Now(), h.At
		if all := rec.near(); len(all) > 0 {
			last = rec.moment(all[len(all)-1].AtS)
		}
		if now.Sub(last) > gapAfter {
			g := logbook.Gap{HoldID: h.ID, From: last, To: now, Why: gapServerOff}
			if err := r.desk.Take(ctx, func(tx *logbook.Tx) error { return tx.AddGap(g) }); err != nil && !errors.Is(err, logbook.ErrCannotKeep) {
				return err
			}
			rec.gaps = append(rec.gaps, g)
		}
	}
	_, err = r.start(rec, shownSoFar{near: len(rec.near()), far: len(rec.side(Far).all), calls: len(rec.calls)})
	return err
}

// Beginning is a hold that is to begin.
type Beginning struct {
	JobID     string
	Machine   string
	Basis     snapshot.Basis
	Chamber   string
	Purpose   terms.Purpose
	Condition terms.Condition
	Rig       Rig
}

// Encode is the hold as the book keeps it, under the id of the write that begins it.
func (b *Beginning) Encode(st logbook.Stamp) (logbook.Hold, error) {
	rec := record{hold: logbook.Hold{Stamp: st, JobID: b.JobID, Purpose: b.Purpose, Condition: b.Condition, Chamber: b.Chamber, State: terms.Pumping, Simulated: b.Rig.StandIn != nil}, rig: b.Rig}
	if b.Purpose == terms.RigProof {
		rec.rig.Allowance = rec.allowance()
	}
	return rec.encode()
}

// Begin takes up a hold that has just been written.
func (r *Room) Begin(ctx context.Context, h logbook.Hold, b Beginning) error {
	if r.running(h.ID) != nil {
		return nil
	}
	rec, err := begin(h, b.Machine, b.Basis)
	if err != nil {
		return err
	}
	k, err := r.start(rec, shownSoFar{})
	if err != nil {
		return err
	}
	return k.do(ctx, func() error { return nil }, k.show)
}

// Free refuses a gauge that speaks for another hold.
func (r *Room) Free(holdID string, asked ...kit.Gauge) error {
	for _, k := range r.keepers() {
		p := k.pic.Load()
		for _, g := range p.speaking() {
			for _, a := range asked {
				if p.hold.ID != holdID && g.StandIn == nil && g.ID == a.ID {
					return desk.Conflicts("%s is on the hold of %s: bleed that down first, or use another gauge", a.Name, p.machine)
				}
			}
		}
	}
	return nil
}

// InUse tells which gauges, pumps and jobs are on a hold now, and on whose machine; except those of one job.
func (r *Room) InUse(except string) map[string]string {
	on := map[string]string{}
	for _, k := range r.keepers() {
		if p := k.pic.Load(); p.hold.JobID != except {
			for _, g := range p.rig.gauges() {
				on[g.ID] = p.machine
			}
			on[p.rig.Pump.ID], on[p.hold.JobID] = p.machine, p.machine
		}
	}
	return on
}

// ReadGauges takes down what all gauges have said since the last time, and returns once
// it is judged and shown.
func (r *Room) ReadGauges(ctx context.Context) {
	speaking := slices.DeleteFunc(r.keepers(), func(k *keeper) bool { return len(k.pic.Load().speaking()) == 0 })
	round := r.desk.Round(len(speaking))
	var all sync.WaitGroup
	for _, k := range speaking {
		all.Go(func() {
			// One that ended meanwhile has nothing more to say.
			_ = k.do(ctx, func() error { k.takeDown(ctx, r.desk.Clock.Now(), round); return nil }, nil)
		})
	}
	all.Wait()
}

// Quiet waits until everything pressed so far is judged and shown.
func (r *Room) Quiet(ctx context.Context) {
	for _, k := range r.keepers() {
		k.quiet(ctx)
	}
}

// GiveAir gives trapped air that was worked out beside the job to its running holds.
func (r *Room) GiveAir(ctx context.Context, jobID string, given GivenAir) error {
	var errs []error
	for _, k := range r.keepers() {
		p := k.pic.Load()
		if p.hold.JobID != jobID || p.proof() {
			continue
		}
		err := k.do(ctx, func() error { return k.giveAir(ctx, given) }, func() {
			k.judgeIt()
			// A call that was made stands; beside it the same is said with its size.
			if len(k.now.calls) > 0 && k.now.report != nil && k.now.report.Firm {
				_ = k.keep(ctx) // a call that could not be kept is made at the next reading
			}
			k.show()
		})
		if !errors.Is(err, errGone) {
			errs = append(errs, err)
		}
	}
	return errors.Join(errs...)
}

func (k *keeper) giveAir(ctx context.Context, given GivenAir) error {
	next := k.now.record
	next.rig.Given = &given
	if next.hold.State == terms.Holding {
		next.settle()
	}
	if err := k.room.desk.Take(ctx, func(tx *logbook.Tx) error { return k.saveHold(tx, &next) }); err != nil {
		return err
	}
	k.now.record = next
	k.touched()
	k.publish() // a sheet read right after the receipt must show it
	return nil
}

// picture is a hold as it is now, in progress or read from the book.
func (r *Room) picture(ctx context.Context, id string) (*picture, error) {
	if k := r.running(id); k != nil {
		return k.pic.Load(), nil
	}
	h, err := r.desk.Book.Hold(ctx, id)
	if err != nil {
		return nil, desk.Sought(err)
	}
	return r.fromBook(ctx, h)
}

// fromBook reads a hold. What was said of one that has ended stands; a newer judge does
// not rewrite it. One that was never called is judged now.
func (r *Room) fromBook(ctx context.Context, h logbook.Hold) (*picture, error) {
	rec, err := read(ctx, r.desk, h, r.desk.Book.Readings(ctx, h.ID))
	if err != nil {
		return nil, fmt.Errorf("the hold %s: %w", h.ID, err)
	}
	p := &picture{record: rec, unjudged: r.why(h.ID)}
	p.air = airView(&rec)
	if n := len(rec.calls); n > 0 && h.State == terms.Ended {
		p.report = &rec.calls[n-1].report
		return p, nil
	}
	k := &keeper{room: r, now: *p}
	k.judgeIt()
	return &k.now, nil
}

// why is why a running hold was not taken up again.
func (r *Room) why(id string) string {
	r.mu.Lock()
	defer r.mu.Unlock()
	return r.lost[id]
}

// keepDigest keeps what a sheet shows of a hold that has ended.
func (r *Room) keepDigest(ctx context.Context, p *picture) error {
	raw, err := json.Marshal(p.digest())
	if err != nil {
		return err
	}
	return r.desk.Take(ctx, func(tx *logbook.Tx) error { return tx.SetDigest(p.hold.ID, raw) })
}

// Case is what a job hands over to see its holds: read once for all of them.
type Case struct {
	Machine string
	Basis   snapshot.Basis
	Holds   []logbook.Hold
	Calls   map[string][]logbook.Call // by hold
}

// Summaries are the holds of a job without their traces. Those that have ended are read
// from what was kept of them; where nothing was, the trace is read once and it is kept
// then.
func (r *Room) Summaries(ctx context.Context, c Case) ([]HoldView, error) {
	out := []HoldView{}
	for _, h := range c.Holds {
		p, err := r.summary(ctx, h, c)
		if err != nil {
			return nil, err
		}
		out = append(out, p.view(part{summary: true}, p.axis(r.desk.Clock.Now())))
	}
	return out, nil
}

func (r *Room) summary(ctx context.Context, h logbook.Hold, c Case) (*picture, error) {
	if k := r.running(h.ID); k != nil {
		return k.pic.Load(), nil
	}
	var kept digest
	if h.State != terms.Ended || h.Digest == nil || json.Unmarshal(h.Digest, &kept) != nil {
		p, err := r.fromBook(ctx, h)
		if err != nil {
			return r.unreadable(h, c, err), nil
		}
		if h.State != terms.Ended {
			return p, nil
		}
		// For the next time, which shows the same; that it could not be kept hides nothing.
		_, kept = r.keepDigest(ctx, p), p.digest()
	}
	rec, err := begin(h, c.Machine, c.Basis)
	if err != nil {
		return r.unreadable(h, c, err), nil
	}
	rec.calls = decodeCalls(c.Calls[h.ID], rec.unit)
	p := &picture{record: rec, air: kept.Air, kept: &kept}
	if n := len(rec.calls); n > 0 {
		p.report = &rec.calls[n-1].report
	}
	return p, nil
}

// unreadable stands in for a hold that the book cannot give: one bad record does not
// take its sheet with it.
func (r *Room) unreadable(h logbook.Hold, c Case, err error) *picture {
	rec := record{hold: h, machine: c.Machine, circuit: &c.Basis.Circuit}
	rec.rig.Gauge = runsheet.Suitable(100e3)
	_, rec.unit = rec.rig.Gauge.Ring()
	return &picture{record: rec, unjudged: err.Error(), kept: &digest{}}
}

// Hold gives a hold with its whole trace, thinned for the screen.
func (r *Room) Hold(ctx context.Context, id string) (HoldView, error) {
	p, err := r.picture(ctx, id)
	if err != nil {
		return HoldView{}, err
	}
	return p.view(part{whole: true}, p.axis(r.desk.Clock.Now())), nil
}

// Running are the holds in progress, first begun first, with their traces.
func (r *Room) Running() []HoldView { return r.allRunning(part{whole: true}) }

// RunningSummaries are the same without their traces.
func (r *Room) RunningSummaries() []HoldView { return r.allRunning(part{summary: true}) }

func (r *Room) allRunning(want part) []HoldView {
	out := []HoldView{}
	for _, k := range r.keepers() {
		p := k.pic.Load()
		out = append(out, p.view(want, p.axis(r.desk.Clock.Now())))
	}
	return out
}
