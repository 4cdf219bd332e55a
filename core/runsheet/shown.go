package runsheet

import (
	"math"

	"idlehiss/core/quantity"
)

// Shown is a pressure in the gauge's unit and in the other one, as text.
type Shown struct {
	Pa    float64 `json:"pa"`
	Text  string  `json:"text"`  // "16.0"
	Unit  string  `json:"unit"`  // "psi"
	Other string  `json:"other"` // "110.3 kPa"
}

// Show writes a pressure in a unit, and beside it in kPa, or in psi (a vacuum in inHg)
// where the gauge itself is in kPa.
func Show(pa, digitPa float64, u quantity.Unit) Shown {
	other := quantity.MustNamed("kPa", quantity.Pressure)
	if u.Symbol == other.Symbol {
		other = quantity.MustNamed("psi", quantity.Pressure)
		if pa < 0 {
			other = quantity.MustNamed("inHg", quantity.Pressure)
		}
	}
	// The other unit's figure is a conversion: its last digit is a power of ten.
	tenth := math.Pow(10, math.Floor(math.Log10(math.Max(other.Of(digitPa), 0.1))))
	return Shown{Pa: pa, Text: u.Figure(pa, digitPa), Unit: u.Symbol, Other: other.Show(pa, other.SI(tenth))}
}

// Says is the pressure as its gauge shows it.
func (s Shown) Says() string { return s.Text + " " + s.Unit }

// TwoUnits writes a pressure in kPa and psi, a vacuum in kPa and inHg.
func TwoUnits(pa float64) string {
	if pa == 0 {
		return ""
	}
	own, other := quantity.MustNamed("kPa", quantity.Pressure), quantity.MustNamed("psi", quantity.Pressure)
	if pa < 0 {
		other = quantity.MustNamed("inHg", quantity.Pressure)
	}
	return own.Show(pa, 1e3) + " (" + other.Show(pa, other.SI(0.1)) + ")"
}
