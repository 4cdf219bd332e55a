package shop

import (
	"cmp"
	"context"
	"fmt"
	"io"
	"slices"
	"strings"

	"idlehiss/core/judge"
	"idlehiss/core/quantity"
	"idlehiss/core/steps"
	"idlehiss/sheets"
)

// Paper writes a job's sheet as a page that prints.
func (s *Shop) Paper(ctx context.Context, w io.Writer, jobID string) error {
	j, err := s.Job(ctx, jobID)
	if err != nil {
		return err
	}
	p := sheets.Sheet{Shop: "Idle Hiss", Machine: j.Machine, Complaint: j.Complaint, Circuit: j.Circuit, By: j.By, At: j.At, Ended: j.EndedAt, State: j.State,
		Ring: string(j.Ring), Verdict: j.Folded, Standing: j.Standing, Simulated: j.Simulated, Mended: j.Mend.Done, Proved: j.Mend.Says}
	for _, m := range j.Matters {
		for _, w := range m.Schools {
			if w.ID == m.Chosen {
				p.Schools = append(p.Schools, lower(m.Title)+", "+w.Title)
			}
		}
	}
	for _, st := range j.Steps {
		if st.Plan != nil && st.Plan.Target.Over {
			p.Override = strings.TrimSpace(p.Override + " " + st.Plan.Target.Says)
		}
	}
	if len(j.Steps) > 1 {
		p.NotTested, p.Untested = j.NotTested, j.Call.Untested
		for _, st := range j.Steps {
			p.Steps = append(p.Steps, paperStep(st))
		}
	}
	for _, f := range j.Facts {
		if !strings.HasPrefix(f.Subject, "tick/") && !strings.HasPrefix(f.Subject, "look/") {
			p.Facts = append(p.Facts, sheets.Fact{Sentence: f.Sentence, Source: f.Source, Superseded: f.Superseded})
		}
	}
	for _, st := range j.Stages {
		for _, t := range st.Ticks {
			p.Ticks = append(p.Ticks, sheets.Tick{Text: t.Text, On: t.Ticked})
		}
		for _, c := range st.Cautions {
			p.Cautions = append(p.Cautions, c.Text)
		}
	}
	for _, x := range j.Suspects {
		for _, o := range x.Seen {
			p.Looks = append(p.Looks, sheets.Look{Part: x.Title, Seen: lookWords(o), By: o.By})
		}
	}
	for _, h := range j.Holds {
		hold := paperHold(h)
		if len(j.Steps) > 1 && h.Purpose != "rig proof" {
			for _, st := range j.Steps {
				if st.ID == h.Test {
					hold.Title = st.Title + ", " + lower(hold.Title)
				}
			}
		}
		if len(j.Steps) > 1 { // it stands once above
			hold.Why = slices.DeleteFunc(slices.Clone(hold.Why), func(w string) bool { return slices.Contains(j.NotTested, w) })
		}
		p.Holds = append(p.Holds, hold)
		if h.Purpose != "rig proof" && h.Report != nil && len(j.Steps) < 2 {
			p.NotTested, p.Figures = j.NotTested, figures(h.Report)
		}
	}
	if j.Explains != "" {
		p.Facts = append(p.Facts, sheets.Fact{Sentence: j.Explains, Source: "fit"})
	}
	return sheets.Write(w, p)
}

// paperStep is a step with what was read at it, fields first.
func paperStep(st StepView) sheets.Step {
	out := sheets.Step{Title: st.Title, Sentence: st.Outcome.Sentence, Verdict: map[steps.Verdict]string{steps.Good: "right", steps.Bad: "not right", steps.Unknown: "open"}[st.Outcome.Verdict]}
	for _, f := range st.Ask.Fields {
		if v := st.Entry.Fields[f.ID]; v != "" {
			out.Read = append(out.Read, sheets.Read{What: f.Label, Figures: v})
		}
	}
	says := map[string]string{}
	for _, r := range st.Outcome.Rows {
		says[r.ID] = r.Says
	}
	title := map[string]string{}
	for _, r := range st.Ask.Rows {
		title[r.ID] = r.Title
	}
	for _, r := range st.Entry.Rows {
		var cells []string
		for _, c := range st.Ask.Columns {
			if v := r.Cells[c.ID]; v != "" {
				cells = append(cells, strings.ToLower(c.Label)+" "+v)
			}
		}
		if len(cells) > 0 {
			out.Read = append(out.Read, sheets.Read{What: cmp.Or(title[r.ID], r.Title), Figures: strings.Join(cells, ", "), Says: says[r.ID]})
		}
	}
	return out
}

func lookWords(o ObservationView) string {
	words := "nothing seen"
	if o.Seen {
		words = "seen"
		if o.Class != "" {
			words += ", " + o.Class
		}
	}
	if o.Note != "" {
		words += ": " + o.Note
	}
	return words
}

func figures(r *judge.Report) []sheets.Figure {
	var out []sheets.Figure
	add := func(label, unit string, i *judge.Interval) {
		if i == nil {
			return
		}
		f := func(v float64) string { return quantity.Significant(v, 2) }
		out = append(out, sheets.Figure{Label: label, Value: f(i.Value) + " " + unit, Range: fmt.Sprintf("%s to %s, 95 in 100", f(i.Low), f(i.High))})
	}
	add("Loss", "kPa a minute", r.RateKPaPerMin)
	add("As hot coolant, at most", "mL an hour", r.LossMLPerH)
	add("If it leaves below the liquid line, hot", "mL an hour", r.WeepMLPerH)
	add("Equivalent hole", "µm", r.HoleUm)
	return out
}

func paperHold(h HoldView) sheets.Hold {
	_, u := h.Gauge.Ring()
	c := sheets.Chart{Unit: u, ShutS: h.IsolatedS, TargetPa: h.Target.Pa}
	for _, p := range h.Points {
		if p.Struck == "" && (h.EndedS == nil || p.AtS <= *h.EndedS) {
			c.T, c.Pa = append(c.T, p.AtS), append(c.Pa, p.Pa)
		}
	}
	for _, g := range h.Gaps {
		c.Gaps = append(c.Gaps, [2]float64{g.FromS, g.ToS})
	}
	out := sheets.Hold{Title: title(h.Purpose), Sentence: h.Sentence, Chart: c,
		How: fmt.Sprintf("%s, target %s %s (%s). Allowed: %s", h.Gauge.Name, h.TargetText.Text, h.TargetText.Unit, h.TargetText.Other, h.Allowance.Says)}
	if h.Condition != "" {
		out.Title += ", " + h.Condition
	}
	if h.Report != nil {
		out.Why = h.Report.Why
		if h.Report.Next != "" {
			out.Why = append(slices.Clone(out.Why), h.Report.Next)
		}
		if h.Purpose == "rig proof" {
			out.Why = out.Why[:1]
			return out
		}
		for _, s := range h.Report.Schools {
			if s.Verdict != "too-short" { // of those that hold longer there is nothing to say
				out.Schools = append(out.Schools, s.Title+": "+s.Verdict+" ("+s.Saw+")")
			}
		}
	}
	return out
}
