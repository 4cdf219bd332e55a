package shop

import (
	"context"
	"encoding/json"
	"errors"
	"slices"
	"strings"

	"idlehiss/core/circuit"
	"idlehiss/core/steps"
	"idlehiss/logbook"
)

// StepView is one test of a job's circuit with what it said.
type StepView struct {
	CircuitStep
	Stage    string        `json:"stage"` // id of the stage it is done at
	Optional bool          `json:"optional"`
	Plan     *PlanView     `json:"plan"`    // null where nothing is pumped, or the mark is not known
	Problem  string        `json:"problem"` // why there is no plan
	Waits    []string      `json:"waits"`   // titles of the steps that must be good before it
	Energy   string        `json:"energy"`  // what stands in it at the target, where that can hurt
	Ask      steps.Ask     `json:"ask"`
	Entry    steps.Entry   `json:"entry"`
	Outcome  steps.Outcome `json:"outcome"`
	Ring     Ring          `json:"ring" enum:"whole,dotted,nicked,cut"`
}

// Found is what was found at a step; it may be sent before it is whole.
type Found struct {
	Write
	Fields map[string]string `json:"fields"`
	Rows   []steps.EntryRow  `json:"rows" maxItems:"100"`
}

// Found takes down what was found at a step that is no hold.
func (s *Shop) Found(ctx context.Context, jobID, stepID string, in Found) (JobView, error) {
	facts, err := s.book.Facts(ctx, jobID)
	if err != nil {
		return JobView{}, err
	}
	if err := s.gate(ctx, jobID, stepID, false); err != nil {
		return JobView{}, err
	}
	v, err := change(ctx, s, jobID, in.Write, struct {
		Step string
		Found
	}{stepID, in}, func(tx *logbook.Tx, st logbook.Stamp, j logbook.Job, sn snapshot) error {
		step, ok := sn.Circuit.Test(stepID)
		if !ok || stepID == "" {
			return refuse("", "%s has no step %q", sn.Circuit.Title, stepID)
		}
		if step.Kind == circuit.Hold || step.Kind == circuit.Checklist {
			return refuse("", "nothing is typed at %s", lower(step.Title))
		}
		e := steps.Entry{Fields: in.Fields, Rows: in.Rows}
		g, err := s.given(sn, step, facts, nil)
		if err != nil {
			return err
		}
		out, err := steps.Judge(step, &sn.Circuit, g, e)
		if err != nil {
			return misread(err)
		}
		return fact(tx, st, "found-"+st.ID, jobID, "found/"+step.ID, "step-"+step.ID, "eyes", step.Title+": "+out.Sentence, e)
	})
	if err == nil && len(v.Steps) > 1 {
		err = s.book.Batch(ctx, func(tx *logbook.Tx) error { return tx.Summarise(jobID, inBook(v.Call.Verdict), nil, "") })
	}
	return v, err
}

// inBook is the word for several steps together, as the book lists it.
func inBook(v steps.Verdict) string {
	return map[steps.Verdict]string{steps.Good: "right", steps.Bad: "not right"}[v]
}

// gate refuses a step, a hold or one that is typed, while one that must come before
// it is not right.
func (s *Shop) gate(ctx context.Context, jobID, stepID string, hold bool) error {
	v, err := s.Job(ctx, jobID)
	if err != nil {
		return err
	}
	for _, st := range v.Steps {
		if st.ID == stepID && (st.Kind == circuit.Hold) == hold && len(st.Waits) > 0 {
			return conflict("%s comes after: %s. That is not right yet", st.Title, strings.Join(st.Waits, ", "))
		}
	}
	return nil
}

// misread turns a wrong cell into a refusal with its place, row and field.
func misread(err error) error {
	var at steps.CellError
	if !errors.As(err, &at) {
		return refuse("", "%v", err)
	}
	field := at.Field
	if at.Row != "" {
		field = at.Row + "." + at.Field
	}
	return refuse(field, "%v", err)
}

