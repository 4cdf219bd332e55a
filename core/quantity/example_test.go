package quantity_test

import (
	"fmt"

	"idlehiss/core/quantity"
)

// A pressure may be typed in any unit, with its doubt; a bare number takes the gauge's.
func ExampleParse() {
	psi := quantity.MustNamed("psi", quantity.Pressure)
	for _, typed := range []string{"16", "1,1 bar", "-7 inHg"} {
		v, err := quantity.Parse(typed, quantity.Pressure, psi, quantity.StandardAtmosphere)
		fmt.Printf("%s: %.1f kPa %v\n", typed, v.Mid()/1e3, err)
	}
	// Output:
	// 16: 110.3 kPa <nil>
	// 1,1 bar: 110.0 kPa <nil>
	// -7 inHg: -23.7 kPa <nil>
}

// A bare figure on a cap is read in the unit in which it lands in range.
func ExampleDecodeMark() {
	m, err := quantity.DecodeMark("1.1", quantity.CapMarks)
	if err != nil {
		fmt.Println(err)
		return
	}
	for _, r := range m.Readings {
		fmt.Printf("%s: %.1f kPa\n", r.Unit.Symbol, r.HighPa/1e3)
	}
	// Output:
	// bar: 110.0 kPa
	// kgf/cm²: 107.9 kPa
}

// The first letter alone changes its case, in any script, and an empty text stays empty.
func ExampleLower() {
	fmt.Println(quantity.Lower("Ölkühler dicht"), quantity.Capital("ölkühler"), quantity.Lower("") == "")
	// Output:
	// ölkühler dicht Ölkühler true
}
