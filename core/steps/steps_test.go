package steps

import (
	"cmp"
	"errors"
	"fmt"
	"math"
	"slices"
	"strings"
	"testing"

	"idlehiss/core/circuit"
	"idlehiss/core/judge"
	"idlehiss/core/quantity"
	"idlehiss/core/terms"
)

// The steps looked at, with the figures a shop might put into its files.
var (
	aMark   = circuit.Mark{On: "cap", Accept: [2]circuit.Pressure{20e3, 250e3}, Certain: [2]circuit.Pressure{40e3, 200e3}}
	gas     = []circuit.Chamber{{ID: "gas", Title: "gas side", Volume: 0.5e-3}, {ID: "feed-pipe", Title: "feed pipe"}}
	in      = []circuit.Port{{ID: "in", Chamber: "gas"}}
	inward  = circuit.Step{ID: "vacuum", Title: "Vacuum hold", Kind: circuit.Hold, Most: -34e3}
	outward = circuit.Step{ID: "pressure", Title: "Pressure hold", Kind: circuit.Hold, Most: 55e3}
	turned  = circuit.Step{ID: "turned", Title: "Shaft turned", Kind: circuit.Hold, Most: 55e3, Optional: true}
	asFound = circuit.Step{ID: "dry", Title: "As found", Kind: circuit.Hold, Optional: true}
	wetted  = circuit.Step{ID: "wetted", Title: "Wetted", Kind: circuit.Hold, Outranks: []string{"dry"}}
	crank   = circuit.Circuit{Chambers: gas, Ports: in, Steps: []circuit.Step{inward, outward, turned}}
	carb    = circuit.Circuit{Chambers: gas, Ports: in, Steps: []circuit.Step{asFound, wetted}}
)

