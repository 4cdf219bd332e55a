package shop

import (
	"cmp"
	"context"
	"slices"
	"strings"

	"idlehiss/logbook"
)

// Bench is what is under pressure now and what wants hands next.
func (s *Shop) Bench(ctx context.Context) (BenchView, error) {
	all, own, err := s.circuits()
	if err != nil {
		return BenchView{}, err
	}
	v := BenchView{Holds: []HoldView{}, Next: []NextThing{}, Circuits: []CircuitRow{}, Demo: s.demo}
	for _, c := range all {
		v.Circuits = append(v.Circuits, circuitRow(c, own))
	}
	v.Holds = s.Running()
	open, err := s.book.Jobs(ctx, "open", 12)
	if err != nil {
		return v, err
	}
	for _, j := range open {
		job, err := s.Job(ctx, j.ID)
		if err != nil {
			return v, err
		}
		if n, ok := nextThing(job); ok {
			v.Next = append(v.Next, n)
		}
		for _, r := range job.Reminders {
			due := r.DueAt
			v.Next = append(v.Next, NextThing{JobID: job.ID, Stage: "hunt", Machine: job.Machine, Text: "Look again: " + r.Text + ".", DueAt: &due})
		}
	}
	// What has its time comes by it; what waits for hands now comes first.
	slices.SortStableFunc(v.Next, func(a, b NextThing) int {
		at := func(n NextThing) int64 {
			if n.DueAt == nil {
				return 0
			}
			return n.DueAt.UnixMicro()
		}
		return cmp.Compare(at(a), at(b))
	})
	return v, nil
}

// Running are the holds in progress, first begun first, with their traces.
func (s *Shop) Running() []HoldView {
	s.mu.Lock()
	defer s.mu.Unlock()
	out := []HoldView{}
	for _, l := range s.live {
		out = append(out, s.viewOf(l, true))
	}
	slices.SortFunc(out, func(a, b HoldView) int {
		return cmp.Or(a.StartedAt.Compare(b.StartedAt), strings.Compare(a.ID, b.ID))
	})
	return out
}

func nextThing(j JobView) (NextThing, bool) {
	n := NextThing{JobID: j.ID, Stage: j.Current, Machine: j.Machine}
	for _, h := range j.Holds {
		switch {
		case h.State == "pumping":
			n.Stage, n.Text = h.Stage, h.Sentence
			return n, true
		case h.State == "holding" && len(h.Calls) > 0:
			n.Stage = h.Stage
			n.Text = map[Ring]string{RingWhole: "Called tight: look at it, then bleed down.", RingNicked: "Called tight, a little lost: look at it.", RingCut: "Called leaking: hunt while it is under pressure."}[h.Calls[len(h.Calls)-1].Ring]
			return n, n.Text != ""
		case h.State == "holding":
			// It runs by itself; hands are not wanted.
			n.Stage, n.Text = h.Stage, "Holding by itself. Eyes and ears meanwhile, hands off."
			return n, true
		}
	}
	for _, st := range j.Stages {
		if st.ID == j.Current {
			n.Text = st.Title + "."
		}
	}
	return n, n.Text != ""
}

// bookMost is how many rows a search gives at once.
const bookMost = 200

// Book lists jobs found by plain words, latest first.
func (s *Shop) Book(ctx context.Context, words string) ([]BookRow, error) {
	jobs, err := s.book.Search(ctx, words, bookMost)
	if err != nil {
		return nil, err
	}
	out := []BookRow{}
	for _, j := range jobs {
		out = append(out, bookRow(j))
	}
	return out, nil
}

func bookRow(j logbook.Job) BookRow {
	ring := map[string]Ring{"tight": RingWhole, "leaking": RingCut, "never-reached": RingCut, "right": RingWhole, "not right": RingCut}[j.Call]
	if ring == "" {
		ring = RingDotted
	}
	return BookRow{ID: j.ID, At: j.At, Machine: j.Machine, Complaint: j.Complaint, State: j.State, Call: j.Call, Ring: ring, LossMLH: j.LossMLH, Found: j.Found, Simulated: j.Simulated}
}

// Machines lists names to choose from.
func (s *Shop) Machines(ctx context.Context, like string) ([]string, error) {
	ms, err := s.book.Machines(ctx, like, 8)
	if err != nil {
		return nil, err
	}
	out := []string{}
	for _, m := range ms {
		out = append(out, m.Name)
	}
	return out, nil
}
