package shop

import (
	"context"
	"encoding/json"
	"strings"

	"idlehiss/core/quantity"
	"idlehiss/core/runsheet"
	"idlehiss/desk"
	"idlehiss/logbook"
)

// Head is what the shop puts on its papers.
type Head struct {
	Name     string   `json:"name" maxLength:"60"`
	Lines    []string `json:"lines" maxItems:"4" doc:"address, telephone: a line each"`
	Standing string   `json:"standing" maxLength:"300" doc:"at the foot, such as a licence and its number"`
}

// SetHead is that, as it is typed.
type SetHead struct {
	desk.Write
	Head
}

// headSetting is where the book keeps it.
const headSetting = "paper head"

// Head is what stands on the papers; empty where nobody typed it.
func (s *Shop) Head(ctx context.Context) (Head, error) {
	h := Head{Lines: []string{}}
	raw, err := s.desk.Book.Setting(ctx, headSetting)
	if err == nil && raw != "" {
		err = json.Unmarshal([]byte(raw), &h)
	}
	return h, err
}

// SetHead keeps it.
func (s *Shop) SetHead(ctx context.Context, in SetHead) (desk.Receipt, error) {
	tidy := func(text string) string { return strings.Join(strings.Fields(text), " ") }
	h := Head{Name: tidy(in.Name), Standing: tidy(in.Standing), Lines: []string{}}
	const longest = 80
	for _, l := range in.Lines {
		if l = tidy(l); len([]rune(l)) > longest {
			return desk.Receipt{}, desk.Refuse("lines", "the line %q is too long for the paper: at most %d letters", l, longest)
		} else if l != "" {
			h.Lines = append(h.Lines, l)
		}
	}
	raw, err := json.Marshal(h)
	if err != nil {
		return desk.Receipt{}, err
	}
	receipt, _, err := desk.Put(ctx, s.desk, in.Write, in, func(tx *logbook.Tx, _ logbook.Stamp) (desk.Receipt, error) {
		return desk.Received(in.Write, headSetting, "head"), tx.SetSetting(headSetting, string(raw))
	})
	return receipt, err
}

// shownIn is a pressure in a unit that no gauge of the hold has, to a tenth of a per cent or so.
func shownIn(pa float64, u quantity.Unit) runsheet.Shown {
	const digits = 3
	x := runsheet.Show(pa, pa, u)
	x.Text = quantity.Significant(u.Of(pa), digits)
	return x
}
