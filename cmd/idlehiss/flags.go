package main

import (
	"idlehiss/core/quantity"
)

// Quantities on the command line carry their unit; a bare number is refused
// where nothing says which unit it is in.
type (
	pressureFlag struct{ quantity.Value }
	volumeFlag   struct{ quantity.Value }
	timeFlag     struct{ quantity.Value }
)

func withUnit(text string, kind quantity.Kind) (quantity.Value, error) {
	v, err := quantity.Parse(text, kind, quantity.Unit{}, quantity.StandardAtmosphere)
	if err == nil && v.Bare {
		err = badInput("%q has no unit; type it, as in %s", text, map[quantity.Kind]string{
			quantity.Pressure: "16psi", quantity.Volume: "0.45L", quantity.Time: "90s", quantity.Flow: "3cm3/min"}[kind])
	}
	return v, err
}

func (f *pressureFlag) UnmarshalText(b []byte) (err error) {
	f.Value, err = withUnit(string(b), quantity.Pressure)
	return err
}

func (f *volumeFlag) UnmarshalText(b []byte) (err error) {
	f.Value, err = withUnit(string(b), quantity.Volume)
	return err
}

func (f *timeFlag) UnmarshalText(b []byte) (err error) {
	f.Value, err = withUnit(string(b), quantity.Time)
	return err
}
