package judge

import (
	"fmt"
	"math"

	"idlehiss/core/physics"
	"idlehiss/core/quantity"
)

// Version names the rule by which calls are made; it is kept with every call.
// What it is worth stands in docs/judge.md.
const Version = "judge-1"

// Gauge says how a gauge can be read. Exactly one of DivisionPa and DigitalPa
// is above zero; when both are zero the step is inferred from the data.
type Gauge struct {
	DivisionPa   float64 // between two printed marks of a needle gauge
	DigitalPa    float64 // last digit of a digital gauge
	ReadFraction float64 // of a division that a person reads to; 0 means a quarter
	ClassPercent float64 // gauge class: the span error, % ; scales the rate
	FrictionPa   float64 // by which a needle's train may hold it back; 0: not known, a division
}

// friction is how far a needle may lie from the pressure because its train rubs, Pa.
func (g Gauge) friction() float64 {
	if g.FrictionPa > 0 {
		return g.FrictionPa
	}
	return g.DivisionPa
}

// StepPa is the smallest difference the gauge can show.
func (g Gauge) StepPa() float64 {
	if g.DivisionPa > 0 {
		return g.DivisionPa * g.fraction()
	}
	return g.DigitalPa
}

func (g Gauge) fraction() float64 {
	if g.ReadFraction > 0 {
		return g.ReadFraction
	}
	return usualFraction
}

// Errors of reading (PHYSICS §5): a person errs with 0.12 division and rounds;
// a crossing is good to some tenths of a second and a hair of parallax.
const (
	usualFraction = 0.25 // of a division: what a person reads to
	eyeSigma      = 0.12 // division
	crossingTimeS = 0.3  // s: from the crossing to the press
	crossingSigma = 0.03 // division: parallax at a printed mark
	digitalSigma  = 0.5  // of the last digit: where estimation from the data begins
)

// readSigma is the nominal standard error of one reading, Pa.
func (g Gauge) readSigma() float64 {
	if g.DivisionPa > 0 {
		return g.DivisionPa * math.Hypot(eyeSigma, g.fraction()/math.Sqrt(12))
	}
	return digitalSigma * g.DigitalPa
}

// Question is what is asked of a trace. All Pa are gauge unless named otherwise.
type Question struct {
	AmbientPa   float64  // absolute
	AtPa        *float64 // test pressure, vacuum negative; nil: the pressure at the start of the hold
	LimitPaPerS float64  // allowed steady loss at test pressure; or
	LimitFlow   float64  // allowed standard flow, m³/s; needs GasM3
	GasM3       float64  // V_eff; 0 when unknown
	GasSE       float64  // its standard error, m³
	// WarmthUnread: it is warming or cooling and nobody reads how warm it is, so that
	// no fall is judged: a hot loop falls by itself, far more than dry air would.
	WarmthUnread bool
	// GasByStrokes: pump strokes told GasM3, so that walls which give way after
	// them are not in it yet; else it is V_eff at test pressure.
	GasByStrokes bool
	Gauge        Gauge
	RigPaPerS    float64 // the rig's own loss as it shows on this system
	RigSE        float64
	StrokeM3     float64 // a stroke of the pump, where known: a pump-up that stalls then tells a flow
	LiquidM3     float64 // liquid that fills the circuit beside the gas: its expansion counts; needs GasM3
	Coolant      bool    // what is lost on the road is coolant: mL/h is worth stating
	HoldFrom     *float64
	RigProven    *bool // nil: not asked; false: a leaking call says that the rig is unproven
	NotTested    []string
	Unit         quantity.Unit // in which a person reads; the zero Unit is kPa
}

// Check refuses a question that has no answer.
func (q Question) Check() error {
	switch {
	case !quantity.PossibleAmbient(q.AmbientPa):
		return fmt.Errorf("an ambient of %.4g kPa is not of this earth; 50 to 110 kPa is", q.AmbientPa/1e3)
	case q.LimitPaPerS <= 0 && q.LimitFlow <= 0:
		return fmt.Errorf("no allowance: give a fall and its time, such as '10kPa in 2min', or a flow such as 3cm3/min")
	case q.LimitFlow > 0 && q.GasM3 <= 0:
		return fmt.Errorf("an allowance given as a flow needs the trapped air: give it as --gas '0.45L ± 0.03L'")
	case q.GasM3 < 0 || q.GasSE < 0:
		return fmt.Errorf("the trapped air cannot be negative")
	case q.Gauge.DivisionPa < 0 || q.Gauge.DigitalPa < 0 || q.Gauge.FrictionPa < 0:
		return fmt.Errorf("a division, a last digit and a friction must be above zero")
	case q.Gauge.DivisionPa > 0 && q.Gauge.DigitalPa > 0:
		return fmt.Errorf("a gauge has either a division or a last digit, not both")
	case q.Gauge.fraction() > 1:
		return fmt.Errorf("a person reads to a fraction of a division, at most 1")
	}
	return nil
}

// limit is the allowed loss in Pa/s.
func (q Question) limit() float64 {
	if q.LimitPaPerS > 0 {
		return q.LimitPaPerS
	}
	return physics.RateOfFlow(q.LimitFlow, q.GasM3, physics.StandardK)
}
