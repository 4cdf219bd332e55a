package steps

import (
	"strings"

	"idlehiss/core/circuit"
)

// ClockPress starts or clears the clock of a step.
type ClockPress string

// The presses of a step's clock.
const (
	NoPress    ClockPress = ""
	StartClock ClockPress = "start"
	ClearClock ClockPress = "clear"
)

// Values lists every press.
func (ClockPress) Values() []string {
	return []string{string(NoPress), string(StartClock), string(ClearClock)}
}

// Whole puts empty lists in place of none.
func (e Entry) Whole() Entry {
	if e.Fields == nil {
		e.Fields = map[string]string{}
	}
	e.Rows = append([]EntryRow{}, e.Rows...)
	for i := range e.Rows {
		if e.Rows[i].Cells == nil {
			e.Rows[i].Cells = map[string]string{}
		}
	}
	return e
}

// How the book lists what several steps say together, in place of a call.
const (
	InBookRight    = "right"
	InBookNotRight = "not right"
)

// InBook is a verdict as the book lists it; empty while it is open.
func (v Verdict) InBook() string {
	return map[Verdict]string{Good: InBookRight, Bad: InBookNotRight}[v]
}

// Titles are the titles of some steps, for people.
func Titles(all []circuit.Step) string {
	var out []string
	for _, s := range all {
		out = append(out, s.Title)
	}
	return strings.Join(out, ", ")
}
