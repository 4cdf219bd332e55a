// Package jobs is a job's sheet: facts, stages, steps, plan, findings, repairs, proof,
// paper. Its state is the book's: a sheet is read from it whenever it is asked for, and
// the room keeps none of it in memory. Shop, pages and commands call it; it calls kit,
// catalogue and holds, and knows nothing of who listens.
//
// A write reads what it needs within its own transaction, so that nothing comes between
// a check and what it allows, and is answered with a receipt. No write builds a sheet.
package jobs

import (
	"context"
	"encoding/json"
	"sync"

	"idlehiss/catalogue"
	"idlehiss/core/circuit"
	"idlehiss/core/judge"
	"idlehiss/core/runsheet"
	"idlehiss/core/terms"
	"idlehiss/desk"
	"idlehiss/holds"
	"idlehiss/kit"
	"idlehiss/library"
	"idlehiss/logbook"
)

// Room is the jobs of a shop.
type Room struct {
	desk      *desk.Desk
	kit       *kit.Room
	catalogue *catalogue.Room
	holds     *holds.Room

	schools runsheet.Schools
	repair  []circuit.RepairSchool
	repairs []circuit.Repair // of circuits that have no ladder of their own

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
	r.repairs, err = library.Repairs()
	return r, err
}

// onJob is the content of a write on a job.
type onJob struct {
	Job  string
	What any
}

// pencil writes on one job within a transaction.
type pencil struct {
	*file
	tx    *logbook.Tx
	stamp logbook.Stamp
}

// change does one write on an open job, tells the pages what of it changed, and answers
// with a receipt.
func (r *Room) change(ctx context.Context, jobID string, w desk.Write, content any, what string, fn func(*pencil) error) (desk.Receipt, error) {
	shelf, err := r.kit.Shelf(ctx)
	if err != nil {
		return desk.Receipt{}, err
	}
	receipt, ran, err := desk.Put(ctx, r.desk, w, onJob{jobID, content}, func(tx *logbook.Tx, st logbook.Stamp) (desk.Receipt, error) {
		f, err := r.fileIn(ctx, tx, jobID, shelf)
		if err != nil {
			return desk.Receipt{}, err
		}
		if err := f.open(); err != nil {
			return desk.Receipt{}, err
		}
		return desk.Received(w, jobID, what), fn(&pencil{f, tx, st})
	})
	if ran && err == nil {
		r.tell(jobID, what)
	}
	return receipt, err
}

func (r *Room) tell(jobID, what string) {
	r.desk.Tell(desk.JobNews, desk.Changed{ID: jobID, Changed: []string{what}})
}

// open refuses a job that takes no more entries.
func (f *file) open() error {
	if f.job.State != terms.Open {
		return desk.Conflicts("this job is %s. Start another job on the same machine to add to it", f.job.State)
	}
	return nil
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

// fact takes one down.
func (p *pencil) fact(e entry) error { return addFact(p.tx, p.stamp, p.job.ID, e) }

func addFact(tx *logbook.Tx, st logbook.Stamp, jobID string, e entry) error {
	raw, err := json.Marshal(e.value)
	if err != nil {
		return err
	}
	st.ID = e.prefix + "-" + st.ID
	return tx.AddFact(logbook.Fact{Stamp: st, JobID: jobID, Subject: e.subject, About: e.about, Stage: e.stage, Sentence: e.says, Source: e.source, Value: raw})
}

// many tells a circuit of several steps.
func (f *file) many() bool { return len(f.basis.Circuit.Tests()) > 1 }

// tight tells whether a report calls a hold tight.
func tight(r *judge.Report) bool { return r != nil && r.Call == judge.Tight }
