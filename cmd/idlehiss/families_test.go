package main

import (
	"encoding/json"
	"fmt"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"testing"

	"github.com/goccy/go-yaml"

	"idlehiss/core/physics"
	"idlehiss/core/simulate"
	"idlehiss/core/steps"
	"idlehiss/library"
)

// bench plays jobs on simulated circuits, and has them called by the command.
type bench struct {
	*testing.T
	dir string
	f   findings
}

func onBench(t *testing.T) *bench {
	return &bench{t, t.TempDir(), findings{Steps: map[string]finding{}}}
}

// hold simulates one of the steps by the command and keeps its trace.
func (b *bench) hold(id, step, at string, more ...string) *bench {
	b.Helper()
	file := filepath.Join(b.dir, step+".csv")
	if code, _, errs := idlehiss("", append([]string{"simulate", id, "--step", step, "--at=" + at, "--out", file}, more...)...); code != 0 {
		b.Fatalf("%s %s: %s", id, step, errs)
	}
	b.f.Steps[step] = finding{Trace: step + ".csv"}
	return b
}

// under simulates one of a step's two conditions.
func (b *bench) under(id, step, at, condition string, more ...string) *bench {
	b.Helper()
	f := b.f.Steps[step]
	traces := f.Traces
	if traces == nil {
		traces = map[string]string{}
	}
	b.hold(id, step, at, more...)
	file := fmt.Sprintf("%s-%d.csv", step, len(traces))
	if err := os.Rename(filepath.Join(b.dir, step+".csv"), filepath.Join(b.dir, file)); err != nil {
		b.Fatal(err)
	}
	traces[condition] = file
	b.f.Steps[step] = finding{Traces: traces}
	return b
}

// found keeps what was read of another step: field, value, …
func (b *bench) found(step string, fields ...string) *bench {
	b.f.Steps[step] = finding{Fields: pairs(fields)}
	return b
}

func pairs(list []string) map[string]string {
	out := map[string]string{}
	for i := 0; i < len(list); i += 2 {
		out[list[i]] = list[i+1]
	}
	return out
}

func (b *bench) row(step, row string, cells ...string) {
	f := b.f.Steps[step]
	if f.Rows == nil {
		f.Rows = map[string]map[string]string{}
	}
	f.Rows[row] = pairs(cells)
	b.f.Steps[step] = f
}

func (b *bench) ticked(step string, items ...string) { b.f.Steps[step] = finding{Ticked: items} }

// called has the whole of it called, and looks for words in what is said.
func (b *bench) called(id string, want steps.Verdict, says ...string) calledAll {
	b.Helper()
	raw, err := yaml.Marshal(b.f)
	if err != nil {
		b.Fatal(err)
	}
	file := filepath.Join(b.dir, "findings.yaml")
	if err := os.WriteFile(file, raw, 0o644); err != nil {
		b.Fatal(err)
	}
	code, out, errs := idlehiss("", "call", id, file, "--json")
	if code != 0 {
		b.Fatalf("%s: %s", id, errs)
	}
	conforms(b.T, "call", out)
	var all calledAll
	if err := json.Unmarshal([]byte(out), &all); err != nil {
		b.Fatal(err)
	}
	whole := all.Call.Sentence + "\n" + strings.Join(all.Call.Lines, "\n")
	for _, s := range says {
		if !strings.Contains(whole, s) {
			b.Errorf("%s: %q is not in: %s", id, s, whole)
		}
	}
	if all.Call.Verdict != want {
		b.Errorf("%s: called %s, want %s: %s", id, all.Call.Verdict, want, whole)
	}
	return all
}

// system is a step's own, for what the command does not play.
func (b *bench) system(id, step string, at float64, leaks ...simulate.Leak) (*simulate.Sim, simulate.System, int) {
	b.Helper()
	c, err := library.Circuit(id)
	if err != nil {
		b.Fatal(err)
	}
	c = c.Fitted(c.AsRule())
	s, _ := c.Test(step)
	sys, port, err := simulate.FromStep(&c, s, leaks, at, 101325)
	if err != nil {
		b.Fatal(err)
	}
	sim, err := simulate.New(sys)
	if err != nil {
		b.Fatal(err)
	}
	return sim, sys, port
}

