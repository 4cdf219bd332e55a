package logbook

import (
	"context"
	"database/sql"
	"encoding/json"
	"errors"
	"fmt"
	"slices"
	"strings"
	"time"

	"idlehiss/core/terms"
)

// Job is one complaint or routine on one machine.
type Job struct {
	Stamp
	MachineID string          `json:"machine_id"`
	Machine   string          `json:"machine"` // its name
	Complaint string          `json:"complaint"`
	Snapshot  json.RawMessage `json:"snapshot"` // circuit and schools as used; nil where it is read by itself
	Hash      string          `json:"snapshot_hash"`
	State     terms.JobState  `json:"state"`
	EndedAt   *time.Time      `json:"ended_at"`
	Call      string          `json:"call"`
	LossMLH   *float64        `json:"loss_ml_per_h"`
	Found     string          `json:"found"`
	Owner     string          `json:"owner"`
	Mend      terms.Proof     `json:"mend"` // whether its repair was proved; empty: nothing was mended
	Simulated bool            `json:"simulated"`
	From      string          `json:"begun_from"` // the job out of which it was begun; empty: none
	Place     int64           `json:"-"`          // in the order of time
	Hands     string          `json:"hands"`      // whose it is to do
}

// Fact is a sentence with value, source and time; superseded, never edited.
type Fact struct {
	Stamp
	JobID        string          `json:"-"`
	Subject      terms.Subject   `json:"subject"`
	About        string          `json:"about"` // which tick, part or step; "" where there is only one
	Stage        terms.Stage     `json:"stage"`
	Sentence     string          `json:"sentence"`
	Source       terms.Source    `json:"source"`
	Value        json.RawMessage `json:"value"`
	SupersededBy string          `json:"superseded_by"`
}

// Facts are those of a job, in order of time.
type Facts []Fact

// Standing is the fact that holds now on a subject.
func (fs Facts) Standing(s terms.Subject, about string) (Fact, bool) {
	for _, f := range fs {
		if f.Subject == s && f.About == about && f.SupersededBy == "" {
			return f, true
		}
	}
	return Fact{}, false
}

// NotedAt tells whether something that holds now was noted at a stage.
func (fs Facts) NotedAt(stage terms.Stage) bool {
	return slices.ContainsFunc(fs, func(f Fact) bool { return f.Stage == stage && f.SupersededBy == "" })
}

// On are the facts that hold now on every key of a subject.
func (fs Facts) On(s terms.Subject) Facts {
	var out Facts
	for _, f := range fs {
		if f.Subject == s && f.SupersededBy == "" {
			out = append(out, f)
		}
	}
	return out
}

// Observation is what was seen at a part, or not.
type Observation struct {
	Stamp
	JobID      string      `json:"-"`
	Part       string      `json:"part"`
	Method     string      `json:"method"`
	Seen       bool        `json:"seen"`
	Class      terms.Class `json:"class"`
	PressurePa *float64    `json:"pressure_pa"`
	Note       string      `json:"note"`
}

// collect reads rows of which one column is a time.
func collect[T any](rows *sql.Rows, err error, into func(*T, *int64) []any, done func(*T, int64)) ([]T, error) {
	out := []T{}
	err = eachRow(rows, err, func() error {
		var v T
		var at int64
		if err := rows.Scan(into(&v, &at)...); err != nil {
			return err
		}
		done(&v, at)
		out = append(out, v)
		return nil
	})
	if err != nil {
		return nil, err
	}
	return out, nil
}

// eachRow goes through the rows of a query.
func eachRow(rows *sql.Rows, err error, scan func() error) error {
	if err != nil {
		return err
	}
	defer rows.Close()
	for rows.Next() {
		if err := scan(); err != nil {
			return err
		}
	}
	return rows.Err()
}

// maybe takes a moment that may not have been yet.
type maybe struct{ at **time.Time }

// Scan reads microseconds, or nothing.
func (m maybe) Scan(v any) error {
	if us, ok := v.(int64); ok {
		t := moment(us)
		*m.at = &t
	}
	return nil
}

