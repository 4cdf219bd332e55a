package logbook

import (
	"context"
	"database/sql"
	"encoding/json"
	"errors"
	"fmt"
	"math"
	"slices"
	"strings"
	"time"

	"idlehiss/core/terms"
)

// Machine stands on the bench or the rails; it lasts for ever.
type Machine struct {
	Stamp
	Name string `json:"name"`
	Note string `json:"note"`
}

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

// MachineNamed finds a machine by name, or makes it under the given stamp.
func (t *Tx) MachineNamed(s Stamp, name string) (Machine, error) {
	var m Machine
	var at int64
	err := t.tx.QueryRowContext(t.ctx, "SELECT id, at, by, device, name, note FROM machine WHERE name = ?", name).Scan(&m.ID, &at, &m.By, &m.Device, &m.Name, &m.Note)
	if err == nil {
		m.At = moment(at)
		return m, nil
	}
	if err != sql.ErrNoRows {
		return m, err
	}
	m = Machine{Stamp: s, Name: name}
	return m, t.exec("INSERT INTO machine(id, at, by, device, name, note) VALUES (?,?,?,?,?,?)", s.ID, micro(s.At), s.By, s.Device, name, "")
}

// Machines lists names that begin or contain the words, latest used first.
func (b *Book) Machines(ctx context.Context, like string, most int) ([]Machine, error) {
	rows, err := b.db.QueryContext(ctx, `SELECT id, at, by, device, name, note FROM machine WHERE name LIKE ? ESCAPE '\' ORDER BY used DESC LIMIT ?`, "%"+likeEscape(like)+"%", most)
	return collect(rows, err, func(m *Machine, at *int64) []any {
		return []any{&m.ID, at, &m.By, &m.Device, &m.Name, &m.Note}
	}, func(m *Machine, at int64) { m.At = moment(at) })
}

func likeEscape(s string) string {
	return strings.NewReplacer(`\`, `\\`, `%`, `\%`, `_`, `\_`).Replace(s)
}

// collect reads rows whose second column is a time.
func collect[T any](rows *sql.Rows, err error, into func(*T, *int64) []any, done func(*T, int64)) ([]T, error) {
	if err != nil {
		return nil, err
	}
	defer rows.Close()
	out := []T{}
	for rows.Next() {
		var v T
		var at int64
		if err := rows.Scan(into(&v, &at)...); err != nil {
			return nil, err
		}
		done(&v, at)
		out = append(out, v)
	}
	return out, rows.Err()
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
	if err := t.exec(`INSERT INTO job(id, at, by, device, machine_id, complaint, snapshot_id, place, state, simulated, begun_from)
		VALUES (?1, ?2, ?3, ?4, ?5, ?6, ?7, coalesce((SELECT max(place) + 1 FROM job WHERE place >= 1000 * ?2 AND place < 1000 * (?2 + 1)), 1000 * ?2), 'open', ?8, ?9)`,
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

// MarkSimulated marks a job as simulated, for ever.
func (t *Tx) MarkSimulated(jobID string) error {
	return t.exec("UPDATE job SET simulated = 1 WHERE id = ?", jobID)
}

// EndJob closes or abandons.
func (t *Tx) EndJob(jobID string, state terms.JobState, at time.Time) error {
	return t.exec("UPDATE job SET state = ?, ended_at = ? WHERE id = ? AND state = 'open'", state, micro(at), jobID)
}

const jobColumns = `j.id, j.at, j.by, j.device, j.machine_id, m.name, j.complaint, coalesce(s.hash, ''), j.state, j.ended_at, j.call, j.loss_ml_h, j.found, j.owner, j.mend, j.simulated, j.begun_from, j.place`

const jobJoined = " FROM job j JOIN machine m ON m.id = j.machine_id LEFT JOIN snapshot s ON s.id = j.snapshot_id "

func scanJob(row interface{ Scan(...any) error }) (Job, error) {
	var j Job
	var at int64
	var ended sql.NullInt64
	var loss sql.NullFloat64
	err := row.Scan(&j.ID, &at, &j.By, &j.Device, &j.MachineID, &j.Machine, &j.Complaint, &j.Hash, &j.State, &ended, &j.Call, &loss, &j.Found, &j.Owner, &j.Mend, &j.Simulated, &j.From, &j.Place)
	j.At, j.EndedAt = moment(at), momentOrNil(ended)
	if loss.Valid {
		j.LossMLH = &loss.Float64
	}
	return j, err
}

// Job reads one.
func (b *Book) Job(ctx context.Context, id string) (Job, error) { return jobFrom(ctx, b.db, id) }

// Job reads one as it is in this write.
func (t *Tx) Job(id string) (Job, error) { return jobFrom(t.ctx, t.tx, id) }

func jobFrom(ctx context.Context, from queryer, id string) (Job, error) {
	j, err := scanJob(from.QueryRowContext(ctx, "SELECT "+jobColumns+jobJoined+"WHERE j.id = ?", id))
	return j, missing("job", id, err)
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

// Open reads the jobs that are open, latest first.
func (b *Book) Open(ctx context.Context, most int) ([]Job, error) {
	return b.jobs(ctx, "WHERE j.state = 'open' ORDER BY j.place DESC LIMIT ?", most)
}

// Due reads the open jobs that are to be looked at again, soonest first by the index of those looks.
func (b *Book) Due(ctx context.Context, most int) ([]Job, error) {
	return b.jobs(ctx, `WHERE j.id IN (SELECT f.job_id FROM fact f CROSS JOIN job o ON o.id = f.job_id WHERE f.subject = 'remind' AND f.superseded_by IS NULL
		AND json_extract(f.value, '$.due') > '0002' AND o.state = 'open' ORDER BY json_extract(f.value, '$.due') LIMIT ?)`, most)
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

// Newest is after every place, for whoever begins to read.
const Newest = math.MaxInt64

// Search finds jobs whose machine, complaint, findings or call carry all the words, the last one perhaps unfinished;
// no words find all. It gives the latest of those before a place, latest first.
func (b *Book) Search(ctx context.Context, words string, before int64, most int) ([]Job, error) {
	var terms []string
	for _, w := range strings.Fields(words) {
		terms = append(terms, `"`+strings.ReplaceAll(w, `"`, `""`)+`"*`)
	}
	if len(terms) == 0 {
		return b.jobs(ctx, "WHERE j.place < ? ORDER BY j.place DESC LIMIT ?", before, most)
	}
	// The index gives them in their order, and is asked for no more than are shown.
	rows, err := b.db.QueryContext(ctx, "SELECT "+jobColumns+` FROM
		(SELECT rowid AS place FROM job_words WHERE job_words MATCH ? AND rowid < ? ORDER BY rowid DESC LIMIT ?) w CROSS JOIN job j ON j.place = w.place
		JOIN machine m ON m.id = j.machine_id LEFT JOIN snapshot s ON s.id = j.snapshot_id`, strings.Join(terms, " "), before, most)
	return scanJobs(rows, err)
}

func (b *Book) jobs(ctx context.Context, where string, args ...any) ([]Job, error) {
	rows, err := b.db.QueryContext(ctx, "SELECT "+jobColumns+jobJoined+where, args...)
	return scanJobs(rows, err)
}

func scanJobs(rows *sql.Rows, err error) ([]Job, error) {
	if err != nil {
		return nil, err
	}
	defer rows.Close()
	out := []Job{}
	for rows.Next() {
		j, err := scanJob(rows)
		if err != nil {
			return nil, err
		}
		out = append(out, j)
	}
	return out, rows.Err()
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
