package judge

import (
	"encoding/json"
	"math"
	"math/rand/v2"
	"os"
	"slices"
	"strings"
	"testing"

	"idlehiss/core/physics"
	"idlehiss/core/quantity"
	"idlehiss/core/trace"
)

// truth is what stands behind a simulated reference trace.
type truth struct {
	File      string
	Args      []string
	Shapes    []Shape  `json:"shape_accept"`
	Calls     []Call   `json:"call_accept"`
	Rate      *float64 `json:"rate_kpa_per_min"`
	Tolerance float64  `json:"rate_tolerance_kpa_per_min"`
	Floor     *float64 `json:"floor_kpa"`
	ReadStep  float64  `json:"read_step_kpa"`
	Stall     *float64 `json:"stall_kpa"`
	Steps     []StepReport
}

func truths(t testing.TB) []truth {
	t.Helper()
	raw, err := os.ReadFile("testdata/traces/traces.json")
	if err != nil {
		t.Fatal(err)
	}
	var f struct{ Cases []truth }
	if err := json.Unmarshal(raw, &f); err != nil {
		t.Fatal(err)
	}
	return f.Cases
}

// question reads the reference arguments; the command line has its own test.
func (c truth) question(t testing.TB) Question {
	t.Helper()
	q := Question{AmbientPa: quantity.StandardAtmosphere}
	for i := 0; i < len(c.Args); i++ {
		flag, value, ok := strings.Cut(c.Args[i], "=")
		if !ok {
			i++
			value = c.Args[i]
		}
		parse := func(kind quantity.Kind, unit string) quantity.Value {
			v, err := quantity.Parse(value, kind, quantity.MustNamed(unit, kind), q.AmbientPa)
			if err != nil {
				t.Fatal(err)
			}
			return v
		}
		switch flag {
		case "--limit":
			rate, _, _, err := quantity.ParseRate(value, quantity.MustNamed("kPa", quantity.Pressure), q.AmbientPa)
			if err != nil {
				t.Fatal(err)
			}
			q.LimitPaPerS = rate
		case "--limit-flow":
			q.LimitFlow = parse(quantity.Flow, "cm3/min").Low
		case "--gas":
			v := parse(quantity.Volume, "L")
			q.GasM3, q.GasSE = v.Low, v.SE
		case "--division":
			q.Gauge.DivisionPa = parse(quantity.Pressure, "kPa").Low
		case "--digital":
			q.Gauge.DigitalPa = parse(quantity.Pressure, "kPa").Low
		case "--ambient":
			q.AmbientPa = parse(quantity.Pressure, "kPa").Low
		case "--at":
			at := parse(quantity.Pressure, "kPa").Low
			q.AtPa = &at
		case "--rig":
			rate, _, _, err := quantity.ParseRate(value, quantity.MustNamed("kPa", quantity.Pressure), q.AmbientPa)
			if err != nil {
				t.Fatal(err)
			}
			q.RigPaPerS = rate
		case "--hold-from":
			from := parse(quantity.Time, "s").Low
			q.HoldFrom = &from
		default:
			t.Fatalf("%s: unknown argument %s", c.File, flag)
		}
	}
	return q
}

func load(t testing.TB, file string, ambientPa float64) *trace.Trace {
	t.Helper()
	f, err := os.Open("testdata/traces/" + file)
	if err != nil {
		t.Fatal(err)
	}
	defer f.Close()
	tr, err := trace.ReadCSV(f, ambientPa)
	if err != nil {
		t.Fatalf("%s: %v", file, err)
	}
	return tr
}

func TestReferenceTraces(t *testing.T) {
	if testing.Short() {
		t.Skip("long: it runs without the race detector")
	}
	seen := 0
	for _, c := range truths(t) {
		seen++
		q := c.question(t)
		rep, err := Judge(load(t, c.File, q.AmbientPa), q, nil, true)
		if err != nil {
			t.Errorf("%s: %v", c.File, err)
			continue
		}
		if r := rep.RateKPaPerMin; r != nil && c.Rate != nil {
			t.Logf("%-38s %-8s %-14s (%.2f, then %s %.2f) rate %.3f [%.3f %.3f] true %.3f tol %.3f called at %v", c.File, rep.Call, rep.Shape, rep.ShapeShare, rep.RunnerUp, rep.RunnerUpShare, r.Value, r.Low, r.High, *c.Rate, c.Tolerance, value(rep.CalledAtS))
		}
		c.check(t, rep)
	}
	if seen != 30 {
		t.Errorf("%d reference traces of 30", seen)
	}
}

