package trace_test

import (
	"fmt"
	"strings"

	"idlehiss/core/quantity"
	"idlehiss/core/trace"
)

// Columns carry their unit; readings come as gauge pressure in Pa, phases follow.
func ExampleReadCSV() {
	file := "time [s],pressure [bar],event\n0,0.0,\n2,0.6,stroke\n4,1.1,stroke\n6,1.1,isolate\n60,1.08,\n120,1.08,\n"
	tr, err := trace.ReadCSV(strings.NewReader(file), quantity.StandardAtmosphere)
	if err != nil {
		fmt.Println(err)
		return
	}
	fmt.Printf("%d readings, the last %.0f Pa; the hold begins at %g s\n", len(tr.Readings), tr.Readings[5].GaugePa, tr.HoldFrom())
	_, err = trace.ReadCSV(strings.NewReader("time [s],pressure [bar]\n0,1.1\n10,soon\n20,1.1\n"), quantity.StandardAtmosphere)
	fmt.Println(err)
	// Output:
	// 6 readings, the last 108000 Pa; the hold begins at 6 s
	// line 3, column 4: "soon" stands where a number belongs
}
