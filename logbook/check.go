package logbook

import (
	"context"
	"database/sql"
	"encoding/json"
	"errors"
	"fmt"
	"os"
	"path/filepath"
	"slices"
	"strconv"
	"strings"

	"idlehiss/core/trace"
)

// Report is what a check found.
type Report struct {
	File    string  `json:"file"`
	Bytes   int64   `json:"bytes"`
	Version int64   `json:"schema"`
	Pages   []Fault `json:"pages"`   // what the database says of its own pages
	Orphans []Fault `json:"orphans"` // rows that belong to what is not there
	Entries []Fault `json:"entries"` // holds, calls and jobs that do not read back
	Tables  []Table `json:"tables"`
	Jobs    int     `json:"jobs"`
	Holds   int     `json:"holds"`
	Calls   int     `json:"calls"`
}

// Fault is one thing that is wrong.
type Fault struct {
	Of   string `json:"of"`
	Says string `json:"says"`
}

// Table is what can be read of a table.
type Table struct {
	Name string `json:"name"`
	Rows int    `json:"rows"`
	Cut  string `json:"cut,omitempty"` // why not all of it could be read
}

// Sound reports whether nothing is wrong.
func (r Report) Sound() bool { return len(r.Pages)+len(r.Orphans)+len(r.Entries) == 0 && !r.cut() }

func (r Report) cut() bool {
	for _, t := range r.Tables {
		if t.Cut != "" {
			return true
		}
	}
	return false
}

// mostFaults is how many of a kind are listed.
const mostFaults = 100

// Check reads a whole book without writing to it, also while it is served: its pages, what belongs to what, and every
// job, hold, reading and call. Only a file that is none of this program's is an error.
func Check(ctx context.Context, path string) (Report, error) {
	r := Report{File: path, Pages: []Fault{}, Orphans: []Fault{}, Entries: []Fault{}, Tables: []Table{}}
	info, err := os.Stat(path)
	if err != nil {
		return r, err
	}
	r.Bytes = info.Size()
	r.Version, err = versionOf(ctx, path)
	if errors.Is(err, ErrDamaged) {
		r.Pages = append(r.Pages, Fault{filepath.Base(path), err.Error()})
	} else if err != nil {
		return r, err
	}
	db := readOnly(path)
	defer db.Close()
	// All of it is looked at as it stands at one moment.
	db.SetMaxOpenConns(1)
	if _, err := db.ExecContext(ctx, "BEGIN"); err == nil {
		defer db.ExecContext(ctx, "ROLLBACK")
	}
	r.each(ctx, db, &r.Pages, "", "PRAGMA integrity_check(100)", func(rows *sql.Rows) (string, string, error) {
		var says string
		err := rows.Scan(&says)
		if says == "ok" {
			says = ""
		}
		return filepath.Base(path), says, err
	})
	r.each(ctx, db, &r.Orphans, "", "PRAGMA foreign_key_check", func(rows *sql.Rows) (string, string, error) {
		var table, parent string
		var row, key sql.NullInt64
		err := rows.Scan(&table, &row, &parent, &key)
		if table == "reading" || table == "packed" {
			return "", "", err // next: their hold may be on its way
		}
		return table, fmt.Sprintf("row %d names a %s that is not there", row.Int64, parent), err
	})
	ahead := "SELECT substr(name, " + strconv.Itoa(len(aheadOf)+1) + ") FROM setting WHERE name LIKE '" + aheadOf + "%'"
	r.each(ctx, db, &r.Orphans, "", "SELECT hold_id, count(*) FROM reading WHERE hold_id NOT IN (SELECT id FROM hold UNION ALL "+ahead+") GROUP BY hold_id", func(rows *sql.Rows) (string, string, error) {
		var hold string
		var n int
		err := rows.Scan(&hold, &n)
		return "reading", fmt.Sprintf("%d belong to the hold %s, which is not there", n, hold), err
	})
	names, err := tablesOf(ctx, db)
	if err != nil {
		r.Pages = append(r.Pages, Fault{filepath.Base(path), err.Error()})
	}
	for _, name := range names {
		t := Table{Name: name}
		if err := readThrough(ctx, db, "SELECT * FROM "+quoted(name), func([]any) { t.Rows++ }); err != nil {
			t.Cut = err.Error()
		}
		r.Tables = append(r.Tables, t)
	}
	r.jobs(ctx, db)
	r.holds(ctx, db)
	return r, nil
}

// each adds a fault for every row of which something is to be said.
func (r *Report) each(ctx context.Context, db *sql.DB, into *[]Fault, of, query string, says func(*sql.Rows) (of, says string, err error), args ...any) {
	rows, err := db.QueryContext(ctx, query, args...)
	err = eachRow(rows, err, func() error {
		of, said, err := says(rows)
		if said != "" && len(*into) < mostFaults {
			*into = append(*into, Fault{of, strings.Join(strings.Fields(said), " ")})
		}
		return err
	})
	if err != nil && len(*into) < mostFaults {
		*into = append(*into, Fault{of, err.Error()})
	}
}

