package steps

import (
	"fmt"
	"strings"
)

// checklist is a gate: nothing after it is done while a must is open.
func checklist(sh *sheet) (Outcome, error) {
	var open []string
	must, done := 0, 0
	for _, t := range sh.step.Ticks {
		switch {
		case !t.Must:
		case sh.given.Ticked[t.ID]:
			must++
			done++
		default:
			must++
			open = append(open, t.Text)
		}
	}
	if len(open) > 0 {
		return Outcome{Verdict: Unknown, Sentence: fmt.Sprintf("%d of %d done. Still open: %s.", done, must, strings.Join(open, "; "))}, nil
	}
	if must <= 1 {
		return Outcome{Verdict: Good, Sentence: "Done."}, nil
	}
	return Outcome{Verdict: Good, Sentence: fmt.Sprintf("All %d done.", must)}, nil
}