// check holds a report against the truth behind a reference trace.
func (c truth) check(t *testing.T, rep Report) {
	t.Helper()
	if !slices.Contains(c.Calls, rep.Call) {
		t.Errorf("%s: called %s, want %v (%v)", c.File, rep.Call, c.Calls, rep.Why)
	}
	if !slices.Contains(c.Shapes, rep.Shape) {
		t.Errorf("%s: shape %s, want %v (%v)", c.File, rep.Shape, c.Shapes, rep.Why)
	}
	if r := rep.RateKPaPerMin; c.Rate != nil {
		if r == nil {
			t.Errorf("%s: no rate", c.File)
		} else if math.Abs(r.Value-*c.Rate) > c.Tolerance {
			t.Errorf("%s: rate %.4f, want %.4f ± %.4f", c.File, r.Value, *c.Rate, c.Tolerance)
		} else if *c.Rate < r.Low-c.Tolerance || *c.Rate > r.High+c.Tolerance {
			t.Errorf("%s: interval %.4f to %.4f leaves out %.4f", c.File, r.Low, r.High, *c.Rate)
		}
	}
	if rep.Called != nil && rep.Call != NotYet && *rep.Called != rep.Call && rep.Shape != ShapeFloor {
		t.Errorf("%s: the live call was %v, the final one %s", c.File, *rep.Called, rep.Call)
	}
	if c.Floor != nil && (rep.FloorKPa == nil || math.Abs(*rep.FloorKPa-*c.Floor) > 2*c.ReadStep+0.01**c.Floor) {
		t.Errorf("%s: floor %v, want %v", c.File, value(rep.FloorKPa), *c.Floor)
	}
	if len(rep.Steps) != len(c.Steps) {
		t.Errorf("%s: steps %+v, want %+v", c.File, rep.Steps, c.Steps)
		return
	}
	for i, want := range c.Steps {
		// Within the neighbouring readings, which here come each second.
		if got := rep.Steps[i]; math.Abs(got.AtS-want.AtS) > 1 || math.Abs(got.KPa-want.KPa) > 0.15*math.Abs(want.KPa) || got.Event != want.Event {
			t.Errorf("%s: step %+v, want %+v", c.File, got, want)
		}
	}
	if c.Stall != nil {
		if x, ok := rep.Says(StalledBelow); !ok || math.Abs(x.Figures[figureHighest]-*c.Stall) > 1 {
			t.Errorf("%s: stalled at %v, says %+v", c.File, *c.Stall, rep.Reasons)
		}
	}
}

func value(x *float64) float64 {
	if x == nil {
		return math.NaN()
	}
	return *x
}

func pa(v float64) *float64 { return &v }

// held makes a trace of a laminar loss (kPa/min at the start) with settling, read each second
// to a last digit, with noise of half a digit.
func held(startKPa, rate, settle, tau float64, seconds int) *trace.Trace {
	tr := &trace.Trace{Unit: quantity.MustNamed("kPa", quantity.Pressure), DigitPa: 100}
	noise := rand.New(rand.NewPCG(7, uint64(seconds)))
	lost := 0.0
	for i := range seconds + 1 {
		s := float64(i)
		p := startKPa - lost - settle*(1-math.Exp(-s/tau))
		lost += rate / 60 * physics.Laminar.Drive(p*1e3, 101325) / physics.Laminar.Drive(startKPa*1e3, 101325)
		p += 0.05 * noise.NormFloat64()
		tr.Readings = append(tr.Readings, trace.Reading{AtS: s, GaugePa: math.Round(p*10) * 100, How: trace.Read})
	}
	return tr
}

