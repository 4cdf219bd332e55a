package shop

import (
	"context"
	"fmt"
	"strings"

	"idlehiss/core/judge"
	"idlehiss/core/quantity"
)

// HoldPlan is how long a hold will need, with this gauge and with a finer one.
type HoldPlan struct {
	Says  string      `json:"says"`
	With  judge.Times `json:"with"`
	Finer string      `json:"finer"` // empty where this gauge is fine enough
}

// PlanHold tells before a hold how long it will need.
func (s *Shop) PlanHold(ctx context.Context, jobID, stepID string) (HoldPlan, error) {
	v, err := s.Job(ctx, jobID)
	if err != nil {
		return HoldPlan{}, err
	}
	p := v.Plan
	for _, st := range v.Steps {
		if st.ID == stepID {
			p = st.Plan
		}
	}
	if p == nil {
		return HoldPlan{}, conflict("the limit comes first: how long to hold depends on it")
	}
	j, err := s.book.Job(ctx, jobID)
	if err != nil {
		return HoldPlan{}, err
	}
	facts, err := s.book.Facts(ctx, jobID)
	if err != nil {
		return HoldPlan{}, err
	}
	sn, err := snapshotOf(j, facts)
	if err != nil {
		return HoldPlan{}, err
	}
	step, _ := sn.Circuit.Test(stepID)
	air := sn.Circuit.Room(step)
	about := "the usual " + quantity.Significant(air*1e3, 2) + " L of air"
	for _, h := range v.Holds {
		if h.Purpose != "rig proof" && h.Air != nil && h.Test == step.ID {
			air, about = h.Air.Litres*1e-3, "the "+quantity.Significant(h.Air.Litres, 2)+" L of air that the strokes told"
		}
	}
	allow, _ := allowanceFor(p.Wanted, step, p.Gauge, sn.Hold, air, p.Target.Pa, s.ambient)
	at := p.Target.Pa
	q := judge.Question{AmbientPa: s.ambient, AtPa: &at, LimitPaPerS: allow.PaPerS, Gauge: p.Gauge.ForJudge()}
	plan, err := s.times(q)
	if err != nil {
		return HoldPlan{}, err
	}
	out := HoldPlan{With: plan, Says: fmt.Sprintf("With this gauge and %s: %s", about, lower(plan.Says()))}
	if fine, ok := judge.Finer(p.Gauge.ForJudge(), at); ok {
		q.Gauge = fine
		better, err := s.times(q)
		if err != nil {
			return HoldPlan{}, err
		}
		if better.TightS != nil && (plan.TightS == nil || *better.TightS < *plan.TightS*0.75) {
			out.Finer = fmt.Sprintf("A digital gauge that shows %s kPa: %s", quantity.Significant(fine.DigitalPa/1e3, 1), lower(better.Says()))
		}
	}
	return out, nil
}

// times remembers what was planned: it takes about a second to play.
func (s *Shop) times(q judge.Question) (judge.Times, error) {
	key := fmt.Sprint(q.AmbientPa, *q.AtPa, q.LimitPaPerS, q.Gauge)
	if t, ok := s.planned.Load(key); ok {
		return t.(judge.Times), nil
	}
	t, err := judge.PlanHold(q)
	if err != nil {
		return t, refuse("", "%v", err)
	}
	s.planned.Store(key, t)
	return t, nil
}

func lower(s string) string { return strings.ToLower(s[:1]) + s[1:] }
