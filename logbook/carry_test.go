package logbook

import (
	"compress/gzip"
	"context"
	"database/sql"
	"fmt"
	"io"
	"io/fs"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"testing"

	"github.com/pressly/goose/v3"
)

// A book of version 2, as the program before wrote it: every row of every table is there
// after it was carried over, and every column says what it said.
func TestABookOfVersion2KeepsEveryRow(t *testing.T) {
	folder := t.TempDir()
	unpack(t, "testdata/book-v2.db.gz", filepath.Join(folder, File))
	withConditions(t, folder, map[string]string{"c-cold": "cold", "c-hot": "hot, engine running", "c-photo": "photo taken, cold", "c-note": "after the photo was taken cold"})
	before := dump(t, folder, map[string]string{})
	open(t, folder)
	closeAll(t)
	after := dump(t, folder, map[string]string{
		"fact": "SELECT id, at, by, device, job_id, CASE about WHEN '' THEN subject ELSE subject || '/' || about END AS subject, stage, sentence, source, value, superseded_by FROM fact ORDER BY id",
		// Out of which job it was begun is new; nobody had said so.
		"job":     "SELECT j.id, at, by, device, machine_id, complaint, s.body AS snapshot, s.hash AS snapshot_hash, state, ended_at, call, loss_ml_h, found, simulated FROM job j JOIN snapshot s ON s.id = j.snapshot_id WHERE begun_from = '' ORDER BY j.id",
		"machine": "SELECT id, at, by, device, name, note FROM machine",
		// How often a piece had been used was not counted then.
		"kit_note": "SELECT id, at, by, device, kit_id, kind, sentence, value FROM kit_note",
		// So are a snapshot that several jobs began with, and the words that a job is found by.
		"job_words": "SELECT id AS job_id, words FROM job ORDER BY id",
		// What an adapter fits was added to its body; all that was there stays.
		"kit": "SELECT k.id, k.at, k.by, k.device, k.kind, (SELECT json_group_object(o.key, o.value) FROM (SELECT key, value FROM json_each(k.body) WHERE key NOT IN ('families', 'from_m', 'to_m', 'make', 'own_air') ORDER BY key) o) AS body FROM kit k ORDER BY k.id",
	})
	for table, rows := range before {
		if table == "hold" {
			continue // its condition became several columns: below
		}
		if len(after[table]) != len(rows) {
			t.Errorf("%s: %d rows of %d", table, len(after[table]), len(rows))
			continue
		}
		for i, row := range rows {
			if after[table][i] != row {
				t.Errorf("%s: %s\nwas  %s", table, after[table][i], row)
				break
			}
		}
	}
	if n := len(before["reading"]) + len(before["fact"]) + len(before["job"]); n < 5000 {
		t.Errorf("only %d rows were looked at", n)
	}
	if len(after["hold"]) != len(before["hold"]) {
		t.Errorf("hold: %d rows of %d", len(after["hold"]), len(before["hold"]))
	}
	b := open(t, folder)
	for id, want := range map[string]string{
		"c-cold": "{Under: Warmth:cold Engine:false Note:}", "c-hot": "{Under: Warmth:hot Engine:true Note:hot, engine running}",
		"c-photo": "{Under: Warmth:cold Engine:false Note:photo taken, cold}", "c-note": "{Under: Warmth: Engine:false Note:after the photo was taken cold}",
	} {
		h, err := b.Hold(context.Background(), id)
		if got := fmt.Sprintf("%+v", h.Condition); err != nil || got != want {
			t.Errorf("%s: %s, %v", id, got, err)
		}
	}
	both := 0
	for _, row := range after["hold"] {
		if strings.Contains(row, "under=with the cover") {
			both++
		}
	}
	if both != 2 {
		t.Errorf("%d holds are under a condition of their step, want 2", both)
	}
}

