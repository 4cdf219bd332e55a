// Package trace holds what a gauge showed over time: readings, crossings of
// printed marks, events, the phases they fall into, and the open CSV format in
// which traces are read and written.
package trace

import (
	"cmp"
	"slices"
	"sort"
	"strings"
	"time"

	"idlehiss/core/quantity"
)

// How says in which way a reading was taken.
type How string

// Ways of taking a reading.
const (
	Read   How = "read"   // the figure was read at that moment
	Mark   How = "mark"   // the needle crossed a printed mark (or half-way) at that moment
	Camera How = "camera" // a camera before the face saw the needle there
)

// Values lists them.
func (How) Values() []string { return []string{string(Read), string(Mark), string(Camera)} }

// Reading is one value of one gauge.
type Reading struct {
	AtS     float64 // seconds on the trace's own axis
	GaugePa float64
	How     How
	SDPa    float64 // standard error where the reading has one of its own; 0: that of its gauge
}

// Event kinds with a meaning of their own; any other text is a remark.
const (
	Stroke    = "stroke"
	TopUp     = "top-up"
	Bleed     = "bleed" // a little let out, after an overshoot
	Isolate   = "isolate"
	Moved     = "moved"
	Spray     = "spray"
	EngineOn  = "engine on"
	EngineOff = "engine off"
	Release   = "release"
	FirstHiss = "first hiss"
	Tap       = "tap" // the gauge was tapped: its needle is free of its train's friction

	ActPrefix = "act:"     // and what was done to one part at that moment, such as act:clamp
	ActOver   = "act over" // it was undone
)

// IsAct tells an event that may change the slope from here on.
func IsAct(kind string) bool { return strings.HasPrefix(kind, ActPrefix) }

// Moves reports whether an event changes the pressure by hand.
func Moves(kind string) bool {
	switch kind {
	case Stroke, Bleed, TopUp, Isolate, Release:
		return true
	}
	return false
}

// Event is something that happened, at its own moment.
type Event struct {
	AtS  float64
	Kind string
}

// Sample is a side value over time: a temperature (°C) or an ambient (Pa).
type Sample struct{ AtS, Value float64 }

// InTime puts samples in order of time.
func InTime(all []Sample) {
	slices.SortStableFunc(all, func(a, b Sample) int { return cmp.Compare(a.AtS, b.AtS) })
}

// Trace is what one file or one hold holds. Readings, events and samples each
// run in order of time.
type Trace struct {
	Unit        quantity.Unit // the first gauge's
	DigitPa     float64       // size of the last digit written, Pa
	Readings    []Reading
	Second      []Reading // of a second gauge, where there was one
	Events      []Event
	Temperature []Sample
	Ambient     []Sample
	Settings    string    // flags from a "# judge:" line
	Start       time.Time // the moment of 0 s, where the file says it; else zero
	Unused      []string  // columns of the file that are not used, as they are titled
}

// PhaseKind is a part of a hold.
type PhaseKind string

// The parts of a hold, in their order.
const (
	Pump PhaseKind = "pump"
	Hold PhaseKind = "hold"
	Done PhaseKind = "release"
)

// Phase is a stretch of a trace, seconds on its own axis.
type Phase struct {
	Kind        PhaseKind
	FromS, ToS  float64
	first, last int // readings [first, last)
}

// Phases cuts the trace into pumping up, holding and letting go. The hold runs
// from holdFrom where that is given, else from the last shutting of the supply
// (isolate, top-up), else from the last stroke, else from the first reading.
func (t *Trace) Phases(holdFrom *float64) []Phase {
	n := len(t.Readings)
	if n == 0 {
		return nil
	}
	start, end := t.Readings[0].AtS, t.Readings[n-1].AtS
	from, release := start, end
	released := false
	for _, e := range t.Events {
		switch e.Kind {
		case Isolate, TopUp, Stroke, Bleed:
			if !released {
				from = e.AtS
			}
		case Release:
			if !released {
				released, release = true, e.AtS
			}
		}
	}
	if holdFrom != nil {
		from = *holdFrom
	}
	// A hair's breadth, since a time typed in tenths stands for its neighbours.
	at := func(s float64) int {
		return sort.Search(n, func(i int) bool { return t.Readings[i].AtS >= s-1e-6 })
	}
	first, last := at(from), n
	if released {
		last = at(release)
	}
	if last < first {
		last = first
	}
	var out []Phase
	if first > 0 {
		out = append(out, Phase{Pump, start, min(from, end), 0, first})
	}
	if last > first {
		out = append(out, Phase{Hold, from, t.Readings[last-1].AtS, first, last})
	}
	if last < n {
		out = append(out, Phase{Done, release, end, last, n})
	}
	return out
}

// HoldFrom is where the hold of a trace begins, s. The trace is not empty.
func (t *Trace) HoldFrom() float64 {
	for _, p := range t.Phases(nil) {
		if p.Kind == Hold {
			return p.FromS
		}
	}
	return t.Readings[0].AtS
}

// Span is the first and the last moment of a trace, s. The trace is not empty.
func (t *Trace) Span() (first, last float64) {
	first, last = t.Readings[0].AtS, t.Readings[len(t.Readings)-1].AtS
	if n := len(t.Events); n > 0 {
		first, last = min(first, t.Events[0].AtS), max(last, t.Events[n-1].AtS)
	}
	return first, last
}

// In gives the readings of a phase.
func (t *Trace) In(p Phase) []Reading { return t.Readings[p.first:p.last] }

// Thin keeps at most about n points that draw the same line: of every stretch
// the first, the lowest, the highest and the last.
func Thin(r []Reading, n int) []Reading {
	if len(r) <= n || n < 4 {
		return r
	}
	out := make([]Reading, 0, n)
	for _, i := range thinned(len(r), n, func(i int) float64 { return r[i].GaugePa }) {
		out = append(out, r[i])
	}
	return out
}

// thinned are the places that a list of so many keeps of its pressures: the first, the last and both extremes of each of
// n/4 stretches. A list that is short enough keeps all.
func thinned(all, n int, pa func(int) float64) []int {
	stretches := n / 4
	if all <= n {
		stretches = all
	}
	out := make([]int, 0, n)
	for b := range stretches {
		first, last := b*all/stretches, (b+1)*all/stretches-1
		low, high := first, first
		for i := first; i <= last; i++ {
			if pa(i) < pa(low) {
				low = i
			}
			if pa(i) > pa(high) {
				high = i
			}
		}
		for i, k := range []int{first, min(low, high), max(low, high), last} {
			if i == 0 || k != out[len(out)-1] {
				out = append(out, k)
			}
		}
	}
	return out
}
