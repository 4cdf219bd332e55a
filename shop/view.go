package shop

import (
	"time"

	"idlehiss/core/circuit"
	"idlehiss/core/judge"
	"idlehiss/core/runsheet"
	"idlehiss/core/steps"
)

// Ring is a verdict as it is drawn: whole, dotted, nicked or cut.
type Ring string

// The four rings.
const (
	RingWhole  Ring = "whole"  // tight
	RingDotted Ring = "dotted" // no call yet
	RingNicked Ring = "nicked" // losing, within what is allowed
	RingCut    Ring = "cut"    // leaking
)

// RingOf draws a report. A loss that is surely there but allowed is a nick.
func RingOf(r *judge.Report) Ring {
	switch {
	case r == nil:
		return RingDotted
	case r.Call == judge.Leaking || r.Call == judge.NeverReached:
		return RingCut
	case r.Call == judge.Tight:
		if r.RateKPaPerMin != nil && r.RateKPaPerMin.Low > 0 && (r.Shape == judge.ShapeLeak || r.Shape == judge.ShapeSettlingLeak) {
			return RingNicked
		}
		return RingWhole
	}
	return RingDotted
}

// Shown is a pressure in the gauge's unit and in the other one, as text.
type Shown struct {
	Pa    float64 `json:"pa"`
	Text  string  `json:"text"`  // "16.0"
	Unit  string  `json:"unit"`  // "psi"
	Other string  `json:"other"` // "110.3 kPa"
}

// Point is one reading on the hold's own axis.
type Point struct {
	AtS    float64 `json:"t"`
	Pa     float64 `json:"pa"`
	Seq    int     `json:"seq"`
	How    string  `json:"how" enum:"read,mark"`
	Struck string  `json:"struck,omitempty"`
}

// ForkAt is the fork at a moment of the hold's axis.
type ForkAt struct {
	AtS     float64  `json:"t"`
	AbovePa *float64 `json:"above_pa"` // tight above
	BelowPa *float64 `json:"below_pa"` // leaking below
}

// NextMark is a printed mark (or half-way) that the needle may cross next.
type NextMark struct {
	Pa     float64 `json:"pa"`
	Value  float64 `json:"value"` // in the gauge's unit
	Text   string  `json:"text"`
	Half   bool    `json:"half"`
	Likely bool    `json:"likely"`
	Up     bool    `json:"up"`
}

// Air is the trapped air that the strokes told.
type Air struct {
	Litres float64      `json:"litres"`
	Low    float64      `json:"low"`
	High   float64      `json:"high"`
	Bent   bool         `json:"bent"`
	Says   string       `json:"says"`
	Points [][2]float64 `json:"points"` // strokes, Pa
}

// EventView is something that happened during a hold.
type EventView struct {
	AtS  float64 `json:"t"`
	Kind string  `json:"kind"`
}

// GapView is a stretch without readings.
type GapView struct {
	FromS float64 `json:"from"`
	ToS   float64 `json:"to"`
	Why   string  `json:"why"`
}

// CallView is one call that was made.
type CallView struct {
	At     time.Time    `json:"at"`
	AtS    float64      `json:"t"`
	Call   judge.Call   `json:"call" enum:"tight,leaking,not-yet,never-reached"`
	Ring   Ring         `json:"ring" enum:"whole,dotted,nicked,cut"`
	Report judge.Report `json:"report"`
}

