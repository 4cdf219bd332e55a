package shop

import (
	"context"
	"fmt"

	"idlehiss/core/judge"
	"idlehiss/logbook"
)

// CompareView is two holds beside each other.
type CompareView struct {
	First      HoldView         `json:"first"`
	Second     HoldView         `json:"second"`
	Comparison judge.Comparison `json:"comparison"`
}

// Compare sets the second hold beside the first.
func (s *Shop) Compare(ctx context.Context, first, second string) (CompareView, error) {
	if first == second {
		return CompareView{}, refuse("second", "a hold cannot be compared with itself")
	}
	s.mu.Lock()
	defer s.mu.Unlock()
	a, err := s.find(ctx, first)
	if err != nil {
		return CompareView{}, err
	}
	b, err := s.find(ctx, second)
	if err != nil {
		return CompareView{}, err
	}
	v := CompareView{First: s.viewOf(a, true), Second: s.viewOf(b, true)}
	if v.First.Report == nil || v.Second.Report == nil {
		return v, conflict("a hold that was never judged cannot be compared")
	}
	if v.Comparison, err = judge.Compare(*v.First.Report, *v.Second.Report); err != nil {
		return v, conflict("%v", err)
	}
	if a.machine != b.machine {
		v.Comparison.Cautions = append(v.Comparison.Cautions, fmt.Sprintf("They are of two machines: %s and %s.", a.machine, b.machine))
	}
	return v, nil
}

// HoldLine is a hold in one line, to choose from.
type HoldLine struct {
	ID        string `json:"id"`
	JobID     string `json:"job_id"`
	Says      string `json:"says"`
	Condition string `json:"condition"`
	Ring      Ring   `json:"ring" enum:"whole,dotted,nicked,cut"`
}

// Comparable lists the other judged holds of the same machine, latest first.
func (s *Shop) Comparable(ctx context.Context, id string) ([]HoldLine, error) {
	h, err := s.book.Hold(ctx, id)
	if err != nil {
		return nil, &Refusal{Says: err.Error(), Kind: Missing}
	}
	job, err := s.book.Job(ctx, h.JobID)
	if err != nil {
		return nil, err
	}
	jobs, err := s.book.JobsOf(ctx, job.MachineID)
	if err != nil {
		return nil, err
	}
	out := []HoldLine{}
	s.mu.Lock()
	defer s.mu.Unlock()
	for _, j := range jobs {
		holds, err := s.book.HoldsOf(ctx, j.ID)
		if err != nil {
			return nil, err
		}
		for i := len(holds) - 1; i >= 0; i-- {
			if line, ok, err := s.line(ctx, holds[i]); err != nil {
				return nil, err
			} else if ok && line.ID != id {
				out = append(out, line)
			}
		}
	}
	return out, nil
}

func (s *Shop) line(ctx context.Context, h logbook.Hold) (HoldLine, bool, error) {
	if h.Purpose == "rig proof" {
		return HoldLine{}, false, nil
	}
	l, err := s.find(ctx, h.ID)
	if err != nil {
		return HoldLine{}, false, err
	}
	said := l.said()
	if said == nil || said.RateKPaPerMin == nil {
		return HoldLine{}, false, nil
	}
	about := h.Purpose
	if h.Condition != "" {
		about += ", " + h.Condition
	}
	return HoldLine{ID: h.ID, JobID: h.JobID, Condition: h.Condition, Ring: RingOf(said),
		Says: fmt.Sprintf("%s, %s: %s", h.At.Format("2 Jan 15:04"), about, l.sentence(said, nil))}, true, nil
}
