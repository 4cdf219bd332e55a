package jobs

import (
	"context"
	"errors"
	"strings"

	"idlehiss/core/circuit"
	"idlehiss/core/quantity"
	"idlehiss/core/runsheet"
	"idlehiss/core/steps"
	"idlehiss/core/terms"
	"idlehiss/desk"
	"idlehiss/trail"
)

// Found is what was found at a step, as far as it is new: what is named is set, an empty
// text clears, the rest stays as it was.
type Found struct {
	desk.Write
	Fields map[string]string `json:"fields"`
	Rows   []steps.EntryRow  `json:"rows" maxItems:"100"`
	Clock  steps.ClockPress  `json:"clock,omitempty" doc:"starts the step's clock at this write's moment, or clears it"`
}

// Found takes down what was found at a step that is no hold.
func (r *Room) Found(ctx context.Context, jobID, stepID string, in Found) (desk.Receipt, error) {
	content := struct {
		Step string
		Found
	}{stepID, in}
	return r.change(ctx, jobID, in.Write, content, "steps", func(p *pencil) error {
		step, ok := p.basis.Circuit.Test(stepID)
		switch {
		case !ok || stepID == "":
			return desk.Refuse("", "%s has no step %q", p.basis.Circuit.Title, stepID)
		case step.Kind == circuit.Hold || step.Kind == circuit.Checklist:
			return desk.Refuse("", "nothing is typed at %s", quantity.Lower(step.Title))
		}
		if err := r.gate(ctx, p.file, step); err != nil {
			return err
		}
		e, says, err := r.entered(ctx, p, step, in)
		if err != nil {
			return err
		}
		if err := p.fact(entry{"found", terms.AboutFound, step.ID, terms.StepStage(step.ID), terms.FromEyes, says, e}); err != nil {
			return err
		}
		return r.summarise(ctx, p)
	})
}

// entered lays what is new over what was found before, and judges it.
func (r *Room) entered(ctx context.Context, p *pencil, step circuit.Step, in Found) (e steps.Entry, says string, err error) {
	if e, _, err = p.entryOf(step); err != nil {
		return e, "", err
	}
	var plan *planned
	if runsheet.Aims(&p.basis.Circuit, step) {
		var none *desk.Refusal // without a plan a bare number has the sheet's own unit
		if plan, err = r.plan(p.file, step, nil); err != nil && !errors.As(err, &none) {
			return e, "", err
		}
	}
	g, err := r.given(ctx, p.file, step, plan)
	if err != nil {
		return e, "", err
	}
	ask, _ := steps.AskOf(step, &p.basis.Circuit, asked(g, plan))
	e = e.With(ask.Written(steps.Entry{Fields: in.Fields, Rows: in.Rows}))
	switch {
	case in.Clock == steps.ClearClock:
		e.Started = nil
	case in.Clock == steps.StartClock && ask.Clock == nil:
		return e, "", desk.Refuse("clock", "nothing is timed at %s", quantity.Lower(step.Title))
	case in.Clock == steps.StartClock:
		e.Started = &p.stamp.At
	}
	out, err := steps.Judge(step, &p.basis.Circuit, g, e)
	return e, step.Title + ": " + out.Sentence, desk.AtInput(err)
}

// AcceptRig is a leak of the rig itself that was seen and is lived with: it is no fault of the
// part, which is not tested past it.
type AcceptRig struct {
	desk.Write
	Step string `json:"step" doc:"whose hold leaks"`
	Back bool   `json:"back,omitempty" doc:"takes it back"`
}

// AcceptRig accepts it by name, or takes that back. It is refused where nothing was seen
// at the rig, or something was seen at the part.
func (r *Room) AcceptRig(ctx context.Context, jobID string, in AcceptRig) (desk.Receipt, error) {
	return r.change(ctx, jobID, in.Write, in, "steps", func(p *pencil) error {
		step, ok := p.basis.Circuit.Test(in.Step)
		if !ok || step.Kind != circuit.Hold {
			return desk.Refuse("step", "%s has no hold %q", p.basis.Circuit.Title, in.Step)
		}
		put := func(says string, names []string) error {
			kept := trail.Accepted{Names: names}
			if last := p.lastOf(step, ""); last != nil {
				kept.Hold = last.id
			}
			return errors.Join(p.fact(entry{"accept", terms.AboutAccepted, step.ID, terms.CallStage, terms.FromEyes, says, kept}), r.summarise(ctx, p))
		}
		if in.Back {
			return put(step.Title+": the rig's leak is no longer accepted.", nil)
		}
		if o, _, _ := p.holdOutcome(step); o.Verdict != steps.Bad {
			return desk.Conflicts("%s is not called leaking: there is nothing to accept", quantity.Lower(step.Title))
		}
		seen := p.rigSeen()
		if len(seen) == 0 {
			return desk.Conflicts("no leak was seen at the rig itself: soap its joints and note what you see there")
		}
		if faults := p.unmended(); len(faults) > 0 {
			return desk.Conflicts("a leak was seen at what is tested, too: %s", quantity.Lower(strings.Join(faults, ", ")))
		}
		return put(step.Title+": "+quantity.Lower(strings.Join(seen, ", "))+" leaks, seen and accepted as the rig's. The part is not tested past it.", seen)
	})
}
