package quantity

import (
	"fmt"
	"strconv"
)

// Written quantities stand in files with their unit ("0.6 L", "120 kPa") and in
// the program as SI. The zero value stands for "not given".
type (
	Pa     float64 // gauge pressure or pressure difference
	M2     float64 // area
	M3     float64 // volume
	S      float64 // time
	Nm     float64 // torque
	M3PerS float64 // standard flow
)

// UnmarshalText reads a pressure with its unit.
func (p *Pa) UnmarshalText(b []byte) error { return written(b, Pressure, (*float64)(p)) }

// UnmarshalText reads an area with its unit.
func (a *M2) UnmarshalText(b []byte) error { return written(b, Area, (*float64)(a)) }

// UnmarshalText reads a volume with its unit.
func (v *M3) UnmarshalText(b []byte) error { return written(b, Volume, (*float64)(v)) }

// UnmarshalText reads a time with its unit.
func (s *S) UnmarshalText(b []byte) error { return written(b, Time, (*float64)(s)) }

// UnmarshalText reads a torque with its unit.
func (t *Nm) UnmarshalText(b []byte) error { return written(b, Torque, (*float64)(t)) }

// UnmarshalText reads a flow with its unit.
func (q *M3PerS) UnmarshalText(b []byte) error { return written(b, Flow, (*float64)(q)) }

// The same from a YAML document. A reader of YAML that finds only UnmarshalText first writes the
// node out again, which takes most of its time in a file of a thousand quantities.

// UnmarshalYAML reads a pressure with its unit.
func (p *Pa) UnmarshalYAML(node func(any) error) error { return ofYAML(node, p.UnmarshalText) }

// UnmarshalYAML reads an area with its unit.
func (a *M2) UnmarshalYAML(node func(any) error) error { return ofYAML(node, a.UnmarshalText) }

// UnmarshalYAML reads a volume with its unit.
func (v *M3) UnmarshalYAML(node func(any) error) error { return ofYAML(node, v.UnmarshalText) }

// UnmarshalYAML reads a time with its unit.
func (s *S) UnmarshalYAML(node func(any) error) error { return ofYAML(node, s.UnmarshalText) }

// UnmarshalYAML reads a torque with its unit.
func (t *Nm) UnmarshalYAML(node func(any) error) error { return ofYAML(node, t.UnmarshalText) }

// UnmarshalYAML reads a flow with its unit.
func (q *M3PerS) UnmarshalYAML(node func(any) error) error { return ofYAML(node, q.UnmarshalText) }

func ofYAML(node func(any) error, read func([]byte) error) error {
	var text string
	if err := node(&text); err != nil {
		return err
	}
	return read([]byte(text))
}

func written(b []byte, kind Kind, into *float64) error {
	if len(b) == 0 {
		*into = 0
		return nil
	}
	var none Unit
	v, err := Parse(string(b), kind, none, StandardAtmosphere)
	if err != nil {
		return err
	}
	if v.Bare {
		return fmt.Errorf("%q has no unit; type it, such as %s", b, Example(kind))
	}
	if v.Band() {
		return fmt.Errorf("%q is a band; type one figure", b)
	}
	*into = v.Low
	return nil
}

// MarshalText writes kPa.
func (p Pa) MarshalText() ([]byte, error) { return shown(float64(p)/1e3, "kPa"), nil }

// MarshalText writes cm².
func (a M2) MarshalText() ([]byte, error) { return shown(float64(a)*1e4, "cm²"), nil }

// MarshalText writes litres.
func (v M3) MarshalText() ([]byte, error) { return shown(float64(v)*1e3, "L"), nil }

// MarshalText writes seconds.
func (s S) MarshalText() ([]byte, error) { return shown(float64(s), "s"), nil }

// MarshalText writes N·m.
func (t Nm) MarshalText() ([]byte, error) { return shown(float64(t), "N·m"), nil }

// MarshalText writes cm³ a minute.
func (q M3PerS) MarshalText() ([]byte, error) { return shown(float64(q)*60e6, "cm³/min"), nil }

// shown writes a figure that reads back to what a person would have written;
// nothing where nothing was given.
func shown(v float64, unit string) []byte {
	if v == 0 {
		return nil
	}
	nine, err := strconv.ParseFloat(strconv.FormatFloat(v, 'e', 8, 64), 64)
	if err != nil {
		nine = v
	}
	return []byte(strconv.FormatFloat(nine, 'f', -1, 64) + " " + unit)
}
