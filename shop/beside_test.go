package shop

import (
	"bytes"
	"encoding/json"
	"fmt"
	"math"
	"os"
	"regexp"
	"strings"
	"testing"
	"time"

	"idlehiss/core/circuit"
	"idlehiss/core/judge"
	"idlehiss/core/physics"
	"idlehiss/core/quantity"
	"idlehiss/core/runsheet"
	"idlehiss/core/terms"
	"idlehiss/core/trace"
	"idlehiss/desk"
	"idlehiss/holds"
	"idlehiss/jobs"
	"idlehiss/library"
	"idlehiss/trail"
)

// unstroked is a needle hold pumped without strokes being counted.
func (b *bench) unstroked(job string) HoldView {
	b.Helper()
	h := must[HoldView](b)(b.Start(job, StartHold{Write: b.write(), Purpose: terms.Test}))
	b.read(h.ID, 16)
	return b.event(h.ID, trace.Isolate)
}

func TestAirFromTheSlateStandsInWhereStrokesDoNotTellIt(t *testing.T) {
	b := open(t)
	j := b.job("16")
	h := b.unstroked(j.ID)
	if h.Allowance.From == "house" {
		t.Fatalf("without air there is a house allowance: %+v", h.Allowance)
	}
	v := must[JobView](b)(b.sheet(b.Jobs.Air(b.ctx, j.ID, jobs.TakeAir{Write: b.write(), M3: 0.6e-3, SE: 0.03e-3, Says: "By a vessel."})))
	if h = v.Holds[len(v.Holds)-1]; h.Allowance.From != "house" {
		t.Errorf("the air given while it held made no house allowance: %+v", h.Allowance)
	}
	// 1.5 psi a minute at the test pressure, by a narrow passage.
	const psi, around = 6894.757, 101325.0
	drive := func(p float64) float64 { return math.Pow(p*psi+around, 2) - around*around }
	for p := 16.0; p > 11; p -= 0.5 * drive(p) / drive(16) {
		b.clock.set(b.clock.Now().Add(20 * time.Second))
		h = b.read(h.ID, p)
	}
	if r := h.Report; r == nil || r.FlowCm3PerMin == nil || r.LossMLPerH == nil || r.WeepColdMLPerH == nil || r.Call != judge.Leaking {
		t.Fatalf("%+v", h.Report)
	}
	// Gas behind the leak and liquid before it: 1.5 psi a minute of 0.6 L.
	rate := 1.5 * psi / 60
	if want := 0.6e-3 * rate / (16*psi + around) * 3600e6; math.Abs(h.Report.WeepColdMLPerH.Value/want-1) > 0.1 {
		t.Errorf("liquid side %v mL/h, should be about %.0f", h.Report.WeepColdMLPerH, want)
	}
	_, err := b.sheet(b.Jobs.Air(b.ctx, j.ID, jobs.TakeAir{Write: b.write(), M3: 1e-3, SE: 2e-3}))
	refused(t, "more doubt than air", err, desk.BadInput, "se_m3")
}

func TestALeakIsHeldAgainstWhatIsToppedUp(t *testing.T) {
	b := open(t)
	j := b.job("16")
	h := b.held(j.ID)
	for n := range 12 {
		b.clock.set(b.clock.Now().Add(20 * time.Second))
		h = b.read(h.ID, 16-0.5*float64(n))
	}
	for added, says := range map[string]string{"400 L": "too small to be the cause", "0.2 L": "It could lose"} {
		v := must[JobView](b)(b.sheet(b.Jobs.TopUps(b.ctx, j.ID, jobs.ToppedUp{Write: b.write(), TopUps: trail.TopUps{Added: added, Within: "14", Hours: 8}})))
		if !strings.Contains(strings.ToLower(v.Explains), strings.ToLower(says)) {
			t.Errorf("%s: %q (leak %+v)", added, v.Explains, h.Report.LossMLPerH)
		}
	}
	_, err := b.sheet(b.Jobs.TopUps(b.ctx, j.ID, jobs.ToppedUp{Write: b.write(), TopUps: trail.TopUps{Added: "some", Within: "14", Hours: 8}}))
	refused(t, "some", err, desk.BadInput, "added")
	_, err = b.sheet(b.Jobs.TopUps(b.ctx, j.ID, jobs.ToppedUp{Write: b.write(), TopUps: trail.TopUps{Added: "1 L", Within: "soon", Hours: 8}}))
	refused(t, "soon", err, desk.BadInput, "within")
}

