package holds

import (
	"cmp"
	"context"
	"errors"
	"fmt"
	"maps"
	"slices"
	"strings"
	"sync"
	"sync/atomic"
	"time"

	"idlehiss/core/judge"
	"idlehiss/core/quantity"
	"idlehiss/core/steps"
	"idlehiss/core/terms"
	"idlehiss/core/trace"
	"idlehiss/desk"
	"idlehiss/logbook"
)

// Room is the holds of a shop.
type Room struct {
	desk   *desk.Desk
	report func(*judge.Live) judge.Report // asks a judge; a test may put a faulty one in
	called atomic.Pointer[Called]

	mu   sync.Mutex // guards live and lost
	live map[string]*keeper
	lost map[string]string // running holds that could not be taken up again, and why

	ctx    context.Context // ends with the room
	stop   context.CancelFunc
	asking sync.WaitGroup // gauges on the wire, and keepers
}

// Called is what is done in the write of a call, by whoever knows what it means for the job.
type Called func(ctx context.Context, tx *logbook.Tx, jobID string) error

// OnCall has that done from now on.
func (r *Room) OnCall(do Called) { r.called.Store(&do) }

func (r *Room) tellCall(ctx context.Context, tx *logbook.Tx, jobID string) error {
	if do := r.called.Load(); do != nil {
		return (*do)(context.WithoutCancel(ctx), tx, jobID) // a call often follows a press that was answered
	}
	return nil
}

// keeper is one hold in progress. A goroutine of its own does one thing after another
// with it: writes, judges, shows. It holds no lock while it does so; whoever looks at
// the hold gets its latest picture, and whoever wants something done leaves it in todo.
type keeper struct {
	room *Room
	todo chan task
	gone chan struct{} // closed when the hold has ended or the room is closed
	pic  atomic.Pointer[picture]

	// What follows is the goroutine's own.
	now     picture // as it becomes; published as a copy
	judge   *judge.Live
	unread  bool      // the judge knows that the temperature is not measured
	lines   []*line   // gauges that speak by themselves
	restart bool      // something earlier changed: judge from the beginning
	asked   time.Time // the judge, on the shop's clock
	owes    bool      // readings came since, and the judge is asked soon
	fed     fedSoFar
	sent    shownSoFar
	leaves  context.CancelFunc // stops its gauges on the wire
}

// fedSoFar is what the judge has been given: so many readings of the near gauge and
// events, up to a moment (s).
type fedSoFar struct {
	readings, events int
	atS              float64
}

// shownSoFar is what the pages have of a hold.
type shownSoFar struct {
	near, far int       // readings
	calls     int       //
	full      time.Time // when report and fork were sent
	whole     bool      // something earlier changed since
}

// task is something to be done with a hold: act is answered for, then follows what
// takes longer.
type task struct {
	act    func() error
	then   func()
	answer chan error
}

var errGone = errors.New("the hold has ended")

// do leaves something to be done and waits until act has answered. then follows
// without anybody waiting for it.
func (k *keeper) do(ctx context.Context, act func() error, then func()) error {
	t := task{act, then, make(chan error, 1)}
	select {
	case k.todo <- t:
	case <-k.gone:
		return errGone
	case <-ctx.Done():
		return ctx.Err()
	}
	select {
	case err := <-t.answer:
		return err
	case <-k.gone:
		select { // it ended with this task, or before it
		case err := <-t.answer:
			return err
		default:
			return errGone
		}
	}
}

// run is the goroutine.
func (k *keeper) run(ctx context.Context) {
	defer close(k.gone)
	defer k.detach()
	again := time.Tick(2 * time.Second) // while an act is watched: that no mark is crossed is evidence
	for k.now.hold.State != terms.Ended {
		select {
		case <-ctx.Done():
			return
		case <-again:
			if k.judge != nil && k.judge.Acting() {
				k.judgeIt()
				k.show()
			}
		case t := <-k.todo:
			err := safely(t.act)
			t.answer <- err
			if err == nil && t.then != nil {
				if err := safely(func() error { t.then(); return nil }); err != nil {
					k.now.unjudged = err.Error()
					k.publish()
				}
			}
		}
	}
	k.room.drop(k.now.hold.ID)
}

