package library

import (
	"io/fs"
	"math"
	"os"
	"slices"
	"strings"
	"testing"

	"idlehiss/core/circuit"
	"idlehiss/core/quantity"
	"idlehiss/core/runsheet"
	"idlehiss/core/terms"
)

func TestWhatShipsIsSound(t *testing.T) {
	all, err := Circuits()
	if err != nil || len(all) < 16 {
		t.Fatal(len(all), err)
	}
	names, err := fs.Glob(files, "circuits/*.yaml")
	if err != nil || len(names) != len(all) {
		t.Fatal(names, err)
	}
	for _, name := range names {
		raw, err := files.ReadFile(name)
		if err != nil {
			t.Fatal(err)
		}
		if c, err := ParseCircuit(raw); err != nil || name != "circuits/"+c.ID+".yaml" {
			t.Errorf("%s: %v", name, err)
		}
	}
	families := map[string]bool{}
	for _, c := range all {
		families[c.Family] = true
		cautions := 0
		for _, s := range runsheet.Stages(&c) {
			cautions += len(s.Cautions)
		}
		if cautions == 0 || len(c.Complaints) == 0 || c.Summary == "" {
			t.Errorf("%s has %d cautions, %d complaints", c.ID, cautions, len(c.Complaints))
		}
		if c.Standing == "" || c.Source == "" || len(c.Untested(false)) == 0 {
			t.Errorf("%s says too little of its standing", c.ID)
		}
		known := map[terms.Stage]bool{}
		for _, s := range runsheet.Stages(&c) {
			known[s.ID] = true
		}
		for _, want := range []terms.Stage{terms.FirstLook, terms.MakeSafe, terms.RigUp, terms.CallStage, terms.HuntStage, terms.PutRight, terms.WriteDown} {
			if !known[want] {
				t.Errorf("%s has no stage %s", c.ID, want)
			}
		}
		must := 0
		for _, s := range runsheet.Stages(&c) {
			for _, i := range s.Ticks {
				if i.Must {
					must++
				}
			}
		}
		if first := runsheet.Unsafe(&c, map[string]bool{}); len(first) == 0 {
			t.Errorf("%s is begun with nothing made safe", c.ID)
		}
		if out := runsheet.Outstanding(&c, map[string]bool{}); len(out) != must || must == 0 {
			t.Errorf("%s: %d of %d musts outstanding", c.ID, len(out), must)
		}
	}
	if len(families) != 12 {
		t.Errorf("%d families: %v", len(families), families)
	}
	hold, err := HoldSchools()
	if err != nil || len(hold) < 8 || hold[2].HoldS != 120 || hold[2].AllowedPa != 10e3 {
		t.Errorf("%+v %v", hold, err)
	}
	for i, s := range hold {
		if s.ID == "" || s.Title == "" || s.Source == "" || s.HoldS <= 0 || s.AllowedPa < 0 || s.AfterS < 0 || i > 0 && s.HoldS < hold[i-1].HoldS {
			t.Errorf("school of hold %+v", s)
		}
	}
	if target, err := TargetSchools(); err != nil || len(target) != 5 {
		t.Errorf("%+v %v", target, err)
	}
}

// What a shop calls its machines and their complaints means the circuit it would take.
func TestWhatIsTypedMeansItsCircuit(t *testing.T) {
	all, err := Circuits()
	if err != nil {
		t.Fatal(err)
	}
	for typed, want := range map[string]string{
		"|": "cooling-header-tank", "Bin carrier 4|loses coolant": "cooling-header-tank", "Hedge saw carrier|overheats": "cooling-header-tank",
		"Orchard tractor|bottle runs over": "cooling-radiator-cap", "cap of bin carrier 2|": "pressure-cap", "radiator from the bin carrier|": "bare-radiator",
		"Hedge saw|runs lean": "two-stroke-crankcase", "Mist-blower 2|primer stays soft": "carburettor-bench", "carburettor|floods at idle": "carburettor-bench",
		"Sprayer tractor|whistle under boost": "boosted-intake", "Irrigation pump, its head|": "cylinder-head", "pump engine block|": "engine-block",
		"Bin carrier 1, its lift|sinks": "lift-housing", "Valve block|weeps at a spool": "valve-block", "Tipping trailer|one corner hangs": "powered-hydraulic-set",
		"Cider press|knocks": "accumulator-large", "Fruit train|": "train-brake", "Tipping trailer|": "powered-hydraulic-set",
		// What is on the bench outranks the complaint, and its last word what comes before.
		"Cylinder head|loses coolant": "cylinder-head", "Hedge saw carburettor|runs lean": "carburettor-bench", "Engine block, irrigation pump|loses coolant": "engine-block",
		"Estate car, radiator neck|": "cooling-radiator-cap", "Estate car with radiator neck|loses coolant": "cooling-radiator-cap",
		"accumulator of 0.75 L|": "accumulator-small", "Accumulator, 20 litres|yearly check": "accumulator-large", "accumulator 750 cm³|routine": "accumulator-small",
	} {
		bench, complaint, _ := strings.Cut(typed, "|")
		if got := circuit.Meant(all, circuit.Typed{Bench: bench, Complaint: complaint}).Circuit.ID; got != want {
			t.Errorf("%q means %s, want %s", typed, got, want)
		}
	}
	// Where two fit, both are offered; how many there are is read from the name.
	if p := circuit.Meant(all, circuit.Typed{Bench: "saw carburettor"}); len(p.Also) != 1 || p.Also[0].ID != "carburettor-machine" {
		t.Errorf("a saw carburettor is %s, or %d others", p.Circuit.ID, len(p.Also))
	}
	for typed, want := range map[string]int{"Fruit train, eight wagons": 8, "train of 5 wagons": 5, "Fruit train": 0, "Bin carrier 4": 0} {
		if got := circuit.Meant(all, circuit.Typed{Bench: typed}).Count; got != want {
			t.Errorf("%q names %d things, want %d", typed, got, want)
		}
	}
}

