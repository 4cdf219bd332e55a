package shop

import (
	"cmp"
	"context"
	"fmt"
	"io"
	"slices"
	"strings"

	"idlehiss/core/judge"
	"idlehiss/core/passages"
	"idlehiss/core/quantity"
	"idlehiss/core/steps"
	"idlehiss/core/terms"
	"idlehiss/holds"
	"idlehiss/jobs"
	"idlehiss/sheets"
	"idlehiss/trail"
)

// Paper writes a job's sheet as a page that prints.
func (s *Shop) Paper(ctx context.Context, w io.Writer, jobID string) error {
	j, err := s.Jobs.Job(ctx, jobID)
	if err != nil {
		return err
	}
	many := len(j.Steps) > 1
	p := sheets.Sheet{Shop: "Idle Hiss", Machine: j.Machine, Complaint: j.Complaint, Circuit: j.Circuit, By: j.By, At: j.At, Ended: j.EndedAt, State: string(j.State),
		Ring: string(j.Ring), Verdict: j.Folded, Standing: j.Standing, Simulated: j.Simulated, Mended: j.Mend.Done, Proved: j.Mend.Says}
	for _, m := range j.Matters {
		for _, w := range m.Schools {
			if w.ID == m.Chosen {
				p.Schools = append(p.Schools, quantity.Lower(m.Title)+", "+w.Title)
			}
		}
	}
	for _, st := range j.Steps {
		if st.Plan != nil && st.Plan.Target.Over {
			p.Override = strings.TrimSpace(p.Override + " " + st.Plan.Target.Says)
		}
		if many {
			p.Steps = append(p.Steps, paperStep(st))
		}
	}
	if many {
		p.NotTested, p.Untested = j.NotTested, j.Call.Untested
	}
	for _, f := range j.Facts {
		if f.Subject != terms.AboutTick && f.Subject != terms.AboutLook {
			p.Facts = append(p.Facts, sheets.Fact{Sentence: f.Sentence, Source: string(f.Source), Superseded: f.Superseded})
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
			p.Looks = append(p.Looks, sheets.Look{Part: x.Title, Seen: o.Says, By: o.By})
		}
	}
	for _, x := range j.Photos {
		raw, err := s.Jobs.PhotoOf(ctx, x.ID)
		if err != nil {
			return err
		}
		p.Photos = append(p.Photos, sheets.Photo{Says: x.Says, JPEG: raw})
	}
	for _, h := range j.Holds {
		whole, err := s.Holds.Hold(ctx, h.ID)
		if err != nil { // its own line says why it cannot be drawn
			whole = h
		}
		hold := paperHold(whole)
		if many {
			if i := slices.IndexFunc(j.Steps, func(st jobs.StepView) bool { return st.ID == h.Test }); i >= 0 && h.Purpose != terms.RigProof {
				hold.Title = j.Steps[i].Title + ", " + quantity.Lower(hold.Title)
			}
		} else if h.Purpose != terms.RigProof && h.Report != nil {
			p.NotTested, p.Figures = j.NotTested, figures(h.Report, j.Escape)
		}
		p.Holds = append(p.Holds, hold)
	}
	if j.Bores {
		v, err := s.Jobs.Passages(ctx, jobID)
		if err != nil {
			return err
		}
		p.Bores = paperBores(v)
	}
	if j.Explains != "" {
		p.Facts = append(p.Facts, sheets.Fact{Sentence: j.Explains, Source: string(terms.FromFit)})
	}
	return sheets.Write(w, p)
}

// paperStep is a step with what was read at it, fields first.
func paperStep(st jobs.StepView) sheets.Step {
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
				cells = append(cells, quantity.Lower(c.Label)+" "+v)
			}
		}
		if len(cells) > 0 {
			out.Read = append(out.Read, sheets.Read{What: cmp.Or(title[r.ID], r.Title), Figures: strings.Join(cells, ", "), Says: says[r.ID]})
		}
	}
	return out
}

