package logbook

import (
	"context"
	"errors"
	"fmt"

	sqlite3 "modernc.org/sqlite/lib"
)

// Whole is a job with everything that belongs to it, as another book may take it over. Read from a book its photos are
// without their pictures.
type Whole struct {
	Job
	Words        string        `json:"words"` // by which it is found
	Facts        []Fact        `json:"facts"`
	Observations []Observation `json:"observations"`
	Photos       []Photo       `json:"photos"`
	Holds        []WholeHold   `json:"holds"`
}

// WholeHold is a hold with everything that belongs to it.
type WholeHold struct {
	Hold
	Events   []Event   `json:"events"`
	Gaps     []Gap     `json:"gaps"`
	Calls    []Call    `json:"calls"`
	Readings []Reading `json:"-"` // in order of gauge and number
}

// Whole reads one. Its calls are read before its readings: while the job goes on, none stands on a reading that is
// not in it.
func (b *Book) Whole(ctx context.Context, jobID string) (w Whole, err error) {
	if w.Job, err = b.Job(ctx, jobID); err != nil {
		return w, err
	}
	if err := b.db.QueryRowContext(ctx, "SELECT words FROM job WHERE id = ?", jobID).Scan(&w.Words); err != nil {
		return w, err
	}
	if w.Snapshot, err = b.Snapshot(ctx, jobID); err != nil {
		return w, err
	}
	if w.Facts, err = b.Facts(ctx, jobID); err != nil {
		return w, err
	}
	if w.Observations, err = b.Observations(ctx, jobID); err != nil {
		return w, err
	}
	if w.Photos, err = b.photosOf(ctx, jobID); err != nil {
		return w, err
	}
	calls, err := b.CallsOf(ctx, jobID)
	if err != nil {
		return w, err
	}
	holds, err := b.HoldsOf(ctx, jobID)
	if err != nil {
		return w, err
	}
	by := ByHold(calls)
	w.Holds = []WholeHold{}
	for _, h := range holds {
		one := WholeHold{Hold: h, Calls: append([]Call{}, by[h.ID]...)}
		if one.Gaps, err = b.Gaps(ctx, h.ID); err != nil {
			return w, err
		}
		if one.Events, err = b.Events(ctx, h.ID); err != nil {
			return w, err
		}
		for r, err := range b.Readings(ctx, h.ID) {
			if err != nil {
				return w, err
			}
			one.Readings = append(one.Readings, r)
		}
		w.Holds = append(w.Holds, one)
	}
	return w, nil
}

func (b *Book) photosOf(ctx context.Context, jobID string) ([]Photo, error) {
	rows, err := b.db.QueryContext(ctx, "SELECT id, at, by, device, part, note FROM photo WHERE job_id = ? ORDER BY at, rowid", jobID)
	return collect(rows, err, func(p *Photo, at *int64) []any {
		return []any{&p.ID, at, &p.By, &p.Device, &p.Part, &p.Note}
	}, func(p *Photo, at int64) { p.At = moment(at) })
}

// idsAtOnce is how many ids are read at once.
const idsAtOnce = 1000

// JobIDs lists all jobs, or those on a machine of this name, first to last.
func (b *Book) JobIDs(ctx context.Context, machine string) ([]string, error) {
	query, args := "SELECT id, place FROM job WHERE place > ? ORDER BY place LIMIT ?", []any{}
	if machine != "" {
		query = "SELECT id, place FROM job WHERE machine_id = (SELECT id FROM machine WHERE name = ?) AND place > ? ORDER BY place LIMIT ?"
		args = append(args, machine)
	}
	out, last := []string{}, int64(-1)
	for {
		rows, err := b.db.QueryContext(ctx, query, append(args, last, idsAtOnce)...)
		some, err := collect(rows, err, func(id *string, place *int64) []any { return []any{id, place} }, func(_ *string, place int64) { last = place })
		if err != nil {
			return nil, err
		}
		if out = append(out, some...); len(some) < idsAtOnce {
			return out, nil
		}
	}
}

// Machine reads one by its id.
func (b *Book) Machine(ctx context.Context, id string) (Machine, error) {
	return machineFrom(ctx, b.db, "id", id)
}

// AddMachine takes one over as it is.
func (t *Tx) AddMachine(m Machine) error {
	return t.exec("INSERT INTO machine(id, at, by, device, name, note, part_of, place_in) VALUES (?,?,?,?,?,?,?,?)", m.ID, micro(m.At), m.By, m.Device, m.Name, m.Note, m.PartOf, m.PlaceIn)
}

