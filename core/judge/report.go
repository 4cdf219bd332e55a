package judge

// Call is what is said of a hold.
type Call string

// The calls.
const (
	Tight        Call = "tight"
	Leaking      Call = "leaking"
	NotYet       Call = "not-yet"
	NeverReached Call = "never-reached"
)

// Shape names what a trace does.
type Shape string

// The shapes told apart.
const (
	ShapeTight        Shape = "tight"
	ShapeSettling     Shape = "settling"
	ShapeLeak         Shape = "leak"
	ShapeSettlingLeak Shape = "settling+leak"
	ShapeFloor        Shape = "floor"
	ShapeTemperature  Shape = "temperature"
	ShapeRising       Shape = "rising"
	ShapeStep         Shape = "step"
	ShapeUnclear      Shape = "unclear"
)

// Interval is a figure with its 95 % interval, in the unit the field names.
type Interval struct {
	Value float64 `json:"value"`
	Low   float64 `json:"low"`
	High  float64 `json:"high"`
}

// ForkPoint is where one more reading would complete the call, at a moment.
// Null where no reading could.
type ForkPoint struct {
	AtS             float64  `json:"at_s"`
	TightAboveKPa   *float64 `json:"tight_above_kpa"`
	LeakingBelowKPa *float64 `json:"leaking_below_kpa"`
}

// PhaseReport is a part of the trace on its own time axis.
type PhaseReport struct {
	Kind  string  `json:"kind" enum:"pump,settle,hold,release"`
	FromS float64 `json:"from_s"`
	ToS   float64 `json:"to_s"`
}

// StepReport is a sudden loss at an instant.
type StepReport struct {
	AtS   float64 `json:"at_s"`
	KPa   float64 `json:"kpa"`
	Event string  `json:"event"`
}

// SchoolVerdict is what one school of practice says.
type SchoolVerdict string

// The verdicts of a school.
const (
	Pass     SchoolVerdict = "pass"
	Fail     SchoolVerdict = "fail"
	TooShort SchoolVerdict = "too-short" // not held as long as the school wants
)

// SchoolReport is what one school of practice would say of the same trace.
type SchoolReport struct {
	ID          string        `json:"id"`
	Title       string        `json:"title"`
	Verdict     SchoolVerdict `json:"verdict" enum:"pass,fail,too-short"`
	Allowed     string        `json:"allowed"`
	Saw         string        `json:"saw"`
	FlowAllowed *float64      `json:"flow_allowed_cm3_per_min"`
}

// Report is the document that judge --json prints and a call keeps. Rates are
// positive towards ambient. Its field names are a contract (CLI.md).
type Report struct {
	Version            int            `json:"version"`
	Judge              string         `json:"judge"`
	Call               Call           `json:"call" enum:"tight,leaking,not-yet,never-reached"`
	Shape              Shape          `json:"shape" enum:"tight,settling,leak,settling+leak,floor,temperature,rising,step,unclear"`
	ShapeShare         float64        `json:"shape_share"`
	RunnerUp           Shape          `json:"runner_up" enum:"tight,settling,leak,settling+leak,floor,temperature,rising,step,unclear"`
	RunnerUpShare      float64        `json:"runner_up_share"`
	Firm               bool           `json:"-"` // the call has something to spare: a live one may be made
	AtLimit            bool           `json:"at_limit"`
	ProbabilityLeaking float64        `json:"probability_leaking"`
	LimitKPaPerMin     float64        `json:"limit_kpa_per_min"`
	RateKPaPerMin      *Interval      `json:"rate_kpa_per_min"`
	FlowCm3PerMin      *Interval      `json:"flow_cm3_per_min"`
	HoleUm             *Interval      `json:"hole_um"`
	LossMLPerH         *Interval      `json:"loss_ml_per_h"`             // the passage above the liquid line, with hot coolant in it
	LossColdMLPerH     *Interval      `json:"loss_cold_ml_per_h"`        // the same, cold
	WeepMLPerH         *Interval      `json:"weep_ml_per_h"`             // the passage below the liquid line, hot
	WeepColdMLPerH     *Interval      `json:"weep_cold_ml_per_h"`        // the same, cold, as in the test
	SmallestKPaPerMin  *float64       `json:"smallest_seen_kpa_per_min"` // the least steady loss that this hold would have shown
	SmallestMLPerH     *float64       `json:"smallest_seen_ml_per_h"`    // the same, as hot coolant above the liquid line
	MissedMLPerH       *float64       `json:"missed_ml_per_h"`           // of a tight loop: the largest weep below the liquid line, hot, that may still be there
	SettleS            *Interval      `json:"settle_s"`
	FloorKPa           *float64       `json:"floor_kpa"`
	Steps              []StepReport   `json:"steps"`
	TestPressureKPa    float64        `json:"test_pressure_kpa"`
	Phases             []PhaseReport  `json:"phases"`
	MoreS              *float64       `json:"more_s"`
	Called             *Call          `json:"called" enum:"tight,leaking,not-yet,never-reached"`
	CalledAtS          *float64       `json:"called_at_s"`
	Fork               *ForkPoint     `json:"fork"`
	Acts               []ActReport    `json:"acts"`
	ActS               *float64       `json:"act_s"` // of a leaking hold: for how long to watch the gauge after an act; null where it would not tell
	Schools            []SchoolReport `json:"schools"`
	NextStep           *Reason        `json:"next_step"` // the best step after a hold that could not be called; else null
	Next               string         `json:"next"`      // the same as a sentence
	Readings           int            `json:"readings"`
	HeldS              float64        `json:"held_s"`
	FellKPa            float64        `json:"fell_kpa"`                 // within the hold, towards ambient, whatever the cause
	Unused             []string       `json:"unused_columns,omitempty"` // of the file, by their titles
	Reasons            []Reason       `json:"reasons"`                  // what the report says, as codes and figures
	Why                []string       `json:"why"`                      // the same as sentences
}

func kpa(pa float64) float64           { return pa / 1e3 }
func kpaPerMin(paPerS float64) float64 { return paPerS * 60 / 1e3 }

// GoingOn is a call that was made, with the figures of the hold as it has gone on since.
func (r *Report) GoingOn(now *Report) *Report {
	if now.RateKPaPerMin == nil {
		return r
	}
	out := *r
	out.Acts, out.ActS = now.Acts, now.ActS
	out.RateKPaPerMin, out.FlowCm3PerMin, out.HoleUm = now.RateKPaPerMin, now.FlowCm3PerMin, now.HoleUm
	out.LossMLPerH, out.LossColdMLPerH, out.WeepMLPerH, out.WeepColdMLPerH = now.LossMLPerH, now.LossColdMLPerH, now.WeepMLPerH, now.WeepColdMLPerH
	out.SmallestKPaPerMin, out.SmallestMLPerH = now.SmallestKPaPerMin, now.SmallestMLPerH
	if out.MissedMLPerH != nil && out.WeepMLPerH != nil {
		out.MissedMLPerH = new(out.WeepMLPerH.High)
	}
	out.FellKPa, out.HeldS, out.Readings = now.FellKPa, now.HeldS, now.Readings
	return &out
}
