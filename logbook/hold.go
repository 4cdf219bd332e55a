package logbook

import (
	"context"
	"encoding/json"
	"fmt"
	"time"

	"idlehiss/core/terms"
)

// Hold is one pressurisation of one chamber by one rig, from the first stroke to
// the release.
type Hold struct {
	Stamp
	JobID      string          `json:"-"`
	Purpose    terms.Purpose   `json:"purpose"`
	Condition  terms.Condition `json:"condition"`
	Chamber    string          `json:"chamber"`
	Rig        json.RawMessage `json:"rig"` // snapshot: gauge, pump, target, allowance
	State      terms.HoldState `json:"state"`
	IsolatedAt *time.Time      `json:"isolated_at"`
	EndedAt    *time.Time      `json:"ended_at"`
	LaidBy     bool            `json:"laid_by"` // it runs on without its person
	Simulated  bool            `json:"simulated"`
	Digest     json.RawMessage `json:"-"` // what a sheet shows of the readings of a hold that has ended; nil: not worked out
}

// Reading is one value as read. Hold, gauge and sequence are its key.
type Reading struct {
	HoldID string
	Gauge  int
	Seq    int
	At     time.Time
	Value  float64
	Unit   string
	How    string
	By     string
	Device string
	Struck string // the reason; "" while it stands
}

// Event happened at its own time.
type Event struct {
	Stamp
	HoldID     string   `json:"-"`
	Kind       string   `json:"kind"`
	PressurePa *float64 `json:"pressure_pa"`
}

// Gap is a stretch known to be without readings.
type Gap struct {
	HoldID string    `json:"-"`
	From   time.Time `json:"from"`
	To     time.Time `json:"to"`
	Why    string    `json:"why"`
}

// Call is what was said of a hold, by which judge, on which readings. Immutable.
type Call struct {
	Stamp
	HoldID  string          `json:"-"`
	Judge   string          `json:"judge"`
	Call    string          `json:"call"`
	LastSeq int             `json:"last_seq"`
	Report  json.RawMessage `json:"report"`
}

// AddHold begins a hold.
func (t *Tx) AddHold(h Hold) error {
	c := h.Condition
	return t.exec(`INSERT INTO hold(id, at, by, device, job_id, purpose, under, warmth, engine, note, chamber, rig, state, isolated_at, ended_at, simulated)
		VALUES (?,?,?,?,?,?,?,?,?,?,?,?,?,?,?,?)`,
		h.ID, micro(h.At), h.By, h.Device, h.JobID, h.Purpose, c.Under, c.Warmth, c.Engine, c.Note, h.Chamber, string(h.Rig), h.State, microOrNull(h.IsolatedAt), microOrNull(h.EndedAt), h.Simulated)
}

// SaveHold keeps a hold's state and its rig, which gains the trapped air and the
// allowance it makes when the supply is shut.
func (t *Tx) SaveHold(h Hold) error {
	return t.exec("UPDATE hold SET state = ?, isolated_at = ?, ended_at = ?, laid_by = ?, rig = ? WHERE id = ?",
		h.State, microOrNull(h.IsolatedAt), microOrNull(h.EndedAt), h.LaidBy, string(h.Rig), h.ID)
}

// SetDigest keeps what a sheet shows of the readings of a hold that has ended.
func (t *Tx) SetDigest(holdID string, digest json.RawMessage) error {
	return t.exec("UPDATE hold SET digest = ? WHERE id = ?", string(digest), holdID)
}

// SetCondition puts right under which condition a hold is or was done.
func (t *Tx) SetCondition(holdID string, c terms.Condition) error {
	return t.exec("UPDATE hold SET under = ?, warmth = ?, engine = ?, note = ? WHERE id = ?", c.Under, c.Warmth, c.Engine, c.Note, holdID)
}

const holdColumns = "id, at, by, device, job_id, purpose, under, warmth, engine, note, chamber, rig, state, isolated_at, ended_at, laid_by, simulated, digest"

func holdsFrom(ctx context.Context, from queryer, where string, args ...any) ([]Hold, error) {
	rows, err := from.QueryContext(ctx, "SELECT "+holdColumns+" FROM hold "+where, args...)
	return collect(rows, err, func(h *Hold, at *int64) []any {
		c := &h.Condition
		return []any{&h.ID, at, &h.By, &h.Device, &h.JobID, &h.Purpose, &c.Under, &c.Warmth, &c.Engine, &c.Note, &h.Chamber, (*[]byte)(&h.Rig), &h.State, maybe{&h.IsolatedAt}, maybe{&h.EndedAt}, &h.LaidBy, &h.Simulated, (*[]byte)(&h.Digest)}
	}, func(h *Hold, at int64) {
		if h.At = moment(at); len(h.Digest) == 0 {
			h.Digest = nil
		}
	})
}