// The same fall is far more liquid than gas: how the leak was noticed sets its size, on the sheet,
// in the book and on paper; until it is known the larger stands.
func TestDripOrHissSetsTheSize(t *testing.T) {
	b := open(t)
	j := b.job("16")
	h := b.held(j.ID)
	for n := range 12 {
		b.clock.set(b.clock.Now().Add(20 * time.Second))
		h = b.read(h.ID, 16-0.2*float64(n))
	}
	h = b.event(h.ID, trace.Release)
	drip, hiss := h.Report.WeepMLPerH.Value, h.Report.LossMLPerH.Value
	if h.Report.Call != judge.Leaking || drip < 10*hiss {
		t.Fatalf("%s, %.3g and %.3g mL an hour", h.Report.Call, drip, hiss)
	}
	for _, x := range []struct {
		how            terms.Escape
		size           float64
		paper, without string
	}{
		{terms.NotNoticed, drip, "As hot coolant, if it drips", "nothing of the kind"},
		{terms.Hissed, hiss, "As hot coolant, if it hisses", "As hot coolant, if it drips"},
		{terms.Dripped, drip, "As hot coolant, if it drips", "As hot coolant, if it hisses"},
	} {
		if x.how != terms.NotNoticed {
			if v := must[JobView](b)(b.sheet(b.Jobs.Escape(b.ctx, j.ID, jobs.Escape{Write: b.write(), How: x.how}))); v.Escape != x.how {
				t.Errorf("%q: the sheet says %q", x.how, v.Escape)
			}
		}
		rows := must[BookView](b)(b.Book(b.ctx, "", "")).Rows
		if len(rows) != 1 || rows[0].LossMLH == nil || math.Abs(*rows[0].LossMLH/x.size-1) > 1e-6 {
			t.Errorf("%q: in the book %+v, want %.3g mL an hour", x.how, rows, x.size)
		}
		var paper bytes.Buffer
		if err := b.Paper(b.ctx, &paper, j.ID, PaperWanted{}); err != nil || !strings.Contains(paper.String(), x.paper) || strings.Contains(paper.String(), x.without) {
			t.Errorf("%q: on paper %v\n%s", x.how, err, paper.String())
		}
	}
}

func TestAHoldIsPlannedBeforeItBegins(t *testing.T) {
	b := open(t)
	j := b.job("")
	_, err := b.Jobs.PlanHold(b.ctx, j.ID, "")
	refused(t, "before the mark", err, desk.Conflict, "")
	j = b.job("16")
	p := must[runsheet.HoldPlan](b)(b.Jobs.PlanHold(b.ctx, j.ID, ""))
	if p.With.TightS == nil || *p.With.TightS < 20 || *p.With.TightS > 1800 || !strings.Contains(p.Says, "0.60 L of air") || p.Finer == "" {
		t.Errorf("%+v", p)
	}
	again := must[runsheet.HoldPlan](b)(b.Jobs.PlanHold(b.ctx, j.ID, ""))
	if *again.With.TightS != *p.With.TightS {
		t.Errorf("planned twice: %v and %v", *p.With.TightS, *again.With.TightS)
	}
}

// Right, and the complaint stands: the cap's own test is begun out of the loop's, on the same machine
// and complaint, and each shows the other.
func TestAJobIsBegunOutOfAnother(t *testing.T) {
	b := open(t)
	j := b.job("16")
	if len(j.Further) != 0 || len(j.Beside) != 0 {
		t.Errorf("before it was held: %+v, %+v", j.Further, j.Beside)
	}
	j = b.heldWith(j, "sim-sound", "hand-pump-20", StartHold{Step: j.First}, 0)
	var offered []string
	for _, x := range j.Further {
		offered = append(offered, x.ID)
	}
	if got := strings.Join(offered, " "); got != "cap second-loop vacuum full hot night" {
		t.Fatalf("%s: offered: %s", j.Call.Sentence, got)
	}
	capJob := b.begin(StartJob{Circuit: j.Further[0].Circuit, From: j.ID})
	if capJob.CircuitID != "pressure-cap" || capJob.Machine != j.Machine || capJob.Complaint != j.Complaint {
		t.Errorf("%s on %q for %q", capJob.CircuitID, capJob.Machine, capJob.Complaint)
	}
	if len(capJob.Beside) != 1 || capJob.Beside[0].ID != j.ID || capJob.Beside[0].Call != string(judge.Tight) {
		t.Errorf("the cap's job knows of %+v", capJob.Beside)
	}
	if j = must[JobView](b)(b.Job(j.ID)); len(j.Beside) != 1 || j.Beside[0].ID != capJob.ID {
		t.Errorf("the loop's job knows of %+v", j.Beside)
	}
	_, err := b.Begin(StartJob{Write: b.write(), Circuit: "pressure-cap", From: "nothing"})
	refused(t, "out of nothing", err, desk.BadInput, "from")
}

