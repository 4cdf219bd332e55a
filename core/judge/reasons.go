package judge

// Code names one thing that a report says of a hold. Pages, paper and command line
// choose by it; words.go puts it into a sentence.
type Code string

// What a report can say, and the figures that go with it.
const (
	NoPressure          Code = "no-pressure"             // nothing to judge
	TooFewReadings      Code = "too-few-readings"        // readings, least
	LosesLittle         Code = "loses-little"            // limit
	LosesLess           Code = "loses-less-than-allowed" // rate, limit
	CouldHide           Code = "could-hide"              // missed, filled: what a tight loop may still weep, and what it could if nearly full
	LosesMore           Code = "loses-more-than-allowed" // rate, low, high, limit
	LostMuch            Code = "lost-too-much-to-settle" // fall, held
	Undecided           Code = "undecided"               // low, high, limit
	LiesAtLimit         Code = "at-limit"                // low, high, limit
	PressureRises       Code = "rises"
	WaitsToBeSure       Code = "waits-to-be-sure"      // watched at every reading, it needs a little more
	HeldTooShort        Code = "held-too-short"        // held: the least that is judged
	FellMuch            Code = "fell-much"             // fall: more than settling takes, though it slows
	StillSettles        Code = "still-settles"         // more falls than is allowed, none of it surely a leak
	AllowanceUnsure     Code = "allowance-unsure"      // share: the error of the trapped air, which sets the allowance
	TimeLeft            Code = "time-left"             // more
	GaugeCoarse         Code = "gauge-coarse"          // step, allowed
	ShapeSeen           Code = "shape"                 // share; the shapes stand in the report
	RigTakenOff         Code = "rig-taken-off"         // rig
	RigUnproven         Code = "rig-unproven"          //
	PartNotTested       Code = "not-tested"            // in the circuit's own words
	WarmthNotRead       Code = "temperature-unread"    //
	FloorSeen           Code = "floor"                 // floor
	TemperatureExplains Code = "temperature-explains"  // kelvin, fall
	TemperatureTakenOut Code = "temperature-taken-out" // kelvin, fall
	StalledBelow        Code = "stalled"               // strokes, highest, target
	ShutShort           Code = "shut-short"            // highest, target: the loss is that where it stood
	StallFlow           Code = "stall-flow"            // flow
	EngineRaises        Code = "engine-raises"         //
	StepInferred        Code = "step-inferred"         // step
	FilmedTapped        Code = "filmed-tapped"         // readings, tapped
	FilmedUntapped      Code = "filmed-untapped"       // readings, hidden
	EyeAgrees           Code = "eye-agrees"            //
	EyeDiffers          Code = "eye-differs"           // higher: than the camera saw it

	// The best step after a hold that could not be called.
	NextSteady      Code = "next-steady-temperature" //
	NextDecide      Code = "next-decide"             //
	NextProveRig    Code = "next-prove-rig"          //
	NextFinerGauge  Code = "next-finer-gauge"        // step, allowed
	NextHoldOn      Code = "next-hold-on"            // more; 0: cannot be told
	NextFill        Code = "next-fill"               // air
	NextTopUp       Code = "next-top-up"             //
	NextHoldOrFiner Code = "next-hold-on-or-finer"   // more
	NextReadTemp    Code = "next-read-temperature"   //
)

// HoldBacks are what can hold a call back although the interval of the loss lies on one side of
// the allowance: a report that is not called then says one of them.
var HoldBacks = [...]Code{PressureRises, WarmthNotRead, WaitsToBeSure, HeldTooShort, FellMuch, StillSettles, AllowanceUnsure}

// leastToReport is the readings from which anything is said of the pressure.
const leastToReport = 3

// Names of figures; each carries its unit.
const (
	figureRate     = "rate_kpa_per_min"
	figureLow      = "low_kpa_per_min"
	figureHigh     = "high_kpa_per_min"
	figureLimit    = "limit_kpa_per_min"
	figureRig      = "rig_kpa_per_min"
	figureStep     = "step_kpa"
	figureAllowed  = "allowed_kpa"
	figureMore     = "more_s"
	figureShare    = "share"
	figureReadings = "readings"
	figureLeast    = "least"
	figureFloor    = "floor_kpa"
	figureKelvin   = "kelvin"
	figureFall     = "fall_kpa"
	figureStrokes  = "strokes"
	figureHighest  = "highest_kpa"
	figureTarget   = "target_kpa"
	figureFlow     = "flow_cm3_per_min"
	figureAir      = "air_l"
	figureMissed   = "missed_ml_per_h"
	figureFilled   = "filled_ml_per_h"
	figureHeld     = "held_s"
	figureTapped   = "tapped_s"
	figureHidden   = "hidden_kpa"
	figureHigher   = "higher_kpa"
)

// Reason is one thing said, with its figures (their names carry the units). Text stands
// where the words are not the program's own.
type Reason struct {
	Code    Code               `json:"code"`
	Figures map[string]float64 `json:"figures"`
	Text    string             `json:"text"`
}

// figures pairs names with figures.
func figures(pairs ...any) map[string]float64 {
	out := make(map[string]float64, len(pairs)/2)
	for i := 0; i+1 < len(pairs); i += 2 {
		out[pairs[i].(string)] = pairs[i+1].(float64)
	}
	return out
}

func because(c Code, pairs ...any) Reason { return Reason{Code: c, Figures: figures(pairs...)} }

// say adds a reason to a report.
func (r *Report) say(c Code, pairs ...any) { r.Reasons = append(r.Reasons, because(c, pairs...)) }

// sayFirst puts one before the others.
func (r *Report) sayFirst(c Code, pairs ...any) {
	r.Reasons = append([]Reason{because(c, pairs...)}, r.Reasons...)
}

// Says finds what a report says by its code.
func (r *Report) Says(c Code) (Reason, bool) {
	for _, x := range r.Reasons {
		if x.Code == c {
			return x, true
		}
	}
	return Reason{}, false
}