// safely turns a panic into an error: one hold must not take the shop with it.
func safely(do func() error) (err error) {
	defer func() {
		if p := recover(); p != nil {
			err = fmt.Errorf("%v", p)
		}
	}()
	return do()
}

// publish lets others see the hold as it is now.
func (k *keeper) publish() {
	p := k.now
	p.faults, p.foreign = nil, [2]bool{}
	for _, ln := range k.lines {
		if ln.fault != "" && p.hold.State != terms.Ended {
			p.faults = append(p.faults, ln.view(&k.now.record))
			p.foreign[ln.side-Near] = ln.fault == trace.OtherUnit
		}
	}
	k.now.faults, k.now.foreign = p.faults, p.foreign
	k.pic.Store(&p)
}

// judgeIt brings the judge up to date and asks it. A hold that cannot be judged says
// so; its readings are kept all the same.
func (k *keeper) judgeIt() {
	k.asked, k.owes = k.room.desk.Clock.Now(), false
	err := safely(func() error {
		unread := k.now.warmthUnread()
		if k.restart || k.judge == nil || unread != k.unread {
			k.unread = unread
			if err := k.fromTheBeginning(); err != nil {
				return err
			}
		} else {
			k.feed()
		}
		k.restart = false
		k.ask()
		return nil
	})
	k.now.unjudged = ""
	if err != nil {
		k.judge, k.now.report, k.now.fork, k.restart = nil, nil, nil, true
		k.now.unjudged = err.Error()
	}
	if k.now.hold.State == terms.Pumping || k.now.air == nil {
		k.now.air = airView(&k.now.record)
	}
}

// fromTheBeginning feeds a fresh judge with all that stands, in order of time.
func (k *keeper) fromTheBeginning() error {
	j, err := judge.NewLive(k.now.question(), k.now.schools)
	if err != nil {
		return err
	}
	j.Expect(len(k.now.near()))
	k.judge, k.now.air, k.fed = j, nil, fedSoFar{}
	k.feed()
	return nil
}

// feed gives the judge what is new, in order of time, events before the readings of
// the same moment. It stops at a reading that is not believed yet.
func (k *keeper) feed() {
	p := &k.now
	events := func(until float64) {
		for ; k.fed.events < len(p.events); k.fed.events++ {
			e := p.events[k.fed.events]
			at := p.axis(e.At)
			if at > until {
				return
			}
			k.judge.Event(trace.Event{AtS: at, Kind: e.Kind})
			k.fed.atS = max(k.fed.atS, at)
		}
	}
	near := p.near()
	for ; k.fed.readings < len(near); k.fed.readings++ {
		r := near[k.fed.readings]
		if r.Is&trace.Held != 0 {
			return
		}
		if r.Struck() {
			continue
		}
		events(r.AtS)
		if c, ok := judge.Degrees(p.warmth, r.AtS); ok {
			k.judge.Temperature(trace.Sample{AtS: r.AtS, Value: c})
		}
		k.judge.Reading(r.Reading())
		k.fed.atS = r.AtS
	}
	events(quantity.MostSeconds)
}

// inOrder reports whether something at a moment comes after all that the judge has.
func (k *keeper) inOrder(atS float64) bool { return k.judge != nil && atS > k.fed.atS }

// ask takes the judge's report and its fork.
func (k *keeper) ask() {
	p := &k.now
	if p.hold.State == terms.Pumping {
		p.report, p.fork = nil, nil
		return
	}
	k.judge.Watch(p.hold.State != terms.Ended)
	if p.hold.State == terms.Holding {
		k.judge.Now(p.axis(k.room.desk.Clock.Now()))
	}
	rep := k.room.report(k.judge)
	p.report = &rep
	p.tapDue, p.tapUntilS = k.judge.Taps(p.axis(k.room.desk.Clock.Now()))
	if n := k.fed.readings; n > 0 {
		p.judgedS = p.near()[n-1].AtS
	}
	p.fork = forkAhead(k.judge, &rep, p.hold.State)
	if f := rep.Fork; f != nil && (f.TightAboveKPa != nil || f.LeakingBelowKPa != nil) {
		if n := len(p.trail); n == 0 || f.AtS > p.trail[n-1].AtS {
			p.trail = append(p.trail, steps.ForkIn(*f))
		}
		if len(p.trail) > mostTrail {
			odd := true
			p.trail = slices.DeleteFunc(slices.Clone(p.trail), func(steps.ForkAt) bool { odd = !odd; return odd })
		}
	}
}

