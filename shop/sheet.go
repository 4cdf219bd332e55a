package shop

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"strings"

	"idlehiss/core/circuit"
	"idlehiss/core/judge"
	"idlehiss/core/runsheet"
	"idlehiss/core/steps"
	"idlehiss/logbook"
)

// Job gives a whole sheet.
func (s *Shop) Job(ctx context.Context, id string) (JobView, error) {
	j, err := s.book.Job(ctx, id)
	if errors.Is(err, logbook.ErrNotFound) {
		return JobView{}, &Refusal{Says: err.Error(), Kind: Missing}
	}
	if err != nil {
		return JobView{}, err
	}
	facts, err := s.book.Facts(ctx, id)
	if err != nil {
		return JobView{}, err
	}
	sn, err := snapshotOf(j, facts)
	if err != nil {
		return JobView{}, err
	}
	looks, err := s.book.Observations(ctx, id)
	if err != nil {
		return JobView{}, err
	}
	holds, err := s.book.HoldsOf(ctx, id)
	if err != nil {
		return JobView{}, err
	}
	on, _, err := s.onRig(ctx, facts)
	if err != nil {
		return JobView{}, err
	}
	v := JobView{ID: j.ID, At: j.At, By: j.By, Machine: j.Machine, Complaint: j.Complaint, State: j.State, EndedAt: j.EndedAt,
		Circuit: sn.Circuit.Title, CircuitID: sn.Circuit.ID, Simulated: j.Simulated, Ring: RingDotted, Standing: sn.Circuit.Standing, NotTested: sn.Circuit.NotTested,
		Facts: factViews(facts), Suspects: suspects(sn, on, looks), Signs: signs(sn), Hunch: hunchOf(facts), Holds: []HoldView{}, Outstanding: []circuit.Item{}}
	v.Things, v.Marked = append([]string{}, sn.Things...), sn.Circuit.Mark.On
	shown, err := s.holdsShown(ctx, holds)
	if err != nil {
		return JobView{}, err
	}
	for i, h := range holds {
		hv := shown[i]
		v.Simulated = v.Simulated || h.Simulated
		if h.Purpose == "rig proof" {
			v.RigProven = len(hv.Calls) > 0 && hv.Calls[len(hv.Calls)-1].Call == judge.Tight
		} else if hv.Report != nil {
			v.Ring = hv.Ring
		}
		v.Facts = append(v.Facts, holdFacts(hv, &sn.Circuit)...)
		v.Holds = append(v.Holds, hv)
	}
	if v.Steps, v.Call, err = s.tests(ctx, sn, v.Holds, partFaults(&sn.Circuit, looks)); err != nil {
		return JobView{}, err
	}
	first, _ := sn.Circuit.Test("")
	for _, st := range v.Steps {
		if st.ID == first.ID {
			v.Plan = st.Plan
		}
	}
	if len(v.Steps) > 1 {
		v.Ring = ringOf(v.Call.Verdict)
	}
	if len(v.Call.Accepted) > 0 && v.Call.Verdict == steps.Good {
		v.Ring = RingNicked
	}
	v.Reminders = reminders(facts, s.clock.Now())
	if v.Rig, err = s.rigView(ctx, j, &sn.Circuit, facts, looks); err != nil {
		return JobView{}, err
	}
	done := ticked(facts)
	up := bladders(on)
	v.Outstanding = append(v.Outstanding, runsheet.Outstanding(&sn.Circuit, done, up...)...)
	v.Stages, v.Current = stages(&sn.Circuit, &v, runsheet.Stages(&sn.Circuit, up...), facts, looks, done)
	v.Folded = folded(&v)
	v.Matters, v.Mend = matters(sn), s.mendView(sn, v.Suspects, v.Holds)
	if f, ok := standing(facts, "topped up"); ok {
		var reported toppedUp
		if err := json.Unmarshal(f.Value, &reported); err != nil {
			return v, err
		}
		for _, h := range v.Holds {
			if h.Purpose != "rig proof" && h.Report != nil {
				v.Explains = h.Report.Explains(reported.M3PerS)
			}
		}
	}
	return v, nil
}

// holdsShown are a job's holds with their traces.
func (s *Shop) holdsShown(ctx context.Context, holds []logbook.Hold) ([]HoldView, error) {
	s.mu.Lock()
	defer s.mu.Unlock()
	var out []HoldView
	for _, h := range holds {
		l, err := s.find(ctx, h.ID)
		if err != nil {
			return nil, err
		}
		out = append(out, s.viewOf(l, true))
	}
	return out, nil
}