func named(id string) (circuit.Circuit, circuit.Step) {
	value := func(id, title string, least, good circuit.Pressure, gate bool) circuit.Value {
		return circuit.Value{ID: id, Title: title, Least: least, Good: good, Gate: gate}
	}
	cylinders := []circuit.Value{value("pump", "Pump", 110e5, 130e5, true)}
	for i := range 7 {
		cylinders = append(cylinders, value(fmt.Sprintf("c%d", i+1), fmt.Sprintf("Cylinder %d", i+1), 95e5, 110e5, false))
	}
	tick := func(id string) circuit.Item { return circuit.Item{ID: id, Text: id, Must: true} }
	s := map[string]circuit.Step{
		"feed":      {Kind: circuit.Feed, Usual: 25e-3 / 60, Allowed: 15e-3 / 60},
		"floor":     {Kind: circuit.Floor, Tolerance: 15e3},
		"presses":   {Kind: circuit.Presses, Presses: 4, Way: "down", Least: 2e3},
		"emergency": {Kind: circuit.TimedFall, To: 20e3, Within: [2]quantity.S{2, 8}, Lag: 3},
		"one-way":   {Kind: circuit.CrossWatch, Watch: "feed-pipe", Over: 120, Allow: "5 kPa in 2 min"},
		"round":     {Kind: circuit.Round, Per: "wagon", Looks: []circuit.Look{{ID: "on", Title: "Brake shows on", Within: 60}, {ID: "off", Title: "And lets go again"}}},
		"values":    {Kind: circuit.Values, Unit: "bar", Per: "cylinder", Values: cylinders},
		"lost":      {Kind: circuit.Values, Unit: "%", Share: [2]float64{10, 30}, Values: []circuit.Value{{ID: "bent", Counts: 0.5}, {ID: "tubes", Counts: 1}}},
		"charge":    {Kind: circuit.Charge, Tolerance: 1.5e5},
		"cracks":    {Kind: circuit.Cracks, Places: []string{"left deck", "right deck", "main webs", "oil galleries", "left bores", "right bores", "outer walls"}},
		"tighten":   {Kind: circuit.Tighten, Bolts: &circuit.Bolts{Rows: []int{5, 5}, Torques: []quantity.Nm{15, 30, 45}, Renip: true}},
		"list":      {Kind: circuit.Checklist, Ticks: []circuit.Item{tick("level"), tick("battery"), {ID: "nice", Text: "nice"}, tick("clear"), tick("seen")}},
	}[id]
	s.ID, s.Title = id, id
	c := circuit.Circuit{Chambers: gas, Ports: in, Steps: []circuit.Step{s}}
	if id == "floor" {
		c.Mark = aMark
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
			e.Rows = append(e.Rows, cells(fmt.Sprintf("round-%d", i+1), "on", on, "off", "yes"))
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
		step  string
		entry Entry
		want  Verdict
		says  string
	}{
		{"feed", Entry{}, Unknown, "time the fall"},
		{"feed", feed("6.70 bar", "6.70 bar"), Good, "at rest and moved"},    // 29.6 L/min: 4.6 more than usual
		{"feed", feed("6.70 bar", "6.20 bar"), Bad, "only when it is moved"}, // 79 L/min
		{"feed", feed("6.0 bar", "6.0 bar"), Bad, "nothing moved"},           // 99 L/min
		{"feed", Entry{Fields: map[string]string{"tank": "100 L"}, Rows: []EntryRow{cells("still", "from", "7.00 bar", "to", "6.70 bar", "time", "60 s")}}, Unknown, "move every joint"},
		{"floor", fields("lifted", "112 kPa", "held", "101 kPa"), Good, "right for its mark"},
		{"floor", fields("lifted", "70 kPa", "held", "60 kPa", "clean", "no"), Unknown, "before you reject it"},
		{"floor", fields("lifted", "70 kPa", "held", "60 kPa", "clean", "yes"), Bad, "40.0 kPa under its mark"},
		{"floor", fields("lifted", "70 kPa", "held", "60 kPa", "clean", "no", "again-lifted", "112 kPa", "again-held", "105 kPa"), Good, "Cleaned: lifts at 112 kPa and holds 105 kPa: right for its mark. First try: it lifted at 70.0 kPa and held 60.0 kPa."},
		{"floor", fields("lifted", "70 kPa", "held", "60 kPa", "clean", "no", "again-lifted", "72 kPa", "again-held", "60 kPa"), Bad, "First try: it lifted at 70.0 kPa"},
		{"floor", fields("lifted", "140 kPa", "held", "120 kPa", "clean", "yes"), Bad, "too much for the hoses"},
		{"floor", fields("lifted", "110 kPa", "held", "5 kPa", "clean", "yes"), Bad, "does not hold"},
		{"presses", table(press(1, "45 kPa", "40 kPa", "40 kPa"), press(2, "40 kPa", "36 kPa", "36 kPa"), press(3, "36", "32", "32"), press(4, "32", "28", "28.3")), Good, "it stays there"},
		{"presses", table(press(1, "45 kPa", "40 kPa", "44 kPa")), Bad, "does not stay"},
		{"presses", table(press(1, "45 kPa", "44.5 kPa", "44.5 kPa")), Bad, "must move 2.00 kPa down"},
		{"presses", table(press(1, "45 kPa", "40 kPa", "40 kPa")), Unknown, "1 of 4"},
		{"emergency", fields("near", "3.1", "far", "4.6 s"), Good, "1.5 s between"},
		{"emergency", fields("near", "2.6 s", "far", "7.4 s"), Bad, "something between the gauges is narrow"},
		{"emergency", fields("near", "1.2 s", "far", "3 s"), Bad, "too soon"},
		{"emergency", fields("near", "1.2 s"), Unknown, "Time the fall of both"},
		{"one-way", fields("before", "800 kPa", "after", "801 kPa"), Good, "did not move in 2:00"},
		{"one-way", fields("before", "800 kPa", "after", "812 kPa"), Bad, "a one-way valve leaks"},
		{"one-way", fields("before", "800 kPa", "after", "790 kPa"), Bad, "it leaks itself"},
		{"one-way", fields("before", "800 kPa", "after", "800 kPa", "time", "30 s"), Unknown, "0:30 only"},
		{"round", walk("yes"), Good, "All 5"},
		{"round", walk("no"), Bad, "Failed: Wagon 3"},
		{"round", walk("1:25"), Bad, "Wagon 3"},
		{"round", walk("52 s"), Good, "All 5"},
		{"round", walk(""), Unknown, "4 of 5"},
		{"values", cylinders("135", "112", "111", "114", "88", "113", "112", "110"), Bad, "Too low: Cylinder 4. 7 of 8"},
		{"values", cylinders("135", "112", "111", "114", "98", "113", "112", "110"), Good, "1 of them below good"},
		{"values", cylinders("90", "85"), Bad, "means nothing until"},
		{"values", cylinders("", "112"), Unknown, "comes first"},
		{"values", cylinders("135", "80"), Bad, "even after a bad one"},
		{"lost", table(cells("bent", "value", "8"), cells("tubes", "value", "2 %")), Good, "6.0 % of the face is lost: use it"},
		{"lost", table(cells("bent", "value", "20"), cells("tubes", "value", "10")), Good, "Watch the temperature"},
		{"lost", table(cells("bent", "value", "20"), cells("tubes", "value", "25")), Bad, "replace"},
		// 30 bar at 20 °C is 28.4 bar at 5 °C: right, though the plate says 30.
		{"charge", fields("plate", "30 bar", "temperature", "5 °C", "found", "28.2 bar"), Good, "Right: 28.2 bar at 5 °C"},
		{"charge", fields("plate", "30 bar", "temperature", "20 °C", "found", "24 bar"), Bad, "Low"},
		{"charge", fields("plate", "30 bar", "temperature", "20 °C", "found", "24 bar", "after", "30.2 bar"), Good, "Right"},
		{"charge", fields("plate", "30 bar", "temperature", "20 °C", "found", "36 bar"), Bad, "Vent about"},
		{"charge", fields("plate", "30 bar", "temperature", "5 °C"), Unknown, "should show 28.4 bar"},
		{"cracks", table(cracks...), Good, "No crack in 7 places"},
		{"cracks", table(cracked...), Good, "Cracked but tight: oil galleries"},
		{"cracks", table(leaking...), Bad, "Leaks: left bores"},
		{"cracks", table(cracks[:3]...), Unknown, "3 of 7"},
		{"tighten", fields("done", "3"), Good, "10 bolts, 3 rounds"},
		{"tighten", fields("done", "1"), Unknown, "all to 30.0 N·m, 1 to 10"},
		{"tighten", fields("bolts", "4 6 4", "torques", "20 N·m", "done", "1"), Good, "14 bolts"},
	} {
		c, s := named(x.step)
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
			t.Errorf("%s, %+v: %s, %q, %v; want %s, %q", x.step, x.entry, out.Verdict, out.Sentence, err, x.want, x.says)
		}
	}
}

