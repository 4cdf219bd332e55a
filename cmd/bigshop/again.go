package main

import (
	"context"
	"database/sql"
	"fmt"
	"math/rand/v2"
	"path/filepath"
	"regexp"
	"strings"
	"time"

	"idlehiss/logbook"
)

// story is a job of the demo shop that has ended.
type story struct {
	id, machine string
	at          int64 // µs
	readings    int
}

// tables are what belongs to a job, in the order in which they refer to each other, with how its rows are found.
var tables = []struct{ name, of string }{
	{"job", "id = @job"},
	{"fact", "job_id = @job"}, {"observation", "job_id = @job"}, {"photo", "job_id = @job"},
	{"hold", "job_id = @job"},
	{"event", "hold_id IN (SELECT id FROM hold WHERE job_id = @job)"},
	{"gap", "hold_id IN (SELECT id FROM hold WHERE job_id = @job)"},
	{"call", "hold_id IN (SELECT id FROM hold WHERE job_id = @job)"},
	{"reading", "hold_id IN (SELECT id FROM hold WHERE job_id = @job)"},
}

// changed are the columns that are not as they were in the story.
var changed = map[string]string{
	"id": "@new || id", "job_id": "@new || job_id", "hold_id": "@new || hold_id", "superseded_by": "@new || superseded_by",
	"machine_id": "(SELECT id FROM machine WHERE name = @name)", "words": "replace(words, @was, @name)",
	"place": "1000 * (at + @later) + @n % 1000",
	"at":    "at + @later", "ended_at": "ended_at + @later", "isolated_at": "isolated_at + @later", "from_at": "from_at + @later", "to_at": "to_at + @later",
}

// atOnce is how many jobs go into one transaction.
const atOnce = 200

// tellAgain tells the ended stories again, each time on another machine of the same kind, in the order of their days,
// the last just before a moment. It gives how many readings there are then.
func tellAgain(ctx context.Context, o options, until time.Time) (readings int, err error) {
	db, err := sql.Open(logbook.Driver, "file:"+filepath.Join(o.Out, logbook.File)+"?_pragma=synchronous(OFF)&_pragma=cache_size(-400000)")
	if err != nil {
		return 0, err
	}
	defer db.Close()
	db.SetMaxOpenConns(1)
	stories, err := told(ctx, db)
	if err != nil {
		return 0, err
	}
	insert := map[string]string{}
	for _, t := range tables {
		if insert[t.name], err = copying(ctx, db, t.name, t.of); err != nil {
			return 0, err
		}
	}
	r := rand.New(rand.NewPCG(1, 2))
	span := time.Duration(o.Years * 365 * 24 * float64(time.Hour))
	for from := 0; from < o.Jobs; from += atOnce {
		tx, err := db.BeginTx(ctx, nil)
		if err != nil {
			return 0, err
		}
		for n := from; n < min(from+atOnce, o.Jobs); n++ {
			s := stories[r.IntN(len(stories))]
			if s.readings == 0 && r.IntN(3) == 0 { // most jobs have a hold
				s = stories[0]
			}
			day := until.Add(-time.Duration(float64(span) * float64(o.Jobs-n) / float64(o.Jobs)))
			if err := again(ctx, tx, insert, s, n, 1+r.IntN(60), day.UnixMicro()-s.at); err != nil {
				return 0, fmt.Errorf("%s: %w", s.machine, err)
			}
			readings += s.readings
		}
		if err := tx.Commit(); err != nil {
			return 0, err
		}
	}
	_, err = db.ExecContext(ctx, "PRAGMA wal_checkpoint(TRUNCATE)")
	return readings, err
}

// told reads the stories that have ended, those with readings first.
func told(ctx context.Context, db *sql.DB) ([]story, error) {
	rows, err := db.QueryContext(ctx, `SELECT j.id, m.name, j.at, (SELECT count(*) FROM reading r JOIN hold h ON h.id = r.hold_id WHERE h.job_id = j.id) AS n
		FROM job j JOIN machine m ON m.id = j.machine_id WHERE j.state <> 'open' ORDER BY n DESC`)
	if err != nil {
		return nil, err
	}
	defer rows.Close()
	var out []story
	for rows.Next() {
		var s story
		if err := rows.Scan(&s.id, &s.machine, &s.at, &s.readings); err != nil {
			return nil, err
		}
		out = append(out, s)
	}
	return out, rows.Err()
}

// copying is the statement that copies a table's rows of a job.
func copying(ctx context.Context, db *sql.DB, table, of string) (string, error) {
	rows, err := db.QueryContext(ctx, "SELECT name FROM pragma_table_info(?)", table)
	if err != nil {
		return "", err
	}
	defer rows.Close()
	var names, values []string
	for rows.Next() {
		var name string
		if err := rows.Scan(&name); err != nil {
			return "", err
		}
		value := `"` + name + `"`
		names = append(names, value)
		if other, ok := changed[name]; ok {
			value = other
		}
		values = append(values, value)
	}
	return fmt.Sprintf("INSERT INTO %s(%s) SELECT %s FROM %s WHERE %s", table, strings.Join(names, ", "), strings.Join(values, ", "), table, of), rows.Err()
}

var itsNumber = regexp.MustCompile(`\d+`)

// again tells one story again, as number n, on the machine of a number.
func again(ctx context.Context, tx *sql.Tx, insert map[string]string, s story, n, machine int, later int64) error {
	name := itsNumber.ReplaceAllString(s.machine, fmt.Sprint(machine))
	if name == s.machine {
		name = fmt.Sprintf("%s %d", s.machine, machine)
	}
	// Ids of clients come in no order.
	mixed := uint32(n) * 2654435761
	with := []any{sql.Named("job", s.id), sql.Named("new", fmt.Sprintf("%08x-", mixed)), sql.Named("later", later),
		sql.Named("n", n), sql.Named("was", s.machine), sql.Named("name", name)}
	do := func(query string, args ...any) error {
		_, err := tx.ExecContext(ctx, query, args...)
		return err
	}
	if err := do("INSERT OR IGNORE INTO machine(id, at, by, device, name, note) VALUES (?, ?, 'Maren', 'bench', ?, '')", "m-"+name, s.at+later, name); err != nil {
		return err
	}
	for _, t := range tables {
		if err := do(insert[t.name], with...); err != nil {
			return fmt.Errorf("%s: %w", t.name, err)
		}
	}
	return do(`INSERT INTO entry(id, digest, at, by, device, answer)
		SELECT 'e-' || @new || id, zeroblob(32), at + @later, by, device, '{"id":"' || id || '","of":"' || @job || '","changed":["sheet"],"seq":0}'
		FROM (SELECT id, at, by, device FROM fact WHERE job_id = @job UNION ALL SELECT id, at, by, device FROM hold WHERE job_id = @job)`, with[:3]...)
}