func TestVacuumMirrorsPressure(t *testing.T) {
	q := Question{AmbientPa: 101325, LimitPaPerS: 1000. / 60, Gauge: Gauge{DigitalPa: 100}}
	for _, sign := range []float64{1, -1} {
		tr := held(40, 2, 2, 10, 200)
		for i := range tr.Readings {
			tr.Readings[i].GaugePa *= sign
		}
		rep, err := Judge(tr, q, nil, false)
		if err != nil || rep.Call != Leaking || math.Abs(rep.RateKPaPerMin.Value-2) > 0.3 {
			t.Errorf("sign %v: %s %+v %v", sign, rep.Call, rep.RateKPaPerMin, err)
		}
		if rep.TestPressureKPa*sign < 39 {
			t.Errorf("test pressure %v", rep.TestPressureKPa)
		}
	}
}

func TestForkClosesAndKeepsItsPromise(t *testing.T) {
	q := Question{AmbientPa: 101325, LimitPaPerS: 500. / 60, Gauge: Gauge{DivisionPa: 2000}}
	l, err := NewLive(q, nil)
	if err != nil {
		t.Fatal(err)
	}
	for i := range 5 {
		l.Reading(trace.Reading{AtS: float64(15 * i), GaugePa: 110000, How: trace.Read})
	}
	width := math.Inf(1)
	for _, p := range l.Fork([]float64{20, 60, 120, 240}) {
		if p.TightAboveKPa == nil || p.LeakingBelowKPa == nil {
			continue
		}
		if *p.TightAboveKPa <= *p.LeakingBelowKPa {
			t.Errorf("the fork is crossed: %v above, %v below", *p.TightAboveKPa, *p.LeakingBelowKPa)
		}
		// In rate, not in pressure, the fork closes: the tight line nears the limit's own line.
		w := (*p.TightAboveKPa - *p.LeakingBelowKPa) / (p.AtS - 0)
		if w >= width {
			t.Errorf("the fork opens at %v s", p.AtS)
		}
		width = w
	}
	if math.IsInf(width, 1) {
		t.Fatal("no fork at all")
	}
	// One more reading beyond the fork completes the call.
	rep := l.Report()
	if rep.Call != NotYet || rep.Fork == nil || rep.Fork.LeakingBelowKPa == nil {
		t.Fatalf("%s %+v", rep.Call, rep.Fork)
	}
	l.Reading(trace.Reading{AtS: rep.Fork.AtS, GaugePa: *rep.Fork.LeakingBelowKPa*1e3 - 1000, How: trace.Read})
	if after := l.Report(); after.ProbabilityLeaking < 0.9 {
		t.Errorf("below the fork the probability is only %.3f", after.ProbabilityLeaking)
	}
}

func TestTheRigIsSubtractedAndItsProofAsked(t *testing.T) {
	q := Question{AmbientPa: 101325, LimitPaPerS: 1000. / 60, Gauge: Gauge{DigitalPa: 100}, RigPaPerS: 1500. / 60, GasM3: 6e-4, GasSE: 2e-5, Coolant: true}
	rep, err := Judge(held(110, 2, 0, 1, 200), q, nil, false)
	if err != nil || rep.Call != Tight || math.Abs(rep.RateKPaPerMin.Value-0.5) > 0.1 {
		t.Errorf("%s %+v %v", rep.Call, rep.RateKPaPerMin, err)
	}
	if rep.FlowCm3PerMin == nil || math.Abs(rep.FlowCm3PerMin.Value-0.5*0.6/0.101325) > 0.6 || rep.HoleUm.Value <= 0 || rep.LossMLPerH.Value <= 0 {
		t.Errorf("sizes: %+v %+v %+v", rep.FlowCm3PerMin, rep.HoleUm, rep.LossMLPerH)
	}
	unproven := false
	q.RigPaPerS, q.RigProven = 0, &unproven
	q.NotTested = []string{"Cap not tested."}
	rep, _ = Judge(held(110, 4, 0, 1, 200), q, nil, false)
	_, unproved := rep.Says(RigUnproven)
	if part, ok := rep.Says(PartNotTested); rep.Call != Leaking || !unproved || !ok || part.Text != "Cap not tested." {
		t.Errorf("%s: %+v", rep.Call, rep.Reasons)
	}
}

