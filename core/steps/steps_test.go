package steps

import (
	"errors"
	"fmt"
	"slices"
	"strings"
	"testing"

	"idlehiss/core/circuit"
	"idlehiss/core/quantity"
	"idlehiss/library"
)

// of the library: a circuit as it ships, and one of its steps.
func shipped(t *testing.T, id, step string) (circuit.Circuit, circuit.Step) {
	t.Helper()
	c, err := library.Circuit(id)
	if err != nil {
		t.Fatal(err)
	}
	s, ok := c.Test(step)
	if !ok || s.ID != step {
		t.Fatalf("%s has no step %s", id, step)
	}
	return c, s
}

// cells makes a row: id, then pairs.
func cells(id string, pairs ...string) EntryRow {
	r := EntryRow{ID: id, Title: id, Cells: map[string]string{}}
	for i := 0; i < len(pairs); i += 2 {
		r.Cells[pairs[i]] = pairs[i+1]
	}
	return r
}

func fields(pairs ...string) Entry { return Entry{Fields: cells("", pairs...).Cells} }

func table(rows ...EntryRow) Entry { return Entry{Rows: rows} }

// Each kind of step, good, bad and not whole.
func TestEveryKindOfStep(t *testing.T) {
	feed := func(still, moved string) Entry {
		e := table(cells("still", "from", "7.00 bar", "to", still, "time", "60 s"), cells("moved", "from", "7.00 bar", "to", moved, "time", "60 s"))
		e.Fields = map[string]string{"tank": "100 L"}
		return e
	}
	cylinders := func(pump string, values ...string) Entry {
		e := table(cells("pump", "value", pump))
		for i, v := range values {
			e.Rows = append(e.Rows, cells(fmt.Sprintf("c%d", i+1), "value", v))
		}
		return e
	}
	wagons := []string{"Wagon 1", "Wagon 2", "Wagon 3", "Wagon 4", "Wagon 5"}
	walk := func(third string) Entry {
		var e Entry
		for i := range wagons {
			on := "yes"
			if i == 2 {
				on = third
			}
			e.Rows = append(e.Rows, cells(fmt.Sprintf("continuity-%d", i+1), "on", on, "off", "yes"))
		}
		return e
	}
	press := func(n int, before, after, later string) EntryRow {
		return cells(fmt.Sprintf("press-%d", n), "before", before, "after", after, "later", later)
	}
	var cracks []EntryRow
	for i := range 7 {
		cracks = append(cracks, cells(fmt.Sprintf("place-%d", i+1), "powder", "nothing"))
	}
	cracked := slices.Clone(cracks)
	cracked[3] = cells("place-4", "powder", "crack", "air", "does not")
	leaking := slices.Clone(cracks)
	leaking[4] = cells("place-5", "powder", "crack", "air", "leaks", "verdict", "sleeve")
	for _, x := range []struct {
		circuit, step string
		entry         Entry
		want          Verdict
		says          string
	}{
		{"boosted-intake", "feed", Entry{}, Unknown, "time its fall"},
		{"boosted-intake", "feed", feed("6.70 bar", "6.70 bar"), Good, "at rest and moved"},    // 29.6 L/min: 4.6 more than usual
		{"boosted-intake", "feed", feed("6.70 bar", "6.20 bar"), Bad, "only when it is moved"}, // 79 L/min
		{"boosted-intake", "feed", feed("6.0 bar", "6.0 bar"), Bad, "nothing moved"},           // 99 L/min
		{"boosted-intake", "feed", Entry{Fields: map[string]string{"tank": "100 L"}, Rows: []EntryRow{cells("still", "from", "7.00 bar", "to", "6.70 bar", "time", "60 s")}}, Unknown, "move every joint"},
		{"pressure-cap", "lift", fields("lifted", "112 kPa", "held", "101 kPa"), Good, "right for its mark"},
		{"pressure-cap", "lift", fields("lifted", "70 kPa", "held", "60 kPa", "clean", "no"), Unknown, "before it is condemned"},
		{"pressure-cap", "lift", fields("lifted", "70 kPa", "held", "60 kPa", "clean", "yes"), Bad, "40.0 kPa under its mark"},
		{"pressure-cap", "lift", fields("lifted", "140 kPa", "held", "120 kPa", "clean", "yes"), Bad, "loads every hose"},
		{"pressure-cap", "lift", fields("lifted", "110 kPa", "held", "5 kPa", "clean", "yes"), Bad, "does not hold"},
		{"carburettor-bench", "primer", table(press(1, "45 kPa", "40 kPa", "40 kPa"), press(2, "40 kPa", "36 kPa", "36 kPa"), press(3, "36", "32", "32"), press(4, "32", "28", "28.3")), Good, "there it stays"},
		{"carburettor-bench", "primer", table(press(1, "45 kPa", "40 kPa", "44 kPa")), Bad, "does not stay"},
		{"carburettor-bench", "primer", table(press(1, "45 kPa", "44.5 kPa", "44.5 kPa")), Bad, "must move 2.00 kPa down"},
		{"carburettor-bench", "primer", table(press(1, "45 kPa", "40 kPa", "40 kPa")), Unknown, "1 of 4"},
		{"train-brake", "emergency-front", fields("near", "3.1", "far", "4.6 s"), Good, "1.5 s between"},
		{"train-brake", "emergency-front", fields("near", "2.6 s", "far", "7.4 s"), Bad, "something between them is narrow"},
		{"train-brake", "emergency-front", fields("near", "1.2 s", "far", "3 s"), Bad, "too soon"},
		{"train-brake", "emergency-front", fields("near", "1.2 s"), Unknown, "Time both"},
		{"train-brake", "one-way", fields("before", "800 kPa", "after", "801 kPa"), Good, "did not move in 2:00"},
		{"train-brake", "one-way", fields("before", "800 kPa", "after", "812 kPa"), Bad, "lets through"},
		{"train-brake", "one-way", fields("before", "800 kPa", "after", "790 kPa"), Bad, "loses by itself"},
		{"train-brake", "one-way", fields("before", "800 kPa", "after", "800 kPa", "time", "30 s"), Unknown, "0:30 only"},
		{"train-brake", "continuity", walk("yes"), Good, "All 5"},
		{"train-brake", "continuity", walk("no"), Bad, "Failed: Wagon 3"},
		{"train-brake", "continuity", walk("1:25"), Bad, "Wagon 3"},
		{"train-brake", "continuity", walk("52 s"), Good, "All 5"},
		{"train-brake", "continuity", walk(""), Unknown, "4 of 5"},
		{"powered-hydraulic-set", "pressures", cylinders("135", "112", "111", "114", "88", "113", "112", "110"), Bad, "Too low: Cylinder 4. 7 of 8"},
		{"powered-hydraulic-set", "pressures", cylinders("135", "112", "111", "114", "98", "113", "112", "110"), Good, "1 of them short of good"},
		{"powered-hydraulic-set", "pressures", cylinders("90", "85"), Bad, "says nothing until"},
		{"powered-hydraulic-set", "pressures", cylinders("", "112"), Unknown, "comes first"},
		{"powered-hydraulic-set", "pressures", cylinders("135", "80"), Bad, "even after a bad one"},
		{"bare-radiator", "lost-area", table(cells("bent", "value", "8"), cells("tubes", "value", "2 %")), Good, "6.0 % is lost: use it"},
		{"bare-radiator", "lost-area", table(cells("bent", "value", "20"), cells("tubes", "value", "10")), Good, "watch the temperature"},
		{"bare-radiator", "lost-area", table(cells("bent", "value", "20"), cells("tubes", "value", "25")), Bad, "replace"},
		// 30 bar at 20 °C is 28.4 bar at 5 °C: right, though the plate says 30.
		{"accumulator-small", "precharge", fields("plate", "30 bar", "temperature", "5 °C", "found", "28.2 bar"), Good, "Right: 28.2 bar at 5 °C"},
		{"accumulator-small", "precharge", fields("plate", "30 bar", "temperature", "20 °C", "found", "24 bar"), Bad, "Low"},
		{"accumulator-small", "precharge", fields("plate", "30 bar", "temperature", "20 °C", "found", "24 bar", "after", "30.2 bar"), Good, "Right"},
		{"accumulator-large", "precharge", fields("plate", "30 bar", "temperature", "20 °C", "found", "36 bar"), Bad, "Vent about"},
		{"accumulator-large", "precharge", fields("plate", "30 bar", "temperature", "5 °C"), Unknown, "should show 28.4 bar"},
		{"engine-block", "powder", table(cracks...), Good, "Nothing in 7 places"},
		{"engine-block", "powder", table(cracked...), Good, "Cracked but tight: oil galleries"},
		{"engine-block", "powder", table(leaking...), Bad, "Leaks: left bores"},
		{"engine-block", "powder", table(cracks[:3]...), Unknown, "3 of 7"},
		{"cylinder-head", "nip", fields("done", "3"), Good, "10 bolts, 3 rounds"},
		{"cylinder-head", "nip", fields("done", "1"), Unknown, "all to 30.0 N·m, 1 to 10"},
		{"cylinder-head", "nip", fields("bolts", "4 6 4", "torques", "20 N·m", "done", "1"), Good, "14 bolts"},
	} {
		c, s := shipped(t, x.circuit, x.step)
		g := Given{AmbientPa: 101325, StepPa: 250, Things: wagons}
		if c.Marked() {
			m, err := quantity.DecodeMark("110 kPa", c.Plausible())
			if err != nil {
				t.Fatal(err)
			}
			g.Mark = &m.Readings[0]
		}
		out, err := Judge(s, &c, g, x.entry)
		if err != nil || out.Verdict != x.want || !strings.Contains(out.Sentence, x.says) {
			t.Errorf("%s %s, %+v: %s, %q, %v; want %s, %q", x.circuit, x.step, x.entry, out.Verdict, out.Sentence, err, x.want, x.says)
		}
	}
}