// mostTrail is as many past forks as a chart shows.
const mostTrail = 400

// saveHold keeps the hold's state and rig in a write.
func (k *keeper) saveHold(tx *logbook.Tx, rec *record) error {
	h, err := rec.encode()
	if err != nil {
		return err
	}
	return tx.SaveHold(h)
}

// touched notes that something changed which was judged and shown before.
func (k *keeper) touched() { k.restart, k.sent.whole = true, true }

// line finds the line of a gauge; nil where a person reads it.
func (k *keeper) line(s Side) *line {
	i := slices.IndexFunc(k.lines, func(ln *line) bool { return ln.side == s })
	if i < 0 {
		return nil
	}
	return k.lines[i]
}

// stand is the simulated gauge that the hold is judged by, if it is one.
func (k *keeper) stand() *line {
	if ln := k.line(Near); ln != nil && ln.stand != nil {
		return ln
	}
	return nil
}

// doubted reports whether no call may lean on what the gauge says just now.
func (k *keeper) doubted() bool {
	ln := k.line(Near)
	return ln != nil && ln.doubt
}

// detach lets its gauges go.
func (k *keeper) detach() {
	if k.leaves != nil {
		k.leaves()
	}
	k.lines = nil
}

func (r *Room) lose(id string, err error) {
	r.mu.Lock()
	defer r.mu.Unlock()
	r.lost[id] = err.Error()
}

// running finds the keeper of a hold in progress; nil where there is none.
func (r *Room) running(id string) *keeper {
	r.mu.Lock()
	defer r.mu.Unlock()
	return r.live[id]
}

// keepers are those of all holds in progress, first begun first.
func (r *Room) keepers() []*keeper {
	r.mu.Lock()
	all := slices.Collect(maps.Values(r.live))
	r.mu.Unlock()
	slices.SortFunc(all, func(a, b *keeper) int {
		x, y := a.pic.Load(), b.pic.Load()
		return cmp.Or(x.hold.At.Compare(y.hold.At), strings.Compare(x.hold.ID, y.hold.ID))
	})
	return all
}

func (r *Room) add(k *keeper) {
	r.mu.Lock()
	defer r.mu.Unlock()
	r.live[k.now.hold.ID] = k
}

func (r *Room) drop(id string) {
	r.mu.Lock()
	defer r.mu.Unlock()
	delete(r.live, id)
}

func (r *Room) tellJob(jobID, what string) {
	r.desk.Tell(desk.JobNews, desk.Changed{ID: jobID, Changed: []string{what}})
}

// show publishes the hold and sends what is new of it to the pages.
func (k *keeper) show() { k.send(k.brief()) }

// brief reports whether the pages have the report as it is, but for the last half second.
func (k *keeper) brief() bool {
	c := k.room.desk.Clock
	return !k.sent.whole && len(k.now.calls) == k.sent.calls && c.Now().Sub(k.sent.full).Seconds() < inFullS*c.Speed()
}

// send shows the hold, brief for what is new of its readings alone.
func (k *keeper) send(brief bool) {
	k.publish()
	p, whole, now := k.pic.Load(), k.sent.whole, k.room.desk.Clock.Now()
	v := p.view(part{whole: whole, brief: brief, near: k.sent.near, far: k.sent.far}, p.axis(now))
	k.room.desk.Tell(desk.HoldNews, v)
	if !brief {
		k.sent.full = now
	}
	k.sent.near, k.sent.far, k.sent.calls, k.sent.whole = len(p.near()), len(p.side(Far).all), len(p.calls), false
}
