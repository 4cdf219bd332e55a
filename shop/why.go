package shop

import (
	"context"

	"idlehiss/core/judge"
)

// WhyView is what lies behind a call, on demand.
type WhyView struct {
	Fit     []judge.FitPoint `json:"fit"`
	Changes string           `json:"changes"` // what would change the call
}

// Why fits a hold once more and tells what the call hangs on.
func (s *Shop) Why(ctx context.Context, holdID string) (WhyView, error) {
	s.mu.Lock()
	defer s.mu.Unlock()
	l, err := s.find(ctx, holdID)
	if err != nil {
		return WhyView{}, err
	}
	v := WhyView{Fit: []judge.FitPoint{}}
	if said := l.said(); said != nil {
		v.Changes = said.Changes()
	}
	j := l.judge
	if j == nil {
		// What was said stands; only the curve is drawn anew.
		again := *l
		if err := again.rebuild(); err != nil {
			return v, err
		}
		j = again.judge
	}
	if j == nil {
		return v, nil // it cannot be judged
	}
	if fit := j.Residuals(); fit != nil {
		v.Fit = fit
	}
	return v, nil
}
