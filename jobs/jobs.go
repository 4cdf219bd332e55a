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

	"idlehiss/desk"
	"idlehiss/logbook"
)

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

// fact takes one down.
func (p *pencil) fact(e entry) error { return addFact(p.tx, p.stamp, p.job.ID, e) }