// HoldView is a hold as a page shows it. A stream carries it with the points
// that are new; a page that asks for it gets them all, thinned.
type HoldView struct {
	ID         string             `json:"id"`
	JobID      string             `json:"job_id"`
	Machine    string             `json:"machine"`
	Stage      string             `json:"stage"` // where it is looked at now
	Alarm      string             `json:"alarm"` // what must be done at once; empty: nothing
	Test       string             `json:"test"`  // the circuit's step
	Draws      bool               `json:"draws"` // under vacuum
	Purpose    string             `json:"purpose" enum:"rig proof,test,repeat,retest"`
	Condition  string             `json:"condition"`
	State      string             `json:"state" enum:"pumping,holding,ended"`
	Simulated  bool               `json:"simulated"`
	LaidBy     bool               `json:"laid_by"`
	StartedAt  time.Time          `json:"started_at"`
	IsolatedS  *float64           `json:"isolated_s"`
	EndedS     *float64           `json:"ended_s"`
	NowS       float64            `json:"now_s"`
	Gauge      runsheet.Gauge     `json:"gauge"`
	Unit       string             `json:"unit"`
	UnitPa     float64            `json:"unit_pa"` // Pa in one unit of the gauge
	Target     runsheet.Target    `json:"target"`
	TargetText Shown              `json:"target_shown"`
	Limit      Shown              `json:"limit_shown"`
	Allowance  runsheet.Allowance `json:"allowance"`
	Value      *Shown             `json:"value"`
	Highest    *Shown             `json:"highest"`
	FirstHeard *Shown             `json:"first_heard"`
	OverLimit  bool               `json:"over_limit"`
	Faults     []FaultView        `json:"faults"` // gauges not to be believed just now
	Far        *FarView           `json:"far"`    // the gauge at the other end
	Strokes    int                `json:"strokes"`
	Air        *Air               `json:"air"`
	Step       float64            `json:"step"` // of the reading stepper, in the gauge's unit
	Marks      []NextMark         `json:"marks"`
	Report     *judge.Report      `json:"report"`
	Ring       Ring               `json:"ring" enum:"whole,dotted,nicked,cut"`
	Sentence   string             `json:"sentence"`
	CallAtS    *float64           `json:"call_expected_s"` // on the hold's axis
	Fork       []ForkAt           `json:"fork"`
	Trail      []ForkAt           `json:"trail"`
	Whole      bool               `json:"whole"` // all points and the whole trail, not only the new
	Brief      bool               `json:"brief"` // without report, fork and calls: they are as they were
	Points     []Point            `json:"points"`
	Events     []EventView        `json:"events"`
	Gaps       []GapView          `json:"gaps"`
	Calls      []CallView         `json:"calls"`
	LastSeq    int                `json:"last_seq"`
}

// FaultView is a gauge that is not to be believed just now.
type FaultView struct {
	Gauge int     `json:"gauge" doc:"1, or 2 for the one at the other end"`
	Kind  string  `json:"kind" enum:"silent,stuck,jumped,off-scale,other-unit"`
	Says  string  `json:"says"`
	FromS float64 `json:"from"` // on the hold's axis; since then nothing was believed
}

// FarView is what the gauge at the other end shows.
type FarView struct {
	Gauge  runsheet.Gauge `json:"gauge"`
	Unit   string         `json:"unit"`
	UnitPa float64        `json:"unit_pa"`
	Value  *Shown         `json:"value"`
	Says   string         `json:"says"` // against the near one
	Marks  []NextMark     `json:"marks"`
	Step   float64        `json:"step"`
	Points []Point        `json:"points"`
}

// MarkView is a decoded mark with its equivalents.
type MarkView struct {
	Text     string        `json:"text"`
	Doubt    string        `json:"doubt"`
	Readings []MarkReading `json:"readings"`
}

// MarkReading is one way to read the mark.
type MarkReading struct {
	Unit        string            `json:"unit"`
	LowPa       float64           `json:"low_pa"`
	HighPa      float64           `json:"high_pa"`
	HalfDigitPa float64           `json:"half_digit_pa"`
	Doubt       string            `json:"doubt"`
	Equivalents map[string]string `json:"equivalents"`
}

// PlanView is the limit, the target and whether the gauge fits.
type PlanView struct {
	Step      string                  `json:"step"`
	Draws     bool                    `json:"draws"`  // under vacuum
	Mark      *MarkView               `json:"mark"`   // null where no mark limits the circuit
	Chosen    int                     `json:"chosen"` // which reading of the mark
	Limits    []runsheet.Limit        `json:"limits"`
	Weakest   runsheet.Limit          `json:"weakest"`
	Target    runsheet.Target         `json:"target"`
	Shown     Shown                   `json:"target_shown"`
	Schools   []runsheet.TargetSchool `json:"schools"`
	Gauge     runsheet.Gauge          `json:"gauge"`
	Fit       runsheet.Advice         `json:"fit"`
	Allowance runsheet.Allowance      `json:"allowance"`
	Holding   []judge.School          `json:"hold_schools"`
	Losses    []circuit.Loss          `json:"losses"` // the step's own schools of what may be lost
	Wanted    wantedAllowance         `json:"wanted"` // what was asked for; the allowance follows once the air is known
	Typed     string                  `json:"typed"`  // as it was typed, where the target is of one's own
	Reason    string                  `json:"reason"` // and why it may lie above the limit
	Pump      Pump                    `json:"pump"`
	Far       *runsheet.Gauge         `json:"far"` // the gauge at the other end, if there is one

	kit    KitGauge
	farKit *KitGauge
}

