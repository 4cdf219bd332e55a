package steps

import (
	"fmt"
	"strings"

	"idlehiss/core/circuit"
	"idlehiss/core/quantity"
	"idlehiss/core/slate"
)

func askCracks(s circuit.Step, _ *circuit.Circuit, _ Given) Ask {
	a := Ask{Grows: "crack", Columns: []slate.Field{
		{ID: "powder", Label: "Powder", Kind: slate.Pick, Choices: []string{"nothing", "crack", "not looked at"}},
		{ID: "air", Label: "Under air", Kind: slate.Pick, Choices: []string{"leaks", "does not", "not tried"}},
		{ID: "verdict", Label: "Verdict", Kind: slate.Pick, Choices: []string{"back to work", "sleeve", "stitch", "scrap"}},
	}}
	for i, p := range s.Places {
		a.Rows = append(a.Rows, Row{ID: fmt.Sprintf("place-%d", i+1), Title: quantity.Capital(p)})
	}
	return a
}

// judgeCracks goes by what leaks: powder finds cracks and misses pores, air finds
// both and says which leak. What leaks is bad until a repair is decided on and
// tried again; scrap is bad for good.
func judgeCracks(sh *sheet) (Outcome, error) {
	var out Outcome
	var leaks, dry, scrap []string
	for _, l := range sh.lines {
		powder, air, verdict := l.Text("powder"), l.Text("air"), l.Text("verdict")
		r := RowOutcome{ID: l.ID, Verdict: Unknown, Says: "not looked at"}
		name := strings.ToLower(l.Title)
		switch {
		case verdict == "scrap":
			r.Verdict, r.Says = Bad, "scrap"
			scrap = append(scrap, name)
		case air == "leaks":
			r.Verdict, r.Says = Bad, "leaks"
			if verdict != "" && verdict != "back to work" {
				r.Says = "leaks: " + verdict + ", then test again"
			}
			leaks = append(leaks, name)
		case powder == "crack" && air == "does not":
			r.Verdict, r.Says = Good, "cracked, but holds air"
			dry = append(dry, name)
		case powder == "crack":
			r.Says = "cracked; test it under air"
		case powder == "nothing" || air == "does not":
			r.Verdict, r.Says = Good, "nothing found"
		}
		out.Rows = append(out.Rows, r)
	}
	out.Verdict = worst(verdicts(out.Rows)...)
	switch {
	case len(scrap) > 0:
		out.Sentence = "Scrap: " + strings.Join(scrap, ", ") + "."
	case len(leaks) > 0:
		out.Sentence = "Leaks: " + strings.Join(leaks, ", ") + "."
	case out.Verdict == Good && len(dry) > 0:
		out.Sentence = fmt.Sprintf("Cracked but tight: %s. Note it, and look again next time.", strings.Join(dry, ", "))
	case out.Verdict == Good:
		out.Sentence = fmt.Sprintf("No crack in %d places.", len(out.Rows))
	default:
		out.Sentence = fmt.Sprintf("%d of %d places decided.", of(out.Rows, Good), len(out.Rows))
	}
	return out, nil
}