func TestAListIsAGate(t *testing.T) {
	c, s := shipped(t, "powered-hydraulic-set", "ready")
	out, err := Judge(s, &c, Given{Ticked: map[string]bool{"level": true}}, Entry{})
	if err != nil || out.Verdict != Unknown || !strings.Contains(out.Sentence, "1 of 4") {
		t.Errorf("%+v %v", out, err)
	}
	out, _ = Judge(s, &c, Given{Ticked: map[string]bool{"level": true, "battery": true, "clear": true, "gauge-seen": true}}, Entry{})
	if out.Verdict != Good {
		t.Errorf("%+v", out)
	}
}

// What cannot be read is refused, with its place.
func TestAWrongEntryIsRefusedWithItsPlace(t *testing.T) {
	for _, x := range []struct {
		circuit, step string
		entry         Entry
		row, field    string
		says          string
	}{
		{"train-brake", "emergency-front", fields("near", "soon"), "", "near", "soon"},
		{"train-brake", "emergency-front", fields("nearer", "3 s"), "", "nearer", "asks for no"},
		{"train-brake", "continuity", table(cells("continuity-1", "on", "perhaps")), "continuity-1", "on", "neither yes, no"},
		{"train-brake", "one-way", fields("before", "8", "after", "8", "time", "0 s"), "", "time", "Above nothing"},
		{"boosted-intake", "feed", Entry{Fields: map[string]string{"tank": "100 L"}, Rows: []EntryRow{cells("still", "from", "6 bar", "to", "7 bar", "time", "60 s")}}, "still", "to", "must be off"},
		{"pressure-cap", "lift", fields("lifted", "90 kPa", "held", "100 kPa"), "", "held", "more than it lifted at"},
		{"powered-hydraulic-set", "pressures", table(EntryRow{ID: "c9", Cells: map[string]string{"value": "1"}}), "c9", "", "has no name"},
		{"engine-block", "powder", table(cells("place-1", "powder", "maybe")), "place-1", "powder", "none of"},
		{"cylinder-head", "nip", fields("bolts", "five"), "", "bolts", "number of bolts"},
		{"cylinder-head", "nip", fields("torques", "30 N·m, 20 N·m"), "", "torques", "must rise"},
		{"cylinder-head", "nip", fields("done", "4"), "", "done", "3 rounds"},
		{"carburettor-bench", "primer", table(cells("press-9", "before", "1 kPa")), "press-9", "", "asks for no row"},
	} {
		c, s := shipped(t, x.circuit, x.step)
		_, err := Judge(s, &c, Given{AmbientPa: 101325}, x.entry)
		var at CellError
		if !errors.As(err, &at) || at.Row != x.row || at.Field != x.field || !strings.Contains(err.Error(), x.says) {
			t.Errorf("%s %s: %v at %+v, want %q at %q %q", x.circuit, x.step, err, at, x.says, x.row, x.field)
		}
	}
}

