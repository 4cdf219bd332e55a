package holds

import (
	"cmp"
	"context"
	"errors"

	"idlehiss/core/judge"
	"idlehiss/core/runsheet"
	"idlehiss/core/terms"
	"idlehiss/core/trace"
	"idlehiss/desk"
	"idlehiss/gauges"
	"idlehiss/logbook"
)

// HoldEvent is something done or heard during a hold.
type HoldEvent struct {
	desk.Write
	Kind string `json:"kind" maxLength:"80" doc:"stroke, bleed, isolate, top-up, tap, moved, first hiss, release, engine on, engine off, spray, or a remark"`
}

// Undo marks a reading as ignored; it stays in the book.
type Undo struct {
	desk.Write
	Seq    int    `json:"seq" minimum:"0" doc:"which reading; 0: the last one typed"`
	Reason string `json:"reason,omitempty" maxLength:"120"`
	Back   bool   `json:"back,omitempty" doc:"count the last one that was undone again"`
}

// Leave lets a hold run on without its person, or takes it up again.
type Leave struct {
	desk.Write
	LaidBy bool `json:"laid_by"`
}

// Correction puts right under which condition a hold is done.
type Correction struct {
	desk.Write
	Condition terms.Condition `json:"condition"`
}

// pressed is what a write changed of a hold.
const (
	changedReadings = "readings"
	changedEvents   = "events"
	changedState    = "state"
)

// press hands a write on a hold to its keeper. What is in the book already is answered
// as it was; a hold that has ended takes nothing more.
func (r *Room) press(ctx context.Context, id string, w desk.Write, content any, act func(*keeper) (desk.Receipt, error), then func(*keeper)) (desk.Receipt, error) {
	if receipt, was, err := desk.Again[desk.Receipt](ctx, r.desk, w, content); was || err != nil {
		return receipt, err
	}
	k := r.running(id)
	if k == nil {
		return desk.Receipt{}, r.closed(ctx, id)
	}
	var receipt desk.Receipt
	err := k.do(ctx, func() (err error) { receipt, err = act(k); return err }, func() { then(k) })
	if errors.Is(err, errGone) {
		err = r.closed(ctx, id)
	}
	return receipt, err
}

// closed says why nothing can be taken down on a hold.
func (r *Room) closed(ctx context.Context, id string) error {
	if _, err := r.desk.Book.Hold(ctx, id); err != nil {
		return desk.Sought(err)
	}
	return desk.Conflicts("this hold has ended. Begin a new hold to go on")
}

// Event takes down what was done or heard.
func (r *Room) Event(ctx context.Context, holdID string, in HoldEvent) (desk.Receipt, error) {
	if in.Kind == "" {
		return desk.Receipt{}, desk.Refuse("kind", "type what happened")
	}
	return r.press(ctx, holdID, in.Write, in, func(k *keeper) (desk.Receipt, error) { return k.event(ctx, in) }, func(k *keeper) {
		if k.now.hold.State == terms.Ended {
			return // it was judged and shown at once
		}
		k.settled(ctx)
		if in.Kind == trace.Isolate || in.Kind == trace.ActOver { // what an act showed moves the suspects
			k.room.tellJob(k.now.hold.JobID, changedState)
		}
	})
}

