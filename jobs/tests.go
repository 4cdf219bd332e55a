package jobs

import (
	"context"
	"encoding/json"
	"errors"
	"slices"

	"idlehiss/catalogue"
	"idlehiss/core/circuit"
	"idlehiss/core/judge"
	"idlehiss/core/runsheet"
	"idlehiss/core/steps"
	"idlehiss/core/terms"
	"idlehiss/desk"
	"idlehiss/trail"
)

// StepView is one test of a job's circuit with what it said.
type StepView struct {
	catalogue.CircuitStep
	Stage    terms.Stage             `json:"stage"` // at which it is done
	Optional bool                    `json:"optional"`
	Plan     *PlanView               `json:"plan"`       // null where nothing is pumped, or the mark is not known
	Problem  string                  `json:"problem"`    // why there is no plan
	Waits    []string                `json:"waits"`      // ids of the steps that must be good before it
	Unsafe   []string                `json:"unsafe"`     // what must be so before anything is done, and is not ticked
	Changes  []string                `json:"changes"`    // of the set-up since the hold before it
	Accepted []string                `json:"accepted"`   // of the rig, seen to leak and lived with
	Pending  []circuit.StepCondition `json:"pending"`    // conditions under which it is still to be held
	Under    []runsheet.HeldUnder    `json:"held_under"` // conditions that are offered
	Energy   string                  `json:"energy"`     // what stands in it at the target, where that can hurt
	Ask      steps.Ask               `json:"ask"`
	Entry    steps.Entry             `json:"entry"`
	Outcome  steps.Outcome           `json:"outcome"`
	Ring     terms.Ring              `json:"ring"`
}

// tested is a step with what it said.
type tested struct {
	step     circuit.Step
	plan     *planned
	problem  string
	waits    []circuit.Step
	accepted []string
	ask      steps.Ask
	entry    steps.Entry
	outcome  steps.Outcome
	ring     terms.Ring
}

// combined is a job's steps with what each said, and the one call of them all.
type combined struct {
	steps []tested
	call  steps.Combined
	ring  terms.Ring
}

// outcome works out what the steps of a job say, each and together.
func (r *Room) outcome(ctx context.Context, f *file) (combined, error) {
	c := &f.basis.Circuit
	var out combined
	var results []steps.Result
	said := map[string]steps.Verdict{}
	f.said = nil
	for _, step := range c.Tests() {
		t, done, err := r.stepOutcome(ctx, f, step)
		if err != nil {
			return out, err
		}
		t.waits = steps.Waits(c, step, said)
		said[step.ID] = t.outcome.Verdict
		if len(t.accepted) > 0 {
			said[step.ID], t.ring = steps.Good, terms.RingDotted // what comes after need not wait
		}
		if done {
			f.saidBy(&t)
			results = append(results, steps.Result{Step: step, Verdict: t.outcome.Verdict, Sentence: t.outcome.Sentence, Failed: t.outcome.Failed, Accepted: t.accepted})
		}
		out.steps = append(out.steps, t)
	}
	out.call = steps.Combine(c, results, steps.Eyes{Part: f.unmended(), Rig: f.rigSeen()})
	switch last := f.last(false); {
	case len(out.call.Seen) > 0:
		out.ring = terms.RingCut
	case f.many() || len(out.call.Past) > 0:
		out.ring = steps.RingOfVerdict(out.call.Verdict)
	case last != nil:
		out.ring = last.ring()
	default:
		out.ring = terms.RingDotted
	}
	return out, nil
}