// Hold reads one.
func (b *Book) Hold(ctx context.Context, id string) (Hold, error) {
	hs, err := holdsFrom(ctx, b.db, "WHERE id = ?", id)
	return only(hs, "hold", id, err)
}

// RunningHolds reads all that have not ended, in order of start.
func (b *Book) RunningHolds(ctx context.Context) ([]Hold, error) {
	return holdsFrom(ctx, b.db, "WHERE state <> 'ended' ORDER BY at")
}

// HoldsOf reads the holds of jobs, each job's in order of start.
func (b *Book) HoldsOf(ctx context.Context, jobIDs ...string) ([]Hold, error) {
	return holdsFrom(ctx, b.db, "WHERE job_id IN ("+places(jobIDs)+") ORDER BY job_id, at", texts(jobIDs)...)
}

// HoldsOf reads a job's as they are in this write.
func (t *Tx) HoldsOf(jobID string) ([]Hold, error) {
	return holdsFrom(t.ctx, t.tx, "WHERE job_id = ? ORDER BY at", jobID)
}

// AddReadings takes down readings where they stay; a key that is already there is refused. What arrived before them
// goes there first, so that those that lie there have no gap.
func (t *Tx) AddReadings(rs ...Reading) error {
	if err := t.settle(); err != nil {
		return err
	}
	return t.addReadings(rs...)
}

func (t *Tx) addReadings(rs ...Reading) error {
	t.wrote = true
	stmt, err := t.tx.PrepareContext(t.ctx, "INSERT INTO reading(hold_id, gauge, seq, at, value, unit, how, by, device) VALUES (?,?,?,?,?,?,?,?,?)")
	if err != nil {
		return err
	}
	defer stmt.Close()
	for _, r := range rs {
		if _, err := stmt.ExecContext(t.ctx, r.HoldID, r.Gauge, r.Seq, micro(r.At), r.Value, r.Unit, r.How, r.By, r.Device); err != nil {
			return fmt.Errorf("reading %d of gauge %d: %w", r.Seq, r.Gauge, err)
		}
		if r.Seq > 0 && r.Seq%packOf == 0 {
			if err := t.pack(r.HoldID, r.Gauge, r.Seq); err != nil {
				return err
			}
		}
	}
	return nil
}

// Strike marks a reading as not to be used, with the reason, or without one to be used again. It stays in
// the book.
func (t *Tx) Strike(holdID string, gauge, seq int, reason string) error {
	changed := int64(0)
	for _, where := range []string{"UPDATE reading SET struck", "UPDATE arriving SET struck"} {
		n, err := t.changed(where+" = ? WHERE hold_id = ? AND gauge = ? AND seq = ? AND (struck = '') <> (? = '')", reason, holdID, gauge, seq, reason)
		if err != nil {
			return err
		}
		changed += n
	}
	if changed == 0 {
		return fmt.Errorf("there is no reading %d of gauge %d to change so (%w)", seq, gauge, ErrNotFound)
	}
	return nil
}

// keepStruck keeps of readings that are taken over why they are not to be used.
func (t *Tx) keepStruck(rs []Reading) error {
	for _, r := range rs {
		if r.Struck != "" {
			if err := t.exec("UPDATE reading SET struck = ? WHERE hold_id = ? AND gauge = ? AND seq = ?", r.Struck, r.HoldID, r.Gauge, r.Seq); err != nil {
				return err
			}
		}
	}
	return nil
}

// LastSeq is the highest number of a gauge's readings that have settled: about as many as there are.
func (b *Book) LastSeq(ctx context.Context, holdID string, gauge int) (last int, err error) {
	err = b.db.QueryRowContext(ctx, "SELECT coalesce(max(seq), 0) FROM reading WHERE hold_id = ? AND gauge = ?", holdID, gauge).Scan(&last)
	return last, err
}

