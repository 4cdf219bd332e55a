package shop

import (
	"fmt"
	"testing"

	"idlehiss/core/steps"
	"idlehiss/core/terms"
	"idlehiss/core/trace"
)

// BenchmarkJob is what a sheet costs to show: a train of twelve wagons with its round
// walked, on a machine that has been here fifty times, with a kit of forty pieces.
func BenchmarkJob(tb *testing.B) {
	b := open(tb)
	for n := range 40 {
		b.Fitting(NewFitting{Write: b.write(), Kind: terms.AdapterKit, Name: fmt.Sprintf("Adapter %d", n), Families: []terms.Fitting{terms.ExpandingRubber}, Width: fmt.Sprintf("%d to %d mm", 20+n, 23+n), Rating: "200 kPa"})
	}
	var wagons []string
	for n := range 12 {
		wagons = append(wagons, fmt.Sprintf("Wagon %d", n+1))
	}
	var j JobView
	for range 50 {
		j = b.train(wagons...)
	}
	b.tickAll(j, true)
	for n := range wagons {
		must[JobView](b)(b.Found(j.ID, "continuity", Found{Write: b.write(), Rows: []steps.EntryRow{{ID: fmt.Sprintf("continuity-%d", n+1), Cells: map[string]string{"on": "20 s", "off": "yes"}}}}))
	}
	h := must[HoldView](b)(b.Start(j.ID, StartHold{Write: b.write(), Purpose: terms.Test, Step: "leak-brake"}))
	b.event(h.ID, trace.Release)
	for tb.Loop() {
		if _, err := b.Job(j.ID); err != nil {
			tb.Fatal(err)
		}
	}
}