// PutWhole takes a job over, or what of it is not in the book yet: had is what is. An id that is in the book for
// something else is refused.
func (t *Tx) PutWhole(w Whole, had *Whole) error {
	old := ids(had)
	if err := t.putJob(w, had != nil); err != nil {
		return err
	}
	for _, f := range w.Facts {
		if old["fact "+f.ID] {
			continue
		}
		if err := t.exec("INSERT INTO fact(id, at, by, device, job_id, subject, about, stage, sentence, source, value) VALUES (?,?,?,?,?,?,?,?,?,?,?)",
			f.ID, micro(f.At), f.By, f.Device, w.ID, f.Subject, f.About, f.Stage, f.Sentence, f.Source, string(f.Value)); err != nil {
			return err
		}
	}
	for _, f := range w.Facts { // once all are there
		if f.SupersededBy != "" {
			if err := t.exec("UPDATE fact SET superseded_by = ? WHERE id = ?", f.SupersededBy, f.ID); err != nil {
				return err
			}
		}
	}
	for _, o := range w.Observations {
		if o.JobID = w.ID; !old["observation "+o.ID] {
			if err := t.AddObservation(o); err != nil {
				return err
			}
		}
	}
	for _, p := range w.Photos {
		if p.JobID = w.ID; !old["photo "+p.ID] {
			if err := t.AddPhoto(p); err != nil {
				return err
			}
		}
	}
	for _, h := range w.Holds {
		if err := t.putHold(w.ID, h, old); err != nil {
			return fmt.Errorf("hold %s: %w", h.ID, err)
		}
	}
	return nil
}

// putJob makes the job's own row, or brings it up to what is taken over.
func (t *Tx) putJob(w Whole, there bool) error {
	if !there {
		if err := t.AddJob(w.Job); err != nil {
			return err
		}
	}
	return errors.Join(
		t.Summarise(w.ID, w.Call, w.LossMLH, w.Found),
		t.exec("UPDATE job SET state = ?, ended_at = ?, owner = ?, mend = ?, hands = coalesce(nullif(?, ''), by), simulated = max(simulated, ?) WHERE id = ?", w.State, microOrNull(w.EndedAt), w.Owner, w.Mend, w.Hands, w.Simulated, w.ID),
		t.Index(w.ID, w.Words))
}

func (t *Tx) putHold(jobID string, h WholeHold, old map[string]bool) error {
	h.JobID = jobID
	if !old["hold "+h.ID] {
		if err := t.AddHold(h.Hold); err != nil {
			return err
		}
	}
	// What is worked out of its readings is worked out again.
	if err := errors.Join(t.SaveHold(h.Hold), t.SetCondition(h.ID, h.Condition), t.exec("UPDATE hold SET digest = '' WHERE id = ?", h.ID)); err != nil {
		return err
	}
	var fresh []Reading
	for i := range h.Readings {
		if h.Readings[i].HoldID = h.ID; !old[h.Readings[i].key()] {
			fresh = append(fresh, h.Readings[i])
		}
	}
	if err := t.AddReadings(fresh...); err != nil {
		return err
	}
	if err := t.keepStruck(h.Readings); err != nil {
		return err
	}
	for _, e := range h.Events {
		if e.HoldID = h.ID; !old["event "+e.ID] {
			if err := t.AddEvent(e); err != nil {
				return err
			}
		}
	}
	for _, g := range h.Gaps {
		g.HoldID = h.ID
		if err := t.AddGap(g); err != nil {
			return err
		}
	}
	for _, c := range h.Calls {
		if c.HoldID = h.ID; !old["call "+c.ID] {
			if err := t.AddCall(c); err != nil {
				return err
			}
		}
	}
	return nil
}

// ids are what a job has, by kind and id.
func ids(w *Whole) map[string]bool {
	out := map[string]bool{}
	if w == nil {
		return out
	}
	for _, x := range w.Facts {
		out["fact "+x.ID] = true
	}
	for _, x := range w.Observations {
		out["observation "+x.ID] = true
	}
	for _, x := range w.Photos {
		out["photo "+x.ID] = true
	}
	for _, h := range w.Holds {
		out["hold "+h.ID] = true
		for _, x := range h.Events {
			out["event "+x.ID] = true
		}
		for _, x := range h.Calls {
			out["call "+x.ID] = true
		}
		for _, r := range h.Readings {
			r.HoldID = h.ID
			out[r.key()] = true
		}
	}
	return out
}

func (r Reading) key() string { return fmt.Sprintf("reading %s %d %d", r.HoldID, r.Gauge, r.Seq) }

// Refused reports whether an error is that the book has no room for a row as it is: an id that is taken, a word that it
// does not know, a row that belongs to nothing.
func Refused(err error) bool { return code(err) == sqlite3.SQLITE_CONSTRAINT }
