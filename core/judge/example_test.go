package judge_test

import (
	"fmt"
	"strings"

	"idlehiss/core/judge"
	"idlehiss/core/quantity"
	"idlehiss/core/trace"
)

// A file says how it is to be judged by its own line; the report is read by its codes.
func ExampleJudge() {
	file := "# judge: --limit '1kPa in 1min' --digital 0.1kPa\n" +
		"time [s],pressure [kPa]\n0,110.0\n30,108.0\n60,106.0\n90,104.0\n120,102.1\n150,100.1\n180,98.2\n"
	tr, err := trace.ReadCSV(strings.NewReader(file), quantity.StandardAtmosphere)
	if err != nil {
		fmt.Println(err)
		return
	}
	settings, err := judge.ParseSettings(tr.Settings)
	if err != nil {
		fmt.Println(err)
		return
	}
	question, err := settings.Question(tr)
	if err != nil {
		fmt.Println(err)
		return
	}
	report, err := judge.Judge(tr, question, nil, false)
	if err != nil {
		fmt.Println(err)
		return
	}
	fmt.Println(report.Call, report.Reasons[0].Code)
	fmt.Printf("%.1f kPa/min\n", report.RateKPaPerMin.Value)
	// Output:
	// leaking loses-more-than-allowed
	// 4.0 kPa/min
}

// The same settings are written as they are read.
func ExampleParseSettings() {
	s, err := judge.ParseSettings("--gas '0.45L ± 0.03L' --limit '10kPa in 2min' --live")
	fmt.Println(s, err)
	_, err = judge.ParseSettings("--gas")
	fmt.Println(err)
	// Output:
	// --limit '10kPa in 2min' --gas '0.45L ± 0.03L' --live <nil>
	// --gas needs a value
}
