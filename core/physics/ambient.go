// Package physics holds the laws a pressure test obeys: the air around, the air
// trapped inside, and what flows out. Everything is SI and absolute unless a
// name says gauge. Sources are named at each formula.
package physics

import "math"

// Standard conditions of a standard flow: 101.325 kPa and 20 °C.
const (
	StandardPa = 101325.0
	StandardK  = 293.15
)

// Ambient is the pressure (Pa absolute) at an altitude in metres: ISA troposphere.
func Ambient(altitudeM float64) float64 {
	return StandardPa * math.Pow(1-2.25577e-5*altitudeM, 5.25588)
}