func TestAListIsAGate(t *testing.T) {
	c, s := named("list")
	out, err := Judge(s, &c, Given{Ticked: map[string]bool{"level": true}}, Entry{})
	if err != nil || out.Verdict != Unknown || !strings.Contains(out.Sentence, "1 of 4") {
		t.Errorf("%+v %v", out, err)
	}
	out, _ = Judge(s, &c, Given{Ticked: map[string]bool{"level": true, "battery": true, "clear": true, "seen": true}}, Entry{})
	if out.Verdict != Good {
		t.Errorf("%+v", out)
	}
}

// What cannot be read is refused, with its place.
func TestAWrongEntryIsRefusedWithItsPlace(t *testing.T) {
	for _, x := range []struct {
		step       string
		entry      Entry
		row, field string
		says       string
	}{
		{"emergency", fields("near", "soon"), "", "near", "soon"},
		{"emergency", fields("nearer", "3 s"), "", "nearer", "asks for no"},
		{"round", table(cells("round-1", "on", "perhaps")), "round-1", "on", "type yes, no"},
		{"one-way", fields("before", "8", "after", "8", "time", "0 s"), "", "time", "type how long"},
		{"feed", Entry{Fields: map[string]string{"tank": "100 L"}, Rows: []EntryRow{cells("still", "from", "6 bar", "to", "7 bar", "time", "60 s")}}, "still", "to", "shut its pump off"},
		{"floor", fields("lifted", "90 kPa", "held", "100 kPa"), "", "held", "after it lifted at"},
		{"values", table(EntryRow{ID: "c9", Cells: map[string]string{"value": "1"}}), "c9", "", "has no name"},
		{"cracks", table(cells("place-1", "powder", "maybe")), "place-1", "powder", "none of"},
		{"tighten", fields("bolts", "five"), "", "bolts", "number of bolts"},
		{"tighten", fields("places", "10 10; 400 10"), "", "places", "0 to 100"},
		{"tighten", fields("torques", "30 N·m, 20 N·m"), "", "torques", "higher than the one before"},
		{"tighten", fields("done", "4"), "", "done", "3 rounds"},
		{"presses", table(cells("press-9", "before", "1 kPa")), "press-9", "", "has no row"},
	} {
		c, s := named(x.step)
		_, err := Judge(s, &c, Given{AmbientPa: 101325}, x.entry)
		var at CellError
		if !errors.As(err, &at) || at.Row != x.row || at.Field != x.field || !strings.Contains(err.Error(), x.says) {
			t.Errorf("%s: %v at %+v, want %q at %q %q", x.step, err, at, x.says, x.row, x.field)
		}
	}
}

