package shop

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"slices"
	"strings"

	"idlehiss/core/circuit"
	"idlehiss/core/quantity"
	"idlehiss/core/runsheet"
	"idlehiss/logbook"
)

// Plan is how far to pump, by which school, on which gauge, and what may be lost.
type Plan struct {
	Write
	Step          string `json:"step,omitempty" doc:"of the circuit; absent: its first hold"`
	School        string `json:"school" doc:"a school of target, or typed"`
	Typed         string `json:"typed,omitempty" maxLength:"40" doc:"a pressure, where the school is typed"`
	Reason        string `json:"reason,omitempty" maxLength:"300" doc:"why a typed target may lie above the weakest limit"`
	Gauge         string `json:"gauge"`
	Pump          string `json:"pump,omitempty" doc:"absent: the one last used"`
	Far           string `json:"far,omitempty" doc:"a second gauge at the other end"`
	Ring          int    `json:"ring" minimum:"0" maximum:"2" doc:"which ring of figures is read"`
	Allowance     string `json:"allowance" doc:"house, typed, or the id of a hold school"`
	AllowanceText string `json:"allowance_text,omitempty" maxLength:"60" doc:"such as 10 kPa in 2 min"`
}

// SetPlan chooses target, gauge and allowance. It is refused whole when the
// target would pass the weakest limit.
func (s *Shop) SetPlan(ctx context.Context, jobID string, in Plan) (JobView, error) {
	return change(ctx, s, jobID, in.Write, in, func(tx *logbook.Tx, st logbook.Stamp, j logbook.Job, sn snapshot) error {
		step, ok := sn.Circuit.Test(in.Step)
		if !ok {
			return refuse("step", "%s has no step %q", sn.Circuit.Title, in.Step)
		}
		p, err := s.plan(ctx, sn, step, &in)
		if err != nil {
			return err
		}
		if p == nil {
			return conflict("the mark on the %s comes first", sn.Circuit.Mark.On)
		}
		source := "mark"
		switch {
		case p.Target.School == "typed":
			source = "typed"
		case len(step.Targets) > 0:
			source = "school"
		}
		of := of(sn, step)
		used := errors.Join(tx.SetSetting("last gauge", p.Gauge.ID), tx.SetSetting("last pump", p.Pump.ID))
		if len(sn.Circuit.Tests()) > 1 {
			says := fmt.Sprintf("%s: %s %s Read on %s.", step.Title, lower(p.Target.Says), p.Allowance.Says, p.Gauge.Name)
			return errors.Join(used, fact(tx, st, "target-"+st.ID, jobID, "target"+of, stageOf(&sn.Circuit, step), source, says, in))
		}
		return errors.Join(used,
			fact(tx, st, "target-"+st.ID, jobID, "target"+of, stageOf(&sn.Circuit, step), source, p.Target.Says, in),
			fact(tx, st, "gauge-"+st.ID, jobID, "gauge"+of, stageOf(&sn.Circuit, step), "typed", p.readOn(), p.Gauge),
			fact(tx, st, "allowance-"+st.ID, jobID, "allowance"+of, stageOf(&sn.Circuit, step), "typed", p.Allowance.Says, p.Wanted))
	})
}

// of sets a fact's subject apart where it is of another step than the first hold,
// whatever the school of order.
func of(sn snapshot, s circuit.Step) string {
	if first, _ := sn.whole.Test(""); first.ID == s.ID {
		return ""
	}
	return "/" + s.ID
}

// stageOf is the stage at which a step's plan is made.
func stageOf(c *circuit.Circuit, s circuit.Step) string {
	if len(c.Tests()) == 1 {
		return "limit"
	}
	return "step-" + s.ID
}

// aims tells whether a step is done at some pressure.
func aims(c *circuit.Circuit, s circuit.Step) bool {
	return s.Kind == circuit.Hold || len(s.Targets) > 0 || s.Kind == circuit.Floor && c.Marked()
}

// standing is the fact that holds on a subject now.
func standing(facts []logbook.Fact, subject string) (logbook.Fact, bool) {
	for _, f := range facts {
		if f.Subject == subject && f.SupersededBy == "" {
			return f, true
		}
	}
	return logbook.Fact{}, false
}

