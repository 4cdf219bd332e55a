package logbook

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"path/filepath"
	"slices"
	"strings"
	"testing"
	"time"
)

// What is packed reads as its rows do: with two gauges, with a stroke through a reading and without it again, where one
// is not there, and in a book whose readings were taken down before there were packs.
func TestPackedReadingsAreTheReadings(t *testing.T) {
	ctx := context.Background()
	b := open(t, t.TempDir())
	filled(t, b)
	at := time.Date(2026, 3, 2, 8, 0, 0, 123456000, time.UTC)
	var all []Reading
	for gauge, n := range map[int]int{1: 2*packOf + 100, 2: packOf, 100: 3} {
		for i := range n {
			r := Reading{HoldID: "h1", Gauge: gauge, Seq: i + 1, At: at.Add(time.Duration(i*i) * time.Microsecond), Value: 110 - float64(i%977)/10, Unit: "kPa", How: "read", By: "gauge", Device: "g"}
			if i%500 == 7 {
				r.How, r.By, r.Device = "mark", fmt.Sprintf("Ilse %d", i), "phone"
			}
			all = append(all, r)
		}
	}
	if err := b.Batch(ctx, func(tx *Tx) error {
		return errors.Join(tx.exec("DELETE FROM reading WHERE hold_id = 'h1'"), tx.AddReadings(all...))
	}); err != nil {
		t.Fatal(err)
	}
	packs := func() (n int) {
		if err := b.db.QueryRow("SELECT count(*) FROM packed WHERE hold_id = 'h1'").Scan(&n); err != nil {
			t.Fatal(err)
		}
		return n
	}
	same := func(when string, wantPacks int) {
		t.Helper()
		if n := packs(); n != wantPacks {
			t.Errorf("%s: %d packs, want %d", when, n, wantPacks)
		}
		var got, rows []Reading
		for r, err := range b.Readings(ctx, "h1") {
			if err != nil {
				t.Fatal(when, err)
			}
			got = append(got, r)
		}
		for r, err := range readingsFrom(ctx, b.db, "h1", key{}, beyond) {
			if err != nil {
				t.Fatal(when, err)
			}
			rows = append(rows, r)
		}
		if len(got) != len(rows) {
			t.Errorf("%s: %d readings, and %d rows", when, len(got), len(rows))
			return
		}
		for i := range rows {
			if got[i] != rows[i] {
				t.Errorf("%s: reading %d: %+v\nits row: %+v", when, i, got[i], rows[i])
				return
			}
		}
	}
	strike := func(seq int, why string) {
		t.Helper()
		if err := b.Batch(ctx, func(tx *Tx) error { return tx.Strike("h1", 1, seq, why) }); err != nil {
			t.Fatal(err)
		}
	}
	same("as taken down", 3)
	strike(packOf+5, "knocked")
	same("struck", 2)
	strike(packOf+5, "")
	same("not struck any more", 2)
	strike(2*packOf+3, "in no pack")
	same("one that is in no pack", 2)
	if _, err := b.db.Exec("DELETE FROM reading WHERE hold_id = 'h1' AND gauge = 1 AND seq = 9"); err != nil {
		t.Fatal(err)
	}
	same("one is not there", 1)
	// A bit that turned on the disk: the rows are read, and it is found.
	if _, err := b.db.Exec("UPDATE packed SET body = substr(body, 1, 5000) || x'55' || substr(body, 5002)"); err != nil {
		t.Fatal(err)
	}
	same("a pack is spoilt", 1)
	r, err := Check(ctx, filepath.Join(b.Folder(), File))
	if err != nil || len(r.Pages) > 0 || !slices.ContainsFunc(r.Entries, func(f Fault) bool { return f.Of == "hold h1" }) {
		t.Errorf("%+v %v", r, err)
	}
	if err := b.Backup(ctx, filepath.Join(t.TempDir(), "kept.db")); !errors.Is(err, ErrDamaged) {
		t.Errorf("it was backed up: %v", err)
	}
}