// stepOutcome is one step; done is false before anything of it was.
func (r *Room) stepOutcome(ctx context.Context, f *file, step circuit.Step) (t tested, done bool, err error) {
	t = tested{step: step, ring: terms.RingDotted, outcome: steps.OfHold(nil), entry: steps.Entry{Fields: map[string]string{}, Rows: []steps.EntryRow{}}}
	c := &f.basis.Circuit
	if runsheet.Aims(c, step) {
		var refused *desk.Refusal
		t.plan, err = r.plan(f, step, nil)
		switch {
		case errors.As(err, &refused):
			t.plan, t.problem = nil, refused.Says
		case err != nil:
			return t, false, err
		}
	}
	g, err := r.given(ctx, f, step, t.plan)
	if err != nil {
		return t, false, err
	}
	t.ask, _ = steps.AskOf(step, c, asked(g, t.plan))
	if step.Kind == circuit.Hold {
		t.outcome, t.ring, done = f.holdOutcome(step)
		if t.outcome.Verdict == steps.Bad {
			t.accepted = f.acceptedAt(step)
		}
		return t, done, nil
	}
	if t.entry, done, err = f.entryOf(step); err != nil {
		return t, false, err
	}
	// What was entered was read then; a circuit of a job never changes.
	if t.outcome, err = steps.Judge(step, c, g, t.entry); err != nil {
		t.outcome = steps.OfHold(nil)
		t.outcome.Sentence = err.Error()
	}
	t.ring = steps.RingOfVerdict(t.outcome.Verdict)
	return t, done || step.Kind == circuit.Checklist, nil
}

// view shows a step.
func (t *tested) view(r *Room, f *file) StepView {
	c := &f.basis.Circuit
	v := StepView{CircuitStep: catalogue.Step(c, t.step), Stage: terms.StepStage(t.step.ID), Optional: t.step.Optional, Waits: []string{}, Unsafe: []string{}, Changes: append([]string{}, c.ChangesBefore(t.step)...),
		Accepted: append([]string{}, t.accepted...), Pending: f.pending(t.step), Under: []runsheet.HeldUnder{}, Problem: t.problem, Ask: t.ask, Entry: t.entry, Outcome: t.outcome, Ring: t.ring}
	// What its stage or its plan says already is said once a sheet.
	v.Text, v.Ticks = "", []string{}
	if t.plan != nil {
		v.Targets, v.Losses, v.Allow, v.Needle, v.Source = []catalogue.StepTarget{}, []circuit.Loss{}, "", "", ""
	}
	if t.step.Kind == circuit.Hold {
		v.Under = runsheet.Conditions(c, t.step)
		if !f.many() {
			v.Stage = terms.Pressurise
		}
	}
	for _, w := range t.waits {
		v.Waits = append(v.Waits, w.ID)
	}
	for _, i := range f.unsafe(t.step) {
		v.Unsafe = append(v.Unsafe, i.Text)
	}
	if t.plan != nil {
		v.Plan = t.plan.view(f, t.step)
		if e, ok := runsheet.StoredIn(c, t.step, t.plan.Target.Pa, r.desk.AmbientPa); ok {
			v.Energy = e.Says()
		}
	}
	return v
}

// unsafe is what must be so before a step is done, and is not ticked.
func (f *file) unsafe(step circuit.Step) []circuit.Item {
	if step.Kind == circuit.Checklist {
		return nil
	}
	return runsheet.Unsafe(&f.basis.Circuit, f.ticked)
}

// gate refuses a step, a hold or one that is typed, while one that must come before it
// is not right.
func (r *Room) gate(ctx context.Context, f *file, step circuit.Step) error {
	all, err := r.outcome(ctx, f)
	if err != nil {
		return err
	}
	for _, t := range all.steps {
		if t.step.ID != step.ID {
			continue
		}
		if unsafe := f.unsafe(step); len(unsafe) > 0 {
			return desk.Conflicts("make safe first: “%s” is not ticked", unsafe[0].Text)
		}
		if len(t.waits) > 0 {
			return desk.Conflicts("%s comes after: %s. That is not right yet", step.Title, steps.Titles(t.waits))
		}
	}
	return nil
}

// rememberedJobs is how many jobs back a machine's earlier visits are looked at.
const rememberedJobs = 8