func inKPa(pa float64) string { return fmt.Sprintf("%.1f kPa", pa/1e3) }

// A loop of each kind, sound and leaking.
func TestCoolingLoops(t *testing.T) {
	for id, part := range map[string]string{"cooling-header-tank": "water-pump", "cooling-radiator-cap": "neck-seat", "cooling-second-loop": "charge-cooler"} {
		b := onBench(t)
		b.f.Mark = "110 kPa"
		b.hold(id, "hold", "110kPa", "--hold", "12min").called(id, steps.Good, "Tight")
		b.hold(id, "hold", "110kPa", "--leak", part+"=12cm3/min").called(id, steps.Bad, "Leaking")
	}
}

// A pump's seal that passes inward only is found under vacuum, beside the pressure hold.
func TestACoolingLoopUnderVacuum(t *testing.T) {
	air := []string{"--stroke", "8cm3", "--hold", "8min"}
	bench := func(leak ...string) *bench {
		b := onBench(t).hold("cooling-vacuum", "vacuum", "-40kPa", append(leak, air...)...)
		b.ticked("ready", "level-low", "felt")
		return b
	}
	bench().called("cooling-vacuum", steps.Good, "Vacuum hold: Tight")
	bench("--leak", "water-pump=30cm3/min", "--one-way", "water-pump=inward").called("cooling-vacuum", steps.Bad, "Not right: vacuum hold")
}

// A dirty cap holds nothing; cleaned and wetted it lifts and reseats where it should.
func TestACapIsGoodAfterCleaning(t *testing.T) {
	lift := func(leaks ...simulate.Leak) (lifted, held string) {
		sim, _, port := onBench(t).system("pressure-cap", "lift", 110e3, leaks...)
		top := 0.0
		for range 60 {
			sim.Stroke(port, 8e-6)
			top = max(top, sim.GaugePa(port))
			sim.Advance(0.5)
		}
		sim.Advance(15)
		return inKPa(top), inKPa(sim.GaugePa(port))
	}
	cap := func(b *bench) *bench {
		b.f.Mark = "110 kPa"
		b.ticked("right-cap", "right-mark", "clean")
		b.row("inward-valve", "inward-valve-1", "opens", "yes", "drops", "yes")
		return b
	}
	lifted, held := lift(simulate.Leak{Part: "seal", M3PerS: simulate.StdM3PerS(900), Law: physics.Orifice})
	cap(onBench(t)).found("lift", "lifted", lifted, "held", held, "clean", "no").called("pressure-cap", steps.Unknown, "before you reject it")
	cap(onBench(t)).found("lift", "lifted", lifted, "held", held, "clean", "yes").called("pressure-cap", steps.Bad, "lift and reseat")
	dirty, rest := lifted, held
	lifted, held = lift()
	cap(onBench(t)).found("lift", "lifted", dirty, "held", rest, "clean", "no", "again-lifted", lifted, "again-held", held).called("pressure-cap", steps.Good, "Cleaned: lifts at", "First try: it lifted at")
	cap(onBench(t)).found("lift", "lifted", lifted, "held", held, "clean", "yes").called("pressure-cap", steps.Good, "right for its mark")
}

func TestABareRadiatorIsUsedWithLessOrReplaced(t *testing.T) {
	b := onBench(t).hold("bare-radiator", "hold", "100kPa", "--stroke", "250cm3", "--hold", "8min")
	b.row("lost-area", "bent", "value", "30")
	b.row("lost-area", "tubes", "value", "5")
	b.row("dip", "dip-1", "no-bubble", "yes")
	b.called("bare-radiator", steps.Good, "Tight", "Watch the temperature")
	b.hold("bare-radiator", "hold", "100kPa", "--stroke", "250cm3", "--leak", "tubes=90cm3/min").called("bare-radiator", steps.Bad, "Leaking")
}