// StageView is a stage of a job with its ring.
type StageView struct {
	ID       string         `json:"id"`
	Title    string         `json:"title"`
	Text     string         `json:"text"`
	Step     string         `json:"step"` // of the circuit; empty where none is done here
	Kind     string         `json:"kind"`
	Key      string         `json:"key"`
	Cautions []circuit.Item `json:"cautions"`
	Ticks    []TickView     `json:"ticks"`
	Done     bool           `json:"done"`
	Ring     Ring           `json:"ring" enum:"whole,dotted,nicked,cut"`
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

// FactView is a sentence we know, and where from.
type FactView struct {
	ID         string    `json:"id"`
	At         time.Time `json:"at"`
	By         string    `json:"by"`
	Subject    string    `json:"subject"`
	Stage      string    `json:"stage"`
	Sentence   string    `json:"sentence"`
	Source     string    `json:"source"`
	Superseded bool      `json:"superseded"`
	Against    string    `json:"against"` // the earlier sentence it contradicts
}

// SuspectView is a part with what was seen at it.
type SuspectView struct {
	ID    string            `json:"id"`
	Title string            `json:"title"`
	Look  string            `json:"look"`
	Share float64           `json:"share"` // prior odds as a share
	Signs []string          `json:"signs"` // that point to it
	Seen  []ObservationView `json:"seen"`
}

// ObservationView is one look.
type ObservationView struct {
	At     time.Time `json:"at"`
	By     string    `json:"by"`
	Method string    `json:"method"`
	Seen   bool      `json:"seen"`
	Class  string    `json:"class"`
	Note   string    `json:"note"`
}

// JobView is a whole sheet.
type JobView struct {
	ID          string         `json:"id"`
	At          time.Time      `json:"at"`
	By          string         `json:"by"`
	Machine     string         `json:"machine"`
	Complaint   string         `json:"complaint"`
	State       string         `json:"state" enum:"open,closed,abandoned"`
	EndedAt     *time.Time     `json:"ended_at"`
	Circuit     string         `json:"circuit"`
	CircuitID   string         `json:"circuit_id"`
	Simulated   bool           `json:"simulated"`
	Ring        Ring           `json:"ring" enum:"whole,dotted,nicked,cut"`
	Stages      []StageView    `json:"stages"`
	Current     string         `json:"current"` // the stage that is next
	Plan        *PlanView      `json:"plan"`    // of the first hold
	Steps       []StepView     `json:"steps"`
	Call        steps.Combined `json:"call"` // of all the steps
	Things      []string       `json:"things"`
	Matters     []MatterView   `json:"matters"` // on which schools differ
	Mend        MendView       `json:"mend"`
	Reminders   []Reminder     `json:"reminders"`
	Rig         RigView        `json:"rig"`
	Marked      string         `json:"marked"` // what carries the mark; empty where none limits it
	Facts       []FactView     `json:"facts"`
	Signs       []SignView     `json:"signs"` // free ones, before any tool
	Hunch       string         `json:"hunch"` // the part somebody guesses; empty: none
	Suspects    []SuspectView  `json:"suspects"`
	Holds       []HoldView     `json:"holds"`
	RigProven   bool           `json:"rig_proven"`
	Outstanding []circuit.Item `json:"outstanding"`
	NotTested   []string       `json:"not_tested"`
	Standing    string         `json:"standing"`
	Folded      string         `json:"summary"`
	Explains    string         `json:"explains"` // the leak held against what is topped up; empty where one is not known
}

// BookRow is a job as the book lists it.
type BookRow struct {
	ID        string    `json:"id"`
	At        time.Time `json:"at"`
	Machine   string    `json:"machine"`
	Complaint string    `json:"complaint"`
	State     string    `json:"state" enum:"open,closed,abandoned"`
	Call      string    `json:"call"`
	Ring      Ring      `json:"ring" enum:"whole,dotted,nicked,cut"`
	LossMLH   *float64  `json:"loss_ml_per_h"`
	Found     string    `json:"found"`
	Simulated bool      `json:"simulated"`
}

// NextThing is something that wants a person.
type NextThing struct {
	JobID   string     `json:"job_id"`
	Stage   string     `json:"stage"`
	Machine string     `json:"machine"`
	Text    string     `json:"text"`
	DueAt   *time.Time `json:"due_at"` // of a reminder
}

// BenchView is what is under pressure now and what wants hands next.
type BenchView struct {
	Holds    []HoldView   `json:"holds"`
	Next     []NextThing  `json:"next"`
	Circuits []CircuitRow `json:"circuits"`
	Demo     bool         `json:"demo"`
}

// Choice is an id with its words.
type Choice struct {
	ID    string `json:"id"`
	Title string `json:"title"`
}

// Pump squeezes the air in.
type Pump struct {
	ID       string  `json:"id"`
	Name     string  `json:"name"`
	StrokeM3 float64 `json:"stroke_m3"`
	StrokeSE float64 `json:"stroke_se_m3"`
	From     string  `json:"from,omitempty"`  // how that is known
	Draws    bool    `json:"draws,omitempty"` // a vacuum, too
}