// Any pattern of bolts is numbered from the middle outwards, each once, and never
// twice running on the same side while the other waits; in rows or tapped in by an
// unsteady hand.
func TestBoltsGoFromTheMiddleOutwards(t *testing.T) {
	turns := func(text string) []int {
		b, err := BoltRows(text)
		if err != nil {
			t.Fatal(err)
		}
		Order(b)
		var out []int
		for _, x := range b {
			out = append(out, x.Turn)
		}
		return out
	}
	if o := turns("3 3"); o[1]+o[4] != 3 || o[0]+o[5] != 7 || o[2]+o[3] != 11 {
		t.Errorf("two rows of three: the middle first, then crosswise, corner by corner: %v", o)
	}
	patterns := map[string]string{} // of places
	round := ""
	for i := range 8 {
		sin, cos := math.Sincos(float64(i) * math.Pi / 4)
		round += fmt.Sprintf("%.1f %.1f;", 50+40*cos+float64(i%3)*0.4, 50+40*sin-float64(i%2)*0.5)
	}
	patterns["a round flange"] = round
	patterns["an odd one"] = "10 10; 48 8; 92 12; 95 45; 52 50; 12 47; 30 30; 70 31"
	for _, rows := range []string{"1", "4", "5 5", "6,6", "4 6 4", "5 4", "3 3 3 3", "40 40"} {
		b, err := BoltRows(rows)
		if err != nil {
			t.Fatal(err)
		}
		checkOrder(t, rows, b)
	}
	for name, places := range patterns {
		b, err := BoltPlaces(places)
		if err != nil {
			t.Fatal(err)
		}
		checkOrder(t, name, b)
		if name != "a round flange" {
			continue
		}
		for i, x := range b { // on a circle each next one lies across from the last
			for _, y := range b {
				if y.Turn == x.Turn+1 && x.Turn%2 == 1 {
					if d := math.Hypot(x.X-y.X, x.Y-y.Y); d < 60 {
						t.Errorf("bolt %d is followed by one beside it, %.0f away", i, d)
					}
				}
			}
		}
	}
	for text, says := range map[string]string{"10 10; 10.4 10": "tapped twice", "10": "not a place", "10 200": "0 to 100", "a b": "not a place"} {
		if _, err := BoltPlaces(text); err == nil || !strings.Contains(err.Error(), says) {
			t.Errorf("%q: %v, want %q", text, err, says)
		}
	}
}

func checkOrder(t *testing.T, name string, bolts []Bolt) {
	t.Helper()
	Order(bolts)
	turn := slices.Clone(bolts)
	slices.SortFunc(turn, func(a, b Bolt) int { return a.Turn - b.Turn })
	midX, midY := 0.0, 0.0
	for _, f := range []func(a, b Bolt) int{func(a, b Bolt) int { return cmp.Compare(a.X, b.X) }, func(a, b Bolt) int { return cmp.Compare(a.Y, b.Y) }} {
		low, high := slices.MinFunc(bolts, f), slices.MaxFunc(bolts, f)
		if midX == 0 {
			midX = (low.X + high.X) / 2
		} else {
			midY = (low.Y + high.Y) / 2
		}
	}
	far := func(b Bolt) float64 { return math.Hypot(b.X-midX, b.Y-midY) / spacing(bolts) }
	for k, b := range turn {
		if b.Turn != k+1 {
			t.Fatalf("%s: no bolt is turned as number %d: %v", name, k+1, turn)
		}
		if k > 0 && far(b) < 0.55*far(turn[k-1])-1 {
			t.Errorf("%s: bolt %d jumps back to the middle", name, k+1)
		}
	}
}

// Many steps, one call: a bad one counts, unless one that outranks it was good, and
// it is good only when nothing is left.
func TestOneCallOfManySteps(t *testing.T) {
	for _, x := range []struct {
		name string
		c    *circuit.Circuit
		said map[string]Verdict
		want Verdict
		says string
		next string
	}{
		{"nothing", &crank, nil, Unknown, "Nothing tested", "vacuum"},
		{"one sign", &crank, map[string]Verdict{"pressure": Good}, Unknown, "Right so far: pressure hold", "vacuum"},
		{"one way only", &crank, map[string]Verdict{"vacuum": Bad, "pressure": Good}, Bad, "leaks inward only", ""},
		{"both", &crank, map[string]Verdict{"vacuum": Good, "pressure": Good}, Good, "Right: vacuum hold, pressure hold", ""},
		{"turned shaft leaks", &crank, map[string]Verdict{"vacuum": Good, "pressure": Good, "turned": Bad}, Bad, "shaft turned", ""},
		{"dry fails, wetted passes", &carb, map[string]Verdict{"dry": Bad, "wetted": Good}, Good, "wetted", ""},
		{"both fail", &carb, map[string]Verdict{"dry": Bad, "wetted": Bad}, Bad, "as found", ""},
	} {
		var results []Result
		for _, s := range x.c.Tests() {
			if v, ok := x.said[s.ID]; ok {
				results = append(results, Result{Step: s, Verdict: v, Sentence: "said so."})
			}
		}
		got := Combine(x.c, results, Eyes{})
		if got.Verdict != x.want || !strings.Contains(got.Sentence, x.says) || got.Next != x.next {
			t.Errorf("%s: %+v", x.name, got)
		}
	}
}