// A checklist stands before what can hurt: no step that follows one is open while
// its musts are not ticked.
func TestAChecklistGatesWhatFollows(t *testing.T) {
	all, err := Circuits()
	if err != nil {
		t.Fatal(err)
	}
	gated := 0
	for _, c := range all {
		if c.Family == "cap" {
			continue // its list is a finding: a wrong or dirty cap may be tried as well
		}
		var lists []string // checklists up to here
		waits := map[string][]string{}
		for _, s := range c.Tests() {
			waits[s.ID] = slices.Clone(s.After)
			for _, id := range s.After {
				waits[s.ID] = append(waits[s.ID], waits[id]...)
			}
			for _, l := range lists {
				gated++
				if !slices.Contains(waits[s.ID], l) {
					t.Errorf("%s: %s is open before %s", c.ID, s.ID, l)
				}
			}
			if s.Kind == circuit.Checklist && slices.ContainsFunc(s.Ticks, func(i circuit.Item) bool { return i.Must }) {
				lists = append(lists, s.ID)
			}
		}
	}
	if gated < 14 {
		t.Errorf("%d steps follow a checklist", gated)
	}
}

// Every kind of wrong file is refused with its line and what would be right.
func TestABadCircuitIsRefusedWithItsPlace(t *testing.T) {
	for _, c := range []struct{ file, from, to, line, says string }{
		{"cooling-header-tank", "volume: 7 L", "volume: 7", "line 31", "written with its unit"},
		{"cooling-header-tank", "limit: 250 kPa", "limit: 250 bananas", "line 68", "bananas"},
		{"cooling-header-tank", "family: cooling", "family: plumbing", "line 6", "/family"},
		{"cooling-header-tank", "id: cooling-header-tank", "id: [cooling", "line 4", ""},
		{"cooling-header-tank", "liquid: coolant", "liquor: coolant", "line 3", "liquor"},
		{"cooling-header-tank", "between: [loop, bores]", "between: [loop, sump]", "line 73", `"sump", which is no chamber here (loop, bores, oil, exhaust, or "outside")`},
		{"cooling-header-tank", "id: bottom-hose", "id: top-hose", "line 69", "every id once"},
		{"cooling-header-tank", "bayonet", "string and tape", "line 45", "there is thread inside, thread outside"},
		{"pressure-cap", "reseats: 100 kPa", "reseats: 120 kPa", "line 37", "a relief shuts below where it opens"},
		{"pressure-cap", "tolerance: 10 kPa", "least: 10 kPa", "line 51", "how far from the mark"},
		{"lift-housing", "port: ram-port", "port: ram-hole", "line 102", "no port here"},
		{"cylinder-head", "between: [water, oil-side]", "between: [water, outside]", "line 39", `no step reaches chamber "oil-side"`},
		{"two-stroke-crankcase", "at: 10 inHg vac", "at: 20 inHg vac", "line 121", "beyond the most of this step"},
		{"two-stroke-crankcase", "with: [decompressor]", "with: [decompresor]", "line 75", "not declared"},
		{"valve-block", "title: in float, with: [float]", "title: in float, with: [flote]", "line 42", "not declared"},
		{"engine-block", "for: [plug]", "for: [cork]", "line 34", "no part here is one"},
		{"engine-block", "id: air-decides", "id: powder-decks", "line 32", "every id once"},
		{"engine-block", "with: [fill-to-tell]", "with: [fill]", "line 142", "no option and no school"},
		{"two-stroke-crankcase", "step: turned", "step: spun", "line 287", "which is no step here"},
		{"cylinder-head", "circuit: engine-block}", "circuit: engine-block, held: warm}", "line 195", "give one of the three"},
		{"carburettor-bench", "    presses: 4\n", "", "line 145", "needs how many presses"},
	} {
		raw, err := files.ReadFile("circuits/" + c.file + ".yaml")
		if err != nil {
			t.Fatal(err)
		}
		bad := strings.Replace(string(raw), c.from, c.to, 1)
		if bad == string(raw) {
			t.Fatalf("%s: nothing was edited: %s", c.file, c.from)
		}
		_, err = ParseCircuit([]byte(bad))
		if err == nil {
			t.Errorf("%q was taken", c.to)
			continue
		}
		if !strings.Contains(err.Error(), c.line+":") || !strings.Contains(err.Error(), c.says) {
			t.Errorf("%s, %q: want %s and %q in %v", c.file, c.to, c.line, c.says, err)
		}
	}
	if _, err := Circuit("nothing"); err == nil || !strings.Contains(err.Error(), "cooling-header-tank") {
		t.Error(err)
	}
}