// What a reading may come from is widened and narrowed in the schema alone, whoever has the book open meanwhile; the readings stay.
func TestAColumnTakesMoreWithoutACopyOfItsRows(t *testing.T) {
	folder := t.TempDir()
	unpack(t, "testdata/book-v2.db.gz", filepath.Join(folder, File))
	open(t, folder)
	closeAll(t)
	db, beside := raw(t, folder), raw(t, folder)
	steps, err := fs.Sub(migrations, "migrations")
	if err != nil {
		t.Fatal(err)
	}
	provider, err := goose.NewProvider(goose.DialectSQLite3, db, steps, goose.WithGoMigrations(carryFits))
	if err != nil {
		t.Fatal(err)
	}
	rows := func() (n, camera int) {
		if err := db.QueryRow("SELECT count(*), count(*) FILTER (WHERE how = 'camera') FROM reading").Scan(&n, &camera); err != nil {
			t.Fatal(err)
		}
		return n, camera
	}
	takes := func(moment string, how map[string]bool) {
		t.Helper()
		for how, want := range how {
			for _, db := range []*sql.DB{db, beside} {
				_, err := db.Exec("INSERT INTO reading SELECT hold_id, gauge, max(seq) + 1, at, value, unit, ?, by, device, struck FROM reading GROUP BY hold_id, gauge LIMIT 1", how)
				if (err == nil) != want {
					t.Errorf("%s, %s: %v", moment, how, err)
				}
			}
		}
	}
	before, _ := rows()
	takes("after it", map[string]bool{"camera": true, "mark": true, "guessed": false})
	if _, err := provider.DownTo(t.Context(), 16); err != nil {
		t.Fatal(err)
	}
	if n, camera := rows(); n != before+4 || camera != 0 {
		t.Errorf("%d readings, %d by camera; there were %d, and four came", n, camera, before)
	}
	takes("taken back", map[string]bool{"camera": false, "read": true})
	if _, err := provider.Up(t.Context()); err != nil {
		t.Fatal(err)
	}
	takes("done again", map[string]bool{"camera": true, "guessed": false})
	var sound string
	if err := db.QueryRow("PRAGMA integrity_check").Scan(&sound); err != nil || sound != "ok" {
		t.Errorf("%s %v", sound, err)
	}
}

func unpack(t *testing.T, from, to string) {
	t.Helper()
	f, err := os.Open(from)
	if err != nil {
		t.Fatal(err)
	}
	defer f.Close()
	z, err := gzip.NewReader(f)
	if err != nil {
		t.Fatal(err)
	}
	raw, err := io.ReadAll(z)
	if err != nil {
		t.Fatal(err)
	}
	if err := os.WriteFile(to, raw, 0o600); err != nil {
		t.Fatal(err)
	}
}

func raw(t *testing.T, folder string) *sql.DB {
	t.Helper()
	db, err := sql.Open("sqlite", "file:"+filepath.Join(folder, File))
	if err != nil {
		t.Fatal(err)
	}
	t.Cleanup(func() { db.Close() })
	return db
}

// withConditions adds copies of a hold under conditions as they were typed.
func withConditions(t *testing.T, folder string, conditions map[string]string) {
	t.Helper()
	db := raw(t, folder)
	for id, text := range conditions {
		if _, err := db.Exec(`INSERT INTO hold(id, at, by, device, job_id, purpose, condition, chamber, rig, state, isolated_at, ended_at, simulated)
			SELECT ?, at, by, device, job_id, purpose, ?, chamber, rig, state, isolated_at, ended_at, simulated FROM hold WHERE state = 'ended' ORDER BY id LIMIT 1`, id, text); err != nil {
			t.Fatal(err)
		}
	}
	if err := db.Close(); err != nil {
		t.Fatal(err)
	}
}