// An escape that was seen outranks every gauge: its part stands in the word, and what is not known
// for it is said.
func TestEyesOutrankTheNeedle(t *testing.T) {
	crank := circuit.Circuit{Chambers: gas, Ports: in, Steps: []circuit.Step{inward, outward}}
	of := func(v ...Verdict) []Result {
		var out []Result
		for i, s := range crank.Tests() {
			if i < len(v) {
				out = append(out, Result{Step: s, Verdict: v[i]})
			} else if !s.Optional {
				out = append(out, Result{Step: s, Verdict: Good})
			}
		}
		return out
	}
	seen := []string{"Intake boot"}
	for _, x := range []struct {
		name    string
		results []Result
		says    string
	}{
		{"before any hold", nil, "Leaking: intake boot, seen. The rest is not tested past it."},
		{"beside a hold that leaks", of(Bad), "Leaking: intake boot, seen. The rest is not tested past it."},
		{"though every hold is tight", of(), "Leaking: intake boot, seen. The gauge alone would have passed it."},
	} {
		if got := Combine(&crank, x.results, Eyes{Part: seen}); got.Verdict != Bad || got.Sentence != x.says || !slices.Equal(got.Seen, seen) {
			t.Errorf("%s: %+v", x.name, got)
		}
		if got := Combine(&crank, x.results, Eyes{}); len(got.Seen) > 0 || got.Sentence == x.says {
			t.Errorf("%s, nothing seen: %+v", x.name, got)
		}
	}
}

// What fails of several is named in the one call: the cylinder, the wagon.
func TestTheCallNamesWhatFailed(t *testing.T) {
	given := Given{AmbientPa: 101325, Things: []string{"Wagon 1", "Wagon 2", "Wagon 3"}}
	round := circuit.Step{ID: "round", Title: "Continuity", Kind: circuit.Round, Per: "wagon", Looks: []circuit.Look{{ID: "on", Title: "Brake shows on"}}}
	table := circuit.Step{ID: "table", Title: "Each cylinder", Kind: circuit.Values, Unit: "bar", Per: "cylinder",
		Values: []circuit.Value{{ID: "c4", Title: "Cylinder 4", Least: 95e5}, {ID: "c5", Title: "Cylinder 5", Least: 95e5}}}
	c := circuit.Circuit{Chambers: gas, Ports: in, Steps: []circuit.Step{round, table}}
	row := func(id, field, text string) EntryRow { return EntryRow{ID: id, Cells: map[string]string{field: text}} }
	var results []Result
	for _, x := range []struct {
		step circuit.Step
		rows []EntryRow
	}{
		{round, []EntryRow{row("round-1", "on", "yes"), row("round-2", "on", "yes"), row("round-3", "on", "no")}},
		{table, []EntryRow{row("c4", "value", "120"), row("c5", "value", "40")}},
	} {
		o, err := Judge(x.step, &c, given, Entry{Rows: x.rows})
		if err != nil {
			t.Fatal(err)
		}
		results = append(results, Result{Step: x.step, Verdict: o.Verdict, Sentence: o.Sentence, Failed: o.Failed})
	}
	if got := Combine(&c, results, Eyes{}); got.Verdict != Bad || got.Sentence != "Not right: continuity (wagon 3), each cylinder (cylinder 5)." {
		t.Errorf("%s: %s", got.Verdict, got.Sentence)
	}
}

// What two people send of one step from its two ends stands side by side; an empty
// text clears, and what was found before is not changed under its reader.
func TestAChangeLaysOverWhatWasFound(t *testing.T) {
	near := fields("near", "3.1 s")
	both := near.With(fields("far", "4.4 s"))
	if both.Fields["near"] != "3.1 s" || both.Fields["far"] != "4.4 s" || len(near.Fields) != 1 {
		t.Fatalf("%v over %v", both.Fields, near.Fields)
	}
	if cleared := both.With(fields("near", " ")); len(cleared.Fields) != 1 || cleared.Fields["far"] != "4.4 s" {
		t.Errorf("cleared: %v", cleared.Fields)
	}
	walk := table(cells("round-1", "on", "yes"), cells("round-2", "on", "no"))
	more := walk.With(table(cells("round-2", "off", "yes"), cells("extra", "on", "yes")))
	if len(more.Rows) != 3 || more.Rows[1].Cells["on"] != "no" || more.Rows[1].Cells["off"] != "yes" || walk.Rows[1].Cells["off"] != "" {
		t.Errorf("%+v over %+v", more.Rows, walk.Rows)
	}
}