// Words that could hurt are exact: over every circuit and step nothing speaks of air where nitrogen
// or oil is meant, and nothing that must not be filled is told to be filled.
func TestNoWordHurts(t *testing.T) {
	b := open(t)
	air, fill := regexp.MustCompile(`(?i)\bair\b`), regexp.MustCompile(`(?i)\bfill(ed)? (it|the system|until|with)\b`)
	circuits, err := library.Circuits()
	if err != nil {
		t.Fatal(err)
	}
	looked, energies := 0, 0
	for i := range circuits {
		c := &circuits[i]
		mark := ""
		if c.Marked() {
			mark = "16"
		}
		j := b.begin(StartJob{Machine: c.Title, Complaint: "loses pressure", Circuit: c.ID, Mark: mark})
		says := map[string]string{}
		for _, st := range j.Stages {
			says["stage "+string(st.ID)] = st.Text + " " + st.Title // what it warns of may name what must not be
		}
		for _, st := range j.Steps {
			raw := must[[]byte](b)(json.Marshal([]any{st.Text, st.Ask, st.Outcome, st.Plan, st.Closures, st.Changes}))
			says[st.ID] = string(raw)
			if st.Kind == circuit.Hold && st.Plan != nil {
				ahead := must[runsheet.HoldPlan](b)(b.Jobs.PlanHold(b.ctx, j.ID, st.ID))
				says[st.ID+" ahead"] = ahead.Says + " " + ahead.Finer + " " + ahead.Filled
			}
			step, _ := c.Test(st.ID)
			for _, pa := range []float64{100e3, 1000e3} {
				if e, ok := runsheet.StoredIn(c, step, pa, 101325); ok {
					says[st.ID+" energy"] = e.Says()
					energies++
				}
			}
		}
		for at, text := range says {
			looked++
			if c.Medium() != circuit.WithAir && air.MatchString(text) {
				t.Errorf("%s, %s, is tested with %s: %s", c.ID, at, c.Medium(), text)
			}
			if c.Fill == "" && fill.MatchString(text) {
				t.Errorf("%s, %s, must not be filled: %s", c.ID, at, text)
			}
		}
	}
	if looked < 200 || energies < 20 {
		t.Errorf("only %d places and %d warnings were looked at", looked, energies)
	}
}