// A joint that is tight at rest and leaks when it is moved, fed from a tank.
func TestAnIntakeThatLeaksOnlyWhenMoved(t *testing.T) {
	measured := func(leaks ...simulate.Leak) []string {
		const boost, tank, from, seconds = 135e3, 0.1, 700e3, 60.0
		sim, sys, port := onBench(t).system("boosted-intake", "feed", boost, leaks...)
		sim.Hold(port, boost) // by the regulator
		sim.Advance(20)       // the manifold fills
		gone := 0.0
		for range 60 {
			for k, p := range sys.Passages {
				if p.From == port || p.To == port {
					gone += sim.Flow(k) * seconds / 60
				}
			}
			sim.Advance(1)
		}
		return []string{"from", "7.00 bar", "to", fmt.Sprintf("%.2f bar", (from-gone*physics.StandardPa/tank)/1e5), "time", "60.0 s"}
	}
	job := func(still, moved []string) *bench {
		b := onBench(t).found("feed", "tank", "100.0 L")
		b.f.Mark = "100 kPa"
		b.row("feed", "still", still...)
		b.row("feed", "moved", moved...)
		return b
	}
	sound := measured()
	torn := measured(simulate.Leak{Part: "couplers", M3PerS: 60e-3 / 60, Law: physics.Orifice})
	job(sound, sound).called("boosted-intake", steps.Good, "at rest and moved")
	job(sound, torn).called("boosted-intake", steps.Bad, "only when it is moved")
}

// A lip that holds pressure and passes inward is found by trying both signs.
func TestACrankcaseTightInPressureLeakingInVacuum(t *testing.T) {
	seal := []string{"--leak", "clutch-seal=18cm3/min", "--one-way", "clutch-seal=inward", "--stroke", "8cm3"}
	both := func(more ...string) *bench {
		more = append(more, "--stroke", "8cm3", "--hold", "6min")
		return onBench(t).hold("two-stroke-crankcase", "vacuum", "-34kPa", more...).hold("two-stroke-crankcase", "pressure", "45kPa", more...)
	}
	both().called("two-stroke-crankcase", steps.Good, "Vacuum hold: Tight", "Pressure hold: Tight")
	both(seal...).called("two-stroke-crankcase", steps.Bad, "Vacuum hold: Leaking", "Pressure hold: Tight", "leaks inward only")
	// A reed shuts under pressure: a torn boot behind it shows under vacuum alone, and in both with the reed out.
	boot := []string{"--leak", "boot=18cm3/min", "--stroke", "8cm3"}
	both(boot...).called("two-stroke-crankcase", steps.Bad, "Vacuum hold: Leaking", "Pressure hold: Tight", "Tried in this hold alone: intake boot")
	both(append(boot, "--with", "reed-out")...).called("two-stroke-crankcase", steps.Bad, "Vacuum hold: Leaking", "Pressure hold: Leaking")
	one := onBench(t).hold("two-stroke-crankcase", "pressure", "45kPa", "--stroke", "8cm3", "--hold", "6min").called("two-stroke-crankcase", steps.Unknown)
	if len(one.Call.Untested) != 1 || one.Call.Untested[0] != "Vacuum hold" {
		t.Errorf("untested: %v", one.Call.Untested)
	}
}

// A dry needle fails until it is wetted; a gasket that leaks stays so.
func TestACarburettorFailsDryAndPassesWetted(t *testing.T) {
	small := []string{"--stroke", "1.5cm3", "--hold", "8min"}
	needle := append([]string{"--leak", "needle=1.5cm3/min"}, small...)
	gasket := append([]string{"--leak", "pump-gasket=1.5cm3/min"}, small...)
	// Each press lets what the metering chamber takes go, and it stays there.
	presses := func(b *bench, step string) {
		sim, _, port := b.system("carburettor-bench", "dry", 45e3)
		for sim.GaugePa(port) < 45e3 {
			sim.Stroke(port, 1.5e-6)
			sim.Advance(1)
		}
		sim.Advance(120)
		for n := range 4 {
			before := sim.GaugePa(port)
			sim.Stroke(port, -1.2e-6)
			after := sim.GaugePa(port)
			sim.Advance(10)
			b.row(step, fmt.Sprintf("press-%d", n+1), "before", inKPa(before), "after", inKPa(after), "later", inKPa(sim.GaugePa(port)))
		}
	}
	job := func(dry, wetted []string) *bench {
		b := onBench(t).hold("carburettor-bench", "dry", "45kPa", dry...).hold("carburettor-bench", "wetted", "45kPa", wetted...)
		presses(b, "primer")
		lever := b.f.Steps["primer"].Rows
		b.f.Steps["lever"] = finding{Rows: map[string]map[string]string{"press-1": lever["press-1"], "press-2": lever["press-2"]}}
		// Once the cover was off for the lever, both slopes are asked for.
		return b.under("carburettor-bench", "cover", "45kPa", "cover-off", wetted...).under("carburettor-bench", "cover", "45kPa", "cover-on", wetted...)
	}
	job(needle, small).called("carburettor-bench", steps.Good, "Needle and fuel side, as found: bad, but no more so", "and it stays there")
	job(gasket, gasket).called("carburettor-bench", steps.Bad, "wetted: Leaking")
}

