package quantity

import (
	"fmt"
	"math"
)

// What a test can meet. A figure beyond these is a slip of the pen, a sentinel of a
// logger, or an attack; it is refused before it reaches a formula.
const (
	MostPa       = 1e9     // Pa, either way; the strongest hydraulic test ends at a tenth of it
	AbsoluteZero = -273.15 // °C
	MostCelsius  = 2000.0  // °C, above the melting point of any part that is tested
	MostSeconds  = 1e9     // s, about thirty years
	MostM3       = 1e6     // m³
	MostM3PerS   = 1e4     // m³/s
	leastAmbient = 30e3    // Pa absolute, above every road
	mostAmbient  = 120e3   // Pa absolute, below every mine
)

// Finite reports whether v is a figure: neither NaN nor infinite.
func Finite(v float64) bool { return !math.IsNaN(v) && !math.IsInf(v, 0) }

// PossiblePa reports whether a pressure (Pa gauge) can come from a gauge.
func PossiblePa(pa float64) bool { return Finite(pa) && math.Abs(pa) <= MostPa }

// PossibleCelsius reports whether a temperature (°C) can come from a thermometer.
func PossibleCelsius(c float64) bool { return c >= AbsoluteZero && c <= MostCelsius }

// PossibleSeconds reports whether a moment (s) can stand on a trace's axis.
func PossibleSeconds(s float64) bool { return Finite(s) && math.Abs(s) <= MostSeconds }

// PossibleAmbient reports whether an air pressure (Pa absolute) is of this earth.
func PossibleAmbient(pa float64) bool { return pa >= leastAmbient && pa <= mostAmbient }

// most is the largest figure of each kind, SI; a kind that is not named has none.
var most = map[Kind]float64{Pressure: MostPa, Volume: MostM3, Time: MostSeconds, Flow: MostM3PerS,
	Torque: 1e6, Length: 1e5, Area: 1e6, Altitude: 1e5, Warmth: MostCelsius - AbsoluteZero}

// possible refuses a figure that no test can meet.
func (v Value) possible(text string, kind Kind) error {
	limit := most[kind]
	for _, x := range []float64{v.Low, v.High, v.SE} {
		if !Finite(x) || math.Abs(x) > limit {
			if v.Unit.Factor == 0 {
				return fmt.Errorf("%q is beyond any %s that a test can meet", text, kind)
			}
			return fmt.Errorf("%q is beyond any %s that a test can meet: at most %s is taken", text, kind, v.Unit.Show(limit, v.Unit.SI(1)))
		}
	}
	return nil
}
