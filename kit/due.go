package kit

import (
	"context"
	"errors"
	"fmt"
	"slices"
	"strings"
	"time"

	"idlehiss/core/quantity"
	"idlehiss/sheets"
)

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
