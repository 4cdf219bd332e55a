package trail

import (
	"encoding/json"
	"fmt"
	"slices"
	"strings"
	"time"

	"idlehiss/core/quantity"
	"idlehiss/core/terms"
	"idlehiss/desk"
	"idlehiss/logbook"
)

// LookAgain is something to look at again.
type LookAgain struct {
	Text    string  `json:"text" maxLength:"200" doc:"what to look at"`
	Minutes float64 `json:"minutes,omitempty" minimum:"0" maximum:"40320" doc:"until the first look; or on"`
	On      string  `json:"on,omitempty" maxLength:"16" doc:"day and time of the first look by the shop's clock, such as 2026-12-03T07:30"`
	Every   float64 `json:"every,omitempty" minimum:"0" maximum:"40320" doc:"minutes between looks after that; 0: one look"`
	Until   float64 `json:"until,omitempty" minimum:"0" maximum:"40320" doc:"minutes after the first look after which no more are due"`
	From    int     `json:"from,omitempty" minimum:"0" maximum:"23" doc:"hour of the day before which no look is due again; absent: 7"`
	To      int     `json:"to,omitempty" minimum:"0" maximum:"24" doc:"hour after which none is; absent: 21"`
	For     string  `json:"for,omitempty" maxLength:"60" doc:"first name of who looks; absent: anyone"`
}

// Look is what became of a look that was due.
type Look struct {
	Reminder string  `json:"reminder" doc:"its id"`
	Saw      string  `json:"saw,omitempty" maxLength:"300" doc:"what there was to see"`
	Stop     bool    `json:"stop,omitempty" doc:"no more of it, though more looks are due"`
	Later    float64 `json:"later,omitempty" minimum:"0" maximum:"1440" doc:"nobody looked: due again in so many minutes"`
}

// Reminder is one that still waits.
type Reminder struct {
	ID    string    `json:"id"`
	DueAt time.Time `json:"due_at"`
	Says  string    `json:"due_says"` // the same by the shop's clock, wherever it is read
	Text  string    `json:"text"`
	For   string    `json:"for"` // empty: anyone
	Due   bool      `json:"due"`
	More  bool      `json:"more"` // it comes again after this look
}

// Remind is what the fact of a reminder keeps.
type Remind struct {
	Due   time.Time `json:"due"`
	Text  string    `json:"text"`
	Done  bool      `json:"done"`
	Every float64   `json:"every,omitempty"` // minutes
	Until time.Time `json:"until,omitzero"`
	From  int       `json:"from,omitempty"` // hours of the shop's day; 0: the usual ones
	To    int       `json:"to,omitempty"`
	For   string    `json:"for,omitempty"`
}

const (
	mostMinutes  = 4 * 7 * 24 * 60 // four weeks
	nightBegins  = 21              // hour of the shop's own day
	nightEnds    = 7
	remindFormat = "2 Jan 15:04"
	onFormat     = "2006-01-02T15:04"
	mostAhead    = 2 * 365 * 24 * time.Hour // of a look on a day
)

