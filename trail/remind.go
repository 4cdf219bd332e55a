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
	Minutes float64 `json:"minutes" minimum:"1" maximum:"40320" doc:"until the first look"`
	Every   float64 `json:"every,omitempty" minimum:"0" maximum:"40320" doc:"minutes between looks after that, never at night; 0: one look"`
	Until   float64 `json:"until,omitempty" minimum:"0" maximum:"40320" doc:"minutes after which no more are due"`
}

// Reminder is one that still waits.
type Reminder struct {
	ID    string    `json:"id"`
	DueAt time.Time `json:"due_at"`
	Text  string    `json:"text"`
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
}

const (
	mostMinutes  = 4 * 7 * 24 * 60 // four weeks
	nightBegins  = 21              // hour of the shop's own day
	nightEnds    = 7
	remindFormat = "2 Jan 15:04"
)

// Keep is a reminder as it is kept, and in words.
func (n LookAgain) Keep(now time.Time) (kept Remind, says string, err error) {
	text := strings.TrimSpace(n.Text)
	switch {
	case text == "":
		return kept, "", desk.Refuse("text", "type what to look at, such as 'the powder at the lower seam'")
	case !(n.Minutes >= 1) || n.Minutes > mostMinutes:
		return kept, "", desk.Refuse("minutes", "a reminder comes after 1 minute to 4 weeks")
	case n.Every != 0 && (n.Every < 1 || n.Until < n.Minutes || n.Until > mostMinutes):
		return kept, "", desk.Refuse("until", "a reminder that comes again ends after its first look and within 4 weeks")
	}
	kept = Remind{Due: after(now, n.Minutes), Text: text, Every: n.Every}
	again := ""
	if n.Every > 0 {
		kept.Until = after(now, n.Until)
		kept.Due = byDay(kept.Due)
		again = fmt.Sprintf(", then every %s until %s, not at night", quantity.Duration(60*n.Every), kept.Until.Local().Format(remindFormat))
	}
	return kept, fmt.Sprintf("Look again at %s%s: %s.", kept.Due.Local().Format(remindFormat), again, strings.TrimSuffix(text, ".")), nil
}

func after(now time.Time, minutes float64) time.Time {
	return now.Add(time.Duration(minutes * float64(time.Minute))).Truncate(time.Second)
}

// byDay moves a moment of the night to the morning after it.
func byDay(t time.Time) time.Time {
	local := t.Local()
	day := time.Date(local.Year(), local.Month(), local.Day(), nightEnds, 0, 0, 0, local.Location())
	switch {
	case local.Hour() >= nightBegins:
		return day.AddDate(0, 0, 1).UTC()
	case local.Hour() < nightEnds:
		return day.UTC()
	}
	return t
}

// Looked is what becomes of a reminder after a look: it is done, or comes again.
func Looked(facts logbook.Facts, id, saw string, stop bool, now time.Time) (kept Remind, says string, err error) {
	f, ok := facts.Standing(terms.AboutReminder, id)
	if !ok || json.Unmarshal(f.Value, &kept) != nil || kept.Done {
		return kept, "", desk.Refuse("reminder", "that reminder is done, or was never set")
	}
	if saw = strings.TrimSpace(saw); saw == "" {
		saw = "nothing new"
	}
	says = fmt.Sprintf("Looked again: %s. %s.", strings.TrimSuffix(kept.Text, "."), quantity.Capital(strings.TrimSuffix(saw, ".")))
	next := byDay(after(now, kept.Every))
	if !next.After(kept.Due) { // by a clock that lags
		next = byDay(after(kept.Due, kept.Every))
	}
	if stop || kept.Every == 0 || next.After(kept.Until) {
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
			out = append(out, Reminder{x.About, k.Due, k.Text, !k.Due.After(now), k.Every > 0 && byDay(after(k.Due, k.Every)).Before(k.Until)})
		}
	}
	slices.SortFunc(out, func(a, b Reminder) int { return a.DueAt.Compare(b.DueAt) })
	return out
}
