package jobs

import (
	"context"
	"encoding/json"
	"errors"
	"sync"
	"time"

	"idlehiss/catalogue"
	"idlehiss/core/circuit"
	"idlehiss/core/judge"
	"idlehiss/core/quantity"
	"idlehiss/core/runsheet"
	"idlehiss/core/steps"
	"idlehiss/core/terms"
	"idlehiss/desk"
	"idlehiss/holds"
	"idlehiss/kit"
	"idlehiss/library"
	"idlehiss/logbook"
	"idlehiss/snapshot"
	"idlehiss/trail"
)

// Room is the jobs of a shop.
type Room struct {
	desk      *desk.Desk
	kit       *kit.Room
	catalogue *catalogue.Room
	holds     *holds.Room

	schools runsheet.Schools
	repair  []circuit.RepairSchool
	lib     trail.Library

	times sync.Map // what a hold will need, by its question
}

// New opens the room.
func New(d *desk.Desk, k *kit.Room, c *catalogue.Room, h *holds.Room) (*Room, error) {
	r := &Room{desk: d, kit: k, catalogue: c, holds: h}
	var err error
	if r.schools.Hold, err = library.HoldSchools(); err != nil {
		return nil, err
	}
	if r.schools.Target, err = library.TargetSchools(); err != nil {
		return nil, err
	}
	if r.repair, err = library.RepairSchools(); err != nil {
		return nil, err
	}
	r.lib, err = trail.Open()
	return r, err
}

// entry is a fact that is taken down: prefix tells the facts of one write apart.
type entry struct {
	prefix  string
	subject terms.Subject
	about   string
	stage   terms.Stage
	source  terms.Source
	says    string
	value   any
}

func addFact(tx *logbook.Tx, st logbook.Stamp, jobID string, e entry) error {
	raw, err := json.Marshal(e.value)
	if err != nil {
		return err
	}
	st.ID = e.prefix + "-" + st.ID
	return tx.AddFact(logbook.Fact{Stamp: st, JobID: jobID, Subject: e.subject, About: e.about, Stage: e.stage, Sentence: e.says, Source: e.source, Value: raw})
}

// tight reports whether a report calls a hold tight.
func tight(r *judge.Report) bool { return r != nil && r.Call == judge.Tight }

// file is all that the book has of a job, but no trace.
type file struct {
	job    logbook.Job
	facts  logbook.Facts
	looks  []logbook.Observation
	rows   []logbook.Hold
	calls  map[string][]logbook.Call // by hold
	holds  []held
	basis  snapshot.Basis
	shelf  *kit.Shelf
	fitted trail.Fitted
	on     []kit.Piece // of the rig
	ticked map[string]bool
	said   []trail.Said   // by steps that are no holds, once they were worked out
	bad    error          // why it cannot be read
	spoken *quantity.Unit // of pressures in what is said of a repair; nil: as they were read

	mark   *quantity.Mark // nil while it is not known, or where the circuit has none
	chosen int            // which of its readings
}

// held is a hold as far as the order of work asks of it.
type held struct {
	id        string
	purpose   terms.Purpose
	condition terms.Condition
	state     terms.HoldState
	step      string
	began     time.Time
	rig       holds.Rig
	report    *judge.Report // its last call; nil before one was made
}

func (h *held) proof() bool { return h.purpose == terms.RigProof }

func (h *held) ring() terms.Ring { return steps.RingOf(h.report) }

// files reads what the book has of jobs, in as many queries as of one. One that cannot be read leaves the others alone.
func (r *Room) files(ctx context.Context, all ...logbook.Job) ([]*file, error) {
	shelf, err := r.kit.Shelf(ctx)
	if err != nil || len(all) == 0 {
		return nil, err
	}
	var ids []string
	for _, j := range all {
		ids = append(ids, j.ID)
	}
	facts, e1 := r.desk.Book.Facts(ctx, ids...)
	looks, e2 := r.desk.Book.Observations(ctx, ids...)
	rows, e3 := r.desk.Book.HoldsOf(ctx, ids...)
	calls, e4 := r.desk.Book.CallsOf(ctx, ids...)
	if err := errors.Join(e1, e2, e3, e4); err != nil {
		return nil, err
	}
	var out []*file
	of := map[string]*file{}
	for _, j := range all {
		f := &file{job: j, shelf: shelf}
		out, of[j.ID] = append(out, f), f
	}
	for _, x := range facts {
		of[x.JobID].facts = append(of[x.JobID].facts, x)
	}
	for _, x := range looks {
		of[x.JobID].looks = append(of[x.JobID].looks, x)
	}
	for _, x := range rows {
		of[x.JobID].rows = append(of[x.JobID].rows, x)
	}
	byHold := logbook.ByHold(calls)
	for _, f := range out {
		f.calls = byHold
		f.bad = f.fill(ctx, r.desk.Book)
	}
	return out, nil
}

// file reads one job.
func (r *Room) file(ctx context.Context, id string) (*file, error) {
	j, err := r.desk.Book.Job(ctx, id)
	if err != nil {
		return nil, desk.Sought(err)
	}
	all, err := r.files(ctx, j)
	if err != nil {
		return nil, err
	}
	return all[0], all[0].bad
}

