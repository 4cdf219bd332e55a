package holds

import (
	"context"
	"errors"
	"fmt"
	"iter"
	"math"
	"time"

	"idlehiss/core/quantity"
	"idlehiss/core/terms"
	"idlehiss/core/trace"
	"idlehiss/desk"
	"idlehiss/logbook"
)

// MostInFile is as many readings as the book takes in at once.
const MostInFile = 200_000

// TakeFile makes a trace a finished hold under an id that is the content's own, judges and calls it. beside
// writes what belongs with it into the same transaction.
func (r *Room) TakeFile(ctx context.Context, id string, w desk.Write, b Beginning, tr *trace.Trace, beside func(*logbook.Tx, logbook.Stamp) error) (desk.Receipt, error) {
	first, last := tr.Span()
	w.ID = id
	begun := r.desk.Stamp(w).At.Add(-seconds(last - first)).Truncate(time.Microsecond)
	if own := tr.Start.Add(seconds(first)).UTC(); !tr.Start.IsZero() && own.Before(begun) {
		begun = own.Truncate(time.Microsecond)
	}
	at := func(t float64) time.Time { return begun.Add(seconds(t - first)) }
	readings := rows(tr, r.desk.Stamp(w), at)
	if err := r.desk.Ahead(ctx, id, readings); err != nil {
		return desk.Receipt{}, err
	}
	receipt, ran, err := desk.Put(ctx, r.desk, w, nil, func(tx *logbook.Tx, st logbook.Stamp) (desk.Receipt, error) {
		now := st
		st.At = begun
		h, err := b.Encode(st)
		if err != nil {
			return desk.Receipt{}, err
		}
		shut, end := at(tr.HoldFrom()), at(last)
		h.State, h.IsolatedAt, h.EndedAt = terms.Ended, &shut, &end
		if err := tx.AddHold(h); err != nil {
			return desk.Receipt{}, err
		}
		errs := []error{tx.Arrived(id)}
		for i, e := range tr.Events {
			es := st
			es.ID, es.At = fmt.Sprintf("%s-e%d", id, i), at(e.AtS)
			errs = append(errs, tx.AddEvent(logbook.Event{Stamp: es, HoldID: id, Kind: e.Kind}))
		}
		return desk.Received(w, id, "holds"), errors.Join(append(errs, beside(tx, now))...)
	})
	if err != nil || !ran {
		return receipt, errors.Join(err, r.desk.Book.TakeBack(ctx, id))
	}
	h, err := r.desk.Book.Hold(ctx, id)
	if err != nil {
		return receipt, err
	}
	return receipt, r.callFile(ctx, h, readings)
}

// callFile judges a hold that came whole.
func (r *Room) callFile(ctx context.Context, h logbook.Hold, readings iter.Seq[logbook.Reading]) error {
	rec, err := read(ctx, r.desk, h, desk.Giving(&r.desk.Others, readings))
	if err != nil {
		return err
	}
	if rec.rig.GasM3 == 0 { // the file's own strokes may show the air
		rec.settle()
		if err := r.desk.Take(ctx, func(tx *logbook.Tx) error {
			next, err := rec.encode()
			return errors.Join(err, tx.SaveHold(next))
		}); err != nil {
			return err
		}
	}
	k := &keeper{room: r, restart: true}
	k.now.record = rec
	k.judgeIt()
	if err := k.callIfMade(ctx); err != nil {
		return err
	}
	r.tellJob(h.JobID, "holds")
	return r.keepDigest(ctx, &k.now)
}

func seconds(s float64) time.Duration { return time.Duration(math.Round(s*1e6)) * time.Microsecond }

// rows are a trace's readings and temperatures as the book keeps them.
func rows(tr *trace.Trace, st logbook.Stamp, at func(float64) time.Time) iter.Seq[logbook.Reading] {
	return func(yield func(logbook.Reading) bool) {
		for i, x := range tr.Readings {
			if !yield(logbook.Reading{HoldID: st.ID, Gauge: int(Near), Seq: i + 1, At: at(x.AtS), Value: quantity.TenDigits(tr.Unit.Of(x.GaugePa)), Unit: tr.Unit.Symbol, How: string(x.How), By: st.By, Device: fromFile}) {
				return
			}
		}
		for i, x := range tr.Temperature {
			if !yield(logbook.Reading{HoldID: st.ID, Gauge: int(Thermometer), Seq: i + 1, At: at(x.AtS), Value: x.Value, Unit: "°C", How: string(trace.Read), By: st.By, Device: fromFile}) {
				return
			}
		}
	}
}