// event writes an event, and what follows from it for the hold's state.
func (k *keeper) event(ctx context.Context, in HoldEvent) (desk.Receipt, error) {
	st, err := k.room.desk.StampWithin(in.Write, k.now.hold.At)
	if err != nil {
		return desk.Receipt{}, err
	}
	stand := k.stand()
	if stand != nil {
		// What the simulated gauge has said up to now comes before what is done now.
		st.At = k.room.desk.Clock.Now()
		k.takeDown(ctx, st.At, k.room.desk.Round(1))
	}
	switch {
	case in.Kind == trace.Isolate && k.now.hold.State == terms.Holding:
		return desk.Receipt{}, desk.Conflicts("the supply is already shut. If more was pumped in, note a top-up")
	case in.Kind == trace.TopUp && k.now.hold.State != terms.Holding:
		return desk.Receipt{}, desk.Conflicts("a top-up belongs in a hold: shut the supply first")
	}
	next := k.now.record // becomes the record once it is in the book
	e := logbook.Event{Stamp: st, HoldID: next.hold.ID, Kind: in.Kind}
	if near := next.near(); len(near) > 0 {
		e.PressurePa = new(near[len(near)-1].GaugePa)
	}
	next.happened(e)
	changed := []string{changedEvents}
	var extra []logbook.Reading
	if stand != nil {
		stand.stand.Do(gauges.Action{AtS: next.axis(e.At), Kind: e.Kind})
		if e.Kind == trace.Stroke || e.Kind == trace.Bleed {
			extra = append(extra, k.standReading(stand, e.At, next.lastSeq(Near)+1))
			next.add(Near, next.taken(extra[0]))
		}
	}
	switch e.Kind {
	case trace.Isolate:
		next.hold.State, next.hold.IsolatedAt = terms.Holding, &e.At
		next.settle()
		changed = append(changed, changedState)
	case trace.Release:
		next.hold.State, next.hold.EndedAt = terms.Ended, &e.At
		changed = append(changed, changedState)
	}
	receipt, ran, err := desk.Put(ctx, k.room.desk, in.Write, in, func(tx *logbook.Tx, _ logbook.Stamp) (desk.Receipt, error) {
		receipt := desk.Received(in.Write, next.hold.ID, changed...)
		if err := errors.Join(tx.AddEvent(e), tx.Arrive(extra...)); err != nil || len(changed) == 1 {
			return receipt, err
		}
		return receipt, k.saveHold(tx, &next)
	})
	if err != nil {
		if stand != nil { // it has lived what did not happen
			err = errors.Join(err, k.attach(k.room.ctx))
		}
		return receipt, err
	}
	if !ran {
		return receipt, nil
	}
	if at := next.axis(e.At); !k.inOrder(at) || e.Kind == trace.Isolate || e.Kind == trace.EngineOn || e.Kind == trace.EngineOff {
		k.restart = true // the question changes with it, or it lies in the past
	}
	k.now.record = next
	k.sent.whole = true
	if trace.Moves(e.Kind) {
		for _, ln := range k.lines {
			ln.watch.Done()
		}
	}
	if e.Kind == trace.Release {
		return receipt, k.end(ctx)
	}
	k.publish()
	return receipt, nil
}

// Undo marks a reading as ignored, for a wrong press.
func (r *Room) Undo(ctx context.Context, holdID string, in Undo) (desk.Receipt, error) {
	return r.press(ctx, holdID, in.Write, in, func(k *keeper) (desk.Receipt, error) { return k.undo(ctx, in) }, func(k *keeper) {
		k.settled(ctx)
		// A call that leant on the reading is followed by one that takes it back.
		_ = k.takeBack(ctx) // a call that could not be kept is made at the next reading
		k.show()
	})
}

func (k *keeper) undo(ctx context.Context, in Undo) (desk.Receipt, error) {
	rec := &k.now.record
	seq, near := 0, rec.near()
	for i := len(near) - 1; i >= 0 && seq == 0; i-- {
		if r, itself := near[i], near[i].Is&trace.Own != 0; r.Struck() == in.Back && !(in.Back && itself) && (in.Seq == int(r.Seq) || in.Seq == 0 && !itself) {
			seq = int(r.Seq)
		}
	}
	if seq == 0 {
		return desk.Receipt{}, desk.Refuse("seq", "there is no such reading to undo")
	}
	reason := cmp.Or(in.Reason, wrongPress)
	if in.Back {
		reason = ""
	}
	receipt, ran, err := desk.Put(ctx, k.room.desk, in.Write, in, func(tx *logbook.Tx, _ logbook.Stamp) (desk.Receipt, error) {
		receipt := desk.Received(in.Write, rec.hold.ID, changedReadings)
		receipt.Seq = seq
		return receipt, tx.Strike(rec.hold.ID, int(Near), seq, reason)
	})
	if err == nil && ran {
		rec.change(Near, seq, func(r *reading) { r.Why = rec.whys.Place(reason) })
		k.touched()
		k.publish()
	}
	return receipt, err
}

