package holds

import (
	"context"
	"encoding/json"
	"errors"

	"idlehiss/core/judge"
	"idlehiss/core/terms"
	"idlehiss/desk"
	"idlehiss/logbook"
)

// callIfMade keeps a call that is made firmly. At the end the answer to the whole hold
// is kept, but "not yet" takes nothing back.
func (k *keeper) callIfMade(ctx context.Context) error {
	p := &k.now
	ended := p.hold.State == terms.Ended
	if p.report == nil || k.doubted() && !ended {
		return nil
	}
	c := p.report.Call
	made := p.report.Firm || c == judge.NeverReached || ended && c != judge.NotYet
	if !made && !(ended && len(p.calls) == 0) {
		return nil
	}
	if n := len(p.calls); n > 0 && p.calls[n-1].call == c && !ended {
		return nil // the last says the same
	}
	return k.keep(ctx)
}

// takeBack keeps what is made of a hold now, where its last call leant on a reading
// that is ignored since.
func (k *keeper) takeBack(ctx context.Context) error {
	p := &k.now
	if n := len(p.calls); n == 0 || p.report == nil || p.hold.State != terms.Holding || p.calls[n-1].call == p.report.Call {
		return nil
	}
	return k.keep(ctx)
}

// keep adds what is made of the hold now to its calls.
func (k *keeper) keep(ctx context.Context) error {
	p := &k.now
	c, err := callOf(p, k.room.desk)
	if err != nil {
		return err
	}
	if err := k.room.desk.Take(ctx, func(tx *logbook.Tx) error {
		return errors.Join(keepCall(tx, &p.record, c, p.report), k.room.tellCall(ctx, tx, p.hold.JobID))
	}); err != nil {
		return err
	}
	p.calls = append(p.calls, call{at: c.At, call: p.report.Call, report: *p.report})
	k.room.tellJob(p.hold.JobID, "call")
	return nil
}

// callOf is a call as the book keeps it.
func callOf(p *picture, d *desk.Desk) (logbook.Call, error) {
	raw, err := json.Marshal(p.report)
	return logbook.Call{Stamp: logbook.Stamp{ID: desk.NewID(), At: d.Clock.Now(), By: "judge", Device: "server"}, HoldID: p.hold.ID, Judge: judge.Version,
		Call: string(p.report.Call), LastSeq: p.lastSeq(Near), Report: raw}, err
}

// keepCall writes a call, and what the book shows of the job by it.
func keepCall(tx *logbook.Tx, rec *record, c logbook.Call, rep *judge.Report) error {
	if err := tx.AddCall(c); err != nil {
		return err
	}
	if rec.hold.Purpose == terms.RigProof || len(rec.circuit.Tests()) > 1 {
		return nil // one of several steps does not speak for the job
	}
	var loss *float64
	if x := rep.Coolant(terms.NotNoticed); x != nil && rep.Call == judge.Leaking {
		loss = new(x.Value) // at most
	}
	return tx.Called(rec.hold.JobID, c.Call, loss)
}

// quiet waits until everything left to be done so far is done, judged and shown.
func (k *keeper) quiet(ctx context.Context) {
	_ = k.do(ctx, func() error {
		if k.owes {
			k.settled(ctx)
		}
		return nil
	}, nil) // it may have ended meanwhile: then it is quiet
}

// settled judges and shows the hold after a press.
func (k *keeper) settled(ctx context.Context) {
	k.judgeIt()
	if k.now.hold.State == terms.Holding {
		_ = k.callIfMade(ctx) // a call that could not be kept is made at the next reading
	}
	k.show()
}