// plan works a step's plan out: what was chosen, or the defaults; in overrules what
// the facts say. Nil while the mark is not known.
func (s *Shop) plan(ctx context.Context, sn snapshot, step circuit.Step, in *Plan) (*PlanView, error) {
	m, chosen, err := markOf(sn)
	if err != nil || m == nil && sn.Circuit.Marked() {
		return nil, err
	}
	var r *quantity.Reading
	if m != nil {
		r = &m.Readings[chosen]
	}
	if in == nil {
		in = byDefault(step, sn.Hold)
		if f, ok := standing(sn.facts, "target"+of(sn, step)); ok {
			if err := json.Unmarshal(f.Value, in); err != nil {
				return nil, err
			}
		}
	}
	kit, err := s.pickGauge(ctx, in, about(step, r), len(step.Targets) > 0)
	if err != nil {
		return nil, err
	}
	pump, err := s.pickPump(ctx, in.Pump, sn.Circuit.Room(step), about(step, r))
	if err != nil {
		return nil, err
	}
	g := kit.Gauge
	var far *KitGauge
	if in.Far != "" {
		x, err := s.gauge(ctx, in.Far)
		switch {
		case err != nil:
			return nil, refuse("far", "%v", err)
		case x.ID == g.ID:
			return nil, refuse("far", "the gauge at the other end is another one than %s", g.Name)
		}
		far = &x
	}
	parts := runsheet.StepLimits(&sn.Circuit, step)
	rated := func(of string, pa float64) {
		if pa > 0 && !step.Draws() {
			parts = append(parts, runsheet.Limit{Of: of, Pa: pa, CeilingPa: pa, Source: "kit"})
		}
	}
	rated("gauge", g.RatingPa)
	if far != nil {
		rated("far gauge", far.RatingPa)
	}
	on, _, err := s.onRig(ctx, sn.facts)
	if err != nil {
		return nil, err
	}
	for _, l := range ratings(on) {
		rated(l.Of, l.Pa)
	}
	limits := parts
	if r != nil && len(step.Targets) == 0 {
		limits = append([]runsheet.Limit{runsheet.MarkLimit(*r, sn.Circuit.Mark.On)}, parts...)
	}
	target, schools, err := s.aim(sn, step, in, r, parts, limits, g)
	if err != nil {
		return nil, err
	}
	_, unit := g.Ring()
	wanted := wantedOf(in, step)
	if wanted.From == "typed" {
		if _, err := runsheet.TypedAllowance(wanted.Text, g, s.ambient); err != nil {
			return nil, refuse("allowance_text", "%v", err)
		}
	}
	allow, _ := allowanceFor(wanted, step, g, sn.Hold, 0, target.Pa, s.ambient)
	div := g.DivisionPa()
	// Whether the gauge can see it is looked at with the air there usually is.
	usual, asked := allowanceFor(wanted, step, g, sn.Hold, sn.Circuit.Room(step), target.Pa, s.ambient)
	// The mark's own limit gives way to the parts' under the margin school.
	view := PlanView{Step: step.ID, Draws: step.Draws(), Limits: limits, Weakest: target.Weakest, Target: target, Shown: Show(target.Pa, div, unit),
		Schools: schools, Gauge: g, Fit: g.Fit(target.Pa, asked, usual.HoldS), Losses: append([]circuit.Loss{}, step.Allows...), Allowance: allow, Holding: sn.Hold, Wanted: wanted, Typed: in.Typed, Reason: in.Reason, Pump: pump, kit: kit, farKit: far}
	if m != nil {
		v := markView(*m)
		view.Mark, view.Chosen = &v, chosen
	}
	if far != nil {
		view.Far = &far.Gauge
	}
	return &view, nil
}

// aim finds the target, and the schools it may be taken from.
func (s *Shop) aim(sn snapshot, step circuit.Step, in *Plan, mark *quantity.Reading, parts, limits []runsheet.Limit, g runsheet.Gauge) (t runsheet.Target, schools []runsheet.TargetSchool, err error) {
	if schools = runsheet.StepSchools(step); len(schools) == 0 {
		schools = runsheet.Offered(sn.Target, *mark, parts)
	}
	_, unit := g.Ring()
	if in.School == "typed" {
		v, err := quantity.Parse(in.Typed, quantity.Pressure, unit, s.ambient)
		if err != nil {
			return t, nil, refuse("typed", "%v", err)
		}
		if len(limits) == 0 {
			return t, nil, refuse("typed", "no pressure limit of %s is known: choose one of its targets", lower(step.Title))
		}
		if t, err = runsheet.Typed(v.Mid(), limits, strings.TrimSpace(in.Reason)); err != nil {
			return t, nil, refuse("typed", "%v", err)
		}
		return t, schools, nil
	}
	for _, x := range step.Targets {
		if x.ID != in.School {
			continue
		}
		if t, err = runsheet.AimStep(x, mark, limits, g); err != nil {
			err = refuse("school", "%v", err)
		}
		return t, schools, err
	}
	i := slices.IndexFunc(sn.Target, func(t runsheet.TargetSchool) bool { return t.ID == in.School })
	if i < 0 || len(step.Targets) > 0 {
		return t, nil, refuse("school", "there is no school of target %q for %s", in.School, lower(step.Title))
	}
	if t, err = runsheet.Aim(sn.Target[i], *mark, sn.Circuit.Mark.On, parts, g); err != nil {
		return t, nil, refuse("school", "%v", err)
	}
	return t, schools, nil
}

// about is roughly the pressure of a step, for the choice of gauge and pump; 0 where
// nothing tells it yet.
func about(step circuit.Step, mark *quantity.Reading) float64 {
	if len(step.Targets) > 0 && step.Targets[0].OverMark == 0 {
		return float64(step.Targets[0].At)
	}
	if mark == nil {
		return 0
	}
	if len(step.Targets) > 0 {
		return mark.HighPa + float64(step.Targets[0].OverMark)
	}
	return mark.LowPa
}

// readOn says which gauges are read.
func (p *PlanView) readOn() string {
	out := fmt.Sprintf("Read on %s, the %s ring. %s", p.Gauge.Name, p.Gauge.Rings[p.Gauge.Read].Unit, strings.Join(p.Fit.Says, " "))
	if p.Far != nil {
		out += fmt.Sprintf(" At the other end: %s.", p.Far.Name)
	}
	return out
}