// AddEvent takes down an event.
func (t *Tx) AddEvent(e Event) error {
	return t.exec("INSERT INTO event(id, at, by, device, hold_id, kind, pressure_pa) VALUES (?,?,?,?,?,?,?)", e.ID, micro(e.At), e.By, e.Device, e.HoldID, e.Kind, e.PressurePa)
}

// Events reads a hold's in order of time.
func (b *Book) Events(ctx context.Context, holdID string) ([]Event, error) {
	rows, err := b.db.QueryContext(ctx, "SELECT id, at, by, device, hold_id, kind, pressure_pa FROM event WHERE hold_id = ? ORDER BY at, rowid", holdID)
	return collect(rows, err, func(e *Event, at *int64) []any {
		return []any{&e.ID, at, &e.By, &e.Device, &e.HoldID, &e.Kind, &e.PressurePa}
	}, func(e *Event, at int64) { e.At = moment(at) })
}

// AddGap notes a stretch without readings; noted again it grows.
func (t *Tx) AddGap(g Gap) error {
	return t.exec("INSERT INTO gap(hold_id, from_at, to_at, why) VALUES (?,?,?,?) ON CONFLICT(hold_id, from_at) DO UPDATE SET to_at = max(to_at, excluded.to_at)", g.HoldID, micro(g.From), micro(g.To), g.Why)
}

// Gaps reads a hold's.
func (b *Book) Gaps(ctx context.Context, holdID string) ([]Gap, error) {
	var to int64
	rows, err := b.db.QueryContext(ctx, "SELECT hold_id, from_at, to_at, why FROM gap WHERE hold_id = ? ORDER BY from_at", holdID)
	return collect(rows, err, func(g *Gap, from *int64) []any { return []any{&g.HoldID, from, &to, &g.Why} },
		func(g *Gap, from int64) { g.From, g.To = moment(from), moment(to) })
}

// AddCall takes down a call.
func (t *Tx) AddCall(c Call) error {
	return t.exec("INSERT INTO call(id, at, by, device, hold_id, judge, call, last_seq, report) VALUES (?,?,?,?,?,?,?,?,?)", c.ID, micro(c.At), c.By, c.Device, c.HoldID, c.Judge, c.Call, c.LastSeq, string(c.Report))
}

// Calls reads a hold's, first to last.
func (b *Book) Calls(ctx context.Context, holdID string) ([]Call, error) {
	return callsFrom(ctx, b.db, "hold_id = ?"+inOrder, holdID)
}

// CallsOf reads those of all the holds of jobs, each hold's first to last.
func (b *Book) CallsOf(ctx context.Context, jobIDs ...string) ([]Call, error) {
	return callsFrom(ctx, b.db, "hold_id IN (SELECT id FROM hold WHERE job_id IN ("+places(jobIDs)+"))"+inOrder, texts(jobIDs)...)
}

// CallsOf reads those of a job as they are in this write.
func (t *Tx) CallsOf(jobID string) ([]Call, error) {
	return callsFrom(t.ctx, t.tx, "hold_id IN (SELECT id FROM hold WHERE job_id = ?)"+inOrder, jobID)
}

// inOrder has each hold's calls first to last, as they lie in their index.
const inOrder = " ORDER BY hold_id, at, rowid"

// LastCalls reads what was last said of each of these holds.
func (b *Book) LastCalls(ctx context.Context, holdIDs ...string) ([]Call, error) {
	ids, err := json.Marshal(holdIDs)
	if err != nil {
		return nil, err
	}
	return callsFrom(ctx, b.db, "id IN (SELECT (SELECT id FROM call c WHERE c.hold_id = h.value ORDER BY c.at DESC, c.rowid DESC LIMIT 1) FROM json_each(?) h)", string(ids))
}

func callsFrom(ctx context.Context, from queryer, where string, args ...any) ([]Call, error) {
	rows, err := from.QueryContext(ctx, "SELECT id, at, by, device, hold_id, judge, call, last_seq, report FROM call WHERE "+where, args...)
	return collect(rows, err, func(c *Call, at *int64) []any {
		return []any{&c.ID, at, &c.By, &c.Device, &c.HoldID, &c.Judge, &c.Call, &c.LastSeq, (*[]byte)(&c.Report)}
	}, func(c *Call, at int64) { c.At = moment(at) })
}

// ByHold are calls by the hold of each.
func ByHold(calls []Call) map[string][]Call {
	out := map[string][]Call{}
	for _, c := range calls {
		out[c.HoldID] = append(out[c.HoldID], c)
	}
	return out
}