// Either end of a line that must not move can tell that it did.
func TestTheFarEndOfAWatchedLine(t *testing.T) {
	c, s := named("one-way")
	still := []string{"before", "800 kPa", "after", "800 kPa"}
	for far, want := range map[string]Verdict{"": Good, "700 kPa": Good, "720 kPa": Bad, "650 kPa": Bad} {
		e := fields(still...)
		if far != "" {
			e = fields(append(slices.Clone(still), "far_before", "700 kPa", "far_after", far)...)
		}
		out, err := Judge(s, &c, Given{AmbientPa: 101325, StepPa: 2e3}, e)
		if err != nil || out.Verdict != want {
			t.Errorf("far end at %q: %s (%s) %v, want %s", far, out.Verdict, out.Sentence, err, want)
		}
	}
}

// A press begins where the one before left the needle, unless told otherwise.
func TestAPressBeginsWhereTheLastOneEnded(t *testing.T) {
	c, s := named("presses")
	chain := table(cells("press-1", "before", "45 kPa", "after", "41 kPa", "later", "41 kPa"), cells("press-2", "after", "37 kPa", "later", "37 kPa"), cells("press-3", "after", "33 kPa", "later", "33 kPa"), cells("press-4", "after", "30 kPa", "later", "30 kPa"))
	out, err := Judge(s, &c, Given{AmbientPa: 101325}, chain)
	if err != nil || out.Verdict != Good {
		t.Errorf("%s (%s) %v", out.Verdict, out.Sentence, err)
	}
	gap := chain.With(table(cells("press-2", "later", "")))
	if out, _ = Judge(s, &c, Given{AmbientPa: 101325}, gap); out.Verdict != Unknown || out.Rows[2].Verdict != Unknown {
		t.Errorf("without the end of press 2: %s, press 3 %s", out.Verdict, out.Rows[2].Verdict)
	}
}

// A bare number is of the gauge that was looked at, and stays so.
func TestABareNumberGetsItsGaugesUnit(t *testing.T) {
	c, s := named("presses")
	ask, _ := AskOf(s, &c, Given{Unit: "psi"})
	e := ask.Written(table(cells("press-1", "before", "6.5", "after", "5,0", "later", "38 kPa")))
	if got := e.Rows[0].Cells; got["before"] != "6.5 psi" || got["after"] != "5,0 psi" || got["later"] != "38 kPa" {
		t.Errorf("%v", got)
	}
	charge, at := named("charge")
	ask, _ = AskOf(at, &charge, Given{Unit: "psi"})
	if got := ask.Written(fields("plate", "30", "temperature", "4", "found", " ")).Fields; got["plate"] != "30 bar" || got["temperature"] != "4 °C" || got["found"] != " " {
		t.Errorf("%v", got)
	}
}

// A sample is drawn by lot, the same again for the same train and job, and not always
// the same wagons.
func TestASampleIsDrawnByLot(t *testing.T) {
	c, s := named("round")
	s.Sample = 2
	things := []string{"Wagon 1", "Wagon 2", "Wagon 3", "Wagon 4", "Wagon 5", "Wagon 6"}
	drawn := map[string]int{}
	for job := range 60 {
		g := Given{Things: things, Lot: fmt.Sprint("job ", job)}
		ask, _ := AskOf(s, &c, g)
		again, _ := AskOf(s, &c, g)
		if len(ask.Rows) != 2 || !slices.EqualFunc(ask.Rows, again.Rows, func(a, b Row) bool { return a.ID == b.ID }) {
			t.Fatalf("%+v, again %+v", ask.Rows, again.Rows)
		}
		for _, r := range ask.Rows {
			drawn[r.Title]++
		}
	}
	for _, w := range things {
		if n := drawn[w]; n < 8 || n > 34 { // 20 are expected; 8 is three and a half standard errors off
			t.Errorf("%s was drawn %d times of 60", w, n)
		}
	}
	if ask, _ := AskOf(s, &c, Given{Things: things[:1]}); len(ask.Rows) != 1 {
		t.Errorf("of one wagon: %+v", ask.Rows)
	}
}

