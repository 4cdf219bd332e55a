package shop

import (
	"context"
	"encoding/json"
	"fmt"
	"sort"
	"strings"
	"time"

	"idlehiss/logbook"
)

// NewReminder is something to look at again, in so many minutes.
type NewReminder struct {
	Write
	Text    string  `json:"text" maxLength:"200" doc:"what to look at"`
	Minutes float64 `json:"minutes" minimum:"1" maximum:"40320"`
}

// mostMinutes is four weeks.
const mostMinutes = 4 * 7 * 24 * 60

// RemindedOf ends a reminder.
type RemindedOf struct {
	Write
	Reminder string `json:"reminder" doc:"its id"`
	Saw      string `json:"saw,omitempty" maxLength:"300" doc:"what there was to see"`
}

// Reminder is one that still waits.
type Reminder struct {
	ID    string    `json:"id"`
	DueAt time.Time `json:"due_at"`
	Text  string    `json:"text"`
	Due   bool      `json:"due"`
}

// kept is what the fact of a reminder keeps.
type kept struct {
	Due  time.Time `json:"due"`
	Text string    `json:"text"`
	Done bool      `json:"done"`
}

// Remind takes a reminder down.
func (s *Shop) Remind(ctx context.Context, jobID string, in NewReminder) (JobView, error) {
	if in.Text = strings.TrimSpace(in.Text); in.Text == "" {
		return JobView{}, refuse("text", "say what to look at, such as 'the powder at the lower seam'")
	}
	if !(in.Minutes >= 1) || in.Minutes > mostMinutes {
		return JobView{}, refuse("minutes", "a reminder comes after 1 minute to 4 weeks")
	}
	return change(ctx, s, jobID, in.Write, in, func(tx *logbook.Tx, st logbook.Stamp, j logbook.Job, sn snapshot) error {
		due := st.At.Add(time.Duration(in.Minutes * float64(time.Minute))).Truncate(time.Second)
		return fact(tx, st, "remind-"+st.ID, jobID, "remind/"+st.ID, "hunt", "typed", fmt.Sprintf("To look at again at %s: %s.", due.Local().Format("2 Jan 15:04"), in.Text), kept{Due: due, Text: in.Text})
	})
}

// Reminded ends a reminder with what there was to see.
func (s *Shop) Reminded(ctx context.Context, jobID string, in RemindedOf) (JobView, error) {
	facts, err := s.book.Facts(ctx, jobID)
	if err != nil {
		return JobView{}, err
	}
	for _, r := range reminders(facts, s.clock.Now()) {
		if r.ID != in.Reminder {
			continue
		}
		return change(ctx, s, jobID, in.Write, in, func(tx *logbook.Tx, st logbook.Stamp, j logbook.Job, sn snapshot) error {
			saw := strings.TrimSpace(in.Saw)
			if saw == "" {
				saw = "nothing new"
			}
			return fact(tx, st, "reminded-"+st.ID, jobID, "remind/"+r.ID, "hunt", "eyes", fmt.Sprintf("Looked at again: %s. %s.", r.Text, title(saw)), kept{Text: r.Text, Done: true})
		})
	}
	return JobView{}, refuse("reminder", "that reminder is done, or was never set")
}

// reminders are those of a job that still wait, soonest first.
func reminders(facts []logbook.Fact, now time.Time) []Reminder {
	out := []Reminder{}
	for _, f := range facts {
		id, ok := strings.CutPrefix(f.Subject, "remind/")
		if !ok || f.SupersededBy != "" {
			continue
		}
		var k kept
		if err := json.Unmarshal(f.Value, &k); err == nil && !k.Done {
			out = append(out, Reminder{id, k.Due, k.Text, !k.Due.After(now)})
		}
	}
	sort.Slice(out, func(i, j int) bool { return out[i].DueAt.Before(out[j].DueAt) })
	return out
}
