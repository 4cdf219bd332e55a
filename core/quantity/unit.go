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
	Pressure Kind = "pressure" // Pa
	Volume   Kind = "volume"   // m³
	Torque   Kind = "torque"   // N·m
	Time     Kind = "time"     // s
	Flow     Kind = "flow"     // m³/s
	Length   Kind = "length"   // m
)

// Unit is one way of writing a kind. Factor converts to SI exactly.
type Unit struct {
	Symbol string // as shown to people
	Kind   Kind
	Factor float64 // SI per unit

	aliases []string
}

// Exact by definition (PHYSICS §1); psi follows from lbf and inch.
var units = []Unit{
	{"psi", Pressure, 6894.757293168361, []string{"lbf/in2", "psig"}},
	{"bar", Pressure, 100000, []string{"barg"}},
	{"kPa", Pressure, 1000, []string{"kpag"}},
	{"MPa", Pressure, 1e6, nil},
	{"mbar", Pressure, 100, []string{"hpa"}},
	{"Pa", Pressure, 1, nil},
	{"kgf/cm²", Pressure, 98066.5, []string{"kg/cm2", "kp/cm2"}},
	{"mmHg", Pressure, 133.322387415, nil},
	{"inHg", Pressure, 3386.389, []string{"\"hg"}},
	{"inH₂O", Pressure, 249.08891, nil},
	{"atm", Pressure, 101325, nil},

	{"L", Volume, 1e-3, []string{"litre", "litres", "liter"}},
	{"mL", Volume, 1e-6, nil},
	{"cm³", Volume, 1e-6, []string{"cc", "ccm"}},
	{"in³", Volume, 16.387064e-6, []string{"cuin"}},
	{"US fl oz", Volume, 29.5735295625e-6, []string{"floz"}},
	{"US qt", Volume, 946.352946e-6, []string{"qt", "quart", "quarts"}},
	{"m³", Volume, 1, nil},

	{"N·m", Torque, 1, []string{"nm"}},
	{"lbf·ft", Torque, 1.3558179483, []string{"lbft", "ftlb", "ftlbf"}},
	{"lbf·in", Torque, 1.3558179483 / 12, []string{"lbin", "inlb", "inlbf"}},

	{"s", Time, 1, []string{"sec", "second", "seconds"}},
	{"min", Time, 60, []string{"minute", "minutes"}},
	{"h", Time, 3600, []string{"hr", "hour", "hours"}},
	{"d", Time, 86400, []string{"day", "days"}},

	{"cm³/min", Flow, 1e-6 / 60, []string{"cc/min", "sccm"}},
	{"mL/h", Flow, 1e-6 / 3600, nil},
	{"mL/min", Flow, 1e-6 / 60, nil},
	{"L/min", Flow, 1e-3 / 60, nil},
	{"L/h", Flow, 1e-3 / 3600, nil},
	{"cm³/s", Flow, 1e-6, []string{"cc/s"}},

	{"mm", Length, 1e-3, nil},
	{"µm", Length, 1e-6, []string{"um"}},
	{"cm", Length, 1e-2, nil},
	{"m", Length, 1, nil},
	{"in", Length, 25.4e-3, []string{"inch"}},
	{"ft", Length, 0.3048, []string{"feet"}},
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
	for _, u := range units {
		if u.Kind == kind {
			out = append(out, u.Symbol)
		}
	}
	sort.Strings(out)
	return out
}

// Of converts an SI value into this unit.
func (u Unit) Of(si float64) float64 { return si / u.Factor }

// SI converts a value in this unit.
func (u Unit) SI(v float64) float64 { return v * u.Factor }
