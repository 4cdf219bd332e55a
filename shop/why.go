package shop

import (
	"context"
	"fmt"

	"idlehiss/core/judge"
	"idlehiss/core/quantity"
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
	v := WhyView{Fit: []judge.FitPoint{}, Changes: changes(l.said())}
	j := l.judge
	if j == nil {
		// What was said stands; only the curve is drawn anew.
		again := *l
		if err := again.rebuild(); err != nil {
			return v, err
		}
		j = again.judge
	}
	if fit := j.Residuals(); fit != nil {
		v.Fit = fit
	}
	return v, nil
}

// changes says how far the readings are from the other call.
func changes(r *judge.Report) string {
	if r == nil || r.RateKPaPerMin == nil {
		return ""
	}
	show := func(x float64) string { return quantity.Significant(x, 2) }
	rate, limit := r.RateKPaPerMin, r.LimitKPaPerMin
	switch r.Call {
	case judge.Tight:
		return fmt.Sprintf("A steady loss above %s kPa a minute would be leaking; these readings allow %s at most, 39 times in 40.", show(limit), show(rate.High))
	case judge.Leaking:
		return fmt.Sprintf("A steady loss below %s kPa a minute would be tight; these readings allow %s at least, 39 times in 40. An allowance above that would turn the call.", show(limit), show(rate.Low))
	case judge.NotYet:
		return fmt.Sprintf("The allowance of %s kPa a minute lies within what these readings allow, %s to %s.", show(limit), show(rate.Low), show(rate.High))
	}
	return ""
}