// A short proof that saw nothing leaves little to take off; a long one that saw a
// loss leaves just that.
func TestWhatAProvenRigLoses(t *testing.T) {
	proof := func(value, low, high float64) (float64, float64) {
		m, se, ok := OwnLoss(Report{LimitKPaPerMin: 1, RateKPaPerMin: &Interval{value, low, high}})
		if !ok {
			t.Fatal("no loss told")
		}
		return m, se
	}
	if m, se := proof(-0.2, -3.8, 1); m < 0 || m > 0.4 || se <= 0 || se > 0.4 {
		t.Errorf("a short proof without a loss: %.3f ± %.3f", m, se)
	}
	if m, se := proof(2, 1.9, 2.1); math.Abs(m-2) > 0.01 || math.Abs(se-0.051) > 0.005 {
		t.Errorf("a long one with a loss: %.3f ± %.3f", m, se)
	}
	if m, _ := proof(-0.01, -0.02, 0); m < 0 || m > 0.01 {
		t.Errorf("a long one without: %.4f", m)
	}
	if _, _, ok := OwnLoss(Report{}); ok {
		t.Error("nothing measured, and yet a loss")
	}
}

// A rise with the engine running is said with what tells gas from heat.
func TestARiseWithTheEngineRunning(t *testing.T) {
	q := Question{AmbientPa: 101325, LimitPaPerS: 1000. / 60, Gauge: Gauge{DigitalPa: 100}}
	tr := held(90, -3, 0, 1, 120)
	tr.Events = []trace.Event{{AtS: 0, Kind: trace.EngineOn}}
	rep, _ := Judge(tr, q, nil, false)
	if _, ok := rep.Says(EngineRaises); rep.Call != NotYet || rep.Shape != ShapeRising || !ok || rep.NextStep == nil {
		t.Errorf("%s %s %v %q", rep.Call, rep.Shape, rep.Why, rep.Next)
	}
}

func TestSchools(t *testing.T) {
	two := School{ID: "two", HoldS: 120, AllowedPa: 10e3}
	still := School{ID: "still", HoldS: 180}
	q := Question{AmbientPa: 101325, LimitPaPerS: 100, Gauge: Gauge{DivisionPa: 2000}, GasM3: 6e-4}
	hold := []trace.Reading{{AtS: 5, GaugePa: 110e3}, {AtS: 65, GaugePa: 108e3}, {AtS: 125, GaugePa: 107e3}, {AtS: 185, GaugePa: 106e3}}
	if v := two.View(hold, q); v.Verdict != "pass" || v.Saw != "3.0 kPa" || math.Abs(*v.FlowAllowed-29.6) > 0.1 {
		t.Errorf("%+v", v)
	}
	if v := still.View(hold, q); v.Verdict != "fail" {
		t.Errorf("%+v", v)
	}
	if v := (School{HoldS: 600, AllowedPa: 1}).View(hold, q); v.Verdict != "too-short" {
		t.Errorf("%+v", v)
	}
	if v := (School{HoldS: 60, AfterS: 60, AllowedPa: 500}).View(hold, q); v.Verdict != "fail" || v.Saw != "1.0 kPa" {
		t.Errorf("after settling: %+v", v)
	}
}