// Keep is a reminder as it is kept, and in words.
func (n LookAgain) Keep(now time.Time) (kept Remind, says string, err error) {
	kept = Remind{Text: strings.TrimSpace(n.Text), Every: n.Every, From: n.From, To: n.To, For: strings.TrimSpace(n.For)}
	kept.Due = after(now, n.Minutes)
	if n.On != "" {
		if kept.Due, err = time.ParseInLocation(onFormat, n.On, time.Local); err != nil {
			return kept, "", desk.Refuse("on", "%q is no day and time: type it as 2026-12-03T07:30", n.On)
		}
		kept.Due = kept.Due.UTC()
	}
	from, to := kept.hours()
	switch {
	case kept.Text == "":
		return kept, "", desk.Refuse("text", "type what to look at, such as 'the powder at the lower seam'")
	case n.On != "" && (!kept.Due.After(now) || kept.Due.Sub(now) > mostAhead):
		return kept, "", desk.Refuse("on", "%s is past, or more than two years ahead", kept.Due.Local().Format("2 January 2006, 15:04"))
	case n.On == "" && (!(n.Minutes >= 1) || n.Minutes > mostMinutes):
		return kept, "", desk.Refuse("minutes", "a reminder comes after 1 minute to 4 weeks, or on a day")
	case n.Every != 0 && (n.Every < 1 || n.On == "" && n.Until < n.Minutes || n.Until <= 0 || n.Until > mostMinutes):
		return kept, "", desk.Refuse("until", "a reminder that comes again ends after its first look and within 4 weeks")
	case from >= to:
		return kept, "", desk.Refuse("to", "looks end at %d o'clock, before they begin at %d", to, from)
	}
	again := ""
	if n.Every > 0 {
		if kept.Until = after(now, n.Until); n.On != "" {
			kept.Until = after(kept.Due, n.Until)
		}
		kept.Due = kept.byDay(kept.Due)
		again = fmt.Sprintf(", then every %s until %s, from %d to %d o'clock", quantity.Duration(60*n.Every), kept.Until.Local().Format(remindFormat), from, to)
	}
	who := ""
	if kept.For != "" {
		who = kept.For + ": "
	}
	return kept, fmt.Sprintf("%sLook again at %s%s: %s.", who, kept.Due.Local().Format(remindFormat), again, strings.TrimSuffix(kept.Text, ".")), nil
}

// hours are those of the day between which looks are due again.
func (r Remind) hours() (from, to int) {
	if from, to = r.From, r.To; from == 0 && to == 0 {
		return nightEnds, nightBegins
	}
	if to == 0 {
		to = 24
	}
	return from, to
}

func after(now time.Time, minutes float64) time.Time {
	return now.Add(time.Duration(minutes * float64(time.Minute))).Truncate(time.Second)
}

// byDay moves a moment outside the hours of looking to the next moment within them. Days are the shop's own, whether its clocks
// change in between or not.
func (r Remind) byDay(t time.Time) time.Time {
	from, to := r.hours()
	local := t.Local()
	begins := func(days int) time.Time {
		return time.Date(local.Year(), local.Month(), local.Day()+days, from, 0, 0, 0, time.Local).UTC()
	}
	switch {
	case local.Hour() >= to:
		return begins(1)
	case local.Hour() < from:
		return begins(0)
	}
	return t
}

// Looked is what becomes of a reminder after a look: it is done, comes again, or is put off.
func Looked(facts logbook.Facts, in Look, now time.Time) (kept Remind, says string, err error) {
	f, ok := facts.Standing(terms.AboutReminder, in.Reminder)
	if !ok || json.Unmarshal(f.Value, &kept) != nil || kept.Done {
		return kept, "", desk.Refuse("reminder", "that reminder is done, or was never set")
	}
	what := strings.TrimSuffix(kept.Text, ".")
	if in.Later > 0 {
		kept.Due = after(now, in.Later)
		return kept, fmt.Sprintf("Put off to %s: %s.", kept.Due.Local().Format(remindFormat), what), nil
	}
	saw := strings.TrimSpace(in.Saw)
	if saw == "" {
		saw = "nothing new"
	}
	says = fmt.Sprintf("Looked again: %s. %s.", what, quantity.Capital(strings.TrimSuffix(saw, ".")))
	next := kept.byDay(after(now, kept.Every))
	if !next.After(kept.Due) { // by a clock that lags
		next = kept.byDay(after(kept.Due, kept.Every))
	}
	if in.Stop || kept.Every == 0 || next.After(kept.Until) {
		return Remind{Text: kept.Text, Done: true}, says, nil
	}
	kept.Due = next
	return kept, says, nil
}

// Reminders are those that still wait, soonest first.
func Reminders(facts logbook.Facts, now time.Time) []Reminder {
	out := []Reminder{}
	for _, x := range facts.On(terms.AboutReminder) {
		var k Remind
		if err := json.Unmarshal(x.Value, &k); err == nil && !k.Done {
			out = append(out, Reminder{x.About, k.Due, k.Due.Local().Format(remindFormat), k.Text, k.For, !k.Due.After(now), k.Every > 0 && k.byDay(after(k.Due, k.Every)).Before(k.Until)})
		}
	}
	slices.SortFunc(out, func(a, b Reminder) int { return a.DueAt.Compare(b.DueAt) })
	return out
}
