package jobs

import (
	"context"
	"errors"
	"slices"
	"strings"

	"idlehiss/core/terms"
	"idlehiss/desk"
	"idlehiss/logbook"
	"idlehiss/trail"
)

// SetParties is that, as it is typed.
type SetParties struct {
	desk.Write
	trail.Parties
}

// keepParties writes them on a job, whose words they join.
func keepParties(x trail.Parties, tx *logbook.Tx, st logbook.Stamp, jobID string, words ...string) error {
	return errors.Join(
		addFact(tx, st, jobID, entry{"parties", terms.AboutParties, "", terms.WriteDown, terms.FromSaid, x.Says(), x}),
		tx.SetOwner(jobID, x.Owner),
		tx.Index(jobID, append(words, x.Words()...)...))
}

// SetParties takes them down.
func (r *Room) SetParties(ctx context.Context, jobID string, in SetParties) (desk.Receipt, error) {
	x := in.Parties
	for _, text := range []*string{&x.Owner, &x.Contact, &x.Plate, &x.Meter} {
		*text = strings.Join(strings.Fields(*text), " ")
	}
	return r.change(ctx, jobID, in.Write, in, "facts", func(p *pencil) error {
		return keepParties(x, p.tx, p.stamp, jobID, p.job.Machine, p.job.Complaint)
	})
}

// partiesBefore are those of a machine's latest job that has them, without what its meter showed then.
func (r *Room) partiesBefore(ctx context.Context, machine string) (x trail.Parties, err error) {
	m, err := r.desk.Book.MachineCalled(ctx, machine)
	if err != nil && !errors.Is(err, logbook.ErrNotFound) { // a new one has no jobs
		return x, err
	}
	all, err := r.desk.Book.JobsOf(ctx, m.ID, rememberedJobs)
	if err != nil || len(all) == 0 {
		return x, err
	}
	var ids []string
	for _, j := range all {
		ids = append(ids, j.ID)
	}
	facts, err := r.desk.Book.FactsOn(ctx, terms.AboutParties, ids...)
	if err != nil {
		return x, err
	}
	slices.SortFunc(facts, func(a, b logbook.Fact) int { return b.At.Compare(a.At) }) // the latest first
	x = trail.PartiesIn(facts)
	x.Meter = ""
	return x, nil
}