// dump reads all tables whole, each row as text; instead says how one is read otherwise.
func dump(t *testing.T, folder string, instead map[string]string) map[string][]string {
	t.Helper()
	db := raw(t, folder)
	defer db.Close()
	names, err := db.Query("SELECT name FROM sqlite_master WHERE type = 'table' AND name NOT LIKE 'sqlite_%' AND name NOT LIKE 'job_words_%' AND name <> 'goose_db_version'")
	if err != nil {
		t.Fatal(err)
	}
	out := map[string][]string{}
	for names.Next() {
		var name string
		if err := names.Scan(&name); err != nil {
			t.Fatal(err)
		}
		out[name] = nil
	}
	for name := range out {
		query := "SELECT * FROM " + name + ""
		switch {
		case instead[name] != "":
			query = instead[name]
		case name == "fact":
			query = "SELECT id, at, by, device, job_id, subject, stage, sentence, source, value, superseded_by FROM fact ORDER BY id"
		case name == "kit":
			query = "SELECT k.id, k.at, k.by, k.device, k.kind, (SELECT json_group_object(o.key, o.value) FROM (SELECT key, value FROM json_each(k.body) ORDER BY key) o) AS body FROM kit k ORDER BY k.id"
		case name == "job_words":
			query = "SELECT job_id, words FROM job_words ORDER BY job_id"
		}
		rows, err := db.Query(query)
		if err != nil {
			t.Fatal(name, err)
		}
		columns, err := rows.Columns()
		if err != nil {
			t.Fatal(err)
		}
		for rows.Next() {
			cells := make([]any, len(columns))
			for i := range cells {
				cells[i] = new(any)
			}
			if err := rows.Scan(cells...); err != nil {
				t.Fatal(err)
			}
			line := ""
			for i, c := range columns {
				line += fmt.Sprintf("%s=%v; ", c, *cells[i].(*any))
			}
			out[name] = append(out[name], line)
		}
		if err := rows.Err(); err != nil {
			t.Fatal(err)
		}
		slices.Sort(out[name])
	}
	return out
}

// A book of version 9, before there were owners and hands: every row of every table is there after it was carried over,
// and a device that was signed in still is, as a hand.
func TestABookOfVersion9KeepsEveryRow(t *testing.T) {
	folder := t.TempDir()
	unpack(t, "testdata/book-v9.db.gz", filepath.Join(folder, File))
	db := raw(t, folder)
	if _, err := db.Exec("INSERT INTO device(id, name, token, since, seen) VALUES ('d1', 'Ilse phone', x'0102', 1, 2)"); err != nil {
		t.Fatal(err)
	}
	db.Close()
	before := dump(t, folder, map[string]string{})
	b := open(t, folder)
	var role string
	if err := b.db.QueryRow("SELECT role FROM device WHERE id = 'd1'").Scan(&role); err != nil || role != "hand" {
		t.Errorf("%q, %v", role, err)
	}
	closeAll(t)
	after := dump(t, folder, map[string]string{
		"machine":   "SELECT id, at, by, device, name, note FROM machine",
		"kit_note":  "SELECT id, at, by, device, kit_id, kind, sentence, value FROM kit_note",
		"device":    "SELECT id, name, token, since, seen, out_at FROM device",
		"job":       "SELECT j.id, at, by, device, machine_id, complaint, s.body AS snapshot, s.hash AS snapshot_hash, state, ended_at, call, loss_ml_h, found, simulated, begun_from FROM job j JOIN snapshot s ON s.id = j.snapshot_id ORDER BY j.rowid",
		"job_words": "SELECT id AS job_id, words FROM job ORDER BY id",
	})
	n := 0
	for table, rows := range before {
		n += len(rows)
		if !slices.Equal(rows, after[table]) {
			t.Errorf("%s: %d rows of %d, or other ones", table, len(after[table]), len(rows))
		}
	}
	if r, err := Check(context.Background(), filepath.Join(folder, File)); err != nil || !r.Sound() {
		t.Errorf("%+v, %v", r, err)
	}
	if n < 5000 {
		t.Errorf("only %d rows were looked at", n)
	}
}
