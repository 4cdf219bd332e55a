package logbook

import (
	"context"
	"math"
	"strings"
)

// Wanted is what is asked of the book. What is left out does not matter.
type Wanted struct {
	Words    string // machine, complaint, findings or call carry all of them, as they begin
	Open     bool   // not closed or abandoned
	Unproved bool   // mended, and not proved yet
	Due      bool   // open, and something is to be looked at again
	Hands    string // in whose hands it is, whatever its case
	Family   string // of its circuit
}

// also is what is asked beside the words, as the database is asked it.
func (w Wanted) also() (where string, args []any) {
	add := func(on bool, says string, of ...any) {
		if on {
			where, args = where+says, append(args, of...)
		}
	}
	add(w.Open, " AND j.state = 'open'")
	add(w.Unproved, " AND j.mend NOT IN ('', 'proved')")
	add(w.Due, ` AND j.state = 'open' AND EXISTS (SELECT 1 FROM fact f WHERE f.job_id = j.id AND f.subject = 'remind' AND f.superseded_by IS NULL
		AND json_extract(f.value, '$.due') > '0002')`)
	add(w.Hands != "", " AND j.hands = ? COLLATE NOCASE", w.Hands)
	add(w.Family != "", " AND j.family = ?", w.Family)
	return where, args
}

// Due reads the open jobs that are to be looked at again, soonest first by the index of those looks.
func (b *Book) Due(ctx context.Context, most int) ([]Job, error) {
	return b.jobs(ctx, `WHERE j.id IN (SELECT f.job_id FROM fact f CROSS JOIN job o ON o.id = f.job_id WHERE f.subject = 'remind' AND f.superseded_by IS NULL
		AND json_extract(f.value, '$.due') > '0002' AND o.state = 'open' ORDER BY json_extract(f.value, '$.due') LIMIT ?)`, most)
}

// People are those in whose hands jobs are, by name. The index is asked for each of them, and for no job.
func (b *Book) People(ctx context.Context) ([]string, error) {
	rows, err := b.db.QueryContext(ctx, `WITH RECURSIVE person(name) AS (SELECT min(hands COLLATE NOCASE) FROM job WHERE hands > ''
		UNION ALL SELECT (SELECT min(hands COLLATE NOCASE) FROM job WHERE hands > person.name COLLATE NOCASE) FROM person WHERE person.name IS NOT NULL)
		SELECT name, 0 FROM person WHERE name IS NOT NULL`)
	return collect(rows, err, func(name *string, at *int64) []any { return []any{name, at} }, func(*string, int64) {})
}

// Newest is after every place, for whoever begins to read.
const Newest = math.MaxInt64

// Search finds the jobs that are wanted. It gives the latest of those before a place, latest first.
func (b *Book) Search(ctx context.Context, w Wanted, before int64, most int) ([]Job, error) {
	var terms []string
	for _, w := range strings.Fields(w.Words) {
		terms = append(terms, `"`+strings.ReplaceAll(w, `"`, `""`)+`"*`)
	}
	also, args := w.also()
	match := strings.Join(terms, " ")
	if match != "" && (w.Open || w.Unproved || w.Due) { // few are: each is looked at for the words
		also, args, match = also+" AND EXISTS (SELECT 1 FROM job_words WHERE job_words MATCH ? AND rowid = j.place)", append(args, match), ""
	}
	if match == "" {
		return b.jobs(ctx, "WHERE j.place < ?"+also+" ORDER BY j.place DESC LIMIT ?", append(append([]any{before}, args...), most)...)
	}
	// The index gives them in their order, and is asked for no more than are shown; for all, where some of them are not wanted.
	ofWords := map[bool]int{true: most, false: -1}[also == ""]
	args = append([]any{match, before, ofWords}, args...)
	rows, err := b.db.QueryContext(ctx, "SELECT "+jobColumns+` FROM
		(SELECT rowid AS place FROM job_words WHERE job_words MATCH ? AND rowid < ? ORDER BY rowid DESC LIMIT ?) w CROSS JOIN job j ON j.place = w.place
		JOIN machine m ON m.id = j.machine_id LEFT JOIN snapshot s ON s.id = j.snapshot_id WHERE true`+also+" LIMIT ?", append(args, most)...)
	return collect(rows, err, (*Job).from, (*Job).done)
}