// A hot hold says at once what it can and cannot tell. Unread, its fall is no leak and no call is
// promised; with the temperature read beside it the same fall is the cooling's, and what is
// lost beside it is a leak. Afterwards nothing says that it was not tested hot.
func TestAHotHoldIsJudgedByItsTemperature(t *testing.T) {
	for _, x := range []struct {
		name  string
		reads bool
		perS  float64 // Pa/s lost beside the cooling
		want  judge.Call
	}{{"unread", false, 0, judge.NotYet}, {"read, and sound", true, 0, judge.Tight}, {"read, and leaking", true, 60, judge.Leaking}} {
		b := open(t)
		j := b.job("16")
		if !strings.Contains(strings.Join(j.NotTested, " "), "hot") {
			t.Fatalf("cold: %v", j.NotTested)
		}
		must[JobView](b)(b.SetPlan(j.ID, Plan{Write: b.write(), School: "exactly", Gauge: "sim-sound", Pump: "hand-pump-20", Allowance: "typed", AllowanceText: "3 kPa in 1 min"}))
		must[JobView](b)(b.SetPlan(j.ID, Plan{Write: b.write(), School: "exactly", Gauge: "tester-two-rings", Ring: 1, Pump: "hand-pump-20", Allowance: "typed", AllowanceText: "3 kPa in 1 min"}))
		h := must[HoldView](b)(b.Start(j.ID, StartHold{Write: b.write(), Purpose: "test", Condition: terms.Condition{Warmth: terms.Hot}}))
		b.event(h.ID, trace.Stroke)
		q := b.question(h.ID)
		h = b.event(h.ID, trace.Isolate)
		if !h.Unread || h.Sentence == "" {
			t.Errorf("%s: at once it says %q", x.name, h.Sentence)
		}
		// It cools by 4 K in 20 min, as a sealed loop of its size does.
		const fromK, gas = 358.0, 0.6e-3
		vapour := func(k float64) float64 {
			return must[float64](b)(physics.VapourPressure(physics.EthyleneGlycol, 0.5, k))
		}
		for s := 0.0; s <= 1200; s += 20 {
			k := fromK - 4*s/1200
			dry := 110e3 + q.AmbientPa - vapour(fromK) - x.perS*s
			pa := dry + physics.TemperatureEffect(dry, gas, q.LiquidM3, fromK, k) + vapour(k) - q.AmbientPa
			psi := quantity.MustNamed("psi", quantity.Pressure)
			if x.reads {
				must[HoldView](b)(b.Reading(h.ID, TypedReading{Write: b.write(), Value: new(math.Round((k-273.15)*10) / 10), How: trace.Read, Gauge: 100}))
			}
			h = b.read(h.ID, math.Round(psi.Of(pa)*10)/10)
			b.clock.set(b.clock.Now().Add(20 * time.Second))
			if !x.reads && (h.CallAtS != nil || len(h.Calls) > 0) {
				t.Fatalf("%s: after %.0f s a call: %+v", x.name, s, h.Calls)
			}
		}
		if h.Unread == x.reads {
			t.Errorf("%s: unread %v, last %v °C", x.name, h.Unread, h.Celsius)
		}
		h = b.event(h.ID, trace.Release)
		if h.Report == nil || h.Report.Call != x.want {
			t.Errorf("%s: %s %v", x.name, h.Report.Call, h.Report.Why)
		}
		if j = must[JobView](b)(b.Job(j.ID)); strings.Contains(strings.Join(append(j.NotTested, h.Report.Why...), " "), "Not tested: hot") {
			t.Errorf("%s: held hot, and not tested hot", x.name)
		}
		_, err := b.Reading(h.ID, TypedReading{Write: b.write(), Value: new(4000.0), How: trace.Read, Gauge: 100})
		refused(t, "after the end", err, desk.Conflict, "")
	}
}

// How a step is held is said before its first stroke where two are compared, and can be put right
// while it runs and afterwards.
func TestTheConditionIsSaidAndPutRight(t *testing.T) {
	b := open(t)
	j := b.begin(StartJob{Machine: "Mist-blower 3", Circuit: "carburettor-bench"})
	_, err := b.Start(j.ID, StartHold{Write: b.write(), Purpose: "test", Step: "cover"})
	refused(t, "unsaid", err, desk.BadInput, "condition", "cover off", "cover on")
	j = b.heldWith(j, "sim-low-sound", "small-pump-1", StartHold{Step: "cover", Condition: terms.Condition{Under: "cover-off"}}, 120)
	put := func(under string) (HoldView, error) {
		return b.hold(b.Holds.SetCondition(b.ctx, j.Holds[0].ID, holds.Correction{Write: b.write(), Condition: terms.Condition{Under: under}}))
	}
	_, err = put("cover-lost")
	refused(t, "no such condition", err, desk.BadInput, "condition")
	if h := must[HoldView](b)(put("cover-on")); h.Condition.Under != "cover-on" || len(h.Calls) != len(j.Holds[0].Calls) {
		t.Errorf("%+v, %d calls", h.Condition, len(h.Calls))
	}
	if s := b.step(must[JobView](b)(b.Job(j.ID)), "cover"); len(s.Pending) != 1 || s.Pending[0].ID != "cover-off" {
		t.Errorf("still to be held: %+v", s.Pending)
	}
	// Hot, and said to have been cold: the same fall is no leak any more.
	h := b.held(b.job("16").ID)
	for _, psi := range []float64{16, 15.2, 14.4, 13.6, 12.8, 12} {
		b.clock.set(b.clock.Now().Add(time.Minute))
		h = b.read(h.ID, psi)
	}
	h = b.event(h.ID, trace.Release)
	if h.Report.Call != judge.Leaking {
		t.Fatalf("cold: %s", h.Report.Call)
	}
	h = must[HoldView](b)(b.hold(b.Holds.SetCondition(b.ctx, h.ID, holds.Correction{Write: b.write(), Condition: terms.Condition{Warmth: terms.Hot}})))
	if n := len(h.Calls); h.Report.Call != judge.NotYet || n < 2 || h.Calls[n-2].Call != judge.Leaking {
		t.Errorf("hot: %s after %+v", h.Report.Call, h.Calls)
	}
}