// The fall of a gas charge between two services, each brought to 20 °C, is its leak
// test: a cold morning is no loss, and a loss is told by the month.
func TestAChargeIsComparedWithTheLastService(t *testing.T) {
	c, s := named("charge")
	now := fields("plate", "30 bar", "temperature", "4 °C", "found", "28.3 bar")
	for _, x := range []struct {
		months float64
		then   Entry
		says   string
	}{
		{12, fields("plate", "30 bar", "temperature", "20 °C", "found", "30 bar"), "these readings show no loss"},
		// 29.3 kelvin warmer it stood at 33.6 bar, which is 31.4 bar at 20 °C: 1.4 bar in a year.
		{12, fields("plate", "30 bar", "temperature", "40 °C", "found", "33.6 bar"), "1.4 bar (at 20 °C), 0.12 bar a month. At that rate it is too low in about 13 months"},
		{12, fields("plate", "30 bar", "temperature", "20 °C", "found", "27 bar", "after", "30 bar"), "show no loss"}, // what it was left with counts
		{12, fields("plate", "30 bar", "temperature", "20 °C", "found", "28 bar"), "rose by 2.0 bar"},
		{0.2, fields("plate", "30 bar", "temperature", "20 °C", "found", "35 bar"), ""},
		{12, fields("plate", "30 bar"), ""},
	} {
		out, err := Judge(s, &c, Given{AmbientPa: 101325, Before: &Service{x.months, x.then}}, now)
		notes := strings.Join(out.Notes, " ")
		if err != nil || out.Verdict != Good || !strings.Contains(notes, x.says) || x.says == "" && strings.Contains(notes, "Since the service") {
			t.Errorf("%v: %s, %q %v, want %q", x.then.Fields, out.Verdict, notes, err, x.says)
		}
	}
}

// The second of two holds is bad where it is surely faster by something that matters,
// right where it is within what may be lost, and open where neither can be told.
func TestTheSecondOfTwoHolds(t *testing.T) {
	s := circuit.Step{Kind: circuit.Hold, Conditions: []circuit.StepCondition{{ID: "off", Title: "off"}, {ID: "on", Title: "on"}}, Faster: "the lever is high"}
	rate := func(value, half float64) *judge.Report {
		return &judge.Report{TestPressureKPa: 45, RateKPaPerMin: &judge.Interval{Value: value, Low: value - half, High: value + half}}
	}
	const may = 2e3 / 60 // 2 kPa a minute
	for _, x := range []struct {
		first, second *judge.Report
		want          Verdict
		says          string
	}{
		{nil, nil, Unknown, "Held twice: off, then on"},
		{nil, rate(1, 0.1), Unknown, "Not held yet: off"},
		{rate(0.1, 0.05), nil, Unknown, "Now hold it on"},
		{rate(0.1, 0.05), rate(1.5, 0.1), Bad, "the lever is high"},
		{rate(0.1, 0.01), rate(0.15, 0.01), Good, "No faster"}, // sure, and nothing
		{rate(0.1, 0.5), rate(0.4, 0.5), Good, "No faster"},
		{rate(0.1, 2), rate(1.5, 2), Unknown, "hold both for longer"},
		{rate(1.5, 0.1), rate(0.1, 0.1), Good, "No faster"},
	} {
		if out := OfTwo(s, x.first, x.second, may); out.Verdict != x.want || !strings.Contains(out.Sentence, x.says) {
			t.Errorf("%s (%s), want %s (%s)", out.Verdict, out.Sentence, x.want, x.says)
		}
	}
}

// What lost a tenth of its pressure is not drawn whole, whatever was allowed.
func TestALostTenthIsNoWholeRing(t *testing.T) {
	for _, c := range []struct {
		r    judge.Report
		want terms.Ring
	}{
		{judge.Report{Call: judge.Tight, Shape: judge.ShapeSettling, TestPressureKPa: 110, FellKPa: 6}, terms.RingWhole},
		{judge.Report{Call: judge.Tight, Shape: judge.ShapeSettling, TestPressureKPa: 110, FellKPa: 12}, terms.RingNicked},
		{judge.Report{Call: judge.Tight, Shape: judge.ShapeTight, TestPressureKPa: -34, FellKPa: 5}, terms.RingNicked},
		{judge.Report{Call: judge.Leaking, TestPressureKPa: 110, FellKPa: 1}, terms.RingCut},
	} {
		if got := RingOf(&c.r); got != c.want {
			t.Errorf("%s, %v of %v kPa lost: %s, want %s", c.r.Call, c.r.FellKPa, c.r.TestPressureKPa, got, c.want)
		}
	}
}