// Leave lets a hold run on without its person, or takes it up again.
func (r *Room) Leave(ctx context.Context, holdID string, in Leave) (desk.Receipt, error) {
	return r.press(ctx, holdID, in.Write, in, func(k *keeper) (desk.Receipt, error) {
		next := k.now.record
		next.hold.LaidBy = in.LaidBy
		receipt, _, err := desk.Put(ctx, k.room.desk, in.Write, in, func(tx *logbook.Tx, _ logbook.Stamp) (desk.Receipt, error) {
			return desk.Received(in.Write, holdID, changedState), k.saveHold(tx, &next)
		})
		if err == nil {
			k.now.record = next
			k.publish()
		}
		return receipt, err
	}, func(k *keeper) { k.show() })
}

// SetCondition puts right under which condition a hold is done, or was while its job is open.
func (r *Room) SetCondition(ctx context.Context, holdID string, in Correction) (desk.Receipt, error) {
	put := func(rec *record) (desk.Receipt, error) {
		if err := runsheet.CheckCondition(rec.step, in.Condition); err != nil {
			return desk.Receipt{}, desk.Refuse("condition", "%v", err)
		}
		receipt, _, err := desk.Put(ctx, r.desk, in.Write, in, func(tx *logbook.Tx, _ logbook.Stamp) (desk.Receipt, error) {
			return desk.Received(in.Write, holdID, changedState), errors.Join(tx.SetCondition(holdID, in.Condition), r.tellCall(ctx, tx, rec.hold.JobID))
		})
		if err == nil {
			rec.hold.Condition = in.Condition
		}
		return receipt, err
	}
	if r.running(holdID) != nil {
		return r.press(ctx, holdID, in.Write, in, func(k *keeper) (desk.Receipt, error) { return put(&k.now.record) }, func(k *keeper) {
			k.touched()
			k.settled(ctx)
			k.room.tellJob(k.now.hold.JobID, changedState)
		})
	}
	p, err := r.picture(ctx, holdID)
	if err != nil {
		return desk.Receipt{}, err
	}
	if j, err := r.desk.Book.Job(ctx, p.hold.JobID); err != nil || j.State != terms.Open {
		return desk.Receipt{}, errors.Join(err, r.closed(ctx, holdID))
	}
	k := &keeper{room: r, restart: true, now: picture{record: p.record}}
	receipt, err := put(&k.now.record)
	if err != nil {
		return receipt, err
	}
	// What was said stands; where it is otherwise under the right condition, that is said after it.
	k.judgeIt()
	if n := len(k.now.calls); n > 0 && k.now.report != nil && k.now.calls[n-1].call != k.now.report.Call {
		err = k.keep(ctx)
	}
	k.sent.whole = true
	err = errors.Join(err, r.keepDigest(ctx, &k.now))
	k.show()
	r.tellJob(p.hold.JobID, changedState)
	return receipt, err
}

// endsWithCall reports whether a hold that ended is called. One that was let down before
// its supply was shut is not, but for one: it was pumped and never got there.
func endsWithCall(p *picture) bool {
	if p.report == nil {
		return false
	}
	return p.hold.IsolatedAt != nil || p.report.Call == judge.NeverReached && len(p.near()) >= leastStalled
}

// leastStalled is the readings that a pump-up must have to be called stalled.
const leastStalled = 3

// end makes the last call on the whole hold, and keeps what a sheet shows of it.
func (k *keeper) end(ctx context.Context) error {
	k.judgeIt()
	p := &k.now
	if endsWithCall(p) {
		if err := k.callIfMade(ctx); err != nil {
			return err
		}
	}
	if err := k.room.keepDigest(ctx, p); err != nil {
		return err
	}
	k.show()
	k.room.drop(p.hold.ID)
	k.room.tellJob(p.hold.JobID, changedState)
	return nil
}