// Any pattern of bolts is numbered from the middle outwards, each once, and never
// twice running on the same side while the other waits.
func TestBoltsGoFromTheMiddleOutwards(t *testing.T) {
	if o := Order([]int{3, 3}); o[0][1]+o[1][1] != 3 || o[0][0]+o[1][2] != 7 || o[0][2]+o[1][0] != 11 {
		t.Errorf("two rows of three: the middle first, then crosswise, corner by corner: %v", o)
	}
	for _, rows := range [][]int{{1}, {4}, {5, 5}, {6, 6}, {4, 6, 4}, {5, 4}, {3, 3, 3, 3}, {40, 40}} {
		order := Order(rows)
		total, seen := 0, map[int]bool{}
		for r := range rows {
			total += rows[r]
			for _, n := range order[r] {
				seen[n] = true
			}
		}
		if len(seen) != total || !seen[1] || !seen[total] {
			t.Errorf("%v: %v", rows, order)
		}
		// How far the bolts lie from the middle, in turn: never much nearer than one before.
		far := make([]float64, total+1)
		for r, n := range rows {
			for i, k := range order[r] {
				x := ((float64(i)+0.5)/float64(n) - 0.5) * float64(slices.Max(rows))
				y := (float64(r) - float64(len(rows)-1)/2) * 1.5
				far[k] = x*x + y*y
			}
		}
		for k := 2; k <= total; k++ {
			if far[k] < 0.3*far[k-1]-1 {
				t.Errorf("%v: bolt %d jumps back to the middle: %v", rows, k, order)
			}
		}
	}
}

