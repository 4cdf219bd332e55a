package catalogue

import (
	"idlehiss/core/circuit"
	"idlehiss/core/quantity"
	"idlehiss/desk"
)

// MarkView is a decoded mark with its equivalents.
type MarkView struct {
	Text     string        `json:"text"`
	Doubt    string        `json:"doubt"`
	Readings []MarkReading `json:"readings"`
}

// MarkReading is one way to read the mark.
type MarkReading struct {
	Unit        string            `json:"unit"`
	LowPa       float64           `json:"low_pa"`
	HighPa      float64           `json:"high_pa"`
	HalfDigitPa float64           `json:"half_digit_pa"`
	Doubt       string            `json:"doubt"`
	Equivalents map[string]string `json:"equivalents"`
}

// Decoded reads a mark of a circuit, or refuses it.
func Decoded(c *circuit.Circuit, field, text string) (quantity.Mark, error) {
	if !c.Marked() {
		return quantity.Mark{}, desk.Refuse(field, "no mark limits %s: its steps say how far", c.Title)
	}
	m, err := quantity.DecodeMark(text, c.Plausible())
	if err != nil {
		return m, desk.Refuse(field, "%v", err)
	}
	return m, nil
}

// DecodeMark reads a mark without keeping it.
func (r *Room) DecodeMark(text, circuitID string) (MarkView, error) {
	c, err := r.Named(circuitID)
	if err != nil {
		return MarkView{}, err
	}
	m, err := Decoded(&c, "text", text)
	if err != nil {
		return MarkView{}, err
	}
	return ViewOfMark(m), nil
}

// beside are the units in which a mark is shown, with the last digit written.
var beside = []struct {
	unit  quantity.Unit
	digit float64
}{
	{quantity.MustNamed("bar", quantity.Pressure), 0.01},
	{quantity.MustNamed("psi", quantity.Pressure), 0.1},
	{quantity.MustNamed("kPa", quantity.Pressure), 1},
	{quantity.MustNamed("kgf/cm²", quantity.Pressure), 0.01},
}

// ViewOfMark shows a mark in the usual units.
func ViewOfMark(m quantity.Mark) MarkView {
	v := MarkView{Text: m.Text, Doubt: m.Doubt, Readings: []MarkReading{}}
	for _, r := range m.Readings {
		eq := map[string]string{}
		for _, b := range beside {
			digit := b.unit.SI(b.digit)
			eq[b.unit.Symbol] = b.unit.Show(r.HighPa, digit)
			if r.LowPa != r.HighPa {
				eq[b.unit.Symbol] = b.unit.Figure(r.LowPa, digit) + " to " + eq[b.unit.Symbol]
			}
		}
		v.Readings = append(v.Readings, MarkReading{Unit: r.Unit.Symbol, LowPa: r.LowPa, HighPa: r.HighPa, HalfDigitPa: r.HalfDigitPa, Doubt: r.Doubt, Equivalents: eq})
	}
	return v
}
