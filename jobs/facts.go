package jobs

import (
	"fmt"

	"idlehiss/core/judge"
	"idlehiss/core/steps"
	"idlehiss/core/terms"
	"idlehiss/holds"
	"idlehiss/logbook"
	"idlehiss/trail"
)

// factViews are what was taken down, in order of time.
func (f *file) factViews() []FactView {
	by := map[string]logbook.Fact{}
	for _, x := range f.facts {
		if x.SupersededBy != "" {
			by[x.SupersededBy] = x
		}
	}
	out := []FactView{}
	for _, x := range f.facts {
		v := FactView{ID: x.ID, At: x.At, By: x.By, Subject: x.Subject, About: x.About, Stage: x.Stage, Sentence: x.Sentence, Source: x.Source, Superseded: x.SupersededBy != ""}
		if was, ok := by[x.ID]; ok && was.Sentence != x.Sentence && x.Subject != terms.AboutTick && x.Subject != terms.AboutSetUp && trail.Contradicts(was, x) {
			v.Against = was.Sentence
		}
		if v.Superseded && (x.Subject == terms.AboutFound && v.Against == "" || x.Subject == terms.AboutSetUp) {
			continue // filled in, cell by cell or plug by plug: what it came to stands later
		}
		out = append(out, v)
	}
	return out
}

// holdFacts are the sentences that a hold itself gives: they are worked out, not kept.
func (f *file) holdFacts(h *holds.HoldView) []FactView {
	var out []FactView
	add := func(about terms.Subject, stage terms.Stage, source terms.Source, says string) {
		out = append(out, FactView{ID: h.ID + "/" + string(about), At: h.StartedAt, Subject: about, About: h.ID, Stage: stage, Source: source, Sentence: says})
	}
	n := len(h.Calls)
	if h.Purpose == terms.RigProof {
		if n > 0 {
			says := steps.ProofSays[h.Calls[n-1].Call]
			if h.Air == nil {
				says += " Its air volume is unknown, so its loss is not subtracted."
			}
			add(terms.AboutProof, terms.ProveRig, terms.FromProof, says)
		}
		return out
	}
	if step, ok := f.basis.Circuit.Test(h.Test); ok && f.many() {
		// Of several steps each says what it came to; the rest stands at the step.
		if n > 0 {
			name := step.Title
			if h.Under != "" {
				name += ", " + h.Under
			}
			add(terms.AboutCall, terms.StepStage(step.ID), terms.FromFit, name+": "+steps.OfHold(h.Report).Sentence)
		}
		return out
	}
	if h.Air != nil && h.State != terms.Pumping {
		add(terms.AboutAir, terms.Pressurise, terms.FromStrokes, h.Air.Says)
	}
	if x := h.FirstHeard; x != nil {
		add(terms.AboutHeard, terms.Pressurise, terms.FromEyes, fmt.Sprintf("First heard at %s %s (%s).", x.Text, x.Unit, x.Other))
	}
	// While it is pumped the figure moves on; the page shows it itself.
	if x := h.Highest; x != nil && h.State != terms.Pumping {
		add(terms.AboutHighest, terms.Pressurise, terms.FromGauge, fmt.Sprintf("Highest reached: %s %s (%s).", x.Text, x.Unit, x.Other))
	}
	if n > 0 && h.Report != nil && len(h.Report.Why) > 0 {
		lead := map[judge.Call]string{judge.Tight: "Tight. ", judge.Leaking: "Leaking. "}[h.Calls[n-1].Call]
		add(terms.AboutCall, terms.CallStage, terms.FromFit, lead+h.Report.Why[0])
	}
	return out
}
