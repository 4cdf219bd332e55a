package logbook

import (
	"cmp"
	"context"
	"fmt"
	"slices"
)

// The readings of a hold lie together. So a commit of what a dozen gauges have said touches a dozen pages, and writes
// each of them for one figure. What gauges say is therefore first taken down in the order in which it comes, in a table
// of its own that stays small, and moved in one go. It is in the book, and read, either way.

// arrivingSince is the version of the book that has that table.
const arrivingSince = 13

// mostArriving is as many as lie there before they are moved.
const mostArriving = 2048

// manyAtOnce is as many as are worth a page of their own: they are taken down where they stay.
const manyAtOnce = 128

// Arrive takes down readings as they come; a hold's are numbered in that order.
func (t *Tx) Arrive(rs ...Reading) error {
	if len(rs) >= manyAtOnce {
		return t.AddReadings(rs...)
	}
	t.wrote = true
	stmt, err := t.tx.PrepareContext(t.ctx, "INSERT INTO arriving(hold_id, gauge, seq, at, value, unit, how, by, device) VALUES (?,?,?,?,?,?,?,?,?)")
	if err != nil {
		return err
	}
	defer stmt.Close()
	full := false
	for _, r := range rs {
		res, err := stmt.ExecContext(t.ctx, r.HoldID, r.Gauge, r.Seq, micro(r.At), r.Value, r.Unit, r.How, r.By, r.Device)
		if err != nil {
			return fmt.Errorf("reading %d of gauge %d: %w", r.Seq, r.Gauge, err)
		}
		n, err := res.LastInsertId()
		if err != nil {
			return err
		}
		full = full || n >= mostArriving
	}
	if full {
		return t.settle()
	}
	return nil
}

// settle moves all that has arrived to the readings.
func (t *Tx) settle() error {
	all, err := arrivingFrom(t.ctx, t.tx, "")
	if err != nil || len(all) == 0 {
		return err
	}
	// Whoever takes down a hold's readings numbers them. Were a number given twice, the reading is kept under the next:
	// none must stand in the way of all that come later.
	var last key
	for i := range all {
		r := &all[i]
		if i == 0 || all[i-1].HoldID != r.HoldID || last.gauge != r.Gauge {
			last.gauge = r.Gauge
			if err := t.tx.QueryRowContext(t.ctx, "SELECT coalesce(max(seq), 0) FROM reading WHERE hold_id = ? AND gauge = ?", r.HoldID, r.Gauge).Scan(&last.seq); err != nil {
				return err
			}
		}
		r.Seq = max(r.Seq, last.seq+1)
		last.seq = r.Seq
	}
	if err := t.addReadings(all...); err != nil {
		return err
	}
	if err := t.keepStruck(all); err != nil {
		return err
	}
	return t.exec("DELETE FROM arriving")
}

// arrivingFrom reads what has arrived of a hold, or of all for "", in the order in which readings lie.
func arrivingFrom(ctx context.Context, from queryer, holdID string) ([]Reading, error) {
	rows, err := from.QueryContext(ctx, "SELECT hold_id, at, gauge, seq, value, unit, how, by, device, struck FROM arriving WHERE ?1 = '' OR hold_id = ?1 ORDER BY n", holdID)
	all, err := collect(rows, err, func(r *Reading, at *int64) []any {
		return []any{&r.HoldID, at, &r.Gauge, &r.Seq, &r.Value, &r.Unit, &r.How, &r.By, &r.Device, &r.Struck}
	}, func(r *Reading, at int64) { r.At = moment(at) })
	slices.SortStableFunc(all, func(a, b Reading) int {
		return cmp.Or(cmp.Compare(a.HoldID, b.HoldID), cmp.Compare(a.Gauge, b.Gauge), cmp.Compare(a.Seq, b.Seq))
	})
	return all, err
}