// The rig's own loss is taken off with its doubt where its volume is known, and
// only there.
func TestTheRigsOwnLossIsTakenOff(t *testing.T) {
	b := open(t)
	j := b.job("16")
	pump := func(purpose terms.Purpose) string {
		h := must[HoldView](b)(b.Start(j.ID, StartHold{Write: b.write(), Purpose: purpose}))
		for n := range 8 {
			b.clock.set(b.clock.Now().Add(2 * time.Second))
			b.event(h.ID, trace.Stroke)
			b.read(h.ID, float64(2*(n+1)))
		}
		b.event(h.ID, trace.Isolate)
		return h.ID
	}
	proof := pump(terms.RigProof)
	for n := range 10 {
		b.clock.set(b.clock.Now().Add(20 * time.Second))
		b.read(proof, 16-0.25*float64(n))
	}
	b.event(proof, trace.Release)
	test := pump(terms.Test)
	if q := b.question(test); q.RigPaPerS < 50 || q.RigSE <= 0 {
		t.Errorf("the test subtracts %v ± %v Pa/s", q.RigPaPerS, q.RigSE)
	}
}

func dropped(b *bench, job, name, text string) (jobs.DroppedView, error) {
	return b.Jobs.Drop(b.ctx, job, jobs.Dropped{Write: b.write(), Name: name, Text: text})
}

func TestADroppedTraceBecomesAFinishedHold(t *testing.T) {
	b := open(t)
	j := b.job("16")
	const traces = "../core/judge/testdata/traces/"
	raw, err := os.ReadFile(traces + "21-cooling-down-tight.csv")
	if err != nil {
		t.Fatal(err)
	}
	text := "# judge: --limit '1kPa in 1min'\n" + string(raw)
	d := must[jobs.DroppedView](b)(dropped(b, j.ID, "cooling.csv", text))
	h := must[HoldView](b)(b.Hold(d.HoldID))
	tr, err := trace.ReadCSV(strings.NewReader(text), quantity.StandardAtmosphere)
	if err != nil {
		t.Fatal(err)
	}
	if h.State != "ended" || len(h.Calls) != 1 || h.Report.Readings == 0 || h.Allowance.PaPerS != 1000./60 {
		t.Fatalf("%s, %d calls, allowance %+v", h.State, len(h.Calls), h.Allowance)
	}
	// The same content is the same hold, whatever it is called; another job's is another's.
	if again := must[jobs.DroppedView](b)(dropped(b, j.ID, "copy of cooling.csv", text)); again.HoldID != d.HoldID || !again.Known {
		t.Errorf("dropped again: %+v", again)
	}
	if other := must[jobs.DroppedView](b)(dropped(b, b.job("16").ID, "cooling.csv", text)); other.HoldID == d.HoldID {
		t.Error("two jobs share a hold")
	}
	// What went in comes out: readings, events and temperatures.
	out, _, err := b.Holds.Export(b.ctx, d.HoldID)
	if err != nil {
		t.Fatal(err)
	}
	if len(out.Readings) != len(tr.Readings) || len(out.Temperature) != len(tr.Temperature) || len(out.Events) != len(tr.Events) {
		t.Fatalf("out came %d, %d, %d; in went %d, %d, %d", len(out.Readings), len(out.Temperature), len(out.Events), len(tr.Readings), len(tr.Temperature), len(tr.Events))
	}
	for i := range tr.Readings {
		if math.Abs(out.Readings[i].GaugePa-tr.Readings[i].GaugePa) > 1e-3 || math.Abs(out.Readings[i].AtS-out.Readings[0].AtS-tr.Readings[i].AtS+tr.Readings[0].AtS) > 1e-5 {
			t.Fatalf("reading %d came out as %+v, went in as %+v", i, out.Readings[i], tr.Readings[i])
		}
	}
	// A logger's thousands are thinned for the screen like a gauge's own.
	long := must[jobs.DroppedView](b)(dropped(b, j.ID, "hour.csv", hourOf(1)))
	if h := must[HoldView](b)(b.Hold(long.HoldID)); len(h.Points) > 700 || h.LastSeq != hour {
		t.Errorf("%d points of %d readings", len(h.Points), h.LastSeq)
	}
	if b.book.Close() == nil {
		b.Shop.Close()
		b.open()
	}
	if again := must[HoldView](b)(b.Hold(d.HoldID)); again.Report == nil || again.Report.Call != h.Report.Call {
		t.Errorf("after a new start: %+v", again.Report)
	}
	for name, bad := range map[string]string{"not a trace": "hello", "two rows": "time [s],pressure [kPa]\n0,1\n1,2\n", "bad flag": "# judge: --gas lots\ntime [s],pressure [kPa]\n0,100\n10,100\n20,99\n30,99\n"} {
		_, err := dropped(b, j.ID, name, bad)
		refused(t, name, err, desk.BadInput, "text", name)
	}
}

