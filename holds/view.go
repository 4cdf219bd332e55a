package holds

import (
	"time"

	"idlehiss/core/judge"
	"idlehiss/core/runsheet"
	"idlehiss/core/steps"
	"idlehiss/core/terms"
	"idlehiss/core/trace"
)

// Point is one reading on the hold's own axis.
type Point struct {
	AtS    float64   `json:"t"`
	Pa     float64   `json:"pa"`
	Seq    int       `json:"seq"`
	How    trace.How `json:"how" enum:"read,mark,camera"`
	Struck string    `json:"struck,omitempty"` // why it is ignored; absent while it counts
}

// Air is the trapped air that the strokes show.
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
	At   time.Time  `json:"at"`
	AtS  float64    `json:"t"`
	Call judge.Call `json:"call" enum:"tight,leaking,not-yet,never-reached"`
	Ring terms.Ring `json:"ring"`
}

// HoldView is a hold as a page shows it. A stream carries it with the points
// that are new; a page that asks for it gets them all, thinned.
type HoldView struct {
	ID         string                `json:"id"`
	JobID      string                `json:"job_id"`
	Machine    string                `json:"machine"`
	Stage      terms.Stage           `json:"stage"`      // where it is looked at now
	Alarm      terms.Alarm           `json:"alarm"`      // what must be done at once; empty: nothing
	AlarmText  string                `json:"alarm_text"` // the same as a sentence
	Test       string                `json:"test"`       // the circuit's step
	Draws      bool                  `json:"draws"`      // under vacuum
	Purpose    terms.Purpose         `json:"purpose"`
	Condition  terms.Condition       `json:"condition"`
	Under      string                `json:"under_text"` // the condition in words; empty where none was said
	State      terms.HoldState       `json:"state"`
	Simulated  bool                  `json:"simulated"`
	LaidBy     bool                  `json:"laid_by"`
	StartedAt  time.Time             `json:"started_at"`
	IsolatedS  *float64              `json:"isolated_s"`
	EndedS     *float64              `json:"ended_s"`
	NowS       float64               `json:"now_s"`
	Gauge      runsheet.Gauge        `json:"gauge"`
	Unit       string                `json:"unit"`
	UnitPa     float64               `json:"unit_pa"` // Pa in one unit of the gauge
	Target     runsheet.Target       `json:"target"`
	TargetText runsheet.Shown        `json:"target_shown"`
	Limit      runsheet.Shown        `json:"limit_shown"`
	Allowance  runsheet.Allowance    `json:"allowance"`
	Unread     bool                  `json:"warmth_unread"` // warm or cooling, temperature not measured: no fall is judged
	Celsius    *float64              `json:"celsius"`       // the last temperature that was read
	Value      *runsheet.Shown       `json:"value"`
	Highest    *runsheet.Shown       `json:"highest"`
	FirstHeard *runsheet.Shown       `json:"first_heard"`
	OverLimit  bool                  `json:"over_limit"`
	AtTarget   bool                  `json:"at_target"` // while pumping: shut the supply
	Unjudged   string                `json:"unjudged"`  // why it cannot be judged; empty where it can
	Faults     []FaultView           `json:"faults"`    // gauges not to be believed just now
	Far        *FarView              `json:"far"`       // the gauge at the other end
	Strokes    int                   `json:"strokes"`
	Air        *Air                  `json:"air"`
	ByItself   bool                  `json:"by_itself"` // the gauge reads itself
	TapDue     bool                  `json:"tap_due"`   // the gauge is filmed, and its train may hide what is asked
	TapUntilS  *float64              `json:"tap_until"` // on the hold's axis: it is tapped until then
	ReadNext   *runsheet.NextReading `json:"read_next"` // when a person reads it next; null: not wanted
	Step       float64               `json:"step"`      // of the reading stepper, in the gauge's unit
	Marks      []runsheet.NextMark   `json:"marks"`
	Report     *judge.Report         `json:"report"`
	Ring       terms.Ring            `json:"ring"`
	Sentence   string                `json:"sentence"`
	CallAtS    *float64              `json:"call_expected_s"` // on the hold's axis
	Fork       []steps.ForkAt        `json:"fork"`
	Trail      []steps.ForkAt        `json:"trail"`
	Summary    bool                  `json:"summary"` // without points, events, gaps, trail and fork: ask for the hold itself
	Whole      bool                  `json:"whole"`   // all points and the whole trail, not only the new
	Brief      bool                  `json:"brief"`   // without report, fork and calls: they are as they were
	Points     []Point               `json:"points"`
	Events     []EventView           `json:"events"`
	Gaps       []GapView             `json:"gaps"`
	Calls      []CallView            `json:"calls"`
	LastSeq    int                   `json:"last_seq"`
}

// FaultView is a gauge that is not to be believed just now.
type FaultView struct {
	Gauge Side             `json:"gauge" doc:"1, or 2 for the one at the other end"`
	Kind  trace.GaugeFault `json:"kind" enum:"silent,stuck,jumped,off-scale,other-unit"`
	Says  string           `json:"says"`
	FromS float64          `json:"from"` // on the hold's axis; since then nothing was believed
}

// FarView is what the gauge at the other end shows.
type FarView struct {
	Gauge    runsheet.Gauge      `json:"gauge"`
	Unit     string              `json:"unit"`
	UnitPa   float64             `json:"unit_pa"`
	Value    *runsheet.Shown     `json:"value"`
	Says     string              `json:"says"` // against the near one
	ByItself bool                `json:"by_itself"`
	Marks    []runsheet.NextMark `json:"marks"`
	Step     float64             `json:"step"`
	Points   []Point             `json:"points"`
}

// forkAhead is the fork ahead of now, in Pa.
func forkAhead(j *judge.Live, rep *judge.Report, state terms.HoldState) []steps.ForkAt {
	if rep.Fork == nil || state != terms.Holding {
		return nil
	}
	var out []steps.ForkAt
	for _, p := range j.Fork(rep.AheadS()) {
		if f := steps.ForkIn(p); f.AbovePa != nil || f.BelowPa != nil {
			out = append(out, f)
		}
	}
	return out
}