// Many steps, one call: a bad one counts, unless one that outranks it was good, and
// it is good only when nothing is left.
func TestOneCallOfManySteps(t *testing.T) {
	carb, _ := shipped(t, "carburettor-bench", "dry")
	crank, _ := shipped(t, "two-stroke-crankcase", "vacuum")
	for _, x := range []struct {
		name string
		c    *circuit.Circuit
		said map[string]Verdict
		want Verdict
		says string
		next string
	}{
		{"nothing", &crank, nil, Unknown, "Nothing is tested", "vacuum"},
		{"one sign", &crank, map[string]Verdict{"pressure": Good}, Unknown, "Right so far: pressure hold", "vacuum"},
		{"one way only", &crank, map[string]Verdict{"vacuum": Bad, "pressure": Good}, Bad, "passes inward only", ""},
		{"both", &crank, map[string]Verdict{"vacuum": Good, "pressure": Good}, Good, "Right: vacuum hold, pressure hold", ""},
		{"turned shaft leaks", &crank, map[string]Verdict{"vacuum": Good, "pressure": Good, "turned": Bad}, Bad, "shaft turned", ""},
		{"dry fails, wetted passes", &carb, map[string]Verdict{"dry": Bad, "wetted": Good, "lever": Good, "primer": Good}, Good, "wetted", ""},
		{"both fail", &carb, map[string]Verdict{"dry": Bad, "wetted": Bad, "lever": Good, "primer": Good}, Bad, "as found", ""},
	} {
		var results []Result
		for _, s := range x.c.Tests() {
			if v, ok := x.said[s.ID]; ok {
				results = append(results, Result{Step: s, Verdict: v, Sentence: "said so."})
			}
		}
		got := Combine(x.c, results)
		if got.Verdict != x.want || !strings.Contains(got.Sentence, x.says) || got.Next != x.next {
			t.Errorf("%s: %+v", x.name, got)
		}
	}
}