// No file, school, mark, gauge or rounding proposes a pressure beyond a limit.
func TestNothingIsProposedBeyondALimit(t *testing.T) {
	all, err := Circuits()
	if err != nil {
		t.Fatal(err)
	}
	schools, err := TargetSchools()
	if err != nil {
		t.Fatal(err)
	}
	var gauges []runsheet.Gauge
	for _, r := range []runsheet.Ring{
		{Unit: "bar", To: 2.5, Division: 0.05}, {Unit: "psi", To: 36, Division: 0.5}, {Unit: "kPa", To: 250, Division: 0.1}, {Unit: "bar", To: 10, Division: 0.2}, {Unit: "psi", To: 200, Division: 5},
		{Unit: "inHg", From: -30, To: 0, Division: 1}, {Unit: "bar", From: -1, To: 3, Division: 0.1}, {Unit: "kPa", To: 100, Division: 7}, {Unit: "kgf/cm²", To: 6, Division: 0.1}, {Unit: "bar", To: 0.6, Division: 0.01},
	} {
		for _, rating := range []float64{0, 40e3, 170e3} {
			gauges = append(gauges, runsheet.Gauge{Kind: "needle", Rings: []runsheet.Ring{r}, RatingPa: rating})
		}
	}
	proposed, steps := 0, 0
	check := func(what string, got runsheet.Target, limits []runsheet.Limit) {
		proposed++
		if strings.Contains(got.Says, "NaN") || strings.Contains(got.Says, "Inf") {
			t.Errorf("%s: %s", what, got.Says)
		}
		for _, l := range limits {
			if l.Pa*got.Pa > 0 && math.Abs(got.Pa) > math.Abs(l.CeilingPa)*(1+1e-9) {
				t.Errorf("%s: %s is beyond the %s's %.4g kPa", what, got.Printed, l.Of, l.CeilingPa/1e3)
			}
		}
	}
	// What may be filled for a test, by the trade: castings and coolers on the bench, and loops of coolant.
	mayBeFilled := map[string]bool{"head": true, "block": true, "cooler": true, "cooling": true}
	for _, x := range all {
		var fittings []circuit.Circuit
		for options := range 1 << len(x.Options) {
			fitted := map[string]bool{}
			for i, o := range x.Options {
				fitted[o.ID] = options>>i&1 == 1
			}
			fittings = append(fittings, x.Fitted(fitted))
		}
		for _, c := range append(fittings, x.Ways()...) {
			for _, s := range c.Tests() {
				for _, target := range s.Targets {
					e, _ := runsheet.StoredIn(&c, s, max(float64(target.At), 1e5), quantity.StandardAtmosphere)
					if e.Fill != "" && (!mayBeFilled[c.Family] || s.Dry || e.Fill == circuit.Never) {
						t.Errorf("%s %s: to be filled with %s", c.ID, s.ID, e.Fill)
					}
				}
			}
			for _, s := range c.Tests() {
				steps++
				for _, g := range gauges {
					limits := runsheet.StepLimits(&c, s)
					for _, part := range c.Pressed(s).Suspects { // each of them, not only the weakest
						if part.Limit > 0 && !s.Draws() {
							limits = append(limits, runsheet.Limit{Of: part.ID, Pa: float64(part.Limit), CeilingPa: float64(part.Limit)})
						}
					}
					if g.RatingPa > 0 {
						limits = append(limits, runsheet.Limit{Of: "gauge", Pa: g.RatingPa, CeilingPa: g.RatingPa})
					}
					var marks []quantity.Reading
					for _, text := range []string{"0.3", "0.9", "1.1", "16", "13-15", "110 kPa", "2", "200 kPa", "7", "1.5 bar", "30", "5 kPa", "50 kPa", "500 kPa", "1 MPa"} {
						if !c.Marked() {
							break
						}
						if m, err := quantity.DecodeMark(text, c.Plausible()); err == nil {
							marks = append(marks, m.Readings...)
						}
					}
					if len(limits) > 0 {
						// One's own is refused beyond the weakest without a reason, and says so with one.
						w := runsheet.Weakest(limits)
						over := w.CeilingPa * 1.02
						if got, err := runsheet.Typed(over, limits, "no"); err == nil {
							t.Errorf("%s %s: %v Pa beyond the %s was taken without a reason", c.ID, s.ID, got.Pa, w.Of)
						}
						const reason = "by the maker's own sheet, page 4"
						if got, err := runsheet.Typed(over, limits, reason); err != nil || !got.Over || !strings.Contains(got.Says, reason) || !strings.Contains(got.Says, map[bool]string{true: "BEYOND", false: "ABOVE"}[over < 0]) {
							t.Errorf("%s %s: the reason is not on the sheet: %q %v", c.ID, s.ID, got.Says, err)
						}
						if got, err := runsheet.Typed(w.CeilingPa, limits, ""); err != nil || got.Over {
							t.Errorf("%s %s: the limit itself is refused: %v", c.ID, s.ID, err)
						}
					}
					for _, target := range s.Targets {
						for i := range max(1, len(marks)) {
							var mark *quantity.Reading
							if len(marks) > 0 {
								mark = &marks[i]
							}
							if got, err := runsheet.AimStep(target, mark, limits, g); err == nil {
								check(c.ID+" "+s.ID+" "+target.ID, got, limits)
								if target.OverMark == 0 && math.Abs(got.Pa) > math.Abs(float64(target.At))*(1+1e-9) {
									t.Errorf("%s %s: %s is beyond what was aimed at", c.ID, s.ID, got.Printed)
								}
							}
						}
					}
					if len(s.Targets) > 0 {
						continue
					}
					for _, m := range marks {
						for _, school := range schools {
							got, err := runsheet.Aim(school, m, c.Mark.On, limits, g)
							if err != nil {
								continue
							}
							if school.ID == "at-least" && got.Pa < m.HighPa*(1-1e-9) {
								t.Errorf("%s %s: at least %v Pa is said, %s is pumped", c.ID, s.ID, m.HighPa, got.Printed)
							}
							if w := runsheet.Weakest(limits); school.ID == "exactly" && w.CeilingPa < m.LowPa && !strings.Contains(got.Says, w.Of) && w.Of != "step" {
								t.Errorf("%s %s: the %s rules, and it says %q", c.ID, s.ID, w.Of, got.Says)
							}
							all := limits
							if school.ID != "margin" {
								all = append(slices.Clone(limits), runsheet.MarkLimit(m, c.Mark.On))
							}
							check(c.ID+" "+s.ID+" "+school.ID, got, all)
						}
					}
				}
			}
		}
	}
	if proposed < 5000 || steps < 40 {
		t.Errorf("only %d proposals of %d steps were looked at", proposed, steps)
	}
	t.Logf("%d proposals of %d steps", proposed, steps)
}

