package holds

import (
	"context"
	"errors"
	"time"

	"idlehiss/core/quantity"
	"idlehiss/desk"
	"idlehiss/gauges"
	"idlehiss/logbook"
)

// Posted is what a gauge, a logger or a script says over plain HTTP.
type Posted struct {
	desk.Write
	Readings []PostedReading `json:"readings" minItems:"1" maxItems:"10000"`
}

// PostedReading is one of them.
type PostedReading struct {
	Value float64    `json:"value"`
	Unit  string     `json:"unit,omitempty" maxLength:"20" doc:"such as kPa; absent: that of the gauge's face"`
	At    *time.Time `json:"at,omitempty" doc:"when it was read, on the server's clock; absent: when it arrived"`
}

// ahead is how far a logger's clock may run before the server's.
const ahead = time.Second

// Post takes down what a gauge says of the hold it is on now. name finds what the gauge
// is called, or refuses one that there is not; it is asked only where no hold runs.
func (r *Room) Post(ctx context.Context, gaugeID string, name func() (string, error), in Posted) (desk.Receipt, error) {
	if receipt, was, err := desk.Again[desk.Receipt](ctx, r.desk, in.Write, in); was || err != nil {
		return receipt, err
	}
	for _, k := range r.keepers() {
		for _, g := range k.pic.Load().speaking() {
			if g.ID != gaugeID {
				continue
			}
			var receipt desk.Receipt
			var t taking
			err := k.do(ctx, func() (err error) { receipt, t, err = k.post(ctx, gaugeID, in); return err }, func() { k.absorb(ctx, []taking{t}) })
			if !errors.Is(err, errGone) {
				return receipt, err
			}
		}
	}
	called, err := name()
	if err != nil {
		return desk.Receipt{}, err
	}
	return desk.Receipt{}, desk.Conflicts("no hold runs on %s: start one with it first", called)
}

func (k *keeper) post(ctx context.Context, gaugeID string, in Posted) (receipt desk.Receipt, t taking, err error) {
	for _, ln := range k.lines {
		if ln.face.ID == gaugeID {
			t.ln = ln
		}
	}
	if t.ln == nil {
		return receipt, t, errGone
	}
	rec := &k.now.record
	receipt, _, err = desk.Put(ctx, k.room.desk, in.Write, in, func(tx *logbook.Tx, st logbook.Stamp) (desk.Receipt, error) {
		now := k.room.desk.Clock.Now()
		seq, last := rec.lastSeq(t.ln.side), time.Time{}
		if all := rec.side(t.ln.side).all; len(all) > 0 {
			last = rec.moment(all[len(all)-1].AtS)
		}
		t.rs, t.counts = nil, nil
		for i, x := range in.Readings {
			unit := x.Unit
			if unit == "" {
				unit = t.ln.unit.Symbol
			}
			u, err := quantity.Named(unit, quantity.Pressure)
			if err != nil {
				return receipt, desk.Refuse("readings", "reading %d: %v", i+1, err)
			}
			if !quantity.PossiblePa(u.SI(x.Value)) {
				return receipt, desk.Refuse("readings", "reading %d, %g %s, is beyond any gauge: at most 1 GPa either way is taken", i+1, x.Value, u.Symbol)
			}
			at := st.At
			if x.At != nil {
				at = x.At.UTC()
			}
			switch {
			case at.After(now.Add(ahead)):
				return receipt, desk.Refuse("readings", "reading %d is from %s, and it is only %s here: leave 'at' out, or ask /api/clock for the time", i+1, at.Format(time.RFC3339), now.Format(time.RFC3339))
			case at.Before(last):
				return receipt, desk.Refuse("readings", "reading %d is from %s, before one that is in the book already: send them in order", i+1, at.Format(time.RFC3339Nano))
			}
			seq++
			last = at
			t.rs = append(t.rs, k.heardReading(t.ln, gauges.Said{At: at, Value: x.Value, Unit: u.Symbol}, seq))
			t.counts = append(t.counts, 0)
		}
		receipt := desk.Received(in.Write, rec.hold.ID, changedReadings)
		receipt.Seq = seq
		return receipt, tx.Arrive(t.rs...)
	})
	if err == nil {
		t.ln.heard = k.room.desk.Clock.Now()
	}
	return receipt, t, err
}