// fileIn reads one within a transaction.
func (r *Room) fileIn(ctx context.Context, tx *logbook.Tx, id string, shelf *kit.Shelf) (*file, error) {
	f := &file{shelf: shelf}
	var err error
	if f.job, err = tx.Job(id); err != nil {
		return nil, err
	}
	var e1, e2, e3, e4 error
	var calls []logbook.Call
	f.facts, e1 = tx.Facts(id)
	f.looks, e2 = tx.Observations(id)
	f.rows, e3 = tx.HoldsOf(id)
	calls, e4 = tx.CallsOf(id)
	if err := errors.Join(e1, e2, e3, e4); err != nil {
		return nil, err
	}
	f.calls = logbook.ByHold(calls)
	return f, f.fill(ctx, tx)
}

// fill works out what follows from the rows.
func (f *file) fill(ctx context.Context, from snapshot.Keeper) error {
	var err error
	if f.basis, err = snapshot.Of(ctx, from, f.job, f.facts); err != nil {
		return err
	}
	if x, ok := f.facts.Standing(terms.AboutFitted, ""); ok {
		if err := json.Unmarshal(x.Value, &f.fitted); err != nil {
			return err
		}
	}
	f.looks = trail.Counting(f.looks)
	f.on = f.shelf.Picked(f.fitted.Pieces)
	f.ticked = map[string]bool{}
	for _, x := range f.facts.On(terms.AboutTick) {
		var on bool
		f.ticked[x.About] = json.Unmarshal(x.Value, &on) == nil && on
	}
	for _, h := range f.rows {
		if got, ok := heldOf(h, f.calls[h.ID], &f.basis.Snapshot.Circuit); ok {
			f.holds = append(f.holds, got)
		}
	}
	f.mark, f.chosen, err = markOf(f.facts, &f.basis.Circuit)
	return err
}

// heldOf is a hold with its last call. One that cannot be read counts for nothing and
// takes nothing with it; the sheet says why.
func heldOf(h logbook.Hold, calls []logbook.Call, c *circuit.Circuit) (out held, ok bool) {
	out = held{id: h.ID, purpose: h.Purpose, condition: h.Condition, state: h.State, began: h.At}
	if json.Unmarshal(h.Rig, &out.rig) != nil {
		return out, false
	}
	if step, ok := c.Test(out.rig.Step); ok {
		out.step = step.ID
	}
	if n := len(calls); n > 0 {
		out.report = new(judge.Report)
		if json.Unmarshal(calls[n-1].Report, out.report) != nil { // its word stands
			out.report = &judge.Report{Call: judge.Call(calls[n-1].Call)}
		}
	}
	return out, true
}

// last is the last hold of a kind: the rig's proofs, or the others.
func (f *file) last(proof bool) *held {
	for i := len(f.holds) - 1; i >= 0; i-- {
		if f.holds[i].proof() == proof {
			return &f.holds[i]
		}
	}
	return nil
}

// proven reports whether the rig's last proof was tight.
func (f *file) proven() bool {
	p := f.last(true)
	return p != nil && tight(p.report)
}

// step finds a step of the job's circuit; an empty id is its first hold.
func (f *file) step(id string) (circuit.Step, error) {
	s, ok := f.basis.Circuit.Test(id)
	if !ok {
		return s, desk.Refuse("step", "%s has no step %q", f.basis.Circuit.Title, id)
	}
	return s, nil
}

// holdStep finds one that is a hold.
func (f *file) holdStep(id string) (circuit.Step, error) {
	s, err := f.step(id)
	if err == nil && s.Kind != circuit.Hold {
		err = desk.Refuse("step", "%s is no hold: nothing is pumped up for it", quantity.Lower(s.Title))
	}
	return s, err
}

// key sets a fact apart where it is of another step than the first hold, whatever the
// school of order.
func (f *file) key(s circuit.Step) string {
	if first, _ := f.basis.Snapshot.Circuit.Test(""); first.ID == s.ID {
		return ""
	}
	return s.ID
}

// stageOf is the stage at which a step's plan is made.
func (f *file) stageOf(s circuit.Step) terms.Stage {
	if !f.many() {
		return terms.KnowLimit
	}
	return terms.StepStage(s.ID)
}

// many tells a circuit of several steps.
func (f *file) many() bool { return len(f.basis.Circuit.Tests()) > 1 }

// open refuses a job that takes no more entries.
func (f *file) open() error {
	if f.job.State != terms.Open {
		return desk.Conflicts("this job is %s. Start another job on the same machine to add to it", f.job.State)
	}
	return nil
}

// markKept is what the fact keeps.
type markKept struct {
	Text    string `json:"text"`
	Reading int    `json:"reading"`
}

// markOf is the mark as it was decoded; nil while it is not known, or where the circuit
// has none.
func markOf(facts logbook.Facts, c *circuit.Circuit) (m *quantity.Mark, chosen int, err error) {
	f, ok := facts.Standing(terms.AboutMark, "")
	if !ok || !c.Marked() {
		return nil, 0, nil
	}
	var kept markKept
	if err := json.Unmarshal(f.Value, &kept); err != nil {
		return nil, 0, err
	}
	got, err := quantity.DecodeMark(kept.Text, c.Plausible())
	if err != nil {
		return nil, 0, err
	}
	return &got, min(kept.Reading, len(got.Readings)-1), nil
}

// reading is the mark's reading that is meant; nil where there is none.
func (f *file) reading() *quantity.Reading {
	if f.mark == nil {
		return nil
	}
	return &f.mark.Readings[f.chosen]
}