// given is what is known beside a step's own findings.
func (s *Shop) given(sn snapshot, step circuit.Step, facts []logbook.Fact, plan *PlanView) (steps.Given, error) {
	g := steps.Given{AmbientPa: s.ambient, Things: sn.Things, Ticked: ticked(facts)}
	m, chosen, err := markOf(sn, facts)
	if err != nil {
		return g, err
	}
	if m != nil {
		g.Mark = &m.Readings[chosen]
	}
	if plan != nil {
		g.TargetPa, g.StepPa = plan.Target.Pa, plan.Gauge.ForJudge().StepPa()
	}
	return g, nil
}

// whole puts empty lists in place of none.
func whole(e steps.Entry) steps.Entry {
	if e.Fields == nil {
		e.Fields = map[string]string{}
	}
	e.Rows = append([]steps.EntryRow{}, e.Rows...)
	for i := range e.Rows {
		if e.Rows[i].Cells == nil {
			e.Rows[i].Cells = map[string]string{}
		}
	}
	return e
}

// ringOf draws a step's verdict.
func ringOf(v steps.Verdict) Ring {
	return map[steps.Verdict]Ring{steps.Good: RingWhole, steps.Bad: RingCut, steps.Unknown: RingDotted}[v]
}

// tests are a job's steps with what each said, and the one call of them all.
func (s *Shop) tests(ctx context.Context, sn snapshot, facts []logbook.Fact, holds []HoldView) ([]StepView, steps.Combined, error) {
	c := &sn.Circuit
	out := []StepView{}
	var results []steps.Result
	said := map[string]steps.Verdict{}
	single := len(c.Tests()) == 1
	for _, step := range c.Tests() {
		v := StepView{CircuitStep: circuitStep(c, step), Stage: "step-" + step.ID, Optional: step.Optional, Waits: []string{}, Ring: RingDotted,
			Outcome: steps.OfHold(nil), Entry: steps.Entry{Fields: map[string]string{}, Rows: []steps.EntryRow{}}}
		if single && step.Kind == circuit.Hold {
			v.Stage = "pressurise"
		}
		for _, id := range step.After {
			if said[id] != steps.Good {
				before, _ := c.Test(id)
				v.Waits = append(v.Waits, before.Title)
			}
		}
		if aims(c, step) {
			p, err := s.plan(ctx, sn, step, facts, nil)
			var r *Refusal
			switch {
			case errors.As(err, &r):
				v.Problem = r.Says
			case err != nil:
				return nil, steps.Combined{}, err
			}
			v.Plan = p
			if p != nil {
				v.Energy = stored(c, step, p.Target.Pa, s.ambient)
			}
		}
		g, err := s.given(sn, step, facts, v.Plan)
		if err != nil {
			return nil, steps.Combined{}, err
		}
		v.Ask, _ = steps.AskOf(step, c, g)
		done := true
		if step.Kind == circuit.Hold {
			v.Outcome, v.Ring, done = holdOutcome(step, holds)
		} else {
			if f, ok := standing(facts, "found/"+step.ID); ok {
				if err := json.Unmarshal(f.Value, &v.Entry); err != nil {
					return nil, steps.Combined{}, err
				}
			} else {
				done = step.Kind == circuit.Checklist
			}
			v.Entry = whole(v.Entry)
			// What was entered was read then; a circuit of a job never changes.
			if v.Outcome, err = steps.Judge(step, c, g, v.Entry); err != nil {
				v.Outcome = steps.OfHold(nil)
				v.Outcome.Sentence = err.Error()
			}
			v.Ring = ringOf(v.Outcome.Verdict)
		}
		said[step.ID] = v.Outcome.Verdict
		if done {
			results = append(results, steps.Result{Step: step, Verdict: v.Outcome.Verdict, Sentence: v.Outcome.Sentence})
		}
		out = append(out, v)
	}
	return out, steps.Combine(c, results), nil
}

// holdOutcome is what the last hold of a step said; done is false before there is one.
func holdOutcome(step circuit.Step, holds []HoldView) (o steps.Outcome, ring Ring, done bool) {
	o, ring = steps.OfHold(nil), RingDotted
	for _, h := range slices.Backward(holds) {
		if h.Purpose == "rig proof" || h.Test != step.ID {
			continue
		}
		if n := len(h.Calls); n > 0 {
			return steps.OfHold(&h.Calls[n-1].Report), h.Ring, true
		}
		return steps.OfHold(h.Report), h.Ring, true
	}
	return o, ring, false
}
