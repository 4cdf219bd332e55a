package shop

import (
	"context"
	"encoding/json"
	"strings"
	"time"

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
	Closes   string   `json:"closes,omitempty" maxLength:"5" doc:"when the shop closes by its own clock, such as 17:00; empty: not said"`
}

// SetHead is that, as it is typed.
type SetHead struct {
	desk.Write
	Head
}

// clockFormat is a time of day as it is typed.
const clockFormat = "15:04"

// LookOffer is a time at which a look is usually wanted again.
type LookOffer struct {
	Says    string  `json:"says"`
	Minutes float64 `json:"minutes"` // from now; 0: on a day
	On      string  `json:"on"`      // day and time by the shop's clock; empty: from now
}

// beforeClosing is how long before closing time a last look is due: there is still time to bleed down.
const beforeClosing = 30 * time.Minute

// LookOffers are the usual times, by the shop's own day.
func (s *Shop) LookOffers(ctx context.Context) ([]LookOffer, error) {
	out := []LookOffer{{Says: "in 40 min, when it has cooled", Minutes: 40}, {Says: "in an hour", Minutes: 60}, {Says: "in a day", Minutes: 24 * 60}}
	h, err := s.Head(ctx)
	if err != nil || h.Closes == "" {
		return out, err
	}
	at, err := time.Parse(clockFormat, h.Closes)
	if err != nil {
		return out, err
	}
	now := s.desk.Clock.Now().Local()
	for days := range 2 {
		last := time.Date(now.Year(), now.Month(), now.Day()+days, at.Hour(), at.Minute(), 0, 0, time.Local).Add(-beforeClosing)
		if last.After(now) {
			return append(out, LookOffer{Says: "before closing, " + last.Format("Mon 15:04"), On: last.Format("2006-01-02T15:04")}), nil
		}
	}
	return out, nil
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
	if h.Closes = tidy(in.Closes); h.Closes != "" {
		if _, err := time.Parse(clockFormat, h.Closes); err != nil {
			return desk.Receipt{}, desk.Refuse("closes", "%q is no time of day: type it as 17:00", h.Closes)
		}
	}
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
