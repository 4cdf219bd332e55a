package shop

import (
	"cmp"
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"slices"
	"strings"

	"idlehiss/core/circuit"
	"idlehiss/core/hunt"
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
	s.mu.Lock()
	for _, h := range holds {
		l, err := s.find(ctx, h.ID)
		if err != nil {
			s.mu.Unlock()
			return JobView{}, err
		}
		hv := s.viewOf(l, true)
		v.Simulated = v.Simulated || h.Simulated
		if h.Purpose == "rig proof" {
			v.RigProven = len(hv.Calls) > 0 && hv.Calls[len(hv.Calls)-1].Call == judge.Tight
		} else if hv.Report != nil {
			v.Ring = hv.Ring
		}
		v.Facts = append(v.Facts, holdFacts(hv, &sn.Circuit)...)
		v.Holds = append(v.Holds, hv)
	}
	s.mu.Unlock()
	if v.Steps, v.Call, err = s.tests(ctx, sn, v.Holds); err != nil {
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

// rigItself stands among the suspects of every circuit: half the bad parts are a
// dry ring. rigShare is how often it is the culprit beside all the parts together.
var rigItself = circuit.Part{ID: "rig", Title: "The rig itself", Kind: "rig", Look: "Adapter and its ring, hose, valve and gauge: soap them where they sit."}

const rigShare = 0.25

// joint is a piece of the rig as a suspect of its own.
func (p piece) joint() circuit.Part {
	return circuit.Part{ID: "kit-" + p.id, Title: "Joint of " + p.Name, Kind: "rig", Look: "Its ring and its seat; soap it where it sits."}
}

// rigSeen names where the rig itself was seen to leak: that can be lived with, by
// name, and is no fault of the part.
func rigSeen(c *circuit.Circuit, on []piece, looks []logbook.Observation) []string {
	out := []string{}
	for _, o := range looks {
		if !o.Seen || o.Class == "meant" {
			continue
		}
		name := ""
		if o.Part == rigItself.ID {
			name = rigItself.Title
		}
		for _, p := range on {
			if o.Part == p.joint().ID {
				name = p.joint().Title
			}
		}
		for _, p := range c.Parts {
			if p.ID == o.Part && p.Opening {
				name = p.Title
			}
		}
		if name != "" && !slices.Contains(out, name) {
			out = append(out, name)
		}
	}
	return out
}

// suspects are the parts that bound what is tested and the rig itself, the likeliest
// first by their odds and by what was seen before any tool.
func suspects(sn snapshot, on []piece, looks []logbook.Observation) []SuspectView {
	c := &sn.Circuit
	parts := bounding(c)
	// The rig is always a suspect, with what was closed for the test.
	total := 0.0
	for _, p := range parts {
		total += p.Odds
	}
	for _, step := range c.Tests() {
		for _, cl := range c.Pressed(step).Closures {
			if !cl.Already && !slices.ContainsFunc(parts, func(x circuit.Part) bool { return x.ID == cl.Part.ID }) {
				p := cl.Part
				p.Odds, p.Look = total*rigShare/4, "The rig's own: "+p.Close+"."
				parts = append(parts, p)
			}
		}
	}
	own := []circuit.Part{rigItself}
	for _, p := range on {
		own = append(own, p.joint())
	}
	for _, p := range own {
		p.Odds = total * rigShare / float64(len(own))
		parts = append(parts, p)
	}
	shares := hunt.Priors(parts, signsSeen(sn.facts), hunchOf(sn.facts))
	out := []SuspectView{}
	for i, p := range parts {
		v := SuspectView{ID: p.ID, Title: p.Title, Look: p.Look, Share: shares[i], Signs: append([]string{}, p.Signs...), Seen: []ObservationView{}}
		for _, o := range looks {
			if o.Part == p.ID {
				v.Seen = append(v.Seen, ObservationView{At: o.At, By: o.By, Method: o.Method, Seen: o.Seen, Class: o.Class, Note: o.Note})
			}
		}
		out = append(out, v)
	}
	slices.SortStableFunc(out, func(a, b SuspectView) int { return cmp.Compare(b.Share, a.Share) })
	return out
}

// bounding are the parts that some step of a circuit tries, each once.
func bounding(c *circuit.Circuit) []circuit.Part {
	var parts []circuit.Part
	for _, step := range c.Tests() {
		for _, p := range c.Pressed(step).Suspects {
			if !slices.ContainsFunc(parts, func(x circuit.Part) bool { return x.ID == p.ID }) {
				parts = append(parts, p)
			}
		}
	}
	return parts
}

// stages tells of each stage whether it is done, and which is next.
func stages(c *circuit.Circuit, v *JobView, order []runsheet.Stage, facts []logbook.Fact, looks []logbook.Observation, done map[string]bool) ([]StageView, string) {
	var test, proof *HoldView
	for i := range v.Holds {
		if v.Holds[i].Purpose == "rig proof" {
			proof = &v.Holds[i]
		} else {
			test = &v.Holds[i]
		}
	}
	called := test != nil && len(test.Calls) > 0
	many := len(v.Steps) > 1
	of := map[string]StepView{}
	for _, st := range v.Steps {
		of[st.ID] = st
	}
	_, planned := standing(facts, "target")
	_, skipped := standing(facts, "proof")
	remarked := false
	for _, f := range facts {
		remarked = remarked || strings.HasPrefix(f.Subject, "remark/") && f.Stage == "first-look"
	}
	finished := map[string]bool{
		"first-look": remarked || len(looks) > 0 || v.Complaint != "",
		"limit":      planned,
		"prove":      proof != nil && proof.State == "ended" || skipped,
		"pressurise": test != nil && test.State != "pumping",
		"hold":       called || test != nil && test.State == "ended",
		"call":       called,
		"hunt":       len(looks) > 0,
		"write-down": v.State != "open",
	}
	if many {
		_, marked := standing(facts, "mark")
		called = v.Call.Verdict != steps.Unknown
		finished["limit"] = marked || !c.Marked()
		finished["call"] = called
	}
	optional := map[string]bool{"hunt": v.Ring != RingCut || !called}
	current := ""
	var out []StageView
	for i, st := range order {
		sv := StageView{ID: st.ID, Title: st.Title, Text: st.Text, Step: st.Step, Kind: string(st.Kind), Key: stageKey(i), Cautions: st.Cautions, Ticks: []TickView{}, Ring: RingDotted}
		all := true
		for _, t := range st.Ticks {
			sv.Ticks = append(sv.Ticks, TickView{ID: t.ID, Text: t.Text, Must: t.Must, Count: t.Count, Ticked: done[t.ID]})
			if !done[t.ID] && (t.Must || t.Count) {
				all = false
			}
		}
		step, isStep := of[st.Step]
		switch isStep = isStep && many; {
		case isStep:
			sv.Done = step.Outcome.Verdict != steps.Unknown
		case st.ID == "make-safe", st.ID == "rig":
			sv.Done = all
		case st.ID == "put-right":
			sv.Done = all && (test == nil || test.State == "ended")
		default:
			sv.Done = finished[st.ID]
		}
		if sv.Done {
			sv.Ring = RingWhole
		}
		if isStep {
			sv.Ring, sv.Note = step.Ring, step.Outcome.Sentence
			optional[st.ID] = step.Optional
		}
		switch st.ID {
		case "prove":
			if proof != nil {
				sv.Ring, sv.Note = proof.Ring, proof.Sentence
			} else if skipped {
				sv.Ring, sv.Note = RingDotted, "not done"
			}
		case "call":
			if many {
				sv.Ring = v.Ring
			} else if test != nil && test.Report != nil {
				sv.Ring = test.Ring
			}
		case "hold":
			if test != nil && test.Report != nil {
				sv.Ring = test.Ring
			}
		case "hunt":
			if seen := faultsSeen(c, looks); seen != "" {
				sv.Ring, sv.Note = RingCut, seen
			}
		case "limit":
			if v.Plan != nil && planned {
				sv.Note = v.Plan.Shown.Text + " " + v.Plan.Shown.Unit
			}
		}
		if current == "" && !sv.Done && !optional[st.ID] {
			current = st.ID
		}
		out = append(out, sv)
	}
	if current == "" {
		current = "write-down"
	}
	return out, current
}

// stageKey is the key that jumps to a stage: 1 to 9, 0, and then a dash.
func stageKey(i int) string {
	const keys = "1234567890-"
	if i >= len(keys) {
		return ""
	}
	return keys[i : i+1]
}

// folded is the job in one line.
func folded(v *JobView) string {
	if len(v.Steps) > 1 {
		return v.Call.Sentence
	}
	for i := len(v.Holds) - 1; i >= 0; i-- {
		if h := v.Holds[i]; h.Purpose != "rig proof" && h.Sentence != "" {
			return h.Sentence
		}
	}
	return "Not tested yet."
}
