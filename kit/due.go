package kit

import (
	"context"
	"errors"
	"fmt"
	"slices"
	"strings"
	"time"

	"idlehiss/core/quantity"
	"idlehiss/core/terms"
	"idlehiss/desk"
	"idlehiss/sheets"
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

// check works out which checks are due.
func (it *ItemView) check(now time.Time) {
	for _, of := range inTurn {
		every, ok := it.every[of]
		if !ok || it.Retired || it.Gone {
			continue
		}
		last, uses := it.since, 0
		if n, ok := it.done[of]; ok {
			last, uses = n.At, n.Uses
		}
		on, left := last.Local().AddDate(0, 0, every.Days), every.Uses-(it.Uses-uses)
		v := CheckView{Of: of, Due: every.Days > 0 && !now.Before(on) || every.Uses > 0 && left <= 0}
		var says []string
		if every.Days > 0 {
			says = append(says, on.Format("on 2 January 2006"))
		}
		if every.Uses > 0 {
			says = append(says, fmt.Sprintf("after %s more", some(max(left, 0))))
		}
		if v.Says = fmt.Sprintf("%s is due %s.", checkWords[of], strings.Join(says, " or ")); v.Due {
			v.Says = fmt.Sprintf("%s is due: last %s, %s since.", checkWords[of], last.Local().Format("2 January 2006"), some(it.Uses-uses))
		}
		it.Checks = append(it.Checks, v)
	}
}

func some(holds int) string {
	if holds == 1 {
		return "1 hold"
	}
	return fmt.Sprintf("%d holds", holds)
}

// checkDue is how often a check is due, beside what was said of others before.
func (it *ItemView) checkDue(in NewNote) (string, any, error) {
	if _, ok := checkWords[in.Of]; !ok || it.Kind != terms.GaugeKit && in.Of != terms.Service {
		return "", nil, desk.Refuse("of", "choose which check is due: a zero check or a comparison of a gauge, or a service")
	}
	all := intervals{}
	for of, x := range it.every {
		all[of] = x
	}
	if all[in.Of] = (interval{in.Days, in.Uses}); in.Days == 0 && in.Uses == 0 {
		delete(all, in.Of)
		return fmt.Sprintf("No %s is due any more.", checkWords[in.Of]), all, nil
	}
	var every []string
	if in.Days > 0 {
		every = append(every, fmt.Sprintf("%d days", in.Days))
	}
	if in.Uses > 0 {
		every = append(every, some(in.Uses))
	}
	return fmt.Sprintf("A %s is due every %s.", checkWords[in.Of], strings.Join(every, " or ")), all, nil
}

// givenBack is how something that was borrowed goes back: with all its pieces, or without those that are named.
func (it *ItemView) givenBack(in NewNote, all []ItemView) (string, any, error) {
	b := it.Borrow
	switch {
	case b == nil:
		return "", nil, desk.Conflicts("%s is not borrowed", it.Name)
	case b.Case != "":
		return "", nil, desk.Conflicts("%s goes back with the case in which it came", it.Name)
	case it.OnHold != "":
		return "", nil, desk.Conflicts("%s is on the hold of %s now", it.Name, it.OnHold)
	}
	for _, o := range all {
		if o.OnHold != "" && o.Borrow != nil && o.Borrow.Case == it.ID {
			return "", nil, desk.Conflicts("%s of it is on the hold of %s now", o.Name, o.OnHold)
		}
	}
	says := fmt.Sprintf("Given back to %s.", b.From)
	lost := []string{}
	if it.Kind == terms.CaseKit {
		came := slices.DeleteFunc(slices.Clone(it.Pieces), func(p string) bool { return slices.Contains(b.Missing, p) })
		var err error
		if lost, err = among(came, in.Missing); err != nil {
			return "", nil, err
		}
		says += " " + counted("counted out", len(came), lost, "missing")
	}
	return strings.TrimSpace(says + " " + strings.TrimSpace(in.Text)), given{lost}, nil
}

// DueView is something of the kit that is due: a loan, a thing borrowed, a check.
type DueView struct {
	KitID   string `json:"kit_id"`
	Name    string `json:"name"`
	Text    string `json:"text"`
	Day     string `json:"day"`     // on which; empty: by its uses
	Overdue bool   `json:"overdue"` // its day is over, or the check is due
}

// soon is how many days before its day a loan is on the bench.
const soon = 3

// Due are those that are due within some days, or overdue.
func (r *Room) Due(ctx context.Context) ([]DueView, error) {
	now := r.desk.Clock.Now()
	items, err := r.standing(ctx)
	out := []DueView{}
	for _, it := range items {
		out = append(out, it.loans(func(on time.Time) bool { return past(on, now.AddDate(0, 0, soon+1)) })...)
		for _, c := range it.Checks {
			if c.Due {
				out = append(out, DueView{it.ID, it.Name, quantity.Capital(c.Says), "", true})
			}
		}
	}
	return lateFirst(out), err
}

// Out is all that is lent out or borrowed.
func (r *Room) Out(ctx context.Context) ([]DueView, error) {
	items, err := r.standing(ctx)
	out := []DueView{}
	for _, it := range items {
		out = append(out, it.loans(func(time.Time) bool { return true })...)
	}
	return lateFirst(out), err
}

// standing are the pieces as they are now. No note but the latest of each kind is read for it.
func (r *Room) standing(ctx context.Context) ([]ItemView, error) {
	rows, err := r.desk.Book.Kit(ctx, "")
	notes, e := r.desk.Book.KitStands(ctx)
	if err := errors.Join(err, e); err != nil {
		return nil, err
	}
	now := r.desk.Clock.Now()
	var items []ItemView
	for _, row := range rows {
		it, err := item(row)
		if err != nil {
			continue // the kit's screen says so
		}
		for _, n := range notes {
			if n.KitID == row.ID {
				it.note(n, now)
			}
		}
		it.check(now)
		items = append(items, it)
	}
	together(items)
	return items, nil
}

// loans are where a piece is due, if it is out or borrowed.
func (it *ItemView) loans(near func(on time.Time) bool) (out []DueView) {
	if l := it.Loan; l != nil && near(l.on) {
		out = append(out, DueView{it.ID, it.Name, fmt.Sprintf("Due back from %s.", l.To), l.Due, l.Overdue})
	}
	if b := it.Borrow; b != nil && b.Case == "" && near(b.on) {
		out = append(out, DueView{it.ID, it.Name, fmt.Sprintf("Goes back to %s.", b.From), b.Due, b.Overdue})
	}
	return out
}

// lateFirst puts what is overdue first.
func lateFirst(due []DueView) []DueView {
	slices.SortStableFunc(due, func(a, b DueView) int {
		switch {
		case a.Overdue == b.Overdue:
			return 0
		case a.Overdue:
			return -1
		}
		return 1
	})
	return due
}

// Calendar are the days on which something goes back.
func Calendar(items []ItemView) (due []sheets.Due) {
	for _, it := range items {
		if l := it.Loan; l != nil {
			due = append(due, sheets.Due{ID: "loan-" + it.ID, Summary: fmt.Sprintf("%s is due back from %s", it.Name, l.To), Details: strings.Join(it.Says, "; "), On: l.on, Changed: l.Since})
		}
		if b := it.Borrow; b != nil && b.Case == "" {
			due = append(due, sheets.Due{ID: "borrowed-" + it.ID, Summary: fmt.Sprintf("%s goes back to %s", it.Name, b.From), Details: strings.Join(it.Pieces, ", "), On: b.on, Changed: b.Since})
		}
	}
	return due
}