// only is the one row that was found.
func only[T any](found []T, what, id string, err error) (T, error) {
	if err == nil && len(found) == 0 {
		err = sql.ErrNoRows
	}
	if err != nil {
		return *new(T), missing(what, id, err)
	}
	return found[0], nil
}

// AddJob begins a job. A snapshot that is in the book already is not kept again. Its place is that of its moment,
// after those of the same moment.
func (t *Tx) AddJob(j Job) error {
	var kept int64
	err := t.tx.QueryRowContext(t.ctx, "SELECT id FROM snapshot WHERE hash = ? AND body = ?", j.Hash, string(j.Snapshot)).Scan(&kept)
	if errors.Is(err, sql.ErrNoRows) {
		err = t.tx.QueryRowContext(t.ctx, "INSERT INTO snapshot(hash, circuit, body) VALUES (?1, CASE WHEN json_valid(?2) THEN coalesce(json_extract(?2, '$.circuit.id'), '') ELSE '' END, ?2) RETURNING id",
			j.Hash, string(j.Snapshot)).Scan(&kept)
	}
	if err != nil {
		return err
	}
	if err := t.exec(`INSERT INTO job(id, at, by, device, machine_id, complaint, snapshot_id, place, state, simulated, begun_from, hands, family)
		VALUES (?1, ?2, ?3, ?4, ?5, ?6, ?7, coalesce((SELECT max(place) + 1 FROM job WHERE place >= 1000 * ?2 AND place < 1000 * (?2 + 1)), 1000 * ?2), 'open', ?8, ?9, ?3,
			coalesce((SELECT CASE WHEN json_valid(s.body) THEN json_extract(s.body, '$.circuit.family') END FROM snapshot s WHERE s.id = ?7), ''))`,
		j.ID, micro(j.At), j.By, j.Device, j.MachineID, j.Complaint, kept, j.Simulated, j.From); err != nil {
		return err
	}
	return t.exec("UPDATE machine SET used = max(used, (SELECT place FROM job WHERE id = ?)) WHERE id = ?", j.ID, j.MachineID)
}

// Index sets the words a job is found by.
func (t *Tx) Index(jobID string, words ...string) error {
	return t.exec("UPDATE job SET words = ? WHERE id = ?", strings.Join(words, " "), jobID)
}

// Summarise keeps what the book shows of a job.
func (t *Tx) Summarise(jobID, call string, lossMLH *float64, found string) error {
	return t.exec("UPDATE job SET call = ?, loss_ml_h = ?, found = ? WHERE id = ?", call, lossMLH, found, jobID)
}

// Called keeps what a hold of a job's only step came to, unless a part stands as seen to leak: eyes
// outrank the needle.
func (t *Tx) Called(jobID, call string, lossMLH *float64) error {
	return t.exec("UPDATE job SET call = ?, loss_ml_h = ? WHERE id = ? AND found = ''", call, lossMLH, jobID)
}

// SetOwner keeps whose machine it is.
func (t *Tx) SetOwner(jobID, owner string) error {
	return t.exec("UPDATE job SET owner = ? WHERE id = ?", owner, jobID)
}

// SetMend keeps whether a job's repair was proved.
func (t *Tx) SetMend(jobID string, mend terms.Proof) error {
	return t.exec("UPDATE job SET mend = ? WHERE id = ?", mend, jobID)
}

// SetHands keeps whose it is to do.
func (t *Tx) SetHands(jobID, person string) error {
	return t.exec("UPDATE job SET hands = ? WHERE id = ?", person, jobID)
}

// MarkSimulated marks a job as simulated, for ever.
func (t *Tx) MarkSimulated(jobID string) error {
	return t.exec("UPDATE job SET simulated = 1 WHERE id = ?", jobID)
}

// EndJob closes or abandons.
func (t *Tx) EndJob(jobID string, state terms.JobState, at time.Time) error {
	return t.exec("UPDATE job SET state = ?, ended_at = ? WHERE id = ? AND state = 'open'", state, micro(at), jobID)
}

const jobColumns = `j.id, j.at, j.by, j.device, j.machine_id, m.name, j.complaint, coalesce(s.hash, ''), j.state, j.ended_at, j.call, j.loss_ml_h, j.found, j.owner, j.mend, j.simulated, j.begun_from, j.place, j.hands`

