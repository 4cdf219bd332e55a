package shop

import (
	"fmt"
	"slices"
	"strings"

	"idlehiss/core/quantity"
	"idlehiss/core/terms"
	"idlehiss/holds"
	"idlehiss/jobs"
	"idlehiss/sheets"
)

func pressureSays(h holds.HoldView) string {
	return fmt.Sprintf("%s (%s)", h.TargetText.Says(), h.TargetText.Other)
}

// heldSays is for how long a hold was held and under which condition; empty: it never was.
func heldSays(h holds.HoldView) string {
	if h.IsolatedS == nil {
		return ""
	}
	until := h.NowS
	if h.EndedS != nil {
		until = *h.EndedS
	}
	return strings.TrimSuffix(quantity.Duration(until-*h.IsolatedS)+", "+h.Under, ", ")
}

// didEach is to which pressure and for how long each test of several was held, its last hold each.
func didEach(j jobs.JobView, whole map[string]holds.HoldView) (rows []sheets.Row) {
	for _, st := range j.Steps {
		for _, h := range slices.Backward(j.Holds) {
			if h.Test == st.ID && h.Purpose != terms.RigProof {
				rows = append(rows, sheets.Row{Label: st.Title, Text: strings.TrimSuffix(pressureSays(whole[h.ID])+", "+heldSays(whole[h.ID]), ", ")})
				break
			}
		}
	}
	return rows
}

// didOf is how a hold was done, so that somebody else can do it again: first what a customer may want to know.
func didOf(j jobs.JobView, h holds.HoldView) []sheets.Row {
	add := func(rows []sheets.Row, label, text string) []sheets.Row {
		if text == "" {
			return rows
		}
		return append(rows, sheets.Row{Label: label, Text: text})
	}
	if len(j.Steps) > 1 { // each test has its own pressure and time: they stand with its chart
		return add(add(add(nil, "Gauge", gaugeSays(h)), "Rig", rigSays(j)), "Schools", strings.Join(schoolsOf(j), "; "))
	}
	rows := add(add(nil, "Pressure", pressureSays(h)), "Held", heldSays(h))
	rows = add(add(rows, "Allowed", h.Allowance.Says), "Target", h.Target.Says)
	rows = add(rows, "Gauge", gaugeSays(h))
	if a := h.Air; a != nil {
		l := func(v float64) string { return quantity.Significant(v, 2) }
		rows = add(rows, "Trapped air", fmt.Sprintf("about %s L (%s to %s)", l(a.Litres), l(a.Low), l(a.High)))
	}
	rows = add(rows, "Rig", rigSays(j))
	rows = add(rows, "Neck", j.Rig.Neck)
	return add(rows, "Schools", strings.Join(schoolsOf(j), "; "))
}

func rigSays(j jobs.JobView) string {
	rig := "Rig proven on its own."
	if !j.RigProven {
		rig = "Rig not proven."
	}
	return strings.TrimPrefix(j.Rig.Fitted+". "+rig, ". ")
}

func gaugeSays(h holds.HoldView) string {
	r := h.Gauge.Rings[min(h.Gauge.Read, len(h.Gauge.Rings)-1)]
	says := h.Gauge.Name + strings.ReplaceAll(fmt.Sprintf(", %g to %g ", r.From, r.To), "-", "−") + r.Unit
	if h.Gauge.Class > 0 {
		says += fmt.Sprintf(", class %g %%", h.Gauge.Class)
	}
	return says
}

// schoolsOf are those by which a job was done, where schools differ.
func schoolsOf(j jobs.JobView) (out []string) {
	for _, m := range j.Matters {
		for _, w := range m.Schools {
			if w.ID == m.Chosen {
				out = append(out, quantity.Lower(m.Title)+", "+w.Title)
			}
		}
	}
	return out
}