func TestTopUpAndStallAndTemperature(t *testing.T) {
	q := Question{AmbientPa: 101325, AtPa: pa(110e3), LimitPaPerS: 1000. / 60, Gauge: Gauge{DigitalPa: 100}}
	tr := held(110, 6, 0, 1, 120)
	again := held(110, 0, 0, 1, 200)
	for _, r := range again.Readings {
		r.AtS += 130
		tr.Readings = append(tr.Readings, r)
	}
	tr.Events = []trace.Event{{AtS: 130, Kind: trace.TopUp}}
	if rep, _ := Judge(tr, q, nil, false); rep.Call != Tight || rep.Phases[len(rep.Phases)-1].FromS != 130 {
		t.Errorf("after the top-up: %s %+v", rep.Call, rep.Phases)
	}
	stall := held(40, 0, 0, 1, 60)
	stall.Events = []trace.Event{{AtS: 1, Kind: trace.Stroke}, {AtS: 2, Kind: trace.Stroke}, {AtS: 3, Kind: trace.Stroke}}
	if rep, _ := Judge(stall, q, nil, false); rep.Call != NeverReached || !strings.Contains(rep.Why[0], "40") {
		t.Errorf("%s %v", rep.Call, rep.Why)
	}
	// A stroke of 30 cm³ a second that brings nothing more is 1.8 L a minute that leaves.
	q.StrokeM3 = 30e-6
	if rep, _ := Judge(stall, q, nil, false); rep.FlowCm3PerMin == nil || math.Abs(rep.FlowCm3PerMin.Value-1800) > 1 {
		t.Errorf("the flow of a stalled pump-up: %+v", rep.FlowCm3PerMin)
	}
	q.StrokeM3 = 0
	// Dry gas that cools by 5 K of 333 loses 1.5 % of its absolute pressure by that alone.
	cooled := func(losing float64) Report {
		tr := held(110, losing, 0, 1, 120)
		for i := range tr.Readings {
			k := 333.15 - 5*tr.Readings[i].AtS/120
			tr.Readings[i].GaugePa = math.Round(((tr.Readings[i].GaugePa+101325)*k/333.15-101325)/100) * 100
		}
		tr.Temperature = []trace.Sample{{AtS: 0, Value: 60}, {AtS: 120, Value: 55}}
		rep, err := Judge(tr, q, nil, false)
		if err != nil {
			t.Fatal(err)
		}
		return rep
	}
	if rep := cooled(0); rep.Call != Tight || rep.Shape != ShapeTemperature || !strings.Contains(strings.Join(rep.Why, " "), "explains") {
		t.Errorf("cooling alone: %s %s %v", rep.Call, rep.Shape, rep.Why)
	}
	if rep := cooled(3); rep.Call != Leaking || rep.Shape != ShapeLeak || math.Abs(rep.RateKPaPerMin.Value-3) > 0.2 || !strings.Contains(strings.Join(rep.Why, " "), "temperature") {
		t.Errorf("cooling and losing: %s %s %+v %v", rep.Call, rep.Shape, rep.RateKPaPerMin, rep.Why)
	}
}

func TestQuestionsWithoutAnAnswer(t *testing.T) {
	good := Question{AmbientPa: 101325, LimitPaPerS: 1, Gauge: Gauge{DigitalPa: 100}}
	for says, break_ := range map[string]func(*Question){
		"no allowance":    func(q *Question) { q.LimitPaPerS = 0 },
		"trapped air":     func(q *Question) { q.LimitPaPerS, q.LimitFlow = 0, 1e-6 },
		"of this earth":   func(q *Question) { q.AmbientPa = 1e6 },
		"not both":        func(q *Question) { q.Gauge.DivisionPa = 1 },
		"fraction":        func(q *Question) { q.Gauge.ReadFraction = 2 },
		"cannot be negat": func(q *Question) { q.GasM3 = -1 },
	} {
		q := good
		break_(&q)
		if _, err := NewLive(q, nil); err == nil || !strings.Contains(err.Error(), says) {
			t.Errorf("%s: %v", says, err)
		}
	}
}

func TestStepIsInferred(t *testing.T) {
	for want, c := range map[float64]struct {
		digit float64
		kpa   []float64
	}{
		100:  {100, []float64{110.1, 110.0, 109.7}},
		500:  {100, []float64{110.0, 109.5, 108.0}},
		2500: {100, []float64{110.0, 107.5, 105.0, 100.0}},
	} {
		tr := &trace.Trace{Unit: quantity.MustNamed("kPa", quantity.Pressure), DigitPa: c.digit}
		for _, v := range c.kpa {
			tr.Readings = append(tr.Readings, trace.Reading{GaugePa: v * 1000})
		}
		if got := InferStep(tr); math.Abs(got-want) > 1e-6 {
			t.Errorf("%v: %v, want %v", c.kpa, got, want)
		}
	}
}

