package jobs

import (
	"context"
	"encoding/json"
	"slices"
	"strings"

	"idlehiss/core/circuit"
	"idlehiss/core/judge"
	"idlehiss/core/passages"
	"idlehiss/core/quantity"
	"idlehiss/core/runsheet"
	"idlehiss/core/steps"
	"idlehiss/core/terms"
	"idlehiss/holds"
	"idlehiss/logbook"
	"idlehiss/snapshot"
	"idlehiss/trail"
)

// Job gives a whole sheet.
func (r *Room) Job(ctx context.Context, id string) (JobView, error) { return r.JobIn(ctx, id, nil) }

// JobIn gives a sheet whose repair is spoken of in a unit; nil: as its gauges were read.
func (r *Room) JobIn(ctx context.Context, id string, u *quantity.Unit) (JobView, error) {
	f, err := r.file(ctx, id)
	if err != nil {
		return JobView{}, err
	}
	f.spoken = u
	return r.sheet(ctx, f)
}

func (r *Room) sheet(ctx context.Context, f *file) (JobView, error) {
	c := &f.basis.Circuit
	j := f.job
	v := JobView{ID: j.ID, At: j.At, By: j.By, Machine: j.Machine, Complaint: j.Complaint, State: j.State, EndedAt: j.EndedAt, Found: j.Found, Simulated: j.Simulated,
		Circuit: c.Title, CircuitID: c.ID, Standing: c.Standing, NotTested: c.Untested(f.heldWarm()), Things: append([]string{}, f.basis.Things...),
		Marked: c.Marked(), MarkOn: c.Mark.On, MarkLabel: c.Mark.Label, Bores: passages.Wanted(c), Warms: c.Tested().Holds == circuit.HoldsLiquid && c.Liquid == circuit.Coolant, Holding: f.basis.Hold,
		Signs: trail.SignViews(c, f.facts), Hunch: trail.Hunch(f.facts), Escape: trail.Escape(f.facts), Imitators: append([]circuit.Imitator{}, c.Imitators...), RigProven: f.proven(), Outstanding: f.outstanding(), Matters: f.matters(), Reminders: trail.Reminders(f.facts, r.desk.Clock.Now())}
	var err error
	if v.Holds, err = r.holds.Summaries(ctx, holds.Case{Machine: j.Machine, Basis: f.basis, Holds: f.rows, Calls: f.calls}); err != nil {
		return v, err
	}
	all, err := r.outcome(ctx, f)
	if err != nil {
		return v, err
	}
	v.Hunt, v.Suspects = f.log(v.Holds).View(r.lib)
	v.Photos = trail.Photos(f.facts)
	v.Call, v.Ring, v.Steps = all.call, all.ring, []StepView{}
	v.Further = steps.Further(c, all.call, !f.many() && slices.ContainsFunc(f.holds, func(h held) bool { return !h.proof() && h.report != nil && h.report.Call == judge.Tight }))
	if v.Beside, err = r.beside(ctx, j); err != nil {
		return v, err
	}
	for i := range all.steps {
		v.Steps = append(v.Steps, all.steps[i].view(r, f))
	}
	if first, ok := c.Test(""); ok {
		v.First = first.ID
	}
	v.Facts = f.factViews()
	for i := range v.Holds {
		v.Simulated = v.Simulated || v.Holds[i].Simulated
		v.Facts = append(v.Facts, f.holdFacts(&v.Holds[i])...)
	}
	if v.Rig, err = r.rigView(ctx, f); err != nil {
		return v, err
	}
	v.Mend, v.Parties, v.Hands = r.mendView(f, v.Suspects), trail.PartiesIn(f.facts), f.job.Hands
	v.Stages, v.Current = f.stages(&v, all)
	v.Folded = f.folded(&v)
	v.Explains, err = f.explains(v.Holds)
	onlyLastBySchools(v.Holds)
	return v, err
}

// onlyLastBySchools leaves what every school says of a hold to the last one, which the call
// shows; of the others it is asked for with their trace. It is a third of a hold's summary.
func onlyLastBySchools(all []holds.HoldView) {
	shown := false
	for i, h := range slices.Backward(all) {
		if !shown && h.Purpose != terms.RigProof {
			shown = true
		} else if h.Report != nil {
			short := *h.Report
			short.Schools = []judge.SchoolReport{}
			all[i].Report = &short
		}
	}
}