// What gauges say arrives in the order in which it comes, and is read, struck and counted there as anywhere; it is moved
// when there is much of it, and when the book is opened.
func TestReadingsThatArriveAreReadings(t *testing.T) {
	ctx := context.Background()
	folder := t.TempDir()
	b := open(t, folder)
	filled(t, b)
	if err := b.Batch(ctx, func(tx *Tx) error {
		h := Hold{Stamp: stamp("h2"), JobID: "j1", Purpose: "test", Chamber: "loop", Rig: json.RawMessage("{}"), State: "holding"}
		return tx.AddHold(h)
	}); err != nil {
		t.Fatal(err)
	}
	at := time.Date(2026, 3, 2, 8, 0, 0, 0, time.UTC)
	want := map[string][]Reading{}
	say := func(n int) {
		t.Helper()
		if err := b.Batch(ctx, func(tx *Tx) error {
			for range n {
				for _, id := range []string{"h1", "h2"} {
					seq := len(want[id]) + 1
					r := Reading{HoldID: id, Gauge: 1, Seq: seq, At: at.Add(time.Duration(seq) * time.Second), Value: float64(seq) / 10, Unit: "kPa", How: "read", By: "gauge", Device: "g"}
					want[id] = append(want[id], r)
					if err := tx.Arrive(r); err != nil {
						return err
					}
				}
			}
			return nil
		}); err != nil {
			t.Fatal(err)
		}
	}
	same := func(when string, waiting int) {
		t.Helper()
		var n int
		if err := b.db.QueryRow("SELECT count(*) FROM arriving").Scan(&n); err != nil || n != waiting {
			t.Errorf("%s: %d wait, want %d: %v", when, n, waiting, err)
		}
		for id, rs := range want {
			i := 0
			for r, err := range b.Readings(ctx, id) {
				if err != nil || i >= len(rs) || r != rs[i] {
					t.Fatalf("%s: %s, reading %d is %+v: %v", when, id, i, r, err)
				}
				i++
			}
			if i != len(rs) {
				t.Errorf("%s: %s has %d readings of %d", when, id, i, len(rs))
			}
		}
		if latest, err := b.Latest(ctx); err != nil || len(want["h1"]) > 0 && latest.Before(want["h1"][len(want["h1"])-1].At) {
			t.Errorf("%s: the latest is of %v, %v", when, latest, err)
		}
		if r, err := Check(ctx, filepath.Join(folder, File)); err != nil || len(r.Entries) > 0 && !strings.Contains(fmt.Sprint(r.Entries), "job") || len(r.Orphans) > 0 {
			t.Errorf("%s: %+v %v", when, r, err)
		}
	}
	strike := func(seq int, why string) {
		t.Helper()
		if err := b.Batch(ctx, func(tx *Tx) error { return tx.Strike("h2", 1, seq, why) }); err != nil {
			t.Fatal(err)
		}
		want["h2"][seq-1].Struck = why
	}
	say(500)
	same("some wait", 1000)
	strike(7, "knocked")
	strike(499, "knocked")
	same("two are struck", 1000)
	strike(499, "")
	say(600)
	same("most were moved", 2*1100-mostArriving)
	if err := b.Batch(ctx, func(tx *Tx) error { return tx.Strike("h2", 1, 2000, "not there") }); !errors.Is(err, ErrNotFound) {
		t.Errorf("a reading that is not there was struck: %v", err)
	}
	strike(7, "")
	same("one counts once more", 2*1100-mostArriving)
	// A number that is given twice is a fault of the program; both readings are kept, and what comes after them too.
	if _, err := b.db.Exec("INSERT INTO arriving SELECT NULL, hold_id, gauge, seq, at + 1, value, unit, how, by, device, struck FROM arriving WHERE hold_id = 'h1' AND seq = 1100"); err != nil {
		t.Fatal(err)
	}
	twice := want["h1"][1099]
	twice.Seq, twice.At = 1101, twice.At.Add(time.Microsecond)
	want["h1"] = append(want["h1"], twice)
	closeAll(t)
	b = open(t, folder)
	same("opened again", 0)
	say(1)
	same("gone on", 2)
}
