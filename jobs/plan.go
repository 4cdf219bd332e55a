package jobs

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"strings"

	"idlehiss/catalogue"
	"idlehiss/core/circuit"
	"idlehiss/core/judge"
	"idlehiss/core/quantity"
	"idlehiss/core/runsheet"
	"idlehiss/core/terms"
	"idlehiss/desk"
	"idlehiss/kit"
)

// Plan is how far to pump, by which school, on which gauge, and what may be lost.
type Plan struct {
	desk.Write
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

func (p *Plan) wish() runsheet.Wish {
	return runsheet.Wish{School: p.School, Typed: p.Typed, Reason: p.Reason, Allowance: p.Allowance, AllowanceText: p.AllowanceText}
}

// PlanView is the limit, the target and whether the gauge fits.
type PlanView struct {
	Step      string                  `json:"step"`
	Draws     bool                    `json:"draws"`  // under vacuum
	Mark      *catalogue.MarkView     `json:"mark"`   // null where no mark limits the circuit
	Chosen    int                     `json:"chosen"` // which reading of the mark
	Limits    []runsheet.Limit        `json:"limits"`
	Weakest   runsheet.Limit          `json:"weakest"`
	Target    runsheet.Target         `json:"target"`
	Shown     runsheet.Shown          `json:"target_shown"`
	Schools   []runsheet.TargetSchool `json:"schools"`
	Gauge     runsheet.Gauge          `json:"gauge"`
	Fit       runsheet.Advice         `json:"fit"`
	Allowance runsheet.Allowance      `json:"allowance"`
	Losses    []circuit.Loss          `json:"losses"` // the step's own schools of what may be lost
	Wanted    runsheet.Wanted         `json:"wanted"` // what was asked for; the allowance follows once the air is known
	Typed     string                  `json:"typed"`  // as it was typed, where the target is of one's own
	Reason    string                  `json:"reason"` // and why it may lie above the limit
	Pump      runsheet.Pump           `json:"pump"`
	Far       *runsheet.Gauge         `json:"far"` // the gauge at the other end, if there is one
	Elsewhere []kit.Elsewhere         `json:"elsewhere"`
}

// planned is a step planned on kit that the shop has.
type planned struct {
	runsheet.Planned
	wish Plan
	near kit.Gauge
	far  *kit.Gauge
	pump runsheet.Pump
	busy map[string]string // gauges and pumps on other jobs' holds, with the machine
}

// SetPlan chooses target, gauge and allowance. It is refused whole when the target would
// pass the weakest limit.
func (r *Room) SetPlan(ctx context.Context, jobID string, in Plan) (desk.Receipt, error) {
	return r.change(ctx, jobID, in.Write, in, "plan", func(p *pencil) error {
		step, err := p.step(in.Step)
		if err != nil {
			return err
		}
		got, err := r.plan(p.file, step, &in)
		if err != nil {
			return err
		}
		if got == nil {
			return p.markFirst()
		}
		source := terms.FromMark
		switch {
		case got.Target.School == runsheet.SchoolTyped:
			source = terms.FromTyped
		case len(step.Targets) > 0:
			source = terms.FromSchool
		}
		used := kit.Used(p.tx, got.near.ID, got.pump.ID)
		about, stage := p.key(step), p.stageOf(step)
		if p.many() {
			says := fmt.Sprintf("%s: %s %s Read on %s.", step.Title, quantity.Lower(got.Target.Says), got.Allowance.Says, got.near.Name)
			return errors.Join(used, p.fact(entry{"target", terms.AboutTarget, about, stage, source, says, in}))
		}
		return errors.Join(used,
			p.fact(entry{"target", terms.AboutTarget, about, stage, source, got.Target.Says, in}),
			p.fact(entry{"gauge", terms.AboutGauge, about, stage, terms.FromTyped, got.readOn(), got.near.Gauge}),
			p.fact(entry{"allowance", terms.AboutAllowance, about, stage, terms.FromTyped, got.Allowance.Says, got.Wanted}))
	})
}

func (f *file) markFirst() error {
	return desk.Conflicts("the limit is not known yet: type the mark on the %s first", f.basis.Circuit.Mark.On)
}

// plan works a step out: what was chosen, or the defaults; in overrules what the facts
// say. Nil while the mark is not known: in a circuit that has one, it comes first.
func (r *Room) plan(f *file, step circuit.Step, in *Plan) (*planned, error) {
	mark := f.reading()
	c := &f.basis.Circuit
	if mark == nil && c.Marked() {
		return nil, nil
	}
	schools := f.basis.Schools()
	if in == nil {
		w := runsheet.DefaultWish(step, schools)
		in = &Plan{School: w.School, Allowance: w.Allowance, AllowanceText: w.AllowanceText}
		if kept, ok := f.facts.Standing(terms.AboutTarget, f.key(step)); ok {
			if err := json.Unmarshal(kept.Value, in); err != nil {
				return nil, err
			}
		}
	}
	about := runsheet.About(step, mark)
	got := &planned{wish: *in, busy: r.holds.InUse(f.job.ID)}
	var err error
	if got.near, err = f.shelf.PickGauge(in.Gauge, in.Ring, about, len(step.Targets) > 0, got.busy); err != nil {
		return nil, err
	}
	if got.pump, err = f.shelf.PickPump(in.Pump, c.Room(step), about, r.desk.AmbientPa); err != nil {
		return nil, err
	}
	if got.far, err = f.farGauge(in.Far, got.near); err != nil {
		return nil, err
	}
	got.Planned, err = runsheet.PlanStep(c, step, mark, in.wish(), got.near.Gauge, f.ratings(got), schools, r.desk.AmbientPa)
	if errors.Is(err, runsheet.ErrNoMark) {
		return nil, nil
	}
	return got, desk.AtInput(err)
}

func (f *file) farGauge(id string, near kit.Gauge) (*kit.Gauge, error) {
	if id == "" {
		return nil, nil
	}
	g, err := f.shelf.Gauge(id)
	switch {
	case err != nil:
		return nil, desk.Refuse("far", "%v", err)
	case g.ID == near.ID:
		return nil, desk.Refuse("far", "%s stands at this end: choose another gauge for the other end", g.Name)
	}
	return &g, nil
}

// ratings are what gauges and rig are good for: none is ever pumped past.
func (f *file) ratings(p *planned) []runsheet.Limit {
	var out []runsheet.Limit
	rated := func(of string, pa float64) {
		if pa > 0 {
			out = append(out, runsheet.Limit{Of: of, Pa: pa, CeilingPa: pa, Source: "kit"})
		}
	}
	rated("gauge", p.near.RatingPa)
	if p.far != nil {
		rated("far gauge", p.far.RatingPa)
	}
	for _, x := range f.on {
		rated(x.Name, x.RatingPa)
	}
	return out
}

// view shows a plan.
func (p *planned) view(f *file, step circuit.Step) *PlanView {
	_, unit := p.near.Ring()
	v := &PlanView{Step: step.ID, Draws: step.Draws(), Limits: p.Limits, Weakest: p.Target.Weakest, Target: p.Target, Shown: runsheet.Show(p.Target.Pa, p.near.DivisionPa(), unit),
		Schools: p.Schools, Gauge: p.near.Gauge, Fit: p.Fit, Losses: append([]circuit.Loss{}, step.Allows...), Allowance: p.Allowance, Wanted: p.Wanted, Typed: p.wish.Typed, Reason: p.wish.Reason, Pump: p.pump, Elsewhere: kit.OnOthers(p.busy, p.near, p.far, p.pump)}
	if step.Kind == circuit.Feed {
		v.Target.Says = p.Target.FeedSays()
	}
	if f.mark != nil {
		m := catalogue.ViewOfMark(*f.mark)
		v.Mark, v.Chosen = &m, f.chosen
	}
	if p.far != nil {
		v.Far = &p.far.Gauge
	}
	return v
}

// readOn says which gauges are read.
func (p *planned) readOn() string {
	out := fmt.Sprintf("Read on %s, the %s ring. %s", p.near.Name, p.near.Rings[p.near.Read].Unit, strings.Join(p.Fit.Says, " "))
	if p.far != nil {
		out += fmt.Sprintf(" At the other end: %s.", p.far.Name)
	}
	return out
}

// PlanHold works out before a hold how long it will need.
func (r *Room) PlanHold(ctx context.Context, jobID, stepID string) (out runsheet.HoldPlan, err error) {
	f, err := r.file(ctx, jobID)
	if err != nil {
		return out, err
	}
	step, err := f.step(stepID)
	if err != nil {
		return out, err
	}
	p, err := r.plan(f, step, nil)
	switch {
	case err != nil:
		return out, err
	case p == nil:
		return out, f.markFirst()
	}
	c := &f.basis.Circuit
	air, counted := c.Room(step), false
	for _, h := range f.holds {
		if !h.proof() && h.rig.ByStrokes && h.step == step.ID {
			air, counted = h.rig.GasM3, true
		}
	}
	return runsheet.Ahead(c, step, &p.Planned, p.near.Gauge, f.basis.Hold, air, counted, r.desk.AmbientPa, r.timesOf)
}

// timesOf remembers what was planned: it takes about a second to play.
func (r *Room) timesOf(q judge.Question) (judge.Times, error) {
	key := fmt.Sprint(q.AmbientPa, *q.AtPa, q.LimitPaPerS, q.Gauge)
	if t, ok := r.times.Load(key); ok {
		return t.(judge.Times), nil
	}
	t, err := judge.PlanHold(q)
	if err != nil {
		return t, desk.Refuse("", "%v", err)
	}
	r.times.Store(key, t)
	return t, nil
}
