package shop

import (
	"cmp"
	"slices"
	"strings"

	"idlehiss/core/passages"
	"idlehiss/core/quantity"
	"idlehiss/core/steps"
	"idlehiss/jobs"
	"idlehiss/sheets"
	"idlehiss/trail"
)

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
