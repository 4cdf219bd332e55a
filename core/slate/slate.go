// Package slate is the calculators that lie beside every job: each asks for a few
// quantities as a person writes them, shows its formula, and answers in a
// sentence and in figures. The pages and the command line share it.
package slate

import (
	"fmt"
	"maps"
	"math"
	"slices"
	"strings"

	"idlehiss/core/quantity"
)

// Kind is what a field takes: a quantity.Kind, or one of those below.
type Kind string

// The kinds of field beside quantities.
const (
	Number  Kind = "number"  // no unit
	Percent Kind = "percent" // 50 or 50 %
	Text    Kind = "text"
	Rate    Kind = "rate"    // a fall and its time: 10 kPa in 2 min
	Ambient Kind = "ambient" // absolute air pressure, such as 101.3 kPa
	Pick    Kind = "choice"
)

// Field is one thing asked.
type Field struct {
	ID       string   `json:"id"` // also the flag
	Label    string   `json:"label"`
	Kind     Kind     `json:"kind"`
	Unit     string   `json:"unit"`    // of a bare number, where a page takes one
	Default  string   `json:"default"` // as it would be typed
	Optional bool     `json:"optional"`
	Choices  []string `json:"choices"`
	Help     string   `json:"help"`
}

// Figure is one thing told; ID names its unit, as fields of --json do.
type Figure struct {
	ID    string   `json:"id"`
	Label string   `json:"label"`
	Value float64  `json:"value"`
	Text  string   `json:"text"` // with its unit
	Low   *float64 `json:"low"`  // 95 %, where the doubt is known
	High  *float64 `json:"high"`
}

// Answer is what a calculator says.
type Answer struct {
	Sentence string    `json:"sentence"`
	Figures  []Figure  `json:"figures"`
	Notes    []string  `json:"notes"`
	Air      *FoundAir `json:"air"` // trapped air that a job can take over
}

// FoundAir is a volume of trapped air with its standard error, m³.
type FoundAir struct {
	M3        float64 `json:"m3"`
	SE        float64 `json:"se_m3"`
	ByStrokes bool    `json:"by_strokes"` // walls that give way after them are not in it
}

// Calculator is one of them.
type Calculator struct {
	ID      string  `json:"id"`
	Title   string  `json:"title"`
	Formula string  `json:"formula"`
	Fields  []Field `json:"fields"`

	work func(in Inputs) (Answer, error)
}

// All lists the calculators in the order they are used.
func All() []Calculator {
	all := []Calculator{
		mark, convert, ambient,
		volume, volumeDrawn, volumeVessel, volumeLeak, stroke,
		flow, hole, liquid, loss, explain, bubbles,
		boiling, energy, temperature, hold, precharge,
	}
	for i := range all {
		for k := range all[i].Fields {
			if all[i].Fields[k].Choices == nil {
				all[i].Fields[k].Choices = []string{}
			}
		}
	}
	return all
}

// Named finds a calculator.
func Named(id string) (Calculator, error) {
	var names []string
	for _, c := range All() {
		if c.ID == id {
			return c, nil
		}
		names = append(names, c.ID)
	}
	return Calculator{}, fmt.Errorf("there is no calculator %q; there are %s", id, strings.Join(names, ", "))
}

// FieldError says which field was wrong.
type FieldError struct {
	Field string
	error
}

func (e FieldError) Unwrap() error { return e.error }

// InputOf is the field that was wrong.
func (e FieldError) InputOf() string { return e.Field }

func wrong(field, format string, a ...any) error {
	return FieldError{field, fmt.Errorf(format, a...)}
}

// Work answers for what was typed, by field. bare lets a number without a unit
// take the field's own.
func (c Calculator) Work(typed map[string]string, bare bool) (Answer, error) {
	in, err := Read(c.ID, c.Fields, typed, bare, quantity.StandardAtmosphere)
	if err != nil {
		return Answer{}, err
	}
	a, err := c.work(in)
	if a.Notes == nil {
		a.Notes = []string{}
	}
	for _, f := range a.Figures {
		if math.IsNaN(f.Value) || math.IsInf(f.Value, 0) {
			return Answer{}, fmt.Errorf("these figures are too large or too small to calculate with")
		}
	}
	return a, err
}

// Read reads what was typed into fields. bare lets a number without a unit take
// its field's own; ambientPa is the air pressure where no field tells it.
func Read(asker string, fields []Field, typed map[string]string, bare bool, ambientPa float64) (Inputs, error) {
	for id := range typed {
		if !slices.ContainsFunc(fields, func(f Field) bool { return f.ID == id }) {
			return Inputs{}, wrong(id, "%s asks for no %q", asker, id)
		}
	}
	in := Inputs{values: map[string]quantity.Value{}, texts: map[string]string{}, bare: bare, ambient: ambientPa}
	// The air pressure comes first: absolute pressures are read against it.
	fields = slices.Clone(fields)
	slices.SortStableFunc(fields, func(a, b Field) int {
		rank := map[bool]int{true: 0, false: 1}
		return rank[a.Kind == Ambient] - rank[b.Kind == Ambient]
	})
	for _, f := range fields {
		text := strings.TrimSpace(typed[f.ID])
		if text == "" {
			text = f.Default
		}
		if text == "" {
			if !f.Optional {
				return Inputs{}, wrong(f.ID, "%s is needed: %s", strings.ToLower(f.Label), f.example())
			}
			continue
		}
		if err := in.read(f, text); err != nil {
			return Inputs{}, FieldError{f.ID, err}
		}
	}
	return in, nil
}

