package trail

import (
	"time"

	"idlehiss/core/circuit"
	"idlehiss/core/hunt"
	"idlehiss/core/judge"
	"idlehiss/core/passages"
	"idlehiss/core/runsheet"
	"idlehiss/core/terms"
	"idlehiss/library"
	"idlehiss/logbook"
)

// Log is what is known of a job, as far as a hunt reads it.
type Log struct {
	Circuit *circuit.Circuit
	Joints  []circuit.Part // of the rig
	Signs   map[string]bool
	Hunch   string
	Proven  bool // the rig, alone
	Escape  terms.Escape
	Looks   []logbook.Observation // those that count, in order of time
	Holds   []Held                // in order of time, the rig's own proofs left out
	Repairs []Repair              // in order of time
	Lived   []Lived               // leaks of the rig that are accepted
	Said    []Said                // by steps that are no holds
	CameOut []CameOut
	Answers map[string]circuit.Noticed // by act
	Ground  Ground
	Tried   []TriedAt      // isolation tests that stand, in order of time
	Stand   passages.Stand // how everything stands on the bench
	StandAt time.Time      // since when

	Rated []runsheet.Limit // what the pieces of the rig are good for
}

// Tried is what an isolation test showed.
type Tried struct {
	Test   string   `json:"test" maxLength:"400" doc:"id of the test"`
	Places []string `json:"places" maxItems:"12" doc:"where air came out: chambers, parts or ports, or unseen where only the needle fell; none: it held"`
	Worked bool     `json:"worked" doc:"after the valves there were worked by hand"`
	Undone bool     `json:"undone" doc:"taken back"`
}

// TriedAt is an isolation test with its moment.
type TriedAt struct {
	Tried
	At time.Time
}

// Held is a hold that was judged.
type Held struct {
	ID        string
	At        time.Time
	Step      circuit.Step
	Condition terms.Condition
	Report    *judge.Report
}

// Repair is a part that was mended, and when.
type Repair struct {
	Part string
	At   time.Time
}

// Said is a step that is no hold and was judged.
type Said struct {
	At    time.Time
	Step  circuit.Step
	Right bool
}

// Lived is a leak of the rig that is accepted: what was seen at the rig until then explains
// that hold, and neither says anything of where else it leaks.
type Lived struct {
	Hold string
	At   time.Time
}

// PlaceTitle is what a chamber, a port or a part is called; ok: there is one.
func PlaceTitle(c *circuit.Circuit, id string) (title string, ok bool) {
	if ch, ok := c.Chamber(id); ok {
		return ch.Title, true
	}
	for _, p := range c.Ports {
		if p.ID == id {
			return p.Title, true
		}
	}
	for _, p := range c.Parts {
		if p.ID == id {
			return p.Title, true
		}
	}
	return "", false
}

// Library is what a hunt needs of the library.
type Library struct {
	Methods []hunt.Method
	Repairs []circuit.Repair
}

// Open reads it.
func Open() (Library, error) {
	var l Library
	var err error
	if l.Methods, err = library.Methods(); err != nil {
		return l, err
	}
	l.Repairs, err = library.Repairs()
	return l, err
}

// Ground is what a hunt takes for granted.
type Ground struct {
	Open     []string `json:"open" doc:"covers that are off, by id"`
	Tools    []string `json:"tools" doc:"methods that not every shop has, and this one does"`
	Noisy    bool     `json:"noisy" doc:"the shop is loud"`
	WorkedOn []string `json:"worked_on" doc:"parts that were worked on last"`
}

// CameOut is a place where it was seen to come out, or was not after all.
type CameOut struct {
	Place string `json:"place" doc:"a chamber, port or part of the circuit"`
	Step  string `json:"step,omitempty"`
	Seen  bool   `json:"seen"`
}

// Answered is what was noticed of an act of the circuit.
type Answered struct {
	Act  string          `json:"act"`
	Seen circuit.Noticed `json:"seen" doc:"one of its answers; empty takes it back"`
}
