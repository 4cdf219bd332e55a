package sheets

import (
	"io"
	"time"

	ics "github.com/arran4/golang-ical"
)

// Due is something that is to be done by a day: a loan that goes back, a retest.
type Due struct {
	ID      string // stays the same, so that a calendar that reads it again updates it
	Summary string
	Details string
	On      time.Time
	Timed   bool // at that moment; else on that day
	Changed time.Time
}

// looking is how long a look takes in a calendar.
const looking = 15 * time.Minute

// Calendar writes what is due as iCalendar: a whole-day entry with a reminder the day before, or an entry at its moment with
// one then.
func Calendar(w io.Writer, due []Due) error {
	c := ics.NewCalendar()
	c.SetProductId("-//Idle Hiss//EN")
	c.SetMethod(ics.MethodPublish)
	for _, d := range due {
		e := c.AddEvent(d.ID + "@idlehiss")
		e.SetDtStampTime(d.Changed)
		before := "-P1D"
		if d.Timed {
			before = "PT0S"
			e.SetStartAt(d.On)
			e.SetEndAt(d.On.Add(looking))
		} else {
			e.SetAllDayStartAt(d.On)
		}
		e.SetSummary(d.Summary)
		if d.Details != "" {
			e.SetDescription(d.Details)
		}
		a := e.AddAlarm()
		a.SetAction(ics.ActionDisplay)
		a.SetDescription(d.Summary)
		a.SetTrigger(before)
	}
	return c.SerializeTo(w)
}
