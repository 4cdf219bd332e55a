package slate

import (
	"fmt"
	"strings"

	"idlehiss/core/physics"
	"idlehiss/core/quantity"
)

var mark = Calculator{
	ID: "mark", Title: "A mark on a cap", Formula: "tried as bar, kgf/cm², psi and kPa; kept where it lies between 20 and 250 kPa",
	Fields: []Field{{ID: "text", Label: "Mark on the cap", Kind: Text, Help: "such as 16, 1.1, 13-15 psi"}},
	work: func(in Inputs) (Answer, error) {
		m, err := quantity.DecodeMark(in.texts["text"], quantity.CapMarks)
		if err != nil {
			return Answer{}, FieldError{"text", err}
		}
		first := m.Readings[0]
		a := Answer{Sentence: fmt.Sprintf("%s is %s kPa (unit taken: %s), ± %s kPa.", m.Text, quantity.Significant(first.HighPa/1e3, 3), first.Unit.Symbol, quantity.Significant(first.HalfDigitPa/1e3, 2))}
		if first.LowPa != first.HighPa {
			a.Sentence = fmt.Sprintf("%s is a band: %s to %s kPa (unit taken: %s).", m.Text, quantity.Significant(first.LowPa/1e3, 3), quantity.Significant(first.HighPa/1e3, 3), first.Unit.Symbol)
			a.Figures = append(a.Figures, inUnit("low_kpa", "Lower", first.LowPa, "kPa", quantity.Pressure))
		}
		for _, s := range []struct{ id, symbol string }{{"kpa", "kPa"}, {"bar", "bar"}, {"psi", "psi"}, {"kgf_per_cm2", "kgf/cm²"}} {
			a.Figures = append(a.Figures, inUnit(s.id, "In "+s.symbol, first.HighPa, s.symbol, quantity.Pressure))
		}
		if m.Doubt != "" {
			a.Notes = append(a.Notes, m.Doubt)
		}
		return a, nil
	},
}

// slug writes a unit's symbol as a field's name.
var slug = strings.NewReplacer("²", "2", "³", "3", "₂", "2", "/", "_per_", "·", "_", " ", "_", "µ", "u", "°", "")

var convert = Calculator{
	ID: "convert", Title: "Other units", Formula: "exact factors to SI (psi 6894.757 Pa, inHg 3386.389 Pa, …)",
	Fields: []Field{
		{ID: "value", Label: "Value with its unit", Kind: Text, Help: "such as 16 psi, 7 inHg vac, 200 kPa abs, 12 in³"},
		ambientField,
	},
	work: func(in Inputs) (Answer, error) {
		var v quantity.Value
		var kind quantity.Kind
		var first error
		for _, kind = range []quantity.Kind{quantity.Pressure, quantity.Volume, quantity.Torque, quantity.Flow, quantity.Length, quantity.Area, quantity.Warmth, quantity.Time} {
			var err error
			v, err = quantity.Parse(in.texts["value"], kind, quantity.Unit{}, in.ambient)
			if err == nil && v.Bare {
				err = fmt.Errorf("%q has no unit; type it, as in 16psi", in.texts["value"])
			}
			if err == nil {
				first = nil
				break
			}
			// A unit that was known makes the complaint that fits.
			if first == nil || !strings.Contains(err.Error(), "is no unit of") && strings.Contains(first.Error(), "is no unit of") {
				first = err
			}
		}
		if first != nil {
			return Answer{}, FieldError{"value", first}
		}
		if v.Band() {
			return Answer{}, wrong("value", "%q is a band; type one figure", in.texts["value"])
		}
		var a Answer
		var said []string
		for _, u := range quantity.UnitsOf(kind) {
			f := inUnit(strings.ToLower(slug.Replace(u.Symbol)), u.Symbol, v.Low, u.Symbol, kind)
			if len(said) < 3 && u.Symbol != v.Unit.Symbol {
				said = append(said, f.Text)
			}
			f.Text = quantity.Significant(f.Value, 5) + " " + u.Symbol
			a.Figures = append(a.Figures, f)
		}
		if kind == quantity.Pressure {
			a.Figures = append(a.Figures, inUnit("kpa_abs", "Absolute", v.Low+in.ambient, "kPa", kind))
		}
		a.Sentence = fmt.Sprintf("%s is %s.", in.texts["value"], strings.Join(said, ", "))
		return a, nil
	},
}

var ambient = Calculator{
	ID: "ambient", Title: "Air pressure by altitude", Formula: "p = 101325·(1 − 2.25577·10⁻⁵·h)^5.25588, standard atmosphere",
	Fields: []Field{{ID: "altitude", Label: "Altitude", Kind: Kind(quantity.Altitude), Unit: "m", Help: "such as 640 m"}},
	work: func(in Inputs) (Answer, error) {
		if in.SI("altitude") > 9000 {
			return Answer{}, wrong("altitude", "%s is too high; type up to 9000 m", in.texts["altitude"])
		}
		pa := physics.Ambient(in.SI("altitude"))
		return Answer{Sentence: fmt.Sprintf("Air pressure at that altitude: about %s kPa.", quantity.Significant(pa/1e3, 4)),
			Figures: []Figure{inUnit("ambient_kpa", "Air pressure", pa, "kPa", quantity.Pressure), inUnit("ambient_inhg", "As mercury", pa, "inHg", quantity.Pressure)},
			Notes:   []string{"The weather changes it by some kPa: a barometer is better."}}, nil
	},
}