// jobs reads every job back: its snapshot is what it was when it began.
func (r *Report) jobs(ctx context.Context, db *sql.DB) {
	query := "SELECT j.id, coalesce(s.body, ''), coalesce(s.hash, '') FROM job j LEFT JOIN snapshot s ON s.id = j.snapshot_id"
	if r.Version < 11 { // since then it is kept once for many
		query = "SELECT id, snapshot, snapshot_hash FROM job"
	}
	r.each(ctx, db, &r.Entries, "job", query, func(rows *sql.Rows) (string, string, error) {
		var id, snapshot, hash string
		err := rows.Scan(&id, &snapshot, &hash)
		r.Jobs++
		switch {
		case err != nil:
			return "", "", err
		case !json.Valid([]byte(snapshot)):
			return "job " + id, "its snapshot of circuit and schools cannot be read", nil
		case hash != "" && hash != hashOf([]byte(snapshot)):
			return "job " + id, "its snapshot of circuit and schools is not the one it began with", nil
		}
		return "", "", nil
	})
}

// holds reads every hold back: its rig, that the readings of a gauge are numbered without a break, and that each call
// stands on readings that are there.
func (r *Report) holds(ctx context.Context, db *sql.DB) {
	digest := "h.digest"
	if r.Version < 3 { // it came with the third
		digest = "''"
	}
	r.each(ctx, db, &r.Entries, "hold", `SELECT h.id, h.rig, `+digest+`, coalesce(r.gaps, 0) FROM hold h LEFT JOIN
		(SELECT hold_id, sum(last - first + 1 - n) AS gaps FROM
			(SELECT hold_id, gauge, min(seq) AS first, max(seq) AS last, count(*) AS n FROM reading GROUP BY hold_id, gauge) GROUP BY hold_id) r
		ON r.hold_id = h.id`, func(rows *sql.Rows) (string, string, error) {
		var id, rig, digest string
		var gaps int
		err := rows.Scan(&id, &rig, &digest, &gaps)
		r.Holds++
		switch {
		case err != nil:
			return "", "", err
		case !json.Valid([]byte(rig)) || digest != "" && !json.Valid([]byte(digest)):
			return "hold " + id, "its rig cannot be read", nil
		case gaps > 0:
			return "hold " + id, fmt.Sprintf("%d of its readings are not there", gaps), nil
		}
		return "", "", nil
	})
	if r.Version >= packedSince {
		r.each(ctx, db, &r.Entries, "packed readings", "SELECT hold_id, body FROM packed", func(rows *sql.Rows) (string, string, error) {
			var id string
			var body sql.RawBytes
			if err := rows.Scan(&id, &body); err != nil || trace.SoundPack(body) {
				return "", "", err
			}
			return "hold " + id, "its packed readings are not as they were written; the readings themselves are read instead", nil
		})
	}
	last := `SELECT c.id, c.report, c.last_seq, coalesce((SELECT max(seq) FROM reading WHERE hold_id = c.hold_id), -1) FROM call c`
	if r.Version >= arrivingSince {
		last = `WITH a AS MATERIALIZED (SELECT hold_id, max(seq) AS seq FROM arriving GROUP BY hold_id)
			SELECT c.id, c.report, c.last_seq, max(coalesce((SELECT max(seq) FROM reading WHERE hold_id = c.hold_id), -1), coalesce((SELECT seq FROM a WHERE hold_id = c.hold_id), -1)) FROM call c`
	}
	r.each(ctx, db, &r.Entries, "call", last,
		func(rows *sql.Rows) (string, string, error) {
			var id, report string
			var last, has int
			err := rows.Scan(&id, &report, &last, &has)
			r.Calls++
			switch {
			case err != nil:
				return "", "", err
			case !json.Valid([]byte(report)):
				return "call " + id, "its report cannot be read", nil
			case last > has:
				return "call " + id, fmt.Sprintf("it stands on reading %d, and the last that is there is %d", last, has), nil
			}
			return "", "", nil
		})
}

// tablesOf lists what a book keeps, what belongs to another table after it. What is made of other rows is made again.
func tablesOf(ctx context.Context, db *sql.DB) ([]string, error) {
	rows, err := db.QueryContext(ctx, "SELECT name FROM sqlite_schema WHERE type = 'table' AND name NOT LIKE 'sqlite_%' ORDER BY rowid")
	first := []string{"machine", "snapshot", "job", "hold", "kit"} // named by others
	var out []string
	have := map[string]bool{}
	var name string
	err = eachRow(rows, err, func() error {
		err := rows.Scan(&name)
		have[name] = true
		if !strings.HasPrefix(name, "job_words") && name != "packed" && !strings.HasPrefix(name, "goose_") {
			out = append(out, name)
		}
		return err
	})
	var sorted []string
	for _, name := range first {
		if have[name] {
			sorted = append(sorted, name)
		}
	}
	for _, name := range out {
		if !slices.Contains(first, name) {
			sorted = append(sorted, name)
		}
	}
	return sorted, err
}

// quoted is a name inside a statement.
func quoted(name string) string { return `"` + strings.ReplaceAll(name, `"`, `""`) + `"` }

// readThrough hands out every row as far as it can be read.
func readThrough(ctx context.Context, db *sql.DB, query string, each func([]any)) error {
	rows, err := db.QueryContext(ctx, query)
	if err != nil {
		return err
	}
	defer rows.Close()
	columns, err := rows.Columns()
	if err != nil {
		return err
	}
	values := make([]any, len(columns))
	into := make([]any, len(columns))
	for i := range values {
		into[i] = &values[i]
	}
	return eachRow(rows, nil, func() error {
		err := rows.Scan(into...)
		if err == nil {
			each(values)
		}
		return err
	})
}
