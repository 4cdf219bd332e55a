package kit

import (
	"fmt"
	"strings"
	"time"

	"idlehiss/core/terms"
	"idlehiss/logbook"
)

// intervals are how often a piece is checked, by the kind of check.
type intervals map[terms.NoteKind]interval

type interval struct {
	Days int `json:"days"` // 0: however long
	Uses int `json:"uses"` // holds; 0: however many
}

// CheckView is a check that is due again and again.
type CheckView struct {
	Of   terms.NoteKind `json:"of"`
	Says string         `json:"says"`
	Due  bool           `json:"due"`
}

// checkWords name a check.
var checkWords = map[terms.NoteKind]string{terms.ZeroCheck: "zero check", terms.Compared: "comparison", terms.Service: "service"}

// inTurn are the checks in the order in which they are shown.
var inTurn = []terms.NoteKind{terms.ZeroCheck, terms.Compared, terms.Service}

// due works out which checks are due of a piece that is in the kit since a moment and was on so many holds; done has the
// latest check of each kind.
func (all intervals) due(done map[terms.NoteKind]logbook.KitNote, since time.Time, uses int, now time.Time) []CheckView {
	out := []CheckView{}
	for _, of := range inTurn {
		every, ok := all[of]
		if !ok {
			continue
		}
		last, held := since, uses
		if n, ok := done[of]; ok {
			last, held = n.At, uses-n.Uses
		}
		on, left := last.Local().AddDate(0, 0, every.Days), every.Uses-held
		v := CheckView{Of: of, Due: every.Days > 0 && !now.Before(on) || every.Uses > 0 && left <= 0}
		var says []string
		if every.Days > 0 {
			says = append(says, on.Format("on 2 January 2006"))
		}
		if every.Uses > 0 {
			says = append(says, fmt.Sprintf("after %s more", some(max(left, 0))))
		}
		if v.Says = fmt.Sprintf("%s is due %s.", checkWords[of], strings.Join(says, " or ")); v.Due {
			v.Says = fmt.Sprintf("%s is due: last %s, %s since.", checkWords[of], last.Local().Format("2 January 2006"), some(held))
		}
		out = append(out, v)
	}
	return out
}

func some(holds int) string {
	if holds == 1 {
		return "1 hold"
	}
	return fmt.Sprintf("%d holds", holds)
}
