package demo

import (
	"time"

	"idlehiss/core/circuit"
	"idlehiss/core/quantity"
	"idlehiss/core/steps"
	"idlehiss/core/terms"
	"idlehiss/core/trace"
	"idlehiss/holds"
	"idlehiss/jobs"
	"idlehiss/trail"
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
	Parties                                           trail.Parties
}

// mended is a repair.
type mended struct {
	Part, Repair, Note string
	Cause              terms.Cause
}

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
	begun, err := s.Jobs.Begin(ctx, jobs.StartJob{Write: p.write(j.By), Machine: j.Machine, Complaint: j.Complaint, Mark: j.Mark, Circuit: j.Circuit, Things: j.Things})
	if err != nil {
		return err
	}
	id := begun.Of
	tick := func(stage func(jobs.StageView) bool) error {
		v, err := s.Jobs.Job(ctx, id)
		if err != nil {
			return err
		}
		for _, st := range v.Stages {
			for _, t := range st.Ticks {
				if !stage(st) || t.Ticked {
					continue
				}
				p.wait(2 * time.Second)
				if _, err := s.Jobs.Tick(ctx, id, jobs.Tick{Write: p.write(j.By), Item: t.ID, On: true}); err != nil {
					return err
				}
			}
		}
		return nil
	}
	named := func(stage terms.Stage) func(jobs.StageView) bool {
		return func(st jobs.StageView) bool { return st.ID == stage }
	}
	if err := p.looked(id, j.By); err != nil {
		return err
	}
	if err := p.parties(id, j.By, j.Parties); err != nil {
		return err
	}
	for _, stage := range []terms.Stage{terms.MakeSafe, terms.RigUp} {
		if err := tick(named(stage)); err != nil {
			return err
		}
	}
	do := func(all []did) error {
		for _, d := range all {
			p.wait(time.Minute)
			switch {
			case d.Ticked:
				err = tick(named(terms.StepStage(d.Step)))
			case d.Gauge != "":
				err = p.held(id, j, d)
			default:
				in := jobs.Found{Write: p.write(j.By), Fields: d.Fields}
				for _, r := range d.Rows {
					in.Rows = append(in.Rows, steps.EntryRow{ID: r.Row, Title: r.Row, Cells: r.Cells})
				}
				_, err = s.Jobs.Found(ctx, id, d.Step, in)
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
		if _, err := s.Jobs.Look(ctx, id, jobs.Look{Write: p.write(j.By), Part: j.Seen, Method: "eyes", Seen: true, Class: terms.Fault, Note: j.Note}); err != nil {
			return err
		}
	}
	if m := j.Mended; m != nil {
		if err := p.mended(id, j.By, m); err != nil {
			return err
		}
	}
	if err := do(j.Again); err != nil {
		return err
	}
	if j.Open {
		return nil
	}
	if err := tick(func(jobs.StageView) bool { return true }); err != nil {
		return err
	}
	_, err = s.Jobs.End(ctx, id, jobs.CloseJob{Write: p.write(j.By)})
	return err
}

// held plans a step on its gauge, holds it, and lets it go.
func (p player) held(id string, j stepped, d did) error {
	v, err := p.shop.Jobs.Job(p.ctx, id)
	if err != nil {
		return err
	}
	plan := jobs.Plan{Write: p.write(j.By), Step: d.Step, Gauge: d.Gauge, Pump: d.Pump}
	for _, st := range v.Steps {
		if st.ID == d.Step && st.Kind == circuit.Hold && st.Plan != nil {
			plan.School, plan.Allowance, plan.AllowanceText = st.Plan.Target.School, st.Plan.Wanted.From, st.Plan.Wanted.Text
		}
	}
	if _, err := p.shop.Jobs.SetPlan(p.ctx, id, plan); err != nil {
		return err
	}
	h, err := p.hold(id, job{By: j.By, step: d.Step, under: d.Under}, terms.Test, time.Duration(float64(d.Hold)*float64(time.Second)), nil)
	if err != nil {
		return err
	}
	_, err = p.shop.Holds.Event(p.ctx, h.ID, holds.HoldEvent{Write: p.write(j.By), Kind: trace.Release})
	p.wait(5 * time.Second)
	return err
}