func benchmarkJudge(b *testing.B, readings int, everyS float64) {
	q := Question{AmbientPa: 101325, LimitPaPerS: 1000. / 60, Gauge: Gauge{DigitalPa: 100}}
	tr := held(110, 0.5, 4, 20, int(float64(readings)*everyS))
	if everyS < 1 {
		tr = finer(tr, int(1/everyS))
	}
	b.ResetTimer()
	for b.Loop() {
		if rep, err := Judge(tr, q, nil, false); err != nil || rep.Call != Tight || rep.Readings < readings {
			b.Fatal(rep.Call, rep.Readings, err)
		}
	}
}

// finer puts so many readings in place of each.
func finer(tr *trace.Trace, times int) *trace.Trace {
	out := &trace.Trace{}
	for _, r := range tr.Readings {
		for k := range times {
			out.Readings = append(out.Readings, trace.Reading{AtS: r.AtS + float64(k)/float64(times), GaugePa: r.GaugePa, How: r.How})
		}
	}
	return out
}

func BenchmarkJudge10000(b *testing.B)   { benchmarkJudge(b, 10_000, 1) }
func BenchmarkJudge1000000(b *testing.B) { benchmarkJudge(b, 1_000_000, 0.01) }

func benchmarkUpdate(b *testing.B, readings int) {
	q := Question{AmbientPa: 101325, LimitPaPerS: 1000. / 60, Gauge: Gauge{DigitalPa: 100}}
	l, err := NewLive(q, nil)
	if err != nil {
		b.Fatal(err)
	}
	tr := held(110, 0.001, 4, 20, readings)
	for _, r := range tr.Readings {
		l.Reading(r)
	}
	next := tr.Readings[readings]
	b.ResetTimer()
	for b.Loop() {
		next.AtS++
		l.Reading(next)
		if rep := l.Report(); rep.RateKPaPerMin == nil {
			b.Fatal(rep.Why)
		}
	}
}

func BenchmarkLiveUpdateAfter60(b *testing.B)      { benchmarkUpdate(b, 60) }
func BenchmarkLiveUpdateAfter10000(b *testing.B)   { benchmarkUpdate(b, 10_000) }
func BenchmarkLiveUpdateAfter1000000(b *testing.B) { benchmarkUpdate(b, 1_000_000) }

// creeping is a hold whose settling has three times, as hoses and pumped air have,
// with a laminar leak; kPa and kPa/min.
func creeping(noise *rand.Rand, rate float64, seconds int) []trace.Reading {
	var out []trace.Reading
	lost := 0.0
	for s := range seconds {
		p := 110 - lost
		for _, part := range [][2]float64{{1.5, 4}, {3, 8}, {5, 40}} {
			p -= part[0] * (1 - math.Exp(-float64(s)/part[1]))
		}
		lost += rate / 60 * physics.Laminar.Drive(p*1e3, 101325) / physics.Laminar.Drive(110e3, 101325)
		out = append(out, trace.Reading{AtS: float64(s), GaugePa: math.Round((p+0.06*noise.NormFloat64())*10) * 100, How: trace.Read})
	}
	return out
}

// A creep that no shape of the library has must not make a leak look like settling:
// nothing is called tight while more than the allowance still falls, a firm call is
// not taken back by what follows, and in the end the right one is made.
func TestCreepOfAnotherKindDoesNotHideALeak(t *testing.T) {
	if testing.Short() {
		t.Skip("long: it runs without the race detector")
	}
	for rate, want := range map[float64]Call{0: Tight, 0.1: Tight, 0.6: Leaking, 1.2: Leaking} {
		noise := rand.New(rand.NewPCG(5, uint64(rate*10)))
		l, err := NewLive(Question{AmbientPa: 101325, AtPa: pa(110e3), LimitPaPerS: 250. / 60, Gauge: Gauge{DigitalPa: 100}}, nil)
		if err != nil {
			t.Fatal(err)
		}
		firm := NotYet
		for i, r := range creeping(noise, rate, 900) {
			l.Reading(r)
			if i < 20 || i%3 != 0 {
				continue
			}
			rep := l.Report()
			if rep.Call == Tight && rate > 0.25 {
				t.Fatalf("a loss of %v kPa/min, %.1f times the allowance, is called tight at %d s", rate, rate/0.25, i)
			}
			if rep.Firm && firm == NotYet {
				firm = rep.Call
			} else if firm != NotYet && rep.Call != firm && rep.Call != NotYet {
				t.Fatalf("called %s, and at %d s %s", firm, i, rep.Call)
			}
		}
		if firm != want {
			t.Errorf("a loss of %v kPa/min was called %s, want %s", rate, firm, want)
		}
	}
}

