package logbook

import (
	"bytes"
	"cmp"
	"context"
	"encoding/binary"
	"encoding/gob"
	"fmt"
	"hash/crc32"
	"iter"
	"time"
)

// A reading is a row, which takes microseconds to read; a hold overnight has a hundred thousand. So many in a row are
// therefore kept once more as one row. The readings themselves stay what the book says: a pack is made from them, and
// the database drops it when one of them changes.

// packedSince is the version of the book that has packs.
const packedSince = 12

// packOf is how many readings are in a pack; the database, which drops those that changed, has the figure too.
const packOf = 2048

// pack is readings of one gauge numbered without a break, column by column.
type pack struct {
	At    []int64 // µs; each but the first since the one before
	Value []float64
	As    []uint16 // which of how
	How   []taken
}

// taken is what most readings of a gauge have in common.
type taken struct{ Unit, How, By, Device, Struck string }

func packed(rs []Reading) ([]byte, error) {
	p, seen, last := pack{}, map[taken]uint16{}, int64(0)
	for _, r := range rs {
		t := taken{r.Unit, r.How, r.By, r.Device, r.Struck}
		n, ok := seen[t]
		if !ok {
			n = uint16(len(seen))
			seen[t] = n
			p.How = append(p.How, t)
		}
		at := micro(r.At)
		p.At, p.Value, p.As = append(p.At, at-last), append(p.Value, r.Value), append(p.As, n)
		last = at
	}
	out := bytes.NewBuffer(make([]byte, sumBytes))
	err := gob.NewEncoder(out).Encode(p)
	body := out.Bytes()
	binary.LittleEndian.PutUint32(body, crc32.ChecksumIEEE(body[sumBytes:]))
	return body, err
}

// sumBytes is the length of the check sum in front of a pack.
const sumBytes = 4

// sound reports whether a pack is as it was written. The pages of a database carry no sum, and a reading must not change.
func sound(body []byte) bool {
	return len(body) > sumBytes && binary.LittleEndian.Uint32(body) == crc32.ChecksumIEEE(body[sumBytes:])
}

// unpacked hands out the readings of a pack; it reports whether there were all of them, and all were asked for.
func unpacked(body []byte, holdID string, gauge, first int, yield func(Reading, error) bool) bool {
	var p pack
	if err := gob.NewDecoder(bytes.NewReader(body[sumBytes:])).Decode(&p); err != nil {
		yield(Reading{}, fmt.Errorf("packed readings from %d on: %w", first, err))
		return false
	}
	at := int64(0)
	for i, since := range p.At {
		at += since
		t := p.How[p.As[i]]
		if !yield(Reading{holdID, gauge, first + i, time.UnixMicro(at).UTC(), p.Value[i], t.Unit, t.How, t.By, t.Device, t.Struck}, nil) {
			return false
		}
	}
	return true
}

// pack packs the readings of a gauge that end with a number, where all of them are there.
func (t *Tx) pack(holdID string, gauge, last int) error {
	first := last - packOf + 1
	rs := make([]Reading, 0, packOf)
	for r, err := range readingsFrom(t.ctx, t.tx, holdID, key{gauge, first - 1}, key{gauge, last + 1}) {
		if err != nil {
			return err
		}
		rs = append(rs, r)
	}
	if len(rs) != packOf {
		return nil // they are read one by one
	}
	body, err := packed(rs)
	if err != nil {
		return err
	}
	return t.exec("INSERT OR REPLACE INTO packed(hold_id, gauge, first, body) VALUES (?,?,?,?)", holdID, gauge, first, body)
}

// Pack packs what of a hold's readings is not packed yet: those that were taken down by a program before this one, and
// those of which one was struck.
func (b *Book) Pack(ctx context.Context, holdID string, gauge int) error {
	return b.Batch(ctx, func(tx *Tx) error {
		var last int
		if err := tx.tx.QueryRowContext(ctx, "SELECT coalesce(max(seq), 0) FROM reading WHERE hold_id = ? AND gauge = ?", holdID, gauge).Scan(&last); err != nil {
			return err
		}
		for n := packOf; n <= last; n += packOf {
			var has bool
			if err := tx.tx.QueryRowContext(ctx, "SELECT EXISTS (SELECT 1 FROM packed WHERE hold_id = ? AND gauge = ? AND first = ?)", holdID, gauge, n-packOf+1).Scan(&has); err != nil {
				return err
			}
			if !has {
				if err := tx.pack(holdID, gauge, n); err != nil {
					return err
				}
			}
		}
		return nil
	})
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
		if err != nil {
			yield(Reading{}, err)
			return
		}
		defer rows.Close()
		r, at := Reading{HoldID: holdID}, int64(0)
		into := []any{&r.Gauge, &r.Seq, &at, &r.Value, &r.Unit, &r.How, &r.By, &r.Device, &r.Struck}
		for rows.Next() {
			err := rows.Scan(into...)
			r.At = moment(at)
			if !yield(r, err) || err != nil {
				return
			}
		}
		if err := rows.Err(); err != nil {
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
			if !sound(body) {
				continue // its rows are read
			}
			if !between(at) || !unpacked(body, holdID, at.gauge, at.seq, yield) {
				return
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
