package steps

import (
	"fmt"
	"slices"

	"idlehiss/core/circuit"
	"idlehiss/core/quantity"
	"idlehiss/core/slate"
)

// valuesOf are the figures of a step, the one that is taken of each thing once for each.
func valuesOf(s circuit.Step, g Given) []circuit.Value {
	out := slices.Clone(s.Values)
	if s.Each == nil {
		return out
	}
	names := g.Things
	if len(names) == 0 {
		names = []string{quantity.Capital(s.Per) + " 1"}
	}
	for i, name := range names {
		v := *s.Each
		v.ID, v.Title = fmt.Sprintf("%s%d", s.Each.ID, i+1), name
		out = append(out, v)
	}
	return out
}

func askValues(s circuit.Step, _ *circuit.Circuit, g Given) Ask {
	var a Ask
	for _, v := range valuesOf(s, g) {
		row := Row{ID: v.ID, Title: v.Title, Defaults: map[string]string{}}
		if s.Unit != "%" && !s.Asked {
			u := quantity.MustNamed(s.Unit, quantity.Pressure)
			for col, pa := range map[string]circuit.Pressure{"least": v.Least, "good": v.Good} {
				if pa != 0 {
					row.Defaults[col] = quantity.Significant(u.Of(float64(pa)), 3)
				}
			}
		}
		a.Rows = append(a.Rows, row)
	}
	if s.Unit == "%" {
		a.Columns = []slate.Field{{ID: "value", Label: "Share", Kind: slate.Percent, Help: "of the whole, such as 5"}}
		return a
	}
	field := func(id, label, help string) slate.Field {
		return slate.Field{ID: id, Label: label, Kind: slate.Kind(quantity.Pressure), Unit: s.Unit, Help: help}
	}
	least, good := field("least", "At least", ""), field("good", "Good from", "")
	if s.Asked {
		least.Help, good.Help = "by the manual", "by the manual"
	}
	a.Columns = []slate.Field{field("value", "Read", ""), least, good}
	a.Grows = s.Per
	return a
}

// judgeValues holds each value against its minimum and its good figure. While the
// gate is below its minimum the rest says nothing.
func judgeValues(sh *sheet) (Outcome, error) {
	if sh.step.Unit == "%" {
		return sh.shares(), nil
	}
	var out Outcome
	u := quantity.MustNamed(sh.step.Unit, quantity.Pressure)
	show := func(pa float64) string { return quantity.Significant(u.Of(pa), 3) + " " + u.Symbol }
	gate := ""
	fair := 0
	known := valuesOf(sh.step, sh.given)
	least, good := 0.0, 0.0
	for i, l := range sh.lines {
		var v circuit.Value
		if i < len(known) {
			v = known[i]
		}
		above := sh.step.Asked && i > len(sh.step.Values) && sh.step.Each != nil // as the row above
		switch {
		case sh.step.Asked && !above:
			least, good = 0, 0
		case !sh.step.Asked:
			least, good = float64(v.Least), float64(v.Good)
		}
		if l.Given("least") {
			least = l.SI("least")
		}
		if l.Given("good") {
			good = l.SI("good")
		}
		r := RowOutcome{ID: l.ID, Verdict: Unknown, Says: "not measured"}
		switch got := l.SI("value"); {
		case !l.Given("value"):
			if v.Gate {
				gate = l.Title + " comes first."
			}
		case sh.step.Asked && least == 0:
			r.Says = show(got) + "; type the minimum from the manual"
			if v.Gate {
				gate = l.Title + ": type its minimum from the manual."
			}
		case got < least:
			r.Verdict, r.Says = Bad, fmt.Sprintf("%s, under the minimum of %s", show(got), show(least))
			if v.Gate {
				gate = fmt.Sprintf("%s: %s, under its minimum of %s. Put that right first: the rest means nothing until then.", l.Title, show(got), show(least))
			}
		case good > 0 && got < good:
			r.Verdict, r.Says = Good, fmt.Sprintf("%s: enough, but under the good value %s", show(got), show(good))
			fair++
		default:
			r.Verdict, r.Says = Good, show(got)
		}
		out.Rows = append(out.Rows, r)
	}
	out.Verdict = worst(verdicts(out.Rows)...)
	switch {
	case gate != "" && of(out.Rows, Bad) > 0:
		out.Verdict, out.Sentence = Bad, gate
	case gate != "":
		out.Verdict, out.Sentence = Unknown, gate
	case out.Verdict == Bad:
		out.Sentence = fmt.Sprintf("Too low: %s. %d of %d are right.", sh.names(out.Rows, Bad), of(out.Rows, Good), len(out.Rows))
		if n := of(out.Rows, Unknown); n > 0 {
			out.Sentence += fmt.Sprintf(" %d not measured yet: measure all of them, even after a bad one.", n)
		}
	case out.Verdict == Unknown:
		out.Sentence = fmt.Sprintf("%d of %d measured.", of(out.Rows, Good), len(out.Rows))
	default:
		out.Sentence = fmt.Sprintf("All %d reach their minimum", len(out.Rows))
		if fair > 0 {
			out.Sentence += fmt.Sprintf(", %d of them below good", fair)
		}
		out.Sentence += "."
	}
	return out, nil
}

// shares adds up what is lost of a whole.
func (sh *sheet) shares() Outcome {
	var out Outcome
	lost := 0.0
	for i, l := range sh.lines {
		r := RowOutcome{ID: l.ID, Verdict: Unknown, Says: "not measured"}
		if l.Given("value") {
			part := 100 * l.SI("value") * sh.step.Values[i].Counts
			lost += part
			r.Verdict, r.Says = Good, quantity.Significant(part, 2)+" % lost"
		}
		out.Rows = append(out.Rows, r)
	}
	total := quantity.Significant(lost, 2)
	out.Figures = []slate.Figure{{ID: "lost_percent", Label: "Lost", Value: lost, Text: total + " %"}}
	switch out.Verdict = worst(verdicts(out.Rows)...); {
	case lost > sh.step.Share[1]:
		out.Verdict, out.Sentence = Bad, fmt.Sprintf("%s %% of the face is lost: replace it.", total)
	case out.Verdict == Unknown:
		out.Sentence = "Estimate how much of the face each fault takes."
	case lost > sh.step.Share[0]:
		out.Sentence = fmt.Sprintf("%s %% of the face is lost: use it, with that much less cooling. Watch the temperature.", total)
	default:
		out.Sentence = fmt.Sprintf("%s %% of the face is lost: use it.", total)
	}
	return out
}
