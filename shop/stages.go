package shop

import (
	"strings"

	"idlehiss/core/circuit"
	"idlehiss/core/runsheet"
	"idlehiss/core/steps"
	"idlehiss/logbook"
)

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
