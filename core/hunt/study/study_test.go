package study

import (
	"fmt"
	"slices"
	"testing"

	"idlehiss/core/circuit"
	"idlehiss/core/hunt"
	"idlehiss/library"
)

func lib(t testing.TB) ([]circuit.Circuit, Known) {
	t.Helper()
	circuits, err := library.Circuits()
	if err != nil {
		t.Fatal(err)
	}
	methods, err := library.Methods()
	if err != nil {
		t.Fatal(err)
	}
	repairs, err := library.Repairs()
	if err != nil {
		t.Fatal(err)
	}
	return circuits, Known{methods, repairs}
}

// A small version of docs/hunt.md: every circuit, odds wrong by three. Sixty hunts tell the mean to a fifth, so the
// bound is wider than what the page shows of hundreds.
func TestOursFindsItSoonerThanAWalkRound(t *testing.T) {
	circuits, known := lib(t)
	rows := Rows(Run(circuits, known, Worlds[1], 3, 1000))
	ours, walk := rows[0], rows[1]
	if ours.N != 3*len(circuits) || ours.Mean > 0.75*walk.Mean || ours.Right < 0.9 || ours.Right <= walk.Right || ours.GivenUp > walk.GivenUp {
		t.Errorf("ours %+v\nwalk-round %+v", ours, walk)
	}
	// The same seed is the same hunt.
	again := Rows(Run(circuits[:2], known, Worlds[1], 2, 1000))
	if first := Rows(Run(circuits[:2], known, Worlds[1], 2, 1000)); first[0] != again[0] {
		t.Errorf("%+v and %+v", first[0], again[0])
	}
}

// What a look costs on the largest circuit, after a call, three misses and an act.
func BenchmarkSuspectsAndNext(b *testing.B) {
	circuits, _ := lib(b)
	largest := &circuits[0]
	for i := range circuits {
		if len(circuits[i].Parts) > len(largest.Parts) {
			largest = &circuits[i]
		}
	}
	bench(b, largest, "")
}

// The same with a train of 24 wagons, one suspect a wagon for each of its parts.
func BenchmarkSuspectsAndNextOfATrain(b *testing.B) {
	circuits, _ := lib(b)
	i := slices.IndexFunc(circuits, func(c circuit.Circuit) bool { return c.ID == "train-brake" })
	names := make([]string, 24)
	for k := range names {
		names[k] = fmt.Sprint(k + 1)
	}
	train := circuits[i].ByThings(names)
	bench(b, &train, "leak-brake")
}

func bench(b *testing.B, c *circuit.Circuit, step string) {
	_, known := lib(b)
	x := hunt.Hunt{Scene: hunt.Scene{Circuit: c, AtPa: 100e3, AmbientPa: 101325, Methods: known.Methods, Repairs: known.Repairs, Suspects: hunt.Suspects(c, nil, nil, "")}}
	x.Step, _ = c.Test(step)
	x.Shares = hunt.Told{Hunch: -1}.Shares(x.Suspects)
	held := x.Tried(x.Step)
	held.Flow, held.SE, held.Leaking = 5e-8, 5e-9, true
	x.Found = append(x.Found, held, hunt.Phase{Dripped: true})
	for i := range 3 {
		x.Found = append(x.Found, x.Look(i, known.Methods[6], false))
	}
	x.Found = append(x.Found, hunt.Slowed{Cut: make([]bool, len(x.Suspects)), Share: 1, SE: 0.1})
	for b.Loop() {
		x.Report()
	}
	b.ReportMetric(float64(len(x.Suspects)), "suspects")
}
