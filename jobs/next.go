package jobs

import (
	"cmp"
	"context"
	"slices"
	"strings"
	"time"

	"idlehiss/core/runsheet"
	"idlehiss/core/steps"
	"idlehiss/core/terms"
	"idlehiss/holds"
	"idlehiss/logbook"
	"idlehiss/trail"
)

// NextThing is something that wants a person.
type NextThing struct {
	JobID   string      `json:"job_id"`
	Stage   terms.Stage `json:"stage"`
	Machine string      `json:"machine"`
	Text    string      `json:"text"`
	DueAt   *time.Time  `json:"due_at"`   // of a reminder
	Says    string      `json:"due_says"` // the same by the shop's clock; empty: a moment of a hold
	Due     bool        `json:"due"`      // its time has come
}

// mostNext is as many open jobs as the bench looks through, latest first, and as many of those that are to be looked at again.
const mostNext = 40

// Next is what wants hands, in every open job. running are the holds in progress. No
// sheet is built for it.
func (r *Room) Next(ctx context.Context, running []holds.HoldView) ([]NextThing, error) {
	out := []NextThing{}
	open, err := r.desk.Book.Search(ctx, logbook.Wanted{Open: true}, logbook.Newest, mostNext)
	if err != nil {
		return out, err
	}
	due, err := r.desk.Book.Due(ctx, mostNext)
	if err != nil {
		return out, err
	}
	for _, j := range due { // however long it has been open
		if !slices.ContainsFunc(open, func(o logbook.Job) bool { return o.ID == j.ID }) {
			open = append(open, j)
		}
	}
	all, err := r.files(ctx, open...)
	if err != nil {
		return out, err
	}
	for _, f := range all {
		n, err := r.nextOf(ctx, f, running)
		if err != nil {
			n.Stage, n.Text = terms.FirstLook, "Its sheet cannot be read: "+err.Error()+"."
		}
		if n.Text != "" {
			out = append(out, n)
		}
		for _, x := range trail.Reminders(f.facts, r.desk.Clock.Now()) {
			due := x.DueAt
			out = append(out, NextThing{JobID: f.job.ID, Stage: terms.HuntStage, Machine: f.job.Machine, Text: strings.TrimPrefix(x.For+": ", ": ") + "Look again: " + strings.TrimSuffix(x.Text, ".") + ".", DueAt: &due, Says: x.Says, Due: x.Due})
		}
	}
	// What is overdue comes first, then what waits for hands now, then what has its time.
	slices.SortStableFunc(out, func(a, b NextThing) int {
		return cmp.Or(cmp.Compare(rank(a), rank(b)), cmp.Compare(at(a), at(b)))
	})
	return out, nil
}

func rank(n NextThing) int {
	switch {
	case n.Due:
		return 0
	case n.DueAt == nil:
		return 1
	}
	return 2
}

func at(n NextThing) int64 {
	if n.DueAt == nil {
		return 0
	}
	return n.DueAt.UnixMicro()
}

// holding is what to do at a hold that has been called, by its ring.
var holding = map[terms.Ring]string{
	terms.RingWhole:  "Called tight: look at it, then bleed down.",
	terms.RingNicked: "Called tight, a little lost: look at it.",
	terms.RingCut:    "Called leaking: hunt while it is under pressure.",
}

func (r *Room) nextOf(ctx context.Context, f *file, running []holds.HoldView) (NextThing, error) {
	n := NextThing{JobID: f.job.ID, Machine: f.job.Machine}
	if f.bad != nil {
		return n, f.bad
	}
	for _, h := range running {
		if h.JobID != f.job.ID {
			continue
		}
		n.Stage = h.Stage
		switch {
		case h.State == terms.Pumping:
			n.Text = h.Sentence
		case len(h.Calls) > 0:
			n.Text = holding[h.Calls[len(h.Calls)-1].Ring]
		case h.ReadNext == nil: // it runs by itself; hands are not wanted
			n.Text = "Holding by itself. Watch and listen, hands off."
		default:
			due := h.StartedAt.Add(time.Duration(h.ReadNext.AtS * float64(time.Second)))
			n.DueAt, n.Due, n.Text = &due, !due.After(r.desk.Clock.Now()), "Read the gauge then. Do not touch the rig meanwhile."
			if n.Due {
				n.Text = "Read the gauge now."
			}
		}
		return n, nil
	}
	all, err := r.outcome(ctx, f)
	if err != nil {
		return n, err
	}
	order := runsheet.Stages(&f.basis.Circuit, f.bladders()...)
	_, n.Stage = steps.ProgressOf(&f.basis.Circuit, order, f.done(all))
	for _, st := range order {
		if st.ID == n.Stage {
			n.Text = st.Title + "."
		}
	}
	return n, nil
}
