package shop

import (
	"context"
	"encoding/json"
	"errors"
	"slices"
	"strings"

	"idlehiss/core/circuit"
	"idlehiss/core/judge"
	"idlehiss/core/runsheet"
	"idlehiss/core/steps"
	"idlehiss/logbook"
)

// StepView is one test of a job's circuit with what it said.
type StepView struct {
	CircuitStep
	Stage    string        `json:"stage"` // id of the stage it is done at
	Optional bool          `json:"optional"`
	Plan     *PlanView     `json:"plan"`     // null where nothing is pumped, or the mark is not known
	Problem  string        `json:"problem"`  // why there is no plan
	Waits    []string      `json:"waits"`    // titles of the steps that must be good before it
	Unsafe   []string      `json:"unsafe"`   // what must be so before anything is done, and is not ticked
	Changes  []string      `json:"changes"`  // of the set-up since the hold before it
	Accepted []string      `json:"accepted"` // of the rig, seen to leak and lived with
	Pending  []string      `json:"pending"`  // conditions under which it is still to be held
	Energy   string        `json:"energy"`   // what stands in it at the target, where that can hurt
	Ask      steps.Ask     `json:"ask"`
	Entry    steps.Entry   `json:"entry"`
	Outcome  steps.Outcome `json:"outcome"`
	Ring     Ring          `json:"ring" enum:"whole,dotted,nicked,cut"`
}

// Found is what was found at a step, as far as it is new: what is named is set, an
// empty text clears, the rest stays as it was.
type Found struct {
	Write
	Fields map[string]string `json:"fields"`
	Rows   []steps.EntryRow  `json:"rows" maxItems:"100"`
	Clock  string            `json:"clock,omitempty" enum:"start,clear" doc:"starts the step's clock at this write's moment, or clears it"`
}