const jobJoined = " FROM job j JOIN machine m ON m.id = j.machine_id LEFT JOIN snapshot s ON s.id = j.snapshot_id "

// from are where a row's columns go, and done sets its moment.
func (j *Job) from(at *int64) []any {
	return []any{&j.ID, at, &j.By, &j.Device, &j.MachineID, &j.Machine, &j.Complaint, &j.Hash, &j.State, maybe{&j.EndedAt}, &j.Call, &j.LossMLH, &j.Found, &j.Owner, &j.Mend, &j.Simulated, &j.From, &j.Place, &j.Hands}
}

func (j *Job) done(at int64) { j.At = moment(at) }

// Job reads one.
func (b *Book) Job(ctx context.Context, id string) (Job, error) { return jobFrom(ctx, b.db, id) }

// Job reads one as it is in this write.
func (t *Tx) Job(id string) (Job, error) { return jobFrom(t.ctx, t.tx, id) }

func jobFrom(ctx context.Context, from queryer, id string) (Job, error) {
	rows, err := from.QueryContext(ctx, "SELECT "+jobColumns+jobJoined+"WHERE j.id = ?", id)
	js, err := collect(rows, err, (*Job).from, (*Job).done)
	return only(js, "job", id, err)
}

// Snapshot reads what a job keeps of circuit and schools.
func (b *Book) Snapshot(ctx context.Context, jobID string) (json.RawMessage, error) {
	return snapshotFrom(ctx, b.db, jobID)
}

// Snapshot reads it as it is in this write.
func (t *Tx) Snapshot(_ context.Context, jobID string) (json.RawMessage, error) {
	return snapshotFrom(t.ctx, t.tx, jobID)
}

func snapshotFrom(ctx context.Context, from queryer, jobID string) (json.RawMessage, error) {
	var body []byte
	err := from.QueryRowContext(ctx, "SELECT s.body FROM job j JOIN snapshot s ON s.id = j.snapshot_id WHERE j.id = ?", jobID).Scan(&body)
	return body, missing("snapshot of the job", jobID, err)
}

// JobsOf reads the latest on a machine, latest first.
func (b *Book) JobsOf(ctx context.Context, machineID string, most int) ([]Job, error) {
	return b.jobs(ctx, "WHERE j.machine_id = ? ORDER BY j.place DESC LIMIT ?", machineID, most)
}

// Beside reads the job out of which one was begun, and those begun out of it.
func (b *Book) Beside(ctx context.Context, j Job) ([]Job, error) {
	from, err := b.jobs(ctx, "WHERE j.id = ?", j.From)
	if err != nil {
		return nil, err
	}
	begun, err := b.jobs(ctx, "WHERE j.begun_from = ? AND j.begun_from <> '' ORDER BY j.place", j.ID)
	return append(from, begun...), err
}

func (b *Book) jobs(ctx context.Context, where string, args ...any) ([]Job, error) {
	rows, err := b.db.QueryContext(ctx, "SELECT "+jobColumns+jobJoined+where, args...)
	return collect(rows, err, (*Job).from, (*Job).done)
}

// AddFact takes down a fact; the standing one on the same subject is superseded.
func (t *Tx) AddFact(f Fact) error {
	if err := t.exec(`INSERT INTO fact(id, at, by, device, job_id, subject, about, stage, sentence, source, value) VALUES (?,?,?,?,?,?,?,?,?,?,?)`,
		f.ID, micro(f.At), f.By, f.Device, f.JobID, f.Subject, f.About, f.Stage, f.Sentence, f.Source, string(f.Value)); err != nil {
		return fmt.Errorf("fact on %s: %w", f.Subject, err)
	}
	return t.exec("UPDATE fact SET superseded_by = ? WHERE job_id = ? AND subject = ? AND about = ? AND id <> ? AND superseded_by IS NULL", f.ID, f.JobID, f.Subject, f.About, f.ID)
}

// Facts reads all facts of jobs, each job's in order of time, superseded ones too.
func (b *Book) Facts(ctx context.Context, jobIDs ...string) (Facts, error) {
	return factsFrom(ctx, b.db, jobIDs)
}