// A file is judged in the book as the command line judges it: every flag of its
// judge line is kept, and one that a hold cannot keep is refused.
func TestADroppedTraceKeepsWhatItsJudgeLineSays(t *testing.T) {
	b := open(t)
	j := b.job("16")
	line := func(s string) string {
		return "# judge: " + s + "\ntime [s],pressure [kPa]\n0,110\n20,109.5\n40,109.1\n60,108.6\n80,108.2\n"
	}
	d := must[jobs.DroppedView](b)(dropped(b, j.ID, "all.csv", line("--limit '1kPa in 1min' --gas '0.6L ± 0.02L' --by-strokes --liquid 5L --class 1.6 --digital 0.1kPa --rig '0.3kPa/min ± 0.05kPa/min' --stroke 25cm3 --at=110kPa --ambient 96kPa --live")))
	q := b.question(d.HoldID)
	if !q.GasByStrokes {
		t.Error("that strokes showed the gas is forgotten")
	}
	for what, pair := range map[string][2]float64{
		"limit": {q.LimitPaPerS, 1000. / 60}, "gas": {q.GasM3, 0.6e-3}, "its doubt": {q.GasSE, 0.02e-3}, "liquid": {q.LiquidM3, 5e-3}, "class": {q.Gauge.ClassPercent, 1.6},
		"digit": {q.Gauge.DigitalPa, 100}, "rig": {q.RigPaPerS, 5}, "the rig's doubt": {q.RigSE, 50. / 60}, "stroke": {q.StrokeM3, 25e-6}, "at": {*q.AtPa, 110e3}, "ambient": {q.AmbientPa, 96e3},
	} {
		if math.Abs(pair[0]-pair[1]) > 1e-9*math.Abs(pair[1]) {
			t.Errorf("%s: %v, the file says %v", what, pair[0], pair[1])
		}
	}
	d = must[jobs.DroppedView](b)(dropped(b, j.ID, "flow.csv", line("--limit-flow 3cm3/min --gas 0.6L --digital 0.1kPa")))
	if want, got := 3e-6/60*101325/0.6e-3, b.question(d.HoldID).LimitPaPerS; math.Abs(got/want-1) > 1e-9 {
		t.Errorf("3 cm³ a minute became %v Pa/s, not %v", got, want)
	}
	for says, settings := range map[string]string{"--hold-from": "--hold-from 40s", "needs the trapped air": "--limit-flow 3cm3/min", "has no unit": "--rig 0.3/min", "--limit": "--limit soon", "where a flag": "0.5L"} {
		_, err := dropped(b, j.ID, "bad.csv", line(settings))
		refused(t, settings, err, desk.BadInput, "text", "bad.csv", says)
	}
}

