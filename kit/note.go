package kit

import (
	"context"
	"encoding/json"
	"fmt"
	"io"
	"slices"
	"strings"

	"idlehiss/core/quantity"
	"idlehiss/core/runsheet"
	"idlehiss/core/terms"
	"idlehiss/desk"
	"idlehiss/logbook"
	"idlehiss/sheets"
)

// NewNote is something found or done with a piece of kit.
type NewNote struct {
	desk.Write
	Kind   terms.NoteKind `json:"kind"`
	Text   string         `json:"text,omitempty" maxLength:"300" doc:"what was done; to whom it was lent"`
	Due    string         `json:"due,omitempty" format:"date" doc:"day on which a loan is due back"`
	Shows  string         `json:"shows,omitempty" maxLength:"40" doc:"what a gauge shows with nothing on it"`
	Beside []BesideText   `json:"beside,omitempty" maxItems:"12" doc:"the same pressures on this gauge and on a better one"`
	With   string         `json:"with,omitempty" maxLength:"60" doc:"which better one"`

	Deposit string         `json:"deposit,omitempty" maxLength:"40" doc:"what was left for what is borrowed"`
	Missing []string       `json:"missing,omitempty" maxItems:"60" doc:"which pieces of a case were not there when it was given back"`
	Of      terms.NoteKind `json:"of,omitempty" enum:"zero check,compared,service" doc:"which check is due again and again"`
	Days    int            `json:"days,omitempty" minimum:"0" maximum:"3660" doc:"after so many days; 0: however long"`
	Uses    int            `json:"uses,omitempty" minimum:"0" maximum:"10000" doc:"after so many holds; 0: however many"`
}

// BesideText is one pressure on two gauges, as typed.
type BesideText struct {
	Read string `json:"read" maxLength:"40"`
	True string `json:"true" maxLength:"40"`
}

// Note takes a note down on a piece of kit.
func (r *Room) Note(ctx context.Context, kitID string, in NewNote) (desk.Receipt, error) {
	list, err := r.List(ctx)
	if err != nil {
		return desk.Receipt{}, err
	}
	shelf, err := r.Shelf(ctx)
	if err != nil {
		return desk.Receipt{}, err
	}
	var it *ItemView
	for i := range list.Items {
		if list.Items[i].ID == kitID {
			it = &list.Items[i]
		}
	}
	if it == nil {
		return desk.Receipt{}, desk.NotThere(fmt.Errorf("there is no %s in the kit", kitID))
	}
	receipt, ran, err := desk.Put(ctx, r.desk, in.Write, in, func(tx *logbook.Tx, st logbook.Stamp) (desk.Receipt, error) {
		sentence, value, err := r.noteOn(shelf, list, it, in)
		if err != nil {
			return desk.Receipt{}, err
		}
		raw, err := json.Marshal(value)
		if err != nil {
			return desk.Receipt{}, err
		}
		return desk.Received(in.Write, kitID, "notes"), tx.AddKitNote(logbook.KitNote{Stamp: st, KitID: kitID, Kind: in.Kind, Sentence: sentence, Value: raw, Uses: it.Uses})
	})
	if ran && err == nil {
		r.desk.Tell(desk.BenchNews, desk.Changed{ID: kitID, Changed: []string{"notes"}})
	}
	return receipt, err
}

// noteOn puts a note into words and keeps what it is worth.
func (r *Room) noteOn(shelf *Shelf, list ListView, it *ItemView, in NewNote) (string, any, error) {
	text := strings.TrimSpace(in.Text)
	switch in.Kind {
	case terms.ZeroCheck, terms.Compared:
		if it.Kind != terms.GaugeKit {
			return "", nil, desk.Refuse("kind", "only a gauge is checked at zero or compared; %s is of kind %s", it.Name, it.Kind)
		}
		g, err := shelf.Gauge(it.ID)
		if err != nil {
			return "", nil, err
		}
		_, u := g.Ring()
		read := func(field, text string) (float64, error) {
			v, err := quantity.Parse(text, quantity.Pressure, u, r.desk.AmbientPa)
			if err != nil {
				return 0, desk.Refuse(field, "%v", err)
			}
			return v.Mid(), nil
		}
		if in.Kind == terms.ZeroCheck {
			pa, err := read("shows", in.Shows)
			return g.RestSays(pa), pa, err
		}
		var pairs []runsheet.Beside
		for i, b := range in.Beside {
			a, err := read(fmt.Sprintf("beside[%d].read", i), b.Read)
			if err != nil {
				return "", nil, err
			}
			t, err := read(fmt.Sprintf("beside[%d].true", i), b.True)
			if err != nil {
				return "", nil, err
			}
			pairs = append(pairs, runsheet.Beside{ReadPa: a, TruePa: t})
		}
		c, err := g.Against(pairs)
		if err != nil {
			return "", nil, desk.Refuse("beside", "%v", err)
		}
		if in.With != "" {
			c.Says = fmt.Sprintf("Compared with %s: %s", strings.TrimSpace(in.With), quantity.Lower(c.Says))
		}
		return c.Says, c, nil
	case terms.Lent:
		if it.Loan != nil {
			return "", nil, desk.Conflicts("%s is out already, with %s: note its return first", it.Name, it.Loan.To)
		}
		if it.OnHold != "" {
			return "", nil, desk.Conflicts("%s is on the hold of %s now", it.Name, it.OnHold)
		}
		if text == "" {
			return "", nil, desk.Refuse("text", "type who has it")
		}
		due, err := r.day(in.Due)
		if err != nil {
			return "", nil, err
		}
		return fmt.Sprintf("Lent to %s, due back on %s.", text, dayOf(due)), loan{text, due}, nil
	case terms.Back:
		if it.Loan == nil {
			return "", nil, desk.Conflicts("%s is not out on loan", it.Name)
		}
		return strings.TrimSpace("Returned from " + it.Loan.To + ". " + text), nil, nil
	case terms.Borrowed:
		if it.Borrow != nil || it.Loan != nil {
			return "", nil, desk.Conflicts("%s is borrowed already, or out on loan", it.Name)
		}
		says, b, err := r.borrowed(in.Text, in.Due, in.Deposit)
		return says, b, err
	case terms.GivenBack:
		return it.givenBack(in, list.Items)
	case terms.CheckDue:
		return it.checkDue(in)
	case terms.Leaked:
		return "", nil, desk.Refuse("kind", "where a joint leaked is noted on the job's sheet, at the part")
	case terms.Retired:
		if it.OnHold != "" {
			return "", nil, desk.Conflicts("%s is on the hold of %s now", it.Name, it.OnHold)
		}
		left := 0
		for _, o := range list.Items {
			if o.Kind == it.Kind && !o.Retired && !o.Gone && o.ID != it.ID {
				left++
			}
		}
		if left == 0 && (it.Kind == terms.GaugeKit || it.Kind == terms.PumpKit) {
			return "", nil, desk.Conflicts("%s is the last %s in use, and a test needs one: add another first", it.Name, it.Kind)
		}
	}
	if text == "" {
		return "", nil, desk.Refuse("text", "type what was done, or why")
	}
	return text, nil, nil
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

// Loans writes what is out on loan, and what is borrowed, as calendar entries.
func (r *Room) Loans(ctx context.Context, w io.Writer) error {
	list, err := r.List(ctx)
	if err != nil {
		return err
	}
	return sheets.Calendar(w, Calendar(list.Items))
}