// Facts reads a job's as they are in this write: nothing comes between.
func (t *Tx) Facts(jobID string) (Facts, error) { return factsFrom(t.ctx, t.tx, []string{jobID}) }

// FactsOn reads those of jobs that are on a subject, each job's in order of time.
func (b *Book) FactsOn(ctx context.Context, subject terms.Subject, jobIDs ...string) (Facts, error) {
	return factsWhere(ctx, b.db, "subject = ? AND ", []any{subject}, jobIDs)
}

func factsFrom(ctx context.Context, from queryer, jobIDs []string) (Facts, error) {
	if len(jobIDs) == 0 {
		return nil, nil
	}
	return factsWhere(ctx, from, "", nil, jobIDs)
}

func factsWhere(ctx context.Context, from queryer, and string, args []any, jobIDs []string) (Facts, error) {
	rows, err := from.QueryContext(ctx, "SELECT id, at, by, device, job_id, subject, about, stage, sentence, source, value, coalesce(superseded_by, '') FROM fact WHERE "+and+"job_id IN ("+places(jobIDs)+") ORDER BY job_id, at, rowid", append(args, texts(jobIDs)...)...)
	return collect(rows, err, func(f *Fact, at *int64) []any {
		return []any{&f.ID, at, &f.By, &f.Device, &f.JobID, &f.Subject, &f.About, &f.Stage, &f.Sentence, &f.Source, (*[]byte)(&f.Value), &f.SupersededBy}
	}, func(f *Fact, at int64) { f.At = moment(at) })
}

// Earlier reads what stands on a subject in the jobs of a machine before one, done
// with the same circuit, latest first, out of the last so many jobs.
func (b *Book) Earlier(ctx context.Context, j Job, circuitID string, subject terms.Subject, about string, most int) (Facts, error) {
	rows, err := b.db.QueryContext(ctx, `SELECT f.value, f.at FROM
		(SELECT j.id, j.place FROM job j JOIN snapshot s ON s.id = j.snapshot_id WHERE j.machine_id = ? AND j.place < ? AND s.circuit = ? ORDER BY j.place DESC LIMIT ?) j
		CROSS JOIN fact f ON f.job_id = j.id WHERE f.subject = ? AND f.about = ? AND f.superseded_by IS NULL`, j.MachineID, j.Place, circuitID, most, subject, about)
	return collect(rows, err, func(f *Fact, at *int64) []any { return []any{(*[]byte)(&f.Value), at} },
		func(f *Fact, at int64) { f.At, f.Subject, f.About = moment(at), subject, about })
}

// AddObservation takes down what was seen.
func (t *Tx) AddObservation(o Observation) error {
	return t.exec(`INSERT INTO observation(id, at, by, device, job_id, part, method, seen, class, pressure_pa, note) VALUES (?,?,?,?,?,?,?,?,?,?,?)`,
		o.ID, micro(o.At), o.By, o.Device, o.JobID, o.Part, o.Method, o.Seen, o.Class, o.PressurePa, o.Note)
}

// Observations reads those of jobs, each job's in order of time.
func (b *Book) Observations(ctx context.Context, jobIDs ...string) ([]Observation, error) {
	return observationsFrom(ctx, b.db, jobIDs)
}

// Observations reads a job's as they are in this write.
func (t *Tx) Observations(jobID string) ([]Observation, error) {
	return observationsFrom(t.ctx, t.tx, []string{jobID})
}

func observationsFrom(ctx context.Context, from queryer, jobIDs []string) ([]Observation, error) {
	rows, err := from.QueryContext(ctx, "SELECT id, at, by, device, job_id, part, method, seen, class, pressure_pa, note FROM observation WHERE job_id IN ("+places(jobIDs)+") ORDER BY job_id, at, rowid", texts(jobIDs)...)
	return collect(rows, err, func(o *Observation, at *int64) []any {
		return []any{&o.ID, at, &o.By, &o.Device, &o.JobID, &o.Part, &o.Method, &o.Seen, &o.Class, &o.PressurePa, &o.Note}
	}, func(o *Observation, at int64) { o.At = moment(at) })
}