func (f Field) example() string {
	if f.Help != "" {
		return f.Help
	}
	return "such as " + quantity.Example(quantity.Kind(f.Kind))
}

// Inputs is what was typed into some fields, read.
type Inputs struct {
	values  map[string]quantity.Value
	texts   map[string]string
	bare    bool
	ambient float64 // Pa absolute
}

func (in *Inputs) read(f Field, text string) error {
	in.texts[f.ID] = text
	switch f.Kind {
	case Text:
		return nil
	case Pick:
		if !slices.Contains(f.Choices, text) {
			return fmt.Errorf("%q is none of %s", text, strings.Join(f.Choices, ", "))
		}
		return nil
	case Number, Percent:
		v, _, err := quantity.Number(strings.TrimSpace(strings.TrimSuffix(text, "%")))
		if f.Kind == Percent {
			v /= 100
		}
		if err == nil && v < 0 {
			err = fmt.Errorf("%q: type a number above zero", text)
		}
		in.values[f.ID] = quantity.Value{Low: v, High: v}
		return err
	case Rate:
		unit := quantity.MustNamed("kPa", quantity.Pressure)
		v, fall, over, err := quantity.ParseRate(text, unit, in.ambient)
		if err == nil && fall.Bare && !in.bare {
			err = fmt.Errorf("%q has no unit; type it, as in 10kPa in 2min", text)
		}
		if err == nil {
			in.values[f.ID] = quantity.Value{Low: v, High: v, SE: fall.SE / over.Low, Digit: fall.Digit / over.Low}
		}
		return err
	}
	kind, about := quantity.Kind(f.Kind), in.ambient
	if f.Kind == Ambient {
		kind, about = quantity.Pressure, 0
	}
	var unit quantity.Unit
	if f.Unit != "" {
		unit = quantity.MustNamed(f.Unit, kind)
	}
	v, err := quantity.Parse(text, kind, unit, about)
	if err != nil {
		return err
	}
	if v.Bare && !in.bare {
		return fmt.Errorf("%q has no unit; type it, as in %s", text, quantity.Example(kind))
	}
	if f.Kind == Ambient {
		if v.Low <= 0 || v.High > 200e3 {
			return fmt.Errorf("%q is not an air pressure; type about 70 to 105 kPa", text)
		}
		in.ambient = v.Mid()
	}
	in.values[f.ID] = v
	return nil
}

// SI is a value in SI units.
func (in Inputs) SI(id string) float64 { return in.values[id].Mid() }

// Text is what was typed.
func (in Inputs) Text(id string) string { return in.texts[id] }

// Given reports whether a field was typed or has a default.
func (in Inputs) Given(id string) bool { _, ok := in.texts[id]; return ok }

// SE is the standard error of a value: what stands after its ±, else what its
// last digit leaves open.
func (in Inputs) SE(id string) float64 {
	v := in.values[id]
	if v.SE > 0 {
		return v.SE
	}
	return v.Digit / math.Sqrt(12)
}

// doubt is the standard error of what a formula makes of the values typed: each
// good to what stands after its ±, else to its last digit.
func (in Inputs) doubt(formula func(Inputs) float64) float64 {
	at, sum := formula(in), 0.0
	for _, id := range slices.Sorted(maps.Keys(in.values)) {
		v := in.values[id]
		se := v.SE
		if se == 0 {
			se = v.Digit / math.Sqrt(12)
		}
		moved := in
		moved.values = maps.Clone(in.values)
		v.Low, v.High = v.Low+se/8, v.High+se/8 // a small step: the slope there
		moved.values[id] = v
		if d := 8 * (formula(moved) - at); !math.IsNaN(d) {
			sum += d * d
		}
	}
	return math.Sqrt(sum)
}

// share is the doubt of a value over itself.
func (in Inputs) share(id string) float64 {
	if v := in.values[id]; v.Mid() != 0 {
		return math.Abs(v.SE / v.Mid())
	}
	return 0
}

// InUnit makes a figure from an SI value and a unit.
func InUnit(id, label string, si float64, symbol string, kind quantity.Kind) Figure {
	return inUnit(id, label, si, symbol, kind)
}

func inUnit(id, label string, si float64, symbol string, kind quantity.Kind) Figure {
	u := quantity.MustNamed(symbol, kind)
	v := u.Of(si)
	return Figure{ID: id, Label: label, Value: v, Text: quantity.Significant(v, 3) + " " + u.Symbol}
}

// between adds the 95 % interval that a share of doubt makes.
func (f Figure) between(share float64) Figure {
	if share > 0 {
		low, high := f.Value*(1-1.96*share), f.Value*(1+1.96*share)
		f.Low, f.High = &low, &high
	}
	return f
}

func plain(id, label string, v float64, unit string) Figure {
	return Figure{ID: id, Label: label, Value: v, Text: strings.TrimSpace(quantity.Significant(v, 3) + " " + unit)}
}

var (
	ambientField = Field{ID: "ambient", Label: "Air pressure", Kind: Ambient, Unit: "kPa", Default: "101.325 kPa", Help: "absolute; see altitude"}
	atField      = Field{ID: "at", Label: "Pressure", Kind: Kind(quantity.Pressure), Unit: "kPa", Help: "gauge, such as 110 kPa; vacuum as -40 kPa or 12 inHg vac"}
	gasField     = Field{ID: "gas", Label: "Trapped air", Kind: Kind(quantity.Volume), Unit: "L", Help: "such as 0.45 L ± 0.03 L"}
	warmthField  = Field{ID: "temperature", Label: "Temperature", Kind: Kind(quantity.Warmth), Unit: "°C", Default: "20 °C"}
)