// A lever that stands too high shows in its slopes: faster with the cover on than
// with it off. A carburettor whose both slopes are alike has a right lever.
func TestACarburettorsCoverTellsItsLever(t *testing.T) {
	const id, off, on = "carburettor-bench", "cover-off", "cover-on"
	slope := func(flow string) []string {
		return []string{"--stroke", "1.5cm3", "--hold", "6min", "--leak", "needle=" + flow}
	}
	called := func(want steps.Verdict, says string, second ...string) {
		t.Helper()
		b := onBench(t).under(id, "cover", "45kPa", off, slope("0.02cm3/min")...)
		if second != nil {
			b.under(id, "cover", "45kPa", on, second...)
		}
		all := b.called(id, map[bool]steps.Verdict{true: steps.Bad, false: steps.Unknown}[want == steps.Bad])
		for _, s := range all.Steps {
			if s.ID == "cover" && (s.Outcome.Verdict != want || !strings.Contains(s.Outcome.Sentence, says)) {
				t.Errorf("%s: %s", s.Outcome.Verdict, s.Outcome.Sentence)
			}
		}
	}
	called(steps.Unknown, "Now hold it with the cover on")
	called(steps.Good, "No faster with the cover on", slope("0.02cm3/min")...)
	called(steps.Bad, "the lever is high or the diaphragm stiff", slope("1.5cm3/min")...)
	b := onBench(t).under(id, "cover", "45kPa", "upside down", slope("0.02cm3/min")...)
	raw, err := yaml.Marshal(b.f)
	if err != nil {
		t.Fatal(err)
	}
	if code, _, errs := idlehiss(string(raw), "call", id, "-"); code != 2 || !strings.Contains(errs, "cover-off or cover-on") {
		t.Errorf("%d %s", code, errs)
	}
}

// A head leaks at its plate until that is nipped again; then it is the head's turn.
func TestAHeadLeaksAtItsJointUntilReNipped(t *testing.T) {
	air := []string{"--stroke", "300cm3", "--hold", "12min", "--digital", "0.05kPa"}
	job := func(leak ...string) *bench {
		b := onBench(t).found("nip", "done", "3")
		for step, at := range map[string]string{"first": "140kPa", "second": "200kPa"} {
			b.hold("cylinder-head", step, at, append(leak, air...)...)
		}
		return b
	}
	job("--leak", "plate-joint=120cm3/min").called("cylinder-head", steps.Bad, "First pressure: Leaking")
	job().called("cylinder-head", steps.Good, "Second pressure, turned over: Tight")
	job("--leak", "seats=120cm3/min").called("cylinder-head", steps.Bad, "Second pressure, turned over: Leaking")
	// Under a windowed plate the chambers are seen: what leaks there or into a port stands open to the air.
	job("--leak", "port-walls=120cm3/min").called("cylinder-head", steps.Bad, "Second pressure, turned over: Leaking")
}