// BenchmarkCircuits is what the library costs at the start of the program.
func BenchmarkCircuits(b *testing.B) {
	raw, err := files.ReadFile("circuits/two-stroke-crankcase.yaml")
	if err != nil {
		b.Fatal(err)
	}
	for b.Loop() {
		if _, err := ParseCircuit(raw); err != nil {
			b.Fatal(err)
		}
	}
}

// The page about circuits knows every one that ships and every test of it.
func TestThePageAboutCircuitsIsCurrent(t *testing.T) {
	raw, err := os.ReadFile("../docs/circuits.md")
	if err != nil {
		t.Fatal(err)
	}
	page := string(raw)
	all, err := Circuits()
	if err != nil {
		t.Fatal(err)
	}
	for _, c := range all {
		row := ""
		for _, l := range strings.Split(page, "\n") {
			if strings.HasPrefix(l, "| `"+c.ID+"` | "+c.Family) {
				row = l
			}
		}
		for _, s := range c.Tests() {
			if !strings.Contains(row, s.Title+" (`"+string(s.Kind)+"`)") {
				t.Errorf("docs/circuits.md does not tell of %s, %s", c.ID, s.Title)
			}
		}
	}
	for _, k := range circuit.Kinds {
		if !strings.Contains(page, "| `"+string(k)+"` |") {
			t.Errorf("docs/circuits.md does not tell of the kind of step %s", k)
		}
	}
	start := strings.Index(page, "```yaml\n") + len("```yaml\n")
	example := page[start : start+strings.Index(page[start:], "```")]
	if _, err := ParseCircuit([]byte(example)); err != nil {
		t.Errorf("the example of docs/circuits.md: %v", err)
	}
}
