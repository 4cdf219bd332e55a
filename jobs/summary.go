package jobs

import (
	"context"
	"strings"

	"idlehiss/core/judge"
	"idlehiss/trail"
)

// summarise keeps for the book what is known of a job together, with what was just written.
func (r *Room) summarise(ctx context.Context, p *pencil) error {
	now, err := r.fileIn(ctx, p.tx, p.job.ID, p.shelf)
	if err != nil {
		return err
	}
	all, err := r.outcome(ctx, now)
	if err != nil {
		return err
	}
	last, loss := now.last(false), p.job.LossMLH
	if last != nil && last.report != nil && last.report.Call == judge.Leaking {
		if x := last.report.Coolant(trail.Escape(now.facts)); x != nil {
			loss = &x.Value
		}
	}
	switch {
	case len(all.call.Seen) > 0:
		return p.tx.Summarise(p.job.ID, string(judge.Leaking), loss, strings.Join(all.call.Seen, ", "))
	case p.many() || len(all.call.Past) > 0:
		return p.tx.Summarise(p.job.ID, all.call.Verdict.InBook(), nil, "")
	case last != nil && last.report != nil:
		return p.tx.Summarise(p.job.ID, string(last.report.Call), loss, "")
	}
	return p.tx.Summarise(p.job.ID, "", nil, "")
}