// What is measured of each thing has a row for each; where the figures are examples the manual's
// are asked for, and a row without them takes those of the one above.
func TestTheManualsFiguresAreAskedForEach(t *testing.T) {
	s := circuit.Step{ID: "pressures", Title: "Pump, then each", Kind: circuit.Values, Unit: "bar", Per: "cylinder", Asked: true,
		Values: []circuit.Value{{ID: "pump", Title: "Pump", Least: 110e5, Gate: true}}, Each: &circuit.Value{ID: "c", Least: 95e5}}
	c := circuit.Circuit{Chambers: gas, Ports: in, Steps: []circuit.Step{s}}
	g := Given{Things: []string{"Left", "Right"}, AmbientPa: 101325}
	ask, _ := AskOf(s, &c, g)
	if len(ask.Rows) != 3 || ask.Rows[1].ID != "c1" || ask.Rows[2].Title != "Right" || len(ask.Rows[0].Defaults) != 0 {
		t.Errorf("%+v", ask.Rows)
	}
	judge := func(rows ...EntryRow) Outcome {
		out, err := Judge(s, &c, g, Entry{Rows: rows})
		if err != nil {
			t.Fatal(err)
		}
		return out
	}
	cells := func(id string, figures ...string) EntryRow {
		r := EntryRow{ID: id, Cells: map[string]string{"value": figures[0]}}
		if len(figures) > 1 {
			r.Cells["least"] = figures[1]
		}
		return r
	}
	if got := judge(cells("pump", "180 bar"), cells("c1", "160 bar"), cells("c2", "160 bar")); got.Verdict != Unknown {
		t.Errorf("without the manual: %s, %s", got.Verdict, got.Sentence)
	}
	if got := judge(cells("pump", "180 bar", "170 bar"), cells("c1", "160 bar", "150 bar"), cells("c2", "151 bar")); got.Verdict != Good {
		t.Errorf("by the manual: %s, %s", got.Verdict, got.Sentence)
	}
	if got := judge(cells("pump", "180 bar", "170 bar"), cells("c1", "160 bar", "150 bar"), cells("c2", "149 bar")); got.Verdict != Bad || !slices.Equal(got.Failed, []string{"Right"}) {
		t.Errorf("the second is low: %s, %v", got.Verdict, got.Failed)
	}
}

// A cap may be off by a share of its mark, must hold a share of it, and is stuck far past it.
func TestACapByItsShares(t *testing.T) {
	s := circuit.Step{ID: "lift", Title: "Lift", Kind: circuit.Floor, Tolerance: 10e3, Percent: 12, Holds: 80, Stuck: 35e3}
	c := circuit.Circuit{Chambers: gas, Ports: in, Mark: aMark, Steps: []circuit.Step{s}}
	for _, x := range []struct {
		mark, lifted, held string
		want               Verdict
	}{
		{"30 kPa", "22 kPa", "21 kPa", Bad}, // 30 less 10 is 20: it lifts in time, and holds 70 % only
		{"30 kPa", "31 kPa", "25 kPa", Good},
		{"200 kPa", "178 kPa", "165 kPa", Good}, // 12 % of 200 is more than 10 kPa
		{"200 kPa", "170 kPa", "165 kPa", Bad},
		{"100 kPa", "134 kPa", "100 kPa", Bad},
		{"100 kPa", "140 kPa", "100 kPa", Bad},
	} {
		m, err := quantity.DecodeMark(x.mark, c.Plausible())
		if err != nil {
			t.Fatal(err)
		}
		out, err := Judge(s, &c, Given{Mark: &m.Readings[0], AmbientPa: 101325}, Entry{Fields: map[string]string{"lifted": x.lifted, "held": x.held, "clean": "yes"}})
		if err != nil || out.Verdict != x.want {
			t.Errorf("mark %s, lifted %s, held %s: %s, %s, %v", x.mark, x.lifted, x.held, out.Verdict, out.Sentence, err)
		}
	}
}

// An optional step is asked for once those were done that make it needed.
func TestAnOptionalStepIsAskedForOnceItIsNeeded(t *testing.T) {
	lever := circuit.Step{ID: "lever", Title: "Lever", Kind: circuit.Presses, Optional: true}
	cover := circuit.Step{ID: "cover", Title: "Cover off, then on", Kind: circuit.Hold, Optional: true, Once: []string{"lever"}}
	c := circuit.Circuit{Chambers: gas, Ports: in, Steps: []circuit.Step{wetted, lever, cover}}
	good := func(s circuit.Step) Result { return Result{Step: s, Verdict: Good} }
	if got := Combine(&c, []Result{good(wetted)}, Eyes{}); got.Verdict != Good {
		t.Errorf("the cover stayed on: %+v", got)
	}
	if got := Combine(&c, []Result{good(wetted), good(lever)}, Eyes{}); got.Verdict != Unknown || got.Next != "cover" {
		t.Errorf("the cover was off: %+v", got)
	}
}