func TestABlockWithOneCrackedBank(t *testing.T) {
	air := []string{"--stroke", "400cm3", "--hold", "12min", "--digital", "0.05kPa"}
	job := func(leak ...string) *bench {
		b := onBench(t).hold("engine-block", "left", "200kPa", append(leak, air...)...).hold("engine-block", "right", "200kPa", air...)
		for i := range 7 {
			b.row("powder", fmt.Sprintf("place-%d", i+1), "powder", "nothing")
		}
		return b
	}
	job().called("engine-block", steps.Good, "Left bank under air: Tight", "Right bank under air: Tight")
	b := job("--leak", "left-bores=150cm3/min")
	b.row("powder", "place-5", "powder", "crack", "air", "leaks", "verdict", "sleeve")
	b.called("engine-block", steps.Bad, "Left bank under air: Leaking", "Right bank under air: Tight", "Leaks: left bores")
}

// What passes at an orifice that belongs there is none; a spool beside it is.
func TestAValveThatLeaksOnlyAtItsOrifice(t *testing.T) {
	for id, job := range map[string]func(leak ...string) *bench{
		"lift-housing": func(leak ...string) *bench {
			b := onBench(t)
			b.ticked("set-up", "lever-off", "oil-in", "held", "ram-held")
			air := []string{"--stroke", "40cm3", "--hold", "4min"}
			return b.hold("lift-housing", "neutral", "250kPa", append(leak, air...)...).hold("lift-housing", "ram", "250kPa", air...).hold("lift-housing", "flow", "250kPa", air...)
		},
		"valve-block": func(leak ...string) *bench {
			b, air := onBench(t), []string{"--stroke", "20cm3", "--hold", "4min"}
			return b.hold("valve-block", "supply", "250kPa", append(leak, air...)...).hold("valve-block", "port-a", "250kPa", air...).hold("valve-block", "port-b", "250kPa", air...).hold("valve-block", "load-a", "250kPa", air...).hold("valve-block", "load-b", "250kPa", air...).hold("valve-block", "tank", "50kPa", air...)
		},
	} {
		job().called(id, steps.Good, "Tight")
		job("--leak", map[string]string{"lift-housing": "spool", "valve-block": "land-a"}[id]+"=90cm3/min").called(id, steps.Bad, "Leaking")
	}
	// A check valve is tried against the way in which it opens: with the supply open, from its port.
	b := onBench(t).hold("valve-block", "load-a", "250kPa", "--stroke", "20cm3", "--hold", "4min", "--leak", "load-check-a=90cm3/min")
	b.called("valve-block", steps.Bad, "Not right: load check of A")
	// The main relief passes from the supply, an end cap from the tank passage.
	b = onBench(t).hold("valve-block", "supply", "250kPa", "--stroke", "20cm3", "--hold", "4min", "--leak", "main-relief=90cm3/min")
	b.called("valve-block", steps.Bad, "Not right: supply, spools centred")
	b = onBench(t).hold("valve-block", "tank", "50kPa", "--stroke", "20cm3", "--hold", "4min", "--leak", "end-cap=90cm3/min")
	b.called("valve-block", steps.Bad, "Not right: tank passage")
	b = onBench(t).hold("lift-housing", "ram", "250kPa", "--stroke", "40cm3", "--hold", "4min", "--leak", "check=900cm3/min")
	b.called("lift-housing", steps.Bad, "Not right: ram held")
}

// Every cylinder is measured against its pump; one of seven passes oil.
func TestOneBadCylinderOfSeven(t *testing.T) {
	reads := func(leak float64) string {
		var leaks []simulate.Leak
		if leak > 0 {
			leaks = append(leaks, simulate.Leak{Part: "cylinders", M3PerS: leak, Law: physics.Laminar})
		}
		sim, _, port := onBench(t).system("powered-hydraulic-set", "pressures", 100e5, leaks...)
		for range 3000 {
			sim.Stroke(port, 20e-6)
			sim.Advance(0.05)
		}
		return fmt.Sprintf("%.0f bar", sim.GaugePa(port)/1e5)
	}
	job := func(bad int) *bench {
		b := onBench(t)
		b.ticked("ready", "level", "battery", "clear", "gauge-seen")
		sound := reads(0)
		b.f.Things = []string{"Cylinder 1", "Cylinder 2", "Cylinder 3", "Cylinder 4", "Cylinder 5", "Cylinder 6", "Cylinder 7"}
		b.row("pressures", "pump", "value", sound, "least", "110 bar", "good", "130 bar") // by the manual of this set
		for i := range 7 {
			v := sound
			if i+1 == bad {
				v = reads(5e-4)
			}
			cells := []string{"value", v}
			if i == 0 {
				cells = append(cells, "least", "95 bar", "good", "110 bar") // the rows below it take the same
			}
			b.row("pressures", fmt.Sprintf("c%d", i+1), cells...)
		}
		return b
	}
	job(0).called("powered-hydraulic-set", steps.Good, "All 8")
	job(4).called("powered-hydraulic-set", steps.Bad, "Too low: Cylinder 4. 7 of 8 are right", "Not right: pump, then each cylinder (cylinder 4).")
}

