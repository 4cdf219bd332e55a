package jobs

import (
	"time"

	"idlehiss/core/circuit"
	"idlehiss/core/judge"
	"idlehiss/core/steps"
	"idlehiss/core/terms"
	"idlehiss/holds"
	"idlehiss/trail"
)

// StageView is a stage of a job with its ring.
type StageView struct {
	ID       terms.Stage    `json:"id"`
	Title    string         `json:"title"`
	Text     string         `json:"text"`
	Step     string         `json:"step"` // of the circuit; empty where none is done here
	Kind     circuit.Kind   `json:"kind"`
	Key      string         `json:"key"`
	Cautions []circuit.Item `json:"cautions"`
	Ticks    []TickView     `json:"ticks"`
	Done     bool           `json:"done"`
	Ring     terms.Ring     `json:"ring"`
	Note     string         `json:"note"` // one line when folded
}

// TickView is an item with whether it is ticked.
type TickView struct {
	ID     string `json:"id"`
	Text   string `json:"text"`
	Must   bool   `json:"must"`
	Count  bool   `json:"count"`
	Ticked bool   `json:"ticked"`
}

// Beside is a job that belongs to another's complaint.
type Beside struct {
	ID      string `json:"id"`
	Circuit string `json:"circuit"`
	Call    string `json:"call"` // as the book has it; empty while it is open
}

// FactView is a sentence we know, and where from.
type FactView struct {
	ID         string        `json:"id"`
	At         time.Time     `json:"at"`
	By         string        `json:"by"`
	Subject    terms.Subject `json:"subject"`
	About      string        `json:"about"`
	Stage      terms.Stage   `json:"stage"`
	Sentence   string        `json:"sentence"`
	Source     terms.Source  `json:"source"`
	Superseded bool          `json:"superseded"`
	Against    string        `json:"against"` // the earlier sentence it contradicts
}

// JobView is a whole sheet. Its holds are summaries: a trace is asked for by itself.
type JobView struct {
	ID          string              `json:"id"`
	At          time.Time           `json:"at"`
	By          string              `json:"by"`
	Machine     string              `json:"machine"`
	Complaint   string              `json:"complaint"`
	Parties     trail.Parties       `json:"parties"` // whose it is
	Hands       string              `json:"hands"`   // whose it is to do
	State       terms.JobState      `json:"state"`
	EndedAt     *time.Time          `json:"ended_at"`
	Found       string              `json:"found"` // what it was, as the book has it
	Circuit     string              `json:"circuit"`
	CircuitID   string              `json:"circuit_id"`
	Simulated   bool                `json:"simulated"`
	Ring        terms.Ring          `json:"ring"`
	Stages      []StageView         `json:"stages"`
	Current     terms.Stage         `json:"current"`      // the stage that is next
	First       string              `json:"first"`        // the step whose plan is the job's own
	Holding     []judge.School      `json:"hold_schools"` // of the job
	Steps       []StepView          `json:"steps"`
	Call        steps.Combined      `json:"call"`    // of all the steps
	Further     []circuit.Further   `json:"further"` // what to do next, where all is right and the complaint stands
	Beside      []Beside            `json:"beside"`  // the jobs begun out of this one, or the one it was begun out of
	Things      []string            `json:"things"`
	Matters     []MatterView        `json:"matters"` // on which schools differ
	Mend        MendView            `json:"mend"`
	Reminders   []trail.Reminder    `json:"reminders"`
	Rig         RigView             `json:"rig"`
	Marked      bool                `json:"marked"`                   // a printed figure limits it
	MarkOn      string              `json:"mark_on"`                  // what carries that figure
	MarkLabel   string              `json:"mark_label"`               // of the field in which it is typed
	Warms       bool                `json:"warms"`                    // it is filled with coolant, so that warmth is asked
	Escape      terms.Escape        `json:"escape" enum:",drip,hiss"` // how the leak of a circuit full of liquid was noticed
	Facts       []FactView          `json:"facts"`
	Signs       []trail.SignView    `json:"signs"`    // free ones, before any tool
	Hunch       string              `json:"hunch"`    // the part somebody guesses; empty: none
	Suspects    []trail.SuspectView `json:"suspects"` // the likeliest first
	Photos      []trail.PhotoView   `json:"photos"`
	Hunt        trail.HuntView      `json:"hunt"`
	Bores       bool                `json:"bores"`     // it is tested passage by passage
	Imitators   []circuit.Imitator  `json:"imitators"` // what looks like a sign, or like another part
	Holds       []holds.HoldView    `json:"holds"`
	RigProven   bool                `json:"rig_proven"`
	Outstanding []circuit.Item      `json:"outstanding"`
	NotTested   []string            `json:"not_tested"`
	Standing    string              `json:"standing"`
	Folded      string              `json:"summary"`
	Explains    string              `json:"explains"` // the leak held against what is topped up; empty where one is not known
}
