package record

import (
	"context"
	"crypto/rand"
	"crypto/subtle"
	"errors"
	"io"
	"strings"

	"idlehiss/core/terms"
	"idlehiss/desk"
	"idlehiss/kit"
	"idlehiss/logbook"
	"idlehiss/sheets"
	"idlehiss/trail"
)

// feedKey is the setting that keeps the secret of the calendar's link.
const feedKey = "calendar key"

// FeedLink is where calendars may read what is due; whoever has it may, without a PIN.
type FeedLink struct {
	Path string `json:"path"`
}

// NewFeed makes a new link; the one before it leads nowhere any more.
func (r *Room) NewFeed(ctx context.Context, in desk.Write) (FeedLink, error) {
	link, _, err := desk.Put(ctx, r.desk, in, in, func(tx *logbook.Tx, _ logbook.Stamp) (FeedLink, error) {
		key := strings.ToLower(rand.Text())
		return FeedLink{"/calendar/" + key + ".ics"}, tx.SetSetting(feedKey, key)
	})
	return link, err
}

// mostFed is as many jobs as the calendar has looks of.
const mostFed = 200

var errNoFeed = errors.New("there is no calendar here: the link was changed, or never made")

// Feed writes what is due as a calendar, for whoever has the link's secret.
func (r *Room) Feed(ctx context.Context, key string, w io.Writer) error {
	want, err := r.desk.Book.Setting(ctx, feedKey)
	if err != nil {
		return err
	}
	if want == "" || subtle.ConstantTimeCompare([]byte(key), []byte(want)) == 0 {
		return desk.NotThere(errNoFeed)
	}
	list, err := r.kit.List(ctx)
	if err != nil {
		return err
	}
	due := kit.Calendar(list.Items)
	open, err := r.desk.Book.Due(ctx, mostFed)
	if err != nil {
		return err
	}
	of, ids := map[string]logbook.Job{}, []string{}
	for _, j := range open {
		of[j.ID], ids = j, append(ids, j.ID)
	}
	facts, err := r.desk.Book.FactsOn(ctx, terms.AboutReminder, ids...)
	if err != nil {
		return err
	}
	for _, f := range facts {
		for _, x := range trail.Reminders(logbook.Facts{f}, r.desk.Clock.Now()) {
			summary := of[f.JobID].Machine + ": " + x.Text
			if x.For != "" {
				summary = x.For + ": " + summary
			}
			due = append(due, sheets.Due{ID: "look-" + x.ID, Summary: summary, Details: of[f.JobID].Complaint, On: x.DueAt, Timed: true, Changed: f.At})
		}
	}
	return sheets.Calendar(w, due)
}