// Found takes down what was found at a step that is no hold.
func (s *Shop) Found(ctx context.Context, jobID, stepID string, in Found) (JobView, error) {
	content := struct {
		Step string
		Found
	}{stepID, in}
	// Before the write begins: the gate looks at holds, and a hold that is written to
	// keeps everybody else from the book.
	done, err := s.stands(ctx, in.Write, onJob{jobID, content})
	if err == nil && !done {
		err = s.gate(ctx, jobID, stepID, false)
	}
	if err != nil {
		return JobView{}, err
	}
	v, err := change(ctx, s, jobID, in.Write, content, func(tx *logbook.Tx, st logbook.Stamp, j logbook.Job, sn snapshot) error {
		step, ok := sn.Circuit.Test(stepID)
		if !ok || stepID == "" {
			return refuse("", "%s has no step %q", sn.Circuit.Title, stepID)
		}
		if step.Kind == circuit.Hold || step.Kind == circuit.Checklist {
			return refuse("", "nothing is typed at %s", lower(step.Title))
		}
		e, _, err := entryOf(sn.facts, step)
		if err != nil {
			return err
		}
		var p *PlanView
		if aims(&sn.Circuit, step) {
			var none *Refusal // without a plan a bare number has the sheet's own unit
			if p, err = s.plan(ctx, sn, step, nil); err != nil && !errors.As(err, &none) {
				return err
			}
		}
		g, err := s.given(ctx, sn, step, p)
		if err != nil {
			return err
		}
		ask, _ := steps.AskOf(step, &sn.Circuit, asked(g, p))
		e = e.With(ask.Written(steps.Entry{Fields: in.Fields, Rows: in.Rows}))
		switch {
		case in.Clock == "clear":
			e.Started = nil
		case in.Clock == "start" && ask.Clock == nil:
			return refuse("clock", "nothing is timed at %s", lower(step.Title))
		case in.Clock == "start":
			e.Started = &st.At
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

// entryOf is what was found at a step up to now; ok is false before anything was.
func entryOf(facts []logbook.Fact, step circuit.Step) (e steps.Entry, ok bool, err error) {
	f, ok := standing(facts, "found/"+step.ID)
	if ok {
		err = json.Unmarshal(f.Value, &e)
	}
	return whole(e), ok, err
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
		switch {
		case st.ID != stepID || (st.Kind == circuit.Hold) != hold:
		case len(st.Unsafe) > 0:
			return conflict("make safe first: “%s” is not ticked", st.Unsafe[0])
		case len(st.Waits) > 0:
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
func (s *Shop) given(ctx context.Context, sn snapshot, step circuit.Step, plan *PlanView) (steps.Given, error) {
	g := steps.Given{AmbientPa: s.ambient, Things: sn.Things, Lot: sn.job.ID, Ticked: ticked(sn.facts)}
	m, chosen, err := markOf(sn)
	if err != nil {
		return g, err
	}
	if m != nil {
		g.Mark = &m.Readings[chosen]
	}
	if step.Kind == circuit.Charge { // over months its fall is the leak test
		before, err := s.book.Earlier(ctx, sn.job, sn.Circuit.ID, "found/"+step.ID, rememberedJobs)
		if err != nil {
			return g, err
		}
		if len(before) > 0 {
			g.Before = &steps.Service{Months: sn.job.At.Sub(before[0].At).Hours() / 24 / daysAMonth}
			if err := json.Unmarshal(before[0].Value, &g.Before.Entry); err != nil {
				g.Before = nil // of an earlier version: nothing to compare with
			}
		}
	}
	if plan != nil {
		g.TargetPa, g.StepPa = plan.Target.Pa, plan.Gauge.ForJudge().StepPa()
	}
	return g, nil
}

const daysAMonth = 365.25 / 12

// asked is given with the unit of the gauge that is planned: what is typed without
// one is read there.
func asked(g steps.Given, p *PlanView) steps.Given {
	if p != nil {
		g.Unit = p.Gauge.Rings[p.Gauge.Read].Unit
	}
	return g
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
func (s *Shop) tests(ctx context.Context, sn snapshot, holds []HoldView, faults string) ([]StepView, steps.Combined, error) {
	c := &sn.Circuit
	out := []StepView{}
	var results []steps.Result
	said := map[string]steps.Verdict{}
	single := len(c.Tests()) == 1
	unsafe := runsheet.Unsafe(c, ticked(sn.facts))
	for _, step := range c.Tests() {
		v := StepView{CircuitStep: circuitStep(c, step), Stage: "step-" + step.ID, Optional: step.Optional, Waits: []string{}, Unsafe: []string{}, Pending: []string{}, Accepted: []string{}, Changes: append([]string{}, c.ChangesBefore(step)...), Ring: RingDotted,
			Outcome: steps.OfHold(nil), Entry: steps.Entry{Fields: map[string]string{}, Rows: []steps.EntryRow{}}}
		if single && step.Kind == circuit.Hold {
			v.Stage = "pressurise"
		}
		if step.Kind != circuit.Checklist {
			for _, i := range unsafe {
				v.Unsafe = append(v.Unsafe, i.Text)
			}
		}
		for _, id := range step.After {
			if before, ok := c.Test(id); ok && said[id] != steps.Good {
				v.Waits = append(v.Waits, before.Title)
			}
		}
		if aims(c, step) {
			p, err := s.plan(ctx, sn, step, nil)
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
		g, err := s.given(ctx, sn, step, v.Plan)
		if err != nil {
			return nil, steps.Combined{}, err
		}
		v.Ask, _ = steps.AskOf(step, c, asked(g, v.Plan))
		done := true
		if step.Kind == circuit.Hold {
			v.Outcome, v.Ring, done = holdOutcome(step, holds)
			v.Pending = pending(step, holds)
			if v.Outcome.Verdict == steps.Bad {
				v.Accepted = append(v.Accepted, acceptedAt(sn.facts, step, holds, faults)...)
			}
		} else {
			if v.Entry, done, err = entryOf(sn.facts, step); err != nil {
				return nil, steps.Combined{}, err
			}
			done = done || step.Kind == circuit.Checklist
			// What was entered was read then; a circuit of a job never changes.
			if v.Outcome, err = steps.Judge(step, c, g, v.Entry); err != nil {
				v.Outcome = steps.OfHold(nil)
				v.Outcome.Sentence = err.Error()
			}
			v.Ring = ringOf(v.Outcome.Verdict)
		}
		said[step.ID] = v.Outcome.Verdict
		if len(v.Accepted) > 0 {
			said[step.ID], v.Ring = steps.Good, RingNicked // what comes after need not wait
		}
		if done {
			results = append(results, steps.Result{Step: step, Verdict: v.Outcome.Verdict, Sentence: v.Outcome.Sentence, Accepted: v.Accepted})
		}
		out = append(out, v)
	}
	return out, steps.Combine(c, results), nil
}

// holdOutcome is what the last hold of a step said, or its last two under two
// conditions; done is false before there is one.
func holdOutcome(step circuit.Step, holds []HoldView) (o steps.Outcome, ring Ring, done bool) {
	if len(step.Conditions) == 2 {
		first, second := lastUnder(step, holds, step.Conditions[0]), lastUnder(step, holds, step.Conditions[1])
		allowance := 0.0
		for _, h := range []*HoldView{first, second} {
			if h != nil {
				allowance = h.Allowance.PaPerS
			}
		}
		o = steps.OfTwo(step, reportOf(first), reportOf(second), allowance)
		return o, ringOf(o.Verdict), first != nil || second != nil
	}
	h := lastUnder(step, holds, "")
	if h == nil {
		return steps.OfHold(nil), RingDotted, false
	}
	return steps.OfHold(reportOf(h)), h.Ring, true
}

// lastUnder is the last hold of a step under a condition; empty: any.
func lastUnder(step circuit.Step, holds []HoldView, condition string) *HoldView {
	for i := range slices.Backward(holds) {
		h := &holds[i]
		if h.Purpose != "rig proof" && h.Test == step.ID && (condition == "" || h.Condition == condition) {
			return h
		}
	}
	return nil
}

// reportOf is what a hold's last call said, or what it says as it stands.
func reportOf(h *HoldView) *judge.Report {
	if h == nil {
		return nil
	}
	if n := len(h.Calls); n > 0 {
		return &h.Calls[n-1].Report
	}
	return h.Report
}

// pending are the conditions under which a step is still to be held.
func pending(step circuit.Step, holds []HoldView) []string {
	out := []string{}
	for _, c := range step.Conditions {
		if r := reportOf(lastUnder(step, holds, c)); r == nil || r.RateKPaPerMin == nil {
			out = append(out, c)
		}
	}
	return out
}
