package logbook

import (
	"cmp"
	"context"
	"errors"
	"fmt"
	"iter"

	"idlehiss/core/trace"
)

// A reading is a row, which takes microseconds to read; a hold overnight has a hundred thousand. So many in a row are
// therefore kept once more as one row. The readings themselves stay what the book says: a pack is made from them, and
// the database drops it when one of them changes.

// packedSince is the version of the book that has packs.
const packedSince = 12

// packOf is how many readings are in a pack; the database, which drops those that changed, has the figure too.
const packOf = 2048

// pack packs the readings of a gauge that end with a number, where all of them are there.
func (t *Tx) pack(holdID string, gauge, last int) error {
	first := last - packOf + 1
	rows := make([]trace.Row, 0, packOf)
	for r, err := range readingsFrom(t.ctx, t.tx, holdID, key{gauge, first - 1}, key{gauge, last + 1}) {
		if err != nil {
			return err
		}
		rows = append(rows, trace.Row{At: micro(r.At), Value: r.Value, Taken: trace.Taken{Unit: r.Unit, How: r.How, By: r.By, Device: r.Device, Struck: r.Struck}})
	}
	if len(rows) != packOf {
		return nil // they are read one by one
	}
	body, err := trace.Pack(rows)
	if err != nil {
		return err
	}
	return t.exec("INSERT OR REPLACE INTO packed(hold_id, gauge, first, body) VALUES (?,?,?,?)", holdID, gauge, first, body)
}

// key is a reading's place among those of its hold.
type key struct{ gauge, seq int }

// beyond is after every one.
var beyond = key{1 << 30, 0}

// readingsFrom reads those between two places, which are not among them.
func readingsFrom(ctx context.Context, from queryer, holdID string, after, before key) iter.Seq2[Reading, error] {
	return func(yield func(Reading, error) bool) {
		rows, err := from.QueryContext(ctx, `SELECT gauge, seq, at, value, unit, how, by, device, struck FROM reading
			WHERE hold_id = ? AND (gauge, seq) > (?, ?) AND (gauge, seq) < (?, ?) ORDER BY gauge, seq`, holdID, after.gauge, after.seq, before.gauge, before.seq)
		r, at := Reading{HoldID: holdID}, int64(0)
		into := []any{&r.Gauge, &r.Seq, &at, &r.Value, &r.Unit, &r.How, &r.By, &r.Device, &r.Struck}
		enough := errors.New("enough")
		err = eachRow(rows, err, func() error {
			err := rows.Scan(into...)
			if r.At = moment(at); err == nil && !yield(r, nil) {
				return enough
			}
			return err
		})
		if err != nil && err != enough {
			yield(Reading{}, err)
		}
	}
}

// Readings reads a hold's one by one, each gauge's in the order in which they were taken
// down, as they lie in the book. It ends at the first error.
func (b *Book) Readings(ctx context.Context, holdID string) iter.Seq2[Reading, error] {
	return func(yield func(Reading, error) bool) {
		// First what has arrived: moved meanwhile, it is found twice and not nowhere.
		arrived, err := arrivingFrom(ctx, b.db, holdID)
		if err != nil {
			yield(Reading{}, err)
			return
		}
		for r, err := range b.settled(ctx, holdID) {
			for err == nil && len(arrived) > 0 {
				c := cmp.Or(cmp.Compare(arrived[0].Gauge, r.Gauge), cmp.Compare(arrived[0].Seq, r.Seq))
				if c > 0 {
					break
				}
				if c < 0 && !yield(arrived[0], nil) {
					return
				}
				arrived = arrived[1:]
			}
			if !yield(r, err) || err != nil {
				return
			}
		}
		for _, r := range arrived {
			if !yield(r, nil) {
				return
			}
		}
	}
}

// settled reads those that do not arrive any more.
func (b *Book) settled(ctx context.Context, holdID string) iter.Seq2[Reading, error] {
	return func(yield func(Reading, error) bool) {
		rows, err := b.db.QueryContext(ctx, "SELECT gauge, first, body FROM packed WHERE hold_id = ? ORDER BY gauge, first", holdID)
		if err != nil {
			yield(Reading{}, err)
			return
		}
		defer rows.Close()
		last := key{}
		between := func(before key) bool {
			if last.gauge == before.gauge && last.seq+1 == before.seq {
				return true
			}
			for r, err := range readingsFrom(ctx, b.db, holdID, last, before) {
				if !yield(r, err) || err != nil {
					return false
				}
			}
			return true
		}
		for rows.Next() {
			var at key
			var body []byte
			if err := rows.Scan(&at.gauge, &at.seq, &body); err != nil {
				yield(Reading{}, err)
				return
			}
			packed, err := trace.Unpack(body)
			if err != nil {
				continue // its rows are read
			}
			if !between(at) {
				return
			}
			for i, x := range packed {
				if !yield(Reading{holdID, at.gauge, at.seq + i, moment(x.At), x.Value, x.Unit, x.How, x.By, x.Device, x.Struck}, nil) {
					return
				}
			}
			last = key{at.gauge, at.seq + packOf - 1}
		}
		if err := rows.Err(); err != nil {
			yield(Reading{}, fmt.Errorf("packed readings: %w", err))
			return
		}
		between(beyond)
	}
}
