package kit

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"slices"
	"strings"
	"time"

	"idlehiss/core/terms"
	"idlehiss/desk"
	"idlehiss/logbook"
)

// NewCase is a case of kit that is borrowed, as it is counted in at the counter.
type NewCase struct {
	desk.Write
	Name    string   `json:"name" maxLength:"60"`
	From    string   `json:"from" maxLength:"80" doc:"who lends it"`
	Due     string   `json:"due" format:"date" doc:"day on which it goes back"`
	Deposit string   `json:"deposit,omitempty" maxLength:"40" doc:"what was left for it"`
	Pieces  []string `json:"pieces" maxItems:"60" doc:"what is in it, by name"`
	Missing []string `json:"missing,omitempty" maxItems:"60" doc:"which of them were not in it when it came"`
}

// mostPiece is as long as a piece's name is.
const mostPiece = 60

// Borrow takes a case into the kit, counted in.
func (r *Room) Borrow(ctx context.Context, in NewCase) (desk.Receipt, error) {
	c := Case{Name: strings.TrimSpace(in.Name), Pieces: []string{}}
	if c.Name == "" {
		return desk.Receipt{}, desk.Refuse("name", "a case needs a name to be known by, such as 'blue cooling kit'")
	}
	for i, p := range in.Pieces {
		p = strings.Join(strings.Fields(p), " ")
		switch {
		case p == "":
			continue
		case len(p) > mostPiece:
			return desk.Receipt{}, desk.Refuse(fmt.Sprintf("pieces[%d]", i), "%q is too long: %d letters at most", p, mostPiece)
		case slices.Contains(c.Pieces, p):
			return desk.Receipt{}, desk.Refuse(fmt.Sprintf("pieces[%d]", i), "%q stands twice: two of a kind need two names, such as '%s, second'", p, p)
		}
		c.Pieces = append(c.Pieces, p)
	}
	if len(c.Pieces) == 0 {
		return desk.Receipt{}, desk.Refuse("pieces", "type what is in it, a piece a line: it is counted out by the same names")
	}
	says, b, err := r.borrowed(in.From, in.Due, in.Deposit)
	if err != nil {
		return desk.Receipt{}, err
	}
	if b.Missing, err = among(c.Pieces, in.Missing); err != nil {
		return desk.Receipt{}, err
	}
	says += " " + counted("counted in", len(c.Pieces), b.Missing, "not in it then")
	receipt, ran, err := desk.Put(ctx, r.desk, in.Write, in, func(tx *logbook.Tx, st logbook.Stamp) (desk.Receipt, error) {
		return desk.Received(in.Write, st.ID, "kit"), errors.Join(add(tx, st, terms.CaseKit, c), note(tx, st, st.ID, terms.Borrowed, says, b))
	})
	if ran && err == nil {
		r.desk.Tell(desk.BenchNews, desk.Changed{ID: receipt.Of, Changed: []string{"kit", "notes"}})
	}
	return receipt, err
}

// borrowed is from whom something is, until when and for what.
func (r *Room) borrowed(from, due, deposit string) (says string, b borrowing, err error) {
	b.From, b.Deposit = strings.TrimSpace(from), strings.TrimSpace(deposit)
	if b.From == "" {
		return "", b, desk.Refuse("from", "type who lends it")
	}
	if b.Due, err = r.day(due); err != nil {
		return "", b, err
	}
	says = fmt.Sprintf("Borrowed from %s until %s", b.From, dayOf(b.Due))
	if b.Deposit != "" {
		says += ", deposit " + b.Deposit
	}
	return says + ".", b, nil
}

// day reads a day on which something is due back.
func (r *Room) day(text string) (time.Time, error) {
	due, err := time.Parse(time.DateOnly, text)
	if err != nil {
		return due, desk.Refuse("due", "type the day on which it is due back, such as %s", r.desk.Clock.Now().Local().AddDate(0, 0, 7).Format(time.DateOnly))
	}
	return due, nil
}

// among are the pieces that were named, each of which is one of all.
func among(all, named []string) ([]string, error) {
	for i, m := range named {
		if !slices.Contains(all, m) {
			return nil, desk.Refuse(fmt.Sprintf("missing[%d]", i), "%q is not one of its pieces, which are %s", m, strings.Join(all, ", "))
		}
	}
	out := slices.DeleteFunc(slices.Clone(all), func(p string) bool { return !slices.Contains(named, p) })
	return out, nil
}

// counted says how many pieces there are of a case.
func counted(what string, of int, missing []string, not string) string {
	if len(missing) == 0 {
		return fmt.Sprintf("All %d pieces %s.", of, what)
	}
	return fmt.Sprintf("%d of %d pieces %s; %s: %s.", of-len(missing), of, what, not, strings.Join(missing, ", "))
}

// note takes a note down beside another write.
func note(tx *logbook.Tx, st logbook.Stamp, kitID string, kind terms.NoteKind, says string, value any) error {
	raw, err := json.Marshal(value)
	if err != nil {
		return err
	}
	st.ID += "-" + strings.ReplaceAll(string(kind), " ", "-")
	return tx.AddKitNote(logbook.KitNote{Stamp: st, KitID: kitID, Kind: kind, Sentence: says, Value: raw})
}

// inCase notes that a piece came in a borrowed case, if it did.
func (r *Room) inCase(ctx context.Context, caseID string) (func(tx *logbook.Tx, st logbook.Stamp) error, error) {
	if caseID == "" {
		return func(*logbook.Tx, logbook.Stamp) error { return nil }, nil
	}
	items, err := r.items(ctx)
	if err != nil {
		return nil, err
	}
	i := slices.IndexFunc(items, func(it ItemView) bool { return it.ID == caseID && it.Kind == terms.CaseKit && !it.Gone })
	if i < 0 {
		return nil, desk.Refuse("case", "there is no case %q here", caseID)
	}
	return func(tx *logbook.Tx, st logbook.Stamp) error {
		return note(tx, st, st.ID, terms.Borrowed, fmt.Sprintf("Came in the %s.", items[i].Name), borrowing{Case: caseID})
	}, nil
}