// A file that is not as its job asks is taken, keeps its own date, and says how it differs
// and what of it was not used.
func TestADroppedTraceIsComparedWithItsJob(t *testing.T) {
	b := open(t)
	j := b.job("16")
	file := func(unit string, first float64) string {
		text := "time,pressure [" + unit + "],Flow [L/min]\n"
		for i := range 6 {
			text += fmt.Sprintf("2026-02-03T10:%02d:00Z,%.1f,0\n", i, first-0.1*float64(i))
		}
		return text
	}
	for _, c := range []struct {
		unit  string
		first float64
		says  []string
		not   string
	}{
		{"kPa", 110, nil, "target"},
		{"kPa", 60, []string{"shut at 60.0 kPa", "target of the job is 110.3 kPa"}, "limit"},
		{"kPa", 180, []string{"reached 180.0 kPa", "limit of the cap"}, "vacuum"},
		{"kPa vac", 50, []string{"holds a vacuum (−50.0 kPa)"}, "limit"},
	} {
		d := must[jobs.DroppedView](b)(dropped(b, j.ID, "day.csv", file(c.unit, c.first)))
		for _, says := range append(c.says, "Columns not used: Flow [L/min].") {
			if !strings.Contains(d.Says, says) {
				t.Errorf("%v %s: %q does not say %q", c.first, c.unit, d.Says, says)
			}
		}
		if strings.Contains(d.Says, c.not) {
			t.Errorf("%v %s: %q", c.first, c.unit, d.Says)
		}
		if h := must[HoldView](b)(b.Hold(d.HoldID)); !h.StartedAt.Equal(time.Date(2026, 2, 3, 10, 0, 0, 0, time.UTC)) {
			t.Errorf("%v %s: it began at %v", c.first, c.unit, h.StartedAt)
		}
	}
}

// The circuit is full of liquid: what its warmth does is reckoned with it.
func TestWarmthIsTakenOutOfAFilledLoop(t *testing.T) {
	b := open(t)
	d := must[jobs.DroppedView](b)(dropped(b, b.job("16").ID, "warm.csv",
		"# judge: --limit '1kPa in 1min' --gas 0.6L --digital 0.1kPa\ntime [s],pressure [kPa],temperature [°C]\n0,110.0,20\n30,110.9,20.5\n60,111.8,21\n90,112.7,21.5\n120,113.6,22\n150,114.5,22.5\n"))
	h := must[HoldView](b)(b.Hold(d.HoldID))
	if r := h.Report; r.Shape == judge.ShapeRising || math.Abs(r.RateKPaPerMin.Value) > 0.3 {
		t.Errorf("1.8 kPa a kelvin is what warmth does to 7 L over 0.6 L of air; it is called %s, %s, %+v", r.Call, r.Shape, r.RateKPaPerMin)
	}
	if q := b.question(d.HoldID); math.Abs(q.LiquidM3-7e-3) > 1e-12 {
		t.Errorf("an export forgets the liquid: %v", q.LiquidM3)
	}
}

func TestTwoHoldsAreCompared(t *testing.T) {
	b := open(t)
	j := b.job("16")
	hold := func(fall float64) string {
		h := b.held(j.ID)
		for n := range 12 {
			b.clock.set(b.clock.Now().Add(20 * time.Second))
			b.read(h.ID, math.Round((16-fall*float64(n))*8)/8)
		}
		b.event(h.ID, trace.Release)
		return h.ID
	}
	slow, fast := hold(0.02), hold(0.25)
	v := must[CompareView](b)(b.Compare(b.ctx, slow, fast))
	if !v.Comparison.ByFlow || !v.Comparison.SurelyDifferent || v.Comparison.Faster < 0.99 || !strings.Contains(v.Comparison.Sentence, "more than the first") {
		t.Errorf("%+v", v.Comparison)
	}
	if back := must[CompareView](b)(b.Compare(b.ctx, fast, slow)); back.Comparison.Faster > 0.01 || math.Abs(back.Comparison.Difference.Value+v.Comparison.Difference.Value) > 1e-9 {
		t.Errorf("the other way about: %+v", back.Comparison)
	}
	why := must[holds.WhyView](b)(b.Holds.Why(b.ctx, fast))
	if len(why.Fit) < 8 || !strings.Contains(why.Changes, "would change the call") {
		t.Errorf("%d points, %q", len(why.Fit), why.Changes)
	}
	lines := must[[]HoldLine](b)(b.Comparable(b.ctx, fast))
	if len(lines) != 1 || lines[0].ID != slow || lines[0].Says == "" {
		t.Errorf("%+v", lines)
	}
	_, err := b.Compare(b.ctx, fast, fast)
	refused(t, "with itself", err, desk.BadInput, "second")
	_, err = b.Compare(b.ctx, fast, "nothing-there")
	refused(t, "with nothing", err, desk.Missing, "")
}
