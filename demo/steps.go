package demo

import (
	"time"

	"idlehiss/core/circuit"
	"idlehiss/core/quantity"
	"idlehiss/core/steps"
	"idlehiss/core/trace"
	"idlehiss/shop"
)

// stepped is a job of a circuit of several steps.
type stepped struct {
	Machine, Circuit, Complaint, Mark, By, Seen, Note string
	Days                                              int
	Open                                              bool // not closed yet
	Things                                            []string
	Steps                                             []did
	Mended                                            *mended // after what was seen
	Again                                             []did   // held again after it
}

// mended is a repair.
type mended struct{ Part, Repair, Note string }

// did is what was done at one step: ticked, held on a simulated gauge, or found.
type did struct {
	Step, Gauge, Pump string
	Under             string // a condition
	Ticked            bool
	Hold              quantity.S
	Fields            map[string]string
	Rows              []found
}

type found struct {
	Row   string
	Cells map[string]string
}

// steps plays such a job in its order of work.
func (p player) steps(j stepped) error {
	ctx, s := p.ctx, p.shop
	v, err := s.Begin(ctx, shop.StartJob{Write: write(j.By), Machine: j.Machine, Complaint: j.Complaint, Mark: j.Mark, Circuit: j.Circuit, Things: j.Things})
	if err != nil {
		return err
	}
	tick := func(stage func(shop.StageView) bool) error {
		for _, st := range v.Stages {
			for _, t := range st.Ticks {
				if !stage(st) || t.Ticked {
					continue
				}
				p.wait(2 * time.Second)
				if v, err = s.Tick(ctx, v.ID, shop.Tick{Write: write(j.By), Item: t.ID, On: true}); err != nil {
					return err
				}
			}
		}
		return nil
	}
	named := func(id string) func(shop.StageView) bool {
		return func(st shop.StageView) bool { return st.ID == id }
	}
	for _, stage := range []string{"make-safe", "rig"} {
		if err := tick(named(stage)); err != nil {
			return err
		}
	}
	do := func(all []did) error {
		for _, d := range all {
			p.wait(time.Minute)
			switch {
			case d.Ticked:
				err = tick(named("step-" + d.Step))
			case d.Gauge != "":
				err = p.held(&v, j, d)
			default:
				in := shop.Found{Write: write(j.By), Fields: d.Fields}
				for _, r := range d.Rows {
					in.Rows = append(in.Rows, steps.EntryRow{ID: r.Row, Title: r.Row, Cells: r.Cells})
				}
				v, err = s.Found(ctx, v.ID, d.Step, in)
			}
			if err != nil {
				return err
			}
		}
		return nil
	}
	if err := do(j.Steps); err != nil {
		return err
	}
	if j.Seen != "" {
		if _, err := s.Look(ctx, v.ID, shop.Look{Write: write(j.By), Part: j.Seen, Method: "eyes", Seen: true, Class: "fault", Note: j.Note}); err != nil {
			return err
		}
	}
	if m := j.Mended; m != nil {
		p.wait(20 * time.Minute)
		if _, err := s.Mend(ctx, v.ID, shop.Mend{Write: write(j.By), Part: m.Part, Repair: m.Repair, Note: m.Note}); err != nil {
			return err
		}
	}
	if err := do(j.Again); err != nil {
		return err
	}
	if j.Open {
		return nil
	}
	if err := tick(func(shop.StageView) bool { return true }); err != nil {
		return err
	}
	_, err = s.End(ctx, v.ID, shop.CloseJob{Write: write(j.By)})
	return err
}

// held plans a step on its gauge, holds it, and lets it go.
func (p player) held(v *shop.JobView, j stepped, d did) error {
	plan := shop.Plan{Write: write(j.By), Step: d.Step, Gauge: d.Gauge, Pump: d.Pump}
	for _, st := range v.Steps {
		if st.ID == d.Step && st.Kind == circuit.Hold && st.Plan != nil {
			plan.School, plan.Allowance, plan.AllowanceText = st.Plan.Target.School, st.Plan.Wanted.From, st.Plan.Wanted.Text
		}
	}
	var err error
	if *v, err = p.shop.SetPlan(p.ctx, v.ID, plan); err != nil {
		return err
	}
	h, err := p.hold(v.ID, job{By: j.By, step: d.Step, condition: d.Under}, "test", time.Duration(float64(d.Hold)*float64(time.Second)), nil)
	if err != nil {
		return err
	}
	_, err = p.shop.Event(p.ctx, h.ID, shop.HoldEvent{Write: write(j.By), Kind: trace.Release})
	p.wait(5 * time.Second)
	return err
}
