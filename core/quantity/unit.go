// Package quantity reads and shows what people write on caps, gauges and
// notebooks: pressures, volumes, torques, times, flows. Inside the core every
// quantity is SI; units live only here, at the edge where a person types or reads.
package quantity

import (
	"fmt"
	"sort"
	"strings"
)

// Kind says what a unit measures.
type Kind string

// The kinds a value can have, with the SI unit that values of it are held in.
const (
	Pressure Kind = "pressure"    // Pa
	Volume   Kind = "volume"      // m³
	Torque   Kind = "torque"      // N·m
	Time     Kind = "time"        // s
	Flow     Kind = "flow"        // m³/s
	Length   Kind = "length"      // m
	Area     Kind = "area"        // m²
	Warmth   Kind = "temperature" // K
	Altitude Kind = "altitude"    // m; may lie below the sea
)

// Unit is one way of writing a kind. Factor converts to SI exactly.
type Unit struct {
	Symbol string // as shown to people
	Kind   Kind
	Factor float64 // SI per unit

	aliases []string
	zero    float64 // SI at this unit's zero: temperatures
}

// Exact by definition (PHYSICS §1); psi follows from lbf and inch.
var units = []Unit{
	{"psi", Pressure, 6894.757293168361, []string{"lbf/in2", "psig"}, 0},
	{"bar", Pressure, 100000, []string{"barg"}, 0},
	{"kPa", Pressure, 1000, []string{"kpag"}, 0},
	{"MPa", Pressure, 1e6, nil, 0},
	{"mbar", Pressure, 100, []string{"hpa"}, 0},
	{"Pa", Pressure, 1, nil, 0},
	{"kgf/cm²", Pressure, 98066.5, []string{"kg/cm2", "kp/cm2"}, 0},
	{"mmHg", Pressure, 133.322387415, nil, 0},
	{"inHg", Pressure, 3386.389, []string{"\"hg"}, 0},
	{"inH₂O", Pressure, 249.08891, nil, 0},
	{"atm", Pressure, 101325, nil, 0},

	{"L", Volume, 1e-3, []string{"litre", "litres", "liter"}, 0},
	{"mL", Volume, 1e-6, nil, 0},
	{"cm³", Volume, 1e-6, []string{"cc", "ccm"}, 0},
	{"in³", Volume, 16.387064e-6, []string{"cuin"}, 0},
	{"US fl oz", Volume, 29.5735295625e-6, []string{"floz"}, 0},
	{"US qt", Volume, 946.352946e-6, []string{"qt", "quart", "quarts"}, 0},
	{"m³", Volume, 1, nil, 0},

	{"N·m", Torque, 1, []string{"nm"}, 0},
	{"lbf·ft", Torque, 1.3558179483, []string{"lbft", "ftlb", "ftlbf"}, 0},
	{"lbf·in", Torque, 1.3558179483 / 12, []string{"lbin", "inlb", "inlbf"}, 0},

	{"s", Time, 1, []string{"sec", "second", "seconds"}, 0},
	{"min", Time, 60, []string{"minute", "minutes"}, 0},
	{"h", Time, 3600, []string{"hr", "hour", "hours"}, 0},
	{"d", Time, 86400, []string{"day", "days"}, 0},

	{"cm³/min", Flow, 1e-6 / 60, []string{"cc/min", "sccm"}, 0},
	{"mL/h", Flow, 1e-6 / 3600, nil, 0},
	{"mL/min", Flow, 1e-6 / 60, nil, 0},
	{"L/min", Flow, 1e-3 / 60, nil, 0},
	{"L/h", Flow, 1e-3 / 3600, nil, 0},
	{"cm³/s", Flow, 1e-6, []string{"cc/s"}, 0},

	{"mm", Length, 1e-3, nil, 0},
	{"µm", Length, 1e-6, []string{"um"}, 0},
	{"cm", Length, 1e-2, nil, 0},
	{"m", Length, 1, nil, 0},
	{"in", Length, 25.4e-3, []string{"inch"}, 0},
	{"ft", Length, 0.3048, []string{"feet"}, 0},

	{"cm²", Area, 1e-4, nil, 0},
	{"mm²", Area, 1e-6, nil, 0},
	{"m²", Area, 1, nil, 0},
	{"in²", Area, 25.4e-3 * 25.4e-3, []string{"sqin"}, 0},

	{"m", Altitude, 1, []string{"metre", "metres"}, 0},
	{"ft", Altitude, 0.3048, []string{"feet"}, 0},

	{"°C", Warmth, 1, []string{"c", "degc"}, 273.15},
	{"°F", Warmth, 5. / 9, []string{"f", "degf"}, 273.15 - 32*5./9},
	{"K", Warmth, 1, nil, 0},
}

var byName = func() map[string]Unit {
	m := map[string]Unit{}
	for _, u := range units {
		for _, name := range append([]string{u.Symbol}, u.aliases...) {
			m[string(u.Kind)+" "+fold(name)] = u
		}
	}
	return m
}()

var plain = strings.NewReplacer("²", "2", "³", "3", "₂", "2", "·", "", "*", "", "μ", "µ", "^", "", " ", "")

// fold brings spellings of a unit together: case, superscripts, dots and spaces.
func fold(s string) string {
	s = strings.ToLower(plain.Replace(s))
	return strings.TrimPrefix(s, "us")
}

// Named finds a unit of the kind by any of its spellings.
func Named(name string, kind Kind) (Unit, error) {
	if u, ok := byName[string(kind)+" "+fold(name)]; ok {
		return u, nil
	}
	return Unit{}, fmt.Errorf("%q is no unit of %s; use one of %s", strings.TrimSpace(name), kind, strings.Join(Symbols(kind), ", "))
}

// MustNamed is Named for units written in the program itself.
func MustNamed(name string, kind Kind) Unit {
	u, err := Named(name, kind)
	if err != nil {
		panic(err)
	}
	return u
}

// Symbols lists the units of a kind as they are shown.
func Symbols(kind Kind) []string {
	var out []string
	for _, u := range UnitsOf(kind) {
		out = append(out, u.Symbol)
	}
	sort.Strings(out)
	return out
}

// UnitsOf lists the units of a kind in the order in which they are of use.
func UnitsOf(kind Kind) []Unit {
	var out []Unit
	for _, u := range units {
		if u.Kind == kind {
			out = append(out, u)
		}
	}
	return out
}

// Of converts an SI value into this unit.
func (u Unit) Of(si float64) float64 { return (si - u.zero) / u.Factor }

// SI converts a value in this unit.
func (u Unit) SI(v float64) float64 { return v*u.Factor + u.zero }