func figures(r *judge.Report, how terms.Escape) []sheets.Figure {
	var out []sheets.Figure
	add := func(label, unit string, i *judge.Interval) {
		if i == nil {
			return
		}
		f := func(v float64) string { return quantity.Significant(v, 2) }
		out = append(out, sheets.Figure{Label: label, Value: f(i.Value) + " " + unit, Range: fmt.Sprintf("%s to %s, 95 in 100", f(i.Low), f(i.High))})
	}
	add("Loss", "kPa per min", r.RateKPaPerMin)
	if how != terms.Dripped {
		add("As hot coolant, if it hisses", "mL an hour", r.LossMLPerH)
	}
	if how != terms.Hissed {
		add("As hot coolant, if it drips", "mL an hour", r.WeepMLPerH)
	}
	add("Equivalent hole", "µm", r.HoleUm)
	return out
}

func paperHold(h holds.HoldView) sheets.Hold {
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
	out := sheets.Hold{Title: quantity.Capital(string(h.Purpose)), Sentence: h.Sentence, Chart: c,
		How: fmt.Sprintf("%s, target %s %s (%s). Allowed: %s", h.Gauge.Name, h.TargetText.Text, h.TargetText.Unit, h.TargetText.Other, h.Allowance.Says)}
	if h.Under != "" {
		out.Title += ", " + h.Under
	}
	if h.Unjudged != "" {
		out.Sentence = "Cannot be judged: " + h.Unjudged
	}
	if h.Report == nil {
		return out
	}
	out.Why = slices.Clone(h.Report.Why)
	if h.Purpose == terms.RigProof {
		out.Why = out.Why[:min(1, len(out.Why))]
		return out
	}
	if h.Report.Next != "" {
		out.Why = append(out.Why, h.Report.Next)
	}
	for _, s := range h.Report.Schools {
		if s.Verdict != judge.TooShort { // of those that hold longer there is nothing to say
			out.Schools = append(out.Schools, fmt.Sprintf("%s: %s (%s)", s.Title, s.Verdict, s.Saw))
		}
	}
	return out
}

// paperBores are the isolation tests of the whole set, and those done beside it.
func paperBores(v trail.PassagesView) *sheets.Bores {
	out := &sheets.Bores{Minutes: passages.MinutesSay(v.Minutes)}
	says := func(all []trail.PassageChange) (list []string) {
		for _, x := range all {
			list = append(list, x.Says)
		}
		return list
	}
	space := map[string]string{}
	for _, c := range v.Chambers {
		space[c.ID] = c.Title
	}
	bore := map[string]string{}
	for _, x := range v.Ports {
		bore[x.ID], bore["port-"+x.ID] = quantity.Capital(x.Title), quantity.Capital(x.Title)
	}
	for _, x := range v.Parts {
		bore[x.ID] = x.Title
	}
	for i, t := range v.Tests {
		if i >= v.Set && !t.Done {
			continue
		}
		b := sheets.Bore{N: i + 1, Title: t.Title, At: t.At, Changes: says(t.InOrder), Feed: bore[t.Feed]}
		for _, id := range t.Plugs {
			b.Plugs = append(b.Plugs, bore[id])
		}
		for _, id := range t.Pressed {
			b.Pressed = append(b.Pressed, space[id])
		}
		for _, x := range t.Meant {
			b.Meant = append(b.Meant, strings.TrimSuffix(quantity.Lower(x.Title)+", "+x.Flow, ", "))
		}
		for _, x := range t.Places {
			if found := slices.Contains(t.Found, x.ID); x.Expected || found {
				var names []string
				for _, name := range x.Seals {
					if name != x.Title {
						names = append(names, quantity.Lower(name))
					}
				}
				seals := strings.Join(names, ", ")
				b.Places = append(b.Places, sheets.BorePlace{Title: x.Title, Seals: seals, Found: found})
			}
		}
		if t.Done && len(t.Found) == 0 {
			b.Result = "It held."
		}
		out.Tests = append(out.Tests, b)
	}
	out.Last = says(v.Last)
	return out
}
