package shop

import (
	"context"
	"errors"
	"fmt"
	"slices"

	"idlehiss/core/judge"
	"idlehiss/core/terms"
	"idlehiss/desk"
	"idlehiss/holds"
	"idlehiss/logbook"
	"idlehiss/snapshot"
)

// HoldLine is a hold in one line, to choose from.
type HoldLine struct {
	ID    string     `json:"id"`
	JobID string     `json:"job_id"`
	Says  string     `json:"says"`
	Under string     `json:"under_text"`
	Ring  terms.Ring `json:"ring"`
}

// mostCompared is as many jobs of a machine as are looked through for holds to compare with.
const mostCompared = 30

// Comparable lists the other judged holds of the machine's latest jobs, latest first. Of each job it reads its holds,
// what was said of them, and by which schools it is done: no trace, no sheet.
func (s *Shop) Comparable(ctx context.Context, id string) ([]HoldLine, error) {
	book := s.desk.Book
	h, err := book.Hold(ctx, id)
	if err != nil {
		return nil, desk.Sought(err)
	}
	job, err := book.Job(ctx, h.JobID)
	if err != nil {
		return nil, err
	}
	all, err := book.JobsOf(ctx, job.MachineID, mostCompared)
	if err != nil {
		return nil, err
	}
	var ids []string
	for _, j := range all {
		ids = append(ids, j.ID)
	}
	rows, e1 := book.HoldsOf(ctx, ids...)
	schools, e2 := book.FactsOn(ctx, terms.AboutSchool, ids...)
	if err := errors.Join(e1, e2); err != nil {
		return nil, err
	}
	tests := map[string][]logbook.Hold{}
	var held []string
	for _, x := range rows {
		if x.ID != id && x.Purpose != terms.RigProof {
			tests[x.JobID] = append(tests[x.JobID], x)
			held = append(held, x.ID)
		}
	}
	calls, err := book.LastCalls(ctx, held...)
	if err != nil {
		return nil, err
	}
	chosen := map[string]logbook.Facts{}
	for _, f := range schools {
		chosen[f.JobID] = append(chosen[f.JobID], f)
	}
	by := logbook.ByHold(calls)
	out := []HoldLine{}
	for _, j := range all {
		if len(tests[j.ID]) == 0 {
			continue
		}
		basis, err := snapshot.Of(ctx, book, j, chosen[j.ID])
		if err != nil {
			return nil, err
		}
		shown, err := s.Holds.Summaries(ctx, holds.Case{Machine: j.Machine, Basis: basis, Holds: tests[j.ID], Calls: by})
		if err != nil {
			return nil, err
		}
		for _, x := range slices.Backward(shown) {
			if x.Report == nil || x.Report.RateKPaPerMin == nil {
				continue
			}
			about := x.StartedAt.Local().Format("2 Jan 15:04") + ", " + string(x.Purpose)
			if x.Under != "" {
				about += ", " + x.Under
			}
			out = append(out, HoldLine{ID: x.ID, JobID: x.JobID, Under: x.Under, Ring: x.Ring, Says: about + ": " + x.Sentence})
		}
	}
	return out, nil
}

// CompareView is two holds beside each other.
type CompareView struct {
	First      holds.HoldView   `json:"first"`
	Second     holds.HoldView   `json:"second"`
	Comparison judge.Comparison `json:"comparison"`
}

// Compare sets the second hold beside the first.
func (s *Shop) Compare(ctx context.Context, first, second string) (CompareView, error) {
	if first == second {
		return CompareView{}, desk.Refuse("second", "a hold cannot be compared with itself")
	}
	a, err := s.Holds.Hold(ctx, first)
	if err != nil {
		return CompareView{}, err
	}
	b, err := s.Holds.Hold(ctx, second)
	if err != nil {
		return CompareView{}, err
	}
	v := CompareView{First: a, Second: b}
	if a.Report == nil || b.Report == nil {
		return v, desk.Conflicts("a hold that was never judged cannot be compared")
	}
	if v.Comparison, err = judge.Compare(*a.Report, *b.Report); err != nil {
		return v, desk.Conflicts("%v", err)
	}
	if a.Machine != b.Machine {
		v.Comparison.Cautions = append(v.Comparison.Cautions, fmt.Sprintf("They are holds of two machines: %s and %s.", a.Machine, b.Machine))
	}
	return v, nil
}