// given is what is known beside a step's own findings.
func (r *Room) given(ctx context.Context, f *file, step circuit.Step, p *planned) (steps.Given, error) {
	g := steps.Given{AmbientPa: r.desk.AmbientPa, Mark: f.reading(), Things: f.basis.Things, Lot: f.job.ID, Ticked: f.ticked}
	if step.Kind == circuit.Charge { // over months its fall is the leak test
		before, err := r.desk.Book.Earlier(ctx, f.job, f.basis.Circuit.ID, terms.AboutFound, step.ID, rememberedJobs)
		if err != nil {
			return g, err
		}
		if len(before) > 0 {
			g.Before = &steps.Service{Months: f.job.At.Sub(before[0].At).Hours() / 24 / steps.DaysAMonth}
			if err := json.Unmarshal(before[0].Value, &g.Before.Entry); err != nil {
				g.Before = nil // of an earlier version: nothing to compare with
			}
		}
	}
	if p != nil {
		g.TargetPa, g.StepPa = p.Target.Pa, p.near.ForJudge().StepPa()
	}
	return g, nil
}

// asked is given with the unit of the gauge that is planned: what is typed without one
// is read there.
func asked(g steps.Given, p *planned) steps.Given {
	if p != nil {
		g.Unit = p.near.Rings[p.near.Read].Unit
	}
	return g
}

// entryOf is what was found at a step up to now; ok is false before anything was.
func (f *file) entryOf(step circuit.Step) (e steps.Entry, ok bool, err error) {
	x, ok := f.facts.Standing(terms.AboutFound, step.ID)
	if ok {
		err = json.Unmarshal(x.Value, &e)
	}
	return e.Whole(), ok, err
}

// saidBy takes down what a step said that is no hold.
func (f *file) saidBy(t *tested) {
	if x, ok := f.facts.Standing(terms.AboutFound, t.step.ID); ok && t.outcome.Verdict != steps.Unknown {
		f.said = append(f.said, trail.Said{At: x.At, Step: t.step, Right: t.outcome.Verdict == steps.Good})
	}
}

// holdOutcome is what the last hold of a step said, or its last two under two
// conditions; done is false before there is one.
func (f *file) holdOutcome(step circuit.Step) (o steps.Outcome, ring terms.Ring, done bool) {
	if len(step.Conditions) == 2 {
		first, second := f.lastOf(step, step.Conditions[0].ID), f.lastOf(step, step.Conditions[1].ID)
		allowance := 0.0
		var reports [2]*judge.Report
		for i, h := range []*held{first, second} {
			if h != nil {
				allowance, reports[i] = h.rig.Allowance.PaPerS, h.report
			}
		}
		o = steps.OfTwo(step, reports[0], reports[1], allowance)
		return o, steps.RingOfVerdict(o.Verdict), first != nil || second != nil
	}
	h := f.lastOf(step, "")
	if h == nil {
		return steps.OfHold(nil), terms.RingDotted, false
	}
	return steps.OfHold(h.report), h.ring(), true
}

// lastOf is the last hold of a step under one of its conditions; empty: any.
func (f *file) lastOf(step circuit.Step, under string) *held {
	for i := range slices.Backward(f.holds) {
		h := &f.holds[i]
		if !h.proof() && h.step == step.ID && (under == "" || h.condition.Under == under) {
			return h
		}
	}
	return nil
}

// heldWarm reports whether a hold was done warm or hot.
func (f *file) heldWarm() bool {
	return slices.ContainsFunc(f.holds, func(h held) bool { return !h.proof() && h.condition.Unsteady() })
}

// pending are the conditions under which a step is still to be held.
func (f *file) pending(step circuit.Step) []circuit.StepCondition {
	out := []circuit.StepCondition{}
	for _, c := range step.Conditions {
		if h := f.lastOf(step, c.ID); h == nil || h.report == nil || h.report.RateKPaPerMin == nil {
			out = append(out, c)
		}
	}
	return out
}

// acceptedAt is what of the rig was accepted at a step's last hold; none once a leak was
// seen at what is tested itself.
func (f *file) acceptedAt(step circuit.Step) []string {
	x, ok := f.facts.Standing(terms.AboutAccepted, step.ID)
	last := f.lastOf(step, "")
	var kept trail.Accepted
	if !ok || last == nil || len(f.unmended()) > 0 || json.Unmarshal(x.Value, &kept) != nil || kept.Hold != last.id {
		return nil
	}
	return kept.Names
}