func factViews(facts []logbook.Fact) []FactView {
	by := map[string]logbook.Fact{}
	for _, f := range facts {
		if f.SupersededBy != "" {
			by[f.SupersededBy] = f
		}
	}
	out := []FactView{}
	for _, f := range facts {
		v := FactView{ID: f.ID, At: f.At, By: f.By, Subject: f.Subject, Stage: f.Stage, Sentence: f.Sentence, Source: f.Source, Superseded: f.SupersededBy != ""}
		if was, ok := by[f.ID]; ok && was.Sentence != f.Sentence && !strings.HasPrefix(f.Subject, "tick/") && contradicts(was, f) {
			v.Against = was.Sentence
		}
		if f.SupersededBy != "" && strings.HasPrefix(f.Subject, "found/") && v.Against == "" {
			continue // filled in, cell by cell: what it came to stands later
		}
		out = append(out, v)
	}
	return out
}

// contradicts tells whether a later fact says otherwise than one before it. What is
// found at a step grows cell by cell: only a cell that was changed says otherwise.
func contradicts(was, now logbook.Fact) bool {
	if !strings.HasPrefix(now.Subject, "found/") {
		return true
	}
	var a, b steps.Entry
	if json.Unmarshal(was.Value, &a) != nil || json.Unmarshal(now.Value, &b) != nil {
		return true
	}
	return a.Contradicts(b)
}

// holdFacts are the sentences that a hold itself tells: they are computed, not kept.
func holdFacts(h HoldView, c *circuit.Circuit) []FactView {
	var out []FactView
	add := func(subject, stage, source, format string, a ...any) {
		out = append(out, FactView{ID: h.ID + "/" + subject, At: h.StartedAt, By: "", Subject: subject, Stage: stage, Source: source, Sentence: fmt.Sprintf(format, a...)})
	}
	if h.Purpose == "rig proof" {
		if n := len(h.Calls); n > 0 {
			words := map[judge.Call]string{judge.Tight: "The rig holds, dead-headed.", judge.Leaking: "The rig itself leaks, dead-headed.", judge.NotYet: "The rig proof ended without a call."}
			says := words[h.Calls[n-1].Call]
			if h.Air == nil {
				says += " Its own air was not told by strokes, so nothing is taken off for it."
			}
			add("proof", "prove", "proof", "%s", says)
		}
		return out
	}
	if step, ok := c.Test(h.Test); ok && len(c.Tests()) > 1 {
		// Of several steps each says what it came to; the rest stands at the step.
		if n := len(h.Calls); n > 0 {
			name := step.Title
			if h.Condition != "" {
				name += ", " + h.Condition
			}
			add("call", "step-"+step.ID, "fit", "%s: %s", name, steps.OfHold(&h.Calls[n-1].Report).Sentence)
		}
		return out
	}
	if h.Air != nil && h.State != "pumping" {
		add("air", "pressurise", "strokes", "%s", h.Air.Says)
	}
	if h.FirstHeard != nil {
		add("heard", "pressurise", "eyes", "First heard at %s %s (%s).", h.FirstHeard.Text, h.FirstHeard.Unit, h.FirstHeard.Other)
	}
	if h.Highest != nil {
		add("highest", "pressurise", "gauge", "Highest reached: %s %s (%s).", h.Highest.Text, h.Highest.Unit, h.Highest.Other)
	}
	if n := len(h.Calls); n > 0 && len(h.Calls[n-1].Report.Why) > 0 {
		c := h.Calls[n-1]
		lead := map[judge.Call]string{judge.Tight: "Tight. ", judge.Leaking: "Leaking. "}[c.Call]
		add("call", "call", "fit", "%s%s", lead, c.Report.Why[0])
	}
	return out
}

func title(s string) string { return strings.ToUpper(s[:1]) + s[1:] }

// folded is the job in one line.
func folded(v *JobView) string {
	if len(v.Steps) > 1 {
		return v.Call.Sentence
	}
	for i := len(v.Holds) - 1; i >= 0; i-- {
		if h := v.Holds[i]; h.Purpose != "rig proof" && h.Sentence != "" {
			if own := v.Call.Accepted; len(own) > 0 {
				return h.Sentence + " It is the rig's own, seen and accepted: " + lower(strings.Join(own, ", ")) + "."
			}
			return h.Sentence
		}
	}
	return "Not tested yet."
}