// 30 bar at 20 °C shows less on a cold morning, and is right; one that lost gas is not.
func TestAnAccumulatorLowOnAColdMorningYetRight(t *testing.T) {
	shows := func(lost float64) string {
		sim, _, port := onBench(t).system("accumulator-small", "precharge", 30e5)
		for sim.GaugePa(port) < 30e5*(1-lost) {
			sim.Stroke(port, 20e-6)
		}
		sim.Warm(port, 278.15, 600)
		sim.Advance(7200)
		return fmt.Sprintf("%.2f bar", sim.GaugePa(port)/1e5)
	}
	for lost, want := range map[float64]steps.Verdict{0: steps.Good, 0.15: steps.Bad} {
		b := onBench(t).found("precharge", "plate", "30 bar", "temperature", "5 °C", "found", shows(lost))
		b.ticked("ready", "oil-zero", "vent-shut", "nitrogen")
		b.called("accumulator-small", want, map[steps.Verdict]string{steps.Good: "Right: ", steps.Bad: "nitrogen is missing"}[want])
	}
	b := onBench(t).found("precharge", "plate", "30 bar", "temperature", "20 °C", "found", "30.5 bar")
	b.ticked("ready", "oil-zero", "vent-shut", "nitrogen")
	b.called("accumulator-large", steps.Good, "Right")
	// At 200 bar nitrogen is no ideal gas: what is right on a cold and on a hot day, and what is not.
	for _, x := range []struct {
		celsius, shows string
		want           steps.Verdict
		says           string
	}{
		{"0 °C", "181 bar", steps.Good, "Right"}, {"0 °C", "172.5 bar", steps.Good, "Right"}, // 5 % of 181, more than 5 % below what an ideal gas would show
		{"0 °C", "164 bar", steps.Good, "may stay"}, {"0 °C", "161 bar", steps.Bad, "Low"},
		{"40 °C", "218.6 bar", steps.Good, "Right"}, {"40 °C", "228 bar", steps.Good, "Right"}, // more than 5 % above an ideal gas
		{"40 °C", "231 bar", steps.Bad, "High"},
	} {
		b := onBench(t).found("precharge", "plate", "200 bar", "temperature", x.celsius, "found", x.shows)
		b.ticked("ready", "oil-zero", "vent-shut", "nitrogen")
		b.called("accumulator-large", x.want, "should be", x.says)
	}
}