// The live answer and the answer to the whole file are the same answer.
func TestLiveAndWholeAgree(t *testing.T) {
	tr := &trace.Trace{Unit: quantity.MustNamed("kPa", quantity.Pressure), DigitPa: 100, Readings: creeping(rand.New(rand.NewPCG(1, 2)), 0.8, 400)}
	q := Question{AmbientPa: 101325, AtPa: pa(110e3), LimitPaPerS: 250. / 60, Gauge: Gauge{DigitalPa: 100}}
	whole, err := Judge(tr, q, nil, true)
	if err != nil {
		t.Fatal(err)
	}
	l, err := NewLive(q, nil)
	if err != nil {
		t.Fatal(err)
	}
	for i, r := range tr.Readings {
		l.Reading(r)
		if i%7 == 0 {
			l.Report() // looking changes nothing
		}
	}
	live := l.Report()
	if live.Call != whole.Call || live.Shape != whole.Shape || *live.RateKPaPerMin != *whole.RateKPaPerMin || live.ProbabilityLeaking != whole.ProbabilityLeaking {
		t.Errorf("live %s %s %+v, whole %s %s %+v", live.Call, live.Shape, *live.RateKPaPerMin, whole.Call, whole.Shape, *whole.RateKPaPerMin)
	}
	if whole.Called == nil || *whole.CalledAtS > 400 {
		t.Errorf("called %v", whole.Called)
	}
}

// Nothing that a gauge can show makes the judge fall over, or answer with a figure
// that is none.
func FuzzJudge(f *testing.F) {
	f.Add([]byte{110, 109, 108, 108, 107, 107, 107, 106}, 10.0, 0.25, true)
	f.Add([]byte{0, 0, 0}, 0.0, 5.0, false)
	f.Add([]byte{255, 0, 255, 0, 255}, 1e6, 1e-6, true)
	f.Fuzz(func(t *testing.T, kpas []byte, every, limit float64, needle bool) {
		if !(every >= 0 && every < 1e7) || !(limit > 1e-9 && limit < 1e9) || len(kpas) > 400 {
			t.Skip("no hold at all")
		}
		q := Question{AmbientPa: 101325, LimitPaPerS: limit * 1000 / 60, GasM3: 4e-4, GasSE: 2e-5, Coolant: true, Gauge: Gauge{DigitalPa: 100}}
		if needle {
			q.Gauge = Gauge{DivisionPa: 2000, ClassPercent: 1.6}
		}
		l, err := NewLive(q, []School{{ID: "still", HoldS: 60}})
		if err != nil {
			t.Fatal(err)
		}
		for i, k := range kpas {
			l.Reading(trace.Reading{AtS: every * float64(i), GaugePa: float64(k) * 1000, How: []trace.How{trace.Read, trace.Mark}[i%2]})
		}
		rep := l.Report()
		if _, err := json.Marshal(rep); err != nil {
			t.Fatalf("%v: %+v", err, rep)
		}
		if p := rep.ProbabilityLeaking; !(p >= 0 && p <= 1) || len(rep.Why) == 0 {
			t.Errorf("probability %v, %d reasons", p, len(rep.Why))
		}
		for _, i := range []*Interval{rep.RateKPaPerMin, rep.FlowCm3PerMin, rep.HoleUm, rep.LossMLPerH, rep.SettleS} {
			if i != nil && !(i.Low <= i.Value+1e-9*math.Abs(i.Value) && i.Value <= i.High+1e-9*math.Abs(i.High)) {
				t.Errorf("%+v is no interval", *i)
			}
		}
	})
}
