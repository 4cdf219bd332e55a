package steps

import (
	"fmt"
	"strings"

	"idlehiss/core/circuit"
	"idlehiss/core/quantity"
	"idlehiss/core/slate"
)

func askRound(s circuit.Step, _ *circuit.Circuit, g Given) Ask {
	a := Ask{Rows: things(s, g), Grows: s.Per}
	var timed []string
	for _, l := range s.Looks {
		f := yesNo(l.ID, l.Title)
		if l.Within > 0 {
			f = slate.Field{ID: l.ID, Label: l.Title, Kind: slate.Text, Choices: []string{"yes", "no"}, Help: fmt.Sprintf("yes, no, or its time: within %s", quantity.Clock(float64(l.Within)))}
			timed = append(timed, l.ID)
		}
		a.Columns = append(a.Columns, f)
	}
	if len(timed) > 0 {
		a.Clock = clock(s, "Begun", timed...)
		a.Clock.Stamps = "yes"
	}
	if a.Grows == "" {
		a.Grows = "place"
	}
	if len(a.Rows) == 0 && len(g.Things) == 0 {
		a.Rows = []Row{{ID: s.ID + "-1", Title: quantity.Capital(a.Grows) + " 1"}}
	}
	return a
}

// judgeRound wants every look at every place to be right.
func judgeRound(sh *sheet) (Outcome, error) {
	var out Outcome
	for _, l := range sh.lines {
		r := RowOutcome{ID: l.ID, Verdict: Good}
		var says []string
		for _, look := range sh.step.Looks {
			v, word, err := seen(look, l.Text(look.ID), sh.given)
			if err != nil {
				return out, CellError{l.ID, look.ID, err}
			}
			if v != Good {
				says = append(says, strings.ToLower(look.Title)+": "+word)
			}
			r.Verdict = worst(r.Verdict, v)
		}
		r.Says = strings.Join(says, "; ")
		out.Rows = append(out.Rows, r)
	}
	out.Verdict = worst(verdicts(out.Rows)...)
	switch out.Verdict {
	case Bad:
		out.Sentence = fmt.Sprintf("Failed: %s.", sh.names(out.Rows, Bad))
		if n := of(out.Rows, Unknown); n > 0 {
			out.Sentence += fmt.Sprintf(" Not checked yet: %d.", n)
		}
	case Good:
		if out.Sentence = fmt.Sprintf("All %d right.", len(out.Rows)); len(out.Rows) == 1 {
			out.Sentence = "Right."
		}
	default:
		out.Sentence = fmt.Sprintf("%d of %d checked.", of(out.Rows, Good), len(out.Rows))
	}
	return out, nil
}

// seen reads one look: yes, no, or the time in which it showed.
func seen(look circuit.Look, text string, g Given) (Verdict, string, error) {
	switch strings.ToLower(strings.TrimSpace(text)) {
	case "":
		return Unknown, "not checked", nil
	case "yes":
		return Good, "yes", nil
	case "no":
		return Bad, "no", nil
	}
	t, err := quantity.Parse(text, quantity.Time, quantity.MustNamed("s", quantity.Time), g.AmbientPa)
	if err != nil || look.Within == 0 {
		return Unknown, "", fmt.Errorf("%q: type yes, no, or a time such as 42 s", text)
	}
	if t.Mid() > float64(look.Within) {
		return Bad, fmt.Sprintf("only after %s; must be within %s", quantity.Clock(t.Mid()), quantity.Clock(float64(look.Within))), nil
	}
	return Good, "yes", nil
}