// beside are the jobs of the same complaint.
func (r *Room) beside(ctx context.Context, j logbook.Job) ([]Beside, error) {
	out := []Beside{}
	rows, err := r.desk.Book.Beside(ctx, j)
	for _, x := range rows {
		basis, err := snapshot.Of(ctx, r.desk.Book, x, nil)
		if err != nil {
			return nil, err
		}
		out = append(out, Beside{ID: x.ID, Circuit: basis.Circuit.Title, Call: x.Call})
	}
	return out, err
}

// done is how far a job is, as the order of work asks for it.
func (f *file) done(all combined) steps.Done {
	d := steps.Done{MarkKnown: f.mark != nil, Looked: len(f.looks) > 0, Over: f.job.State != terms.Open, Ticked: f.ticked, Steps: map[string]steps.StepDone{}, Ring: all.ring, Call: all.call.Verdict}
	d.Seen = f.facts.NotedAt(terms.FirstLook)
	_, d.Planned = f.facts.Standing(terms.AboutTarget, "")
	_, d.ProofSkipped = f.facts.Standing(terms.AboutProof, "")
	of := func(h *held) *steps.HoldDone {
		if h == nil {
			return nil
		}
		return &steps.HoldDone{State: h.state, Called: h.report != nil, Ring: h.ring()}
	}
	d.Proof, d.Test = of(f.last(true)), of(f.last(false))
	for _, t := range all.steps {
		d.Steps[t.step.ID] = steps.StepDone{Verdict: t.outcome.Verdict, Ring: t.ring, Optional: t.step.Optional}
	}
	return d
}

// stages shows the order of work, and which stage is next.
func (f *file) stages(v *JobView, all combined) ([]StageView, terms.Stage) {
	order := runsheet.Stages(&f.basis.Circuit, f.bladders()...)
	progress, next := steps.ProgressOf(&f.basis.Circuit, order, f.done(all))
	notes := f.stageNotes(v, all)
	var out []StageView
	for i, st := range order {
		sv := StageView{ID: st.ID, Title: st.Title, Text: st.Text, Step: st.Step, Kind: st.Kind, Key: runsheet.StageKey(i), Cautions: st.Cautions, Ticks: []TickView{}, Done: progress[i].Done, Ring: progress[i].Ring, Note: notes[st.ID]}
		for _, t := range st.Ticks {
			sv.Ticks = append(sv.Ticks, TickView{ID: t.ID, Text: t.Text, Must: t.Must, Count: t.Count, Ticked: f.ticked[t.ID]})
		}
		if st.ID == terms.HuntStage && len(f.faults()) > 0 || st.ID == terms.CallStage && len(all.call.Seen) > 0 {
			sv.Ring = terms.RingCut
		}
		out = append(out, sv)
	}
	return out, next
}

// stageNotes are the stages' notes, one line each.
func (f *file) stageNotes(v *JobView, all combined) map[terms.Stage]string {
	out := map[terms.Stage]string{terms.HuntStage: strings.Join(f.faults(), ", ")}
	if _, skipped := f.facts.Standing(terms.AboutProof, ""); skipped {
		out[terms.ProveRig] = "not done"
	}
	for _, h := range v.Holds {
		if h.Purpose == terms.RigProof {
			out[terms.ProveRig] = h.Sentence
		}
	}
	_, planned := f.facts.Standing(terms.AboutTarget, "")
	for _, t := range all.steps {
		if f.many() {
			out[terms.StepStage(t.step.ID)] = t.outcome.Sentence
		} else if t.plan != nil && planned {
			out[terms.KnowLimit] = t.plan.view(f, t.step).Shown.Says()
		}
	}
	return out
}

// explains holds the last leak against what is topped up.
func (f *file) explains(shown []holds.HoldView) (string, error) {
	x, ok := f.facts.Standing(terms.AboutTopUps, "")
	if !ok {
		return "", nil
	}
	var reported trail.ToppedUp
	if err := json.Unmarshal(x.Value, &reported); err != nil {
		return "", err
	}
	out := ""
	for _, h := range shown {
		if h.Purpose != terms.RigProof && h.Report != nil {
			out = h.Report.Explains(reported.M3PerS, trail.Escape(f.facts))
		}
	}
	return out, nil
}

// folded is the job in one line.
func (f *file) folded(v *JobView) string {
	if f.many() || len(v.Call.Seen)+len(v.Call.Past) > 0 {
		return v.Call.Sentence
	}
	for i := len(v.Holds) - 1; i >= 0; i-- {
		if h := v.Holds[i]; h.Purpose != terms.RigProof && h.Sentence != "" {
			return h.Sentence
		}
	}
	return "Not tested yet."
}
