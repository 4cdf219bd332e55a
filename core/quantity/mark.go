package quantity

import (
	"fmt"
	"math"
	"sort"
	"strings"
)

// Plausible is the range of pressures that a kind of mark can mean.
type Plausible struct {
	What                string  // "cap"
	LowPa, HighPa       float64 // outside: no such mark
	SureLow, SureHighPa float64 // outside, but within the above: doubted aloud
}

// CapMarks is the range of radiator and tank caps (PHYSICS §1).
var CapMarks = Plausible{What: "cap", LowPa: 20e3, HighPa: 250e3, SureLow: 50e3, SureHighPa: 200e3}

// Figures that caps carry bare, by the unit they are printed in. Nothing else
// is printed on caps without its unit.
var printedBare = []struct {
	symbol    string
	low, high float64 // the usual figures
}{
	{"bar", 0.5, 2}, {"kgf/cm²", 0.5, 2}, {"psi", 7, 30}, {"kPa", 50, 250},
}

// Reading is one way to read a mark.
type Reading struct {
	Unit          Unit
	LowPa, HighPa float64 // gauge; equal for a single figure
	HalfDigitPa   float64 // a mark is good to half its last digit
	Doubt         string  // why it is unlikely; empty when it is not
}

// Mark is a decoded mark: its readings, most likely first.
type Mark struct {
	Text     string
	Bare     bool
	Readings []Reading
	Doubt    string // said aloud: why the first reading may be wrong; "" when clear
}

// Band says whether the mark gives a lower and an upper figure.
func (m Mark) Band() bool { return m.Readings[0].LowPa != m.Readings[0].HighPa }

// LimitPa is the nominal ceiling: the mark, or the upper figure of a band.
func (r Reading) LimitPa() float64 { return r.HighPa }

// CeilingPa is the highest pressure the mark can still mean, to half its last digit.
func (r Reading) CeilingPa() float64 { return r.HighPa + r.HalfDigitPa }

// DecodeMark reads the figure on a cap or plate. Bare numbers are tried in every
// unit such marks are printed in; those in the plausible range are kept.
func DecodeMark(text string, p Plausible) (Mark, error) {
	m := Mark{Text: strings.TrimSpace(text)}
	v, err := Parse(text, Pressure, MustNamed("kPa", Pressure), StandardAtmosphere)
	if err != nil {
		return m, fmt.Errorf("the mark on the %s: %w", p.What, err)
	}
	if v.Low <= 0 {
		return m, fmt.Errorf("the mark on the %s is %q, but a %s holds pressure above ambient: a figure such as 1.1, 16 or 110 kPa is wanted", p.What, text, p.What)
	}
	m.Bare = v.Bare
	type tried struct {
		Reading
		usual bool
	}
	var all []tried
	var out []string
	try := func(u Unit, usual bool) {
		f := u.Factor / v.Unit.Factor
		r := Reading{Unit: u, LowPa: v.Low * f, HighPa: v.High * f, HalfDigitPa: v.Digit * f / 2}
		if r.LowPa < p.LowPa || r.HighPa > p.HighPa {
			out = append(out, fmt.Sprintf("as %s it would be %s kPa", u.Symbol, Significant(r.HighPa/1e3, 3)))
			return
		}
		switch kpa := Significant(r.HighPa/1e3, 3); {
		case r.LowPa < p.SureLow:
			r.Doubt = fmt.Sprintf("%s kPa is low for a %s; look at the mark again", Significant(r.LowPa/1e3, 3), p.What)
		case r.HighPa > p.SureHighPa:
			r.Doubt = fmt.Sprintf("%s kPa is high for a %s; look at the mark again", kpa, p.What)
		}
		all = append(all, tried{r, usual})
	}
	if v.Bare {
		bare := v.Unit.Of(v.Low)
		for _, c := range printedBare {
			try(MustNamed(c.symbol, Pressure), bare >= c.low && bare <= c.high)
		}
	} else {
		try(v.Unit, true)
	}
	if len(all) == 0 {
		return m, fmt.Errorf("%q is no %s's mark: %s; %ss run from %.0f to %.0f kPa (%s to %s psi)", text, p.What, strings.Join(out, ", "), p.What,
			p.LowPa/1e3, p.HighPa/1e3, Significant(p.LowPa/6894.757, 2), Significant(p.HighPa/6894.757, 2))
	}
	// Likelihood: an undoubted value in a unit's usual figures first; bar before
	// kgf/cm² because newer marks are in bar.
	rank := func(t tried) int {
		n := 0
		if t.Doubt != "" {
			n += 2
		}
		if !t.usual {
			n++
		}
		return n
	}
	sort.SliceStable(all, func(i, j int) bool { return rank(all[i]) < rank(all[j]) })
	for _, t := range all {
		m.Readings = append(m.Readings, t.Reading)
	}
	m.Doubt = m.doubt()
	return m, nil
}

func (m Mark) doubt() string {
	first := m.Readings[0]
	var parts []string
	if first.Doubt != "" {
		parts = append(parts, first.Doubt)
	}
	if m.Bare && len(m.Readings) > 1 {
		second := m.Readings[1]
		if apart := math.Abs(second.HighPa/first.HighPa - 1); apart < 0.05 {
			parts = append(parts, fmt.Sprintf("it could be %s, %.0f %% lower: the difference does not matter here", second.Unit.Symbol, 100*apart))
		} else {
			parts = append(parts, fmt.Sprintf("it could also be %s, %s kPa", second.Unit.Symbol, Significant(second.HighPa/1e3, 3)))
		}
	}
	if len(parts) == 0 {
		return ""
	}
	all := strings.Join(parts, "; ")
	return Capital(all) + "."
}
