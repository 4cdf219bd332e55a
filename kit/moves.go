package kit

import (
	"encoding/json"
	"slices"
	"time"
)

// Case is what the pieces of a case are called, in their order.
type Case struct {
	Name   string   `json:"name"`
	Pieces []string `json:"pieces"`
}

// loan is what a note of a loan keeps.
type loan struct {
	To  string    `json:"to"`
	Due time.Time `json:"due"`
}

// borrowing is what a note of something borrowed keeps. A piece that came in a case has the case and no more.
type borrowing struct {
	From    string    `json:"from,omitempty"`
	Due     time.Time `json:"due,omitzero"`
	Deposit string    `json:"deposit,omitempty"`
	Missing []string  `json:"missing,omitempty"` // when it came
	Case    string    `json:"case,omitempty"`    // by id
}

// given is what a note of something given back keeps.
type given struct {
	Missing []string `json:"missing"`
}

// leaksOfASuspect are how many jobs a joint leaks in before it is a suspect by itself.
const leaksOfASuspect = 3

// leak is what a note keeps of a joint that leaked in a job, or did not after all.
type leak struct {
	Job string `json:"job"`
	Not bool   `json:"not,omitempty"`
}

// leakedIn adds a note to the jobs in which a joint leaked, or takes one out.
func leakedIn(jobs []string, note json.RawMessage) []string {
	var l leak
	if json.Unmarshal(note, &l) != nil {
		return jobs // of a later version
	}
	jobs = slices.DeleteFunc(slices.Clone(jobs), func(j string) bool { return j == l.Job })
	if l.Not {
		return jobs
	}
	return append(jobs, l.Job)
}

// dayOf writes a day, which is kept as its midnight in UTC wherever the shop is.
func dayOf(t time.Time) string { return t.UTC().Format("2 January 2006") }

// past tells whether a day is over by the shop's clock.
func past(day, now time.Time) bool {
	return now.Local().Format(time.DateOnly) > day.UTC().Format(time.DateOnly)
}