// A train of five wagons: one whose brake does not come on, and one with a pipe
// that has grown narrow.
func TestATrainWithOneFailedWagonAndARestriction(t *testing.T) {
	// The pipe as two halves; what joins them is wide or narrow.
	emergency := func(joint float64) (near, far string) {
		sim, err := simulate.New(simulate.System{AmbientPa: 101325,
			Chambers: []simulate.Chamber{{ID: "near", GasM3: 22e-3}, {ID: "far", GasM3: 22e-3}},
			Passages: []simulate.Passage{
				{Part: "valve", From: 0, To: simulate.Outside, Law: physics.Orifice, StdM3PeS: 0.1, RefPa: 500e3, Shut: true},
				{Part: "pipe", From: 0, To: 1, Law: physics.Orifice, StdM3PeS: joint, RefPa: 500e3},
			}})
		if err != nil {
			t.Fatal(err)
		}
		for sim.GaugePa(0) < 500e3 || sim.GaugePa(1) < 495e3 {
			sim.Stroke(0, 2e-3)
			sim.Advance(1)
		}
		from := sim.Now()
		sim.Work("valve", true)
		at := [2]float64{}
		for sim.Now() < from+60 && (at[0] == 0 || at[1] == 0) {
			sim.Advance(0.05)
			for i := range at {
				if at[i] == 0 && sim.GaugePa(i) < 20e3 {
					at[i] = sim.Now() - from
				}
			}
		}
		return fmt.Sprintf("%.1f s", at[0]), fmt.Sprintf("%.1f s", at[1])
	}
	job := func(joint float64, third string) *bench {
		b := onBench(t)
		b.f.Things = []string{"Wagon 1", "Wagon 2", "Wagon 3", "Wagon 4", "Wagon 5"}
		b.ticked("secured", "scotched", "two-people")
		b.found("one-way", "before", "0 kPa", "after", "0.5 kPa")
		b.hold("train-brake", "leak-brake", "500kPa", "--stroke", "20L", "--hold", "4min")
		b.hold("train-brake", "leak-feed", "800kPa", "--stroke", "30L", "--hold", "4min")
		for i := range b.f.Things {
			on := "yes"
			if i == 2 {
				on = third
			}
			b.row("continuity", fmt.Sprintf("continuity-%d", i+1), "on", on, "off", "yes")
		}
		near, far := emergency(joint)
		b.found("emergency-front", "near", near, "far", far)
		b.found("emergency-rear", "near", near, "far", far)
		return b
	}
	job(0.6, "yes").called("train-brake", steps.Good, "Leakage of the brake pipe: Tight")
	job(0.6, "no").called("train-brake", steps.Bad, "Continuity: Failed: Wagon 3", "Not right: continuity (wagon 3).")
	// One-way valves: the brake pipe at zero, the feed full. A valve that passes lets it creep up.
	creeps := func(leaks ...simulate.Leak) string {
		sim, sys, port := onBench(t).system("train-brake", "one-way", 800e3, leaks...)
		for sim.GaugePa(port) < 800e3 {
			sim.Stroke(port, 30e-3)
			sim.Advance(1)
		}
		sim.Advance(300)
		at := slices.IndexFunc(sys.Chambers, func(c simulate.Chamber) bool { return c.ID == "brake-pipe" })
		return inKPa(sim.GaugePa(at))
	}
	for leak, want := range map[float64]steps.Verdict{0: steps.Good, 3e-4: steps.Bad} {
		b := job(0.6, "yes")
		b.found("one-way", "before", "0 kPa", "after", creeps(simulate.Leak{Part: "one-way", M3PerS: leak, Law: physics.Orifice}), "time", "300 s")
		b.called("train-brake", want, map[steps.Verdict]string{steps.Good: "did not move", steps.Bad: "a one-way valve leaks"}[want])
	}
	job(0.022, "yes").called("train-brake", steps.Bad, "something between the gauges is narrow")
	b := job(0.6, "yes").hold("train-brake", "leak-feed", "800kPa", "--stroke", "30L", "--hold", "4min", "--leak", "feed-hoses=20L/min")
	b.called("train-brake", steps.Bad, "Leakage of the feed pipe: Leaking")
}

// What a findings file says wrongly is refused with its place.
func TestWrongFindingsAreRefused(t *testing.T) {
	for says, text := range map[string]string{
		"has no step \"vacum\"":  "steps: {vacum: {trace: a.csv}}",
		"a hold wants its trace": "steps: {vacuum: {}}",
		"no-such.csv":            "steps: {vacuum: {trace: no-such.csv}}",
		"unknown field":          "step: {}",
	} {
		code, _, errs := idlehiss(text, "call", "two-stroke-crankcase", "-")
		if code != 2 || !strings.Contains(errs, says) {
			t.Errorf("%s: exit %d, %s; want %q", text, code, errs, says)
		}
	}
	code, _, errs := idlehiss("steps: {emergency-front: {fields: {near: soon}}}", "call", "train-brake", "-")
	if code != 2 || !strings.Contains(errs, "emergency-front") || !strings.Contains(errs, "soon") {
		t.Errorf("exit %d, %s", code, errs)
	}
}
