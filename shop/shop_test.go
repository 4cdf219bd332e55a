package shop

import (
	"context"
	"errors"
	"fmt"
	"slices"
	"strings"
	"testing"
	"time"

	"idlehiss/core/judge"
	"idlehiss/core/runsheet"
	"idlehiss/core/trace"
	"idlehiss/logbook"
)

// hand is a clock set by hand; the shop's own loop hardly runs on it.
type hand struct{ now time.Time }

func (h *hand) Now() time.Time { return h.now }
func (h *hand) Speed() float64 { return 0.001 }

// bench is a shop on a book of its own, with a mechanic who does things in it.
type bench struct {
	testing.TB
	*Shop
	ctx    context.Context
	clock  *hand
	book   *logbook.Book
	folder string
	n      int
}

func open(t testing.TB) *bench {
	b := &bench{TB: t, ctx: context.Background(), clock: &hand{time.Date(2026, 3, 2, 8, 0, 0, 0, time.UTC)}, folder: t.TempDir()}
	b.open()
	t.Cleanup(func() { b.shut() })
	return b
}

func (b *bench) open() {
	b.Helper()
	var err error
	if b.book, err = logbook.Open(b.ctx, b.folder); err != nil {
		b.Fatal(err)
	}
	if b.Shop, err = New(b.ctx, b.book, b.clock, Options{}); err != nil {
		b.Fatal(err)
	}
}

func (b *bench) shut() {
	b.Shop.Close()
	if err := b.book.Close(); err != nil {
		b.Error(err)
	}
}

func (b *bench) write() Write {
	b.n++
	return Write{ID: fmt.Sprintf("write-%06d", b.n), By: "Maren", Device: "bench"}
}

// must is for steps that are only on the way to what a test is about.
func must[T any](b *bench) func(T, error) T {
	return func(v T, err error) T {
		b.Helper()
		if err != nil {
			b.Fatal(err)
		}
		return v
	}
}

// begin starts a job and makes it safe.
func (b *bench) begin(in StartJob) JobView {
	b.Helper()
	in.Write = b.write()
	j := must[JobView](b)(b.Begin(b.ctx, in))
	for _, st := range j.Stages {
		for _, x := range st.Ticks {
			if st.ID == "make-safe" && x.Must {
				j = must[JobView](b)(b.Tick(b.ctx, j.ID, Tick{Write: b.write(), Item: x.ID, On: true}))
			}
		}
	}
	return j
}

func (b *bench) job(mark string) JobView {
	b.Helper()
	return b.begin(StartJob{Machine: "Bin carrier 4", Complaint: "loses coolant", Mark: mark})
}

// train is a job on a train of wagons.
func (b *bench) train(wagons ...string) JobView {
	b.Helper()
	return b.begin(StartJob{Machine: "Fruit train", Circuit: "train-brake", Things: wagons})
}

// tickAll ticks every item of a job's sheet, or takes them all back.
func (b *bench) tickAll(j JobView, on bool) {
	b.Helper()
	for _, st := range j.Stages {
		for _, x := range st.Ticks {
			must[JobView](b)(b.Tick(b.ctx, j.ID, Tick{Write: b.write(), Item: x.ID, On: on}))
		}
	}
}

func (b *bench) event(hold, kind string) HoldView {
	b.Helper()
	return must[HoldView](b)(b.Event(b.ctx, hold, HoldEvent{Write: b.write(), Kind: kind}))
}

func (b *bench) read(hold string, value float64) HoldView {
	b.Helper()
	return must[HoldView](b)(b.Reading(b.ctx, hold, TypedReading{Write: b.write(), Value: value, How: "read"}))
}

// held is a needle hold with its supply just shut at 16 psi.
func (b *bench) held(job string) HoldView {
	b.Helper()
	h := must[HoldView](b)(b.Start(b.ctx, job, StartHold{Write: b.write(), Purpose: "test"}))
	for n := range 8 {
		b.clock.now = b.clock.now.Add(2 * time.Second)
		b.event(h.ID, trace.Stroke)
		b.clock.now = b.clock.now.Add(time.Second)
		b.read(h.ID, float64(2*(n+1)))
	}
	return b.event(h.ID, trace.Isolate)
}

// refused checks that something was refused, by which input, and that it says what would be right.
func refused(t *testing.T, what string, err error, kind RefusalKind, field string, says ...string) {
	t.Helper()
	var r *Refusal
	if !errors.As(err, &r) {
		t.Errorf("%s: not refused: %v", what, err)
		return
	}
	if r.Kind != kind || r.Field != field {
		t.Errorf("%s: kind %d, field %q; want %d, %q", what, r.Kind, r.Field, kind, field)
	}
	for _, s := range says {
		if !strings.Contains(r.Says, s) {
			t.Errorf("%s: %q does not say %q", what, r.Says, s)
		}
	}
}

func TestMarksAndTargetsThatCannotBe(t *testing.T) {
	b := open(t)
	for mark, says := range map[string]string{"banana": "16 psi or 1.1 bar", "-3": "above ambient", "400": "20 to 250 kPa"} {
		_, err := b.Begin(b.ctx, StartJob{Write: b.write(), Machine: "x", Mark: mark})
		refused(t, mark, err, BadInput, "mark", mark, says)
		_, err = b.DecodeMark(mark, "")
		refused(t, mark, err, BadInput, "text", says)
	}
	if rows := must[[]BookRow](b)(b.Book(b.ctx, "")); len(rows) != 0 {
		t.Fatalf("a refused beginning left %d jobs", len(rows))
	}
	v, err := b.DecodeMark("1.1", "")
	if err != nil || v.Readings[0].Unit != "bar" || v.Readings[1].Unit != "kgf/cm²" || !strings.Contains(v.Doubt, "does not matter") {
		t.Errorf("%+v %v", v, err)
	}

	j := b.job("16")
	if j.Plan.Shown.Text != "16.0" || j.Plan.Target.School != "exactly" {
		t.Errorf("the plan before anything is chosen: %+v", j.Plan.Shown)
	}
	plan := Plan{Write: b.write(), School: "typed", Typed: "19 psi", Gauge: j.Plan.Gauge.ID, Ring: 1, Allowance: "house"}
	_, err = b.SetPlan(b.ctx, j.ID, plan)
	refused(t, "over the limit", err, BadInput, "typed", "131 kPa", "the cap at 110 kPa", "type the reason")
	if again := must[JobView](b)(b.Job(b.ctx, j.ID)); again.Plan.Target.Pa != j.Plan.Target.Pa {
		t.Error("a refused plan changed the target")
	}
	plan.Write, plan.Reason = b.write(), "manual says so, page 12"
	over := must[JobView](b)(b.SetPlan(b.ctx, j.ID, plan))
	if !over.Plan.Target.Over {
		t.Error("an override is not marked as one")
	}
	var paper strings.Builder
	if err := b.Paper(b.ctx, &paper, j.ID); err != nil || !strings.Contains(paper.String(), "ABOVE") || !strings.Contains(paper.String(), "page 12") {
		t.Errorf("the override is not on the sheet: %v", err)
	}
}

func TestACoarseGaugeComesWithAdvice(t *testing.T) {
	b := open(t)
	g := must[KitGauge](b)(b.AddGauge(b.ctx, b.write(), NewGauge{Gauge: runsheet.Gauge{Name: "old tester", Kind: "needle", Rings: []runsheet.Ring{{Unit: "kPa", To: 400, Division: 10, Numbered: 100}}}}))
	j := b.job("110 kPa")
	v := must[JobView](b)(b.SetPlan(b.ctx, j.ID, Plan{Write: b.write(), School: "exactly", Gauge: g.ID, Allowance: "two-minutes-ten"}))
	says := strings.Join(v.Plan.Fit.Says, " ")
	if v.Plan.Fit.Fits || !strings.Contains(says, "One division is 10 kPa") || !strings.Contains(says, "5 kPa or finer would do") {
		t.Errorf("fits %v: %s", v.Plan.Fit.Fits, says)
	}
	_, err := b.AddGauge(b.ctx, b.write(), NewGauge{Gauge: runsheet.Gauge{Name: "odd", Kind: "needle", Rings: []runsheet.Ring{{Unit: "kPa", From: 100, To: 0, Division: 10}}}})
	refused(t, "a face that runs down", err, BadInput, "rings", "upwards")
}

func TestTheSameWriteCountsOnceAndAChangedOneIsRefused(t *testing.T) {
	b := open(t)
	j := b.job("16")
	h := b.held(j.ID)
	w := b.write()
	in := TypedReading{Write: w, Value: 15.5, How: "mark"}
	first := must[HoldView](b)(b.Reading(b.ctx, h.ID, in))
	second := must[HoldView](b)(b.Reading(b.ctx, h.ID, in))
	if len(first.Points) != len(second.Points) {
		t.Errorf("sent twice, the reading is there %d and %d times", len(first.Points), len(second.Points))
	}
	in.Value = 15
	_, err := b.Reading(b.ctx, h.ID, in)
	refused(t, "the same id with another value", err, Conflict, "")
	if now := must[HoldView](b)(b.Hold(b.ctx, h.ID)); len(now.Points) != len(first.Points) || now.Value.Text != "15.50" {
		t.Errorf("%d readings, the last %v", len(now.Points), now.Value)
	}
}

func TestOrderOfWorkIsKept(t *testing.T) {
	b := open(t)
	j := must[JobView](b)(b.Begin(b.ctx, StartJob{Write: b.write(), Machine: "Bin carrier 4"}))
	_, err := b.Start(b.ctx, j.ID, StartHold{Write: b.write(), Purpose: "test"})
	refused(t, "a hold before it is safe", err, Conflict, "", "make safe first", "Engine and cap are cold")
	must[JobView](b)(b.Tick(b.ctx, j.ID, Tick{Write: b.write(), Item: "cold", On: true}))
	_, err = b.Start(b.ctx, j.ID, StartHold{Write: b.write(), Purpose: "test"})
	refused(t, "a hold before the mark", err, Conflict, "", "mark on the cap")
	must[JobView](b)(b.Mark(b.ctx, j.ID, EnterMark{Write: b.write(), Text: "16"}))
	h := b.held(j.ID)
	_, err = b.Start(b.ctx, j.ID, StartHold{Write: b.write(), Purpose: "test"})
	refused(t, "two holds of one job", err, Conflict, "", "bleed it down")
	_, err = b.Event(b.ctx, h.ID, HoldEvent{Write: b.write(), Kind: trace.Isolate})
	refused(t, "shut twice", err, Conflict, "", "already shut")
	_, err = b.Reading(b.ctx, h.ID, TypedReading{Write: b.write(), Value: 99, How: "read"})
	refused(t, "off the face", err, BadInput, "value", "0 to 36")
	_, err = b.End(b.ctx, j.ID, CloseJob{Write: b.write()})
	refused(t, "closing under pressure", err, Conflict, "", "bleed it down")
	b.event(h.ID, trace.Release)
	_, err = b.Reading(b.ctx, h.ID, TypedReading{Write: b.write(), Value: 15, How: "read"})
	refused(t, "a reading for a closed hold", err, Conflict, "", "has ended", "repeat")
	_, err = b.Reading(b.ctx, "nowhere", TypedReading{Write: b.write(), Value: 15, How: "read"})
	refused(t, "a hold that is not there", err, Missing, "")
	_, err = b.End(b.ctx, j.ID, CloseJob{Write: b.write()})
	refused(t, "closing with the cap off", err, Conflict, "", "Cap back on", "Gauge seen at zero")
	for _, item := range []string{"cold", "saw-zero", "cap-back"} {
		must[JobView](b)(b.Tick(b.ctx, j.ID, Tick{Write: b.write(), Item: item, On: true}))
	}
	done := must[JobView](b)(b.End(b.ctx, j.ID, CloseJob{Write: b.write(), Found: "top hose clamp"}))
	if done.State != "closed" {
		t.Errorf("the job is %s", done.State)
	}
	_, err = b.Tick(b.ctx, j.ID, Tick{Write: b.write(), Item: "cold", On: false})
	refused(t, "a tick on a closed job", err, Conflict, "", "closed")
	if rows := must[[]BookRow](b)(b.Book(b.ctx, "clamp carrier")); len(rows) != 1 || rows[0].Found != "top hose clamp" {
		t.Errorf("found by its words: %+v", rows)
	}
}

func TestCallsStandUntilTheirReadingIsStruck(t *testing.T) {
	b := open(t)
	j := b.job("16")
	h := b.held(j.ID)
	var v HoldView
	for value := 16.0; len(v.Calls) == 0 && value > 8; value -= 0.5 {
		b.clock.now = b.clock.now.Add(12 * time.Second)
		v = b.read(h.ID, value)
	}
	if len(v.Calls) != 1 || v.Calls[0].Call != judge.Leaking || v.Ring != RingCut {
		t.Fatalf("a steady fall of 2.5 psi a minute: %s, %d calls", v.Sentence, len(v.Calls))
	}
	if why := strings.Join(v.Report.Why, " "); !strings.Contains(why, "has not survived a rig proof") || !strings.Contains(why, "Not tested: the cap") {
		t.Errorf("the call does not say what it lacks: %s", why)
	}
	first := v.Calls[0]
	for range 5 {
		v = must[HoldView](b)(b.Strike(b.ctx, h.ID, StrikeOut{Write: b.write()}))
	}
	if v.Ring != RingDotted || v.Calls[len(v.Calls)-1].Call != judge.NotYet {
		t.Errorf("its readings struck, it is still %s", v.Ring)
	}
	if v.Calls[0].Call != first.Call || !v.Calls[0].At.Equal(first.At) || v.Calls[0].AtS != first.AtS {
		t.Error("the first call was rewritten")
	}
	struck := 0
	for _, p := range v.Points {
		if p.Struck == "wrong press" {
			struck++
		}
	}
	if struck != 5 {
		t.Errorf("%d struck readings are kept, want 5", struck)
	}
}

// Pumped in vain: what was reached and heard is kept, and it is called so.
func TestAPumpUpThatStallsIsCalledSo(t *testing.T) {
	b := open(t)
	j := b.job("16")
	h := must[HoldView](b)(b.Start(b.ctx, j.ID, StartHold{Write: b.write(), Purpose: "test"}))
	for n := range 12 {
		b.clock.now = b.clock.now.Add(2 * time.Second)
		b.event(h.ID, trace.Stroke)
		b.clock.now = b.clock.now.Add(time.Second)
		b.read(h.ID, min(float64(n+1), 4.5))
	}
	b.event(h.ID, trace.FirstHiss)
	v := b.event(h.ID, trace.Release)
	if len(v.Calls) != 1 || v.Calls[0].Call != judge.NeverReached || v.Ring != RingCut || !strings.Contains(v.Sentence, "Never got there") {
		t.Errorf("%s, %d calls, ring %s", v.Sentence, len(v.Calls), v.Ring)
	}
	if v.Highest.Text != "4.50" || v.FirstHeard.Text != "4.50" || !strings.Contains(v.Calls[0].Report.Why[0], "31.0 kPa of 110.3") {
		t.Errorf("highest %v, heard %v: %v", v.Highest, v.FirstHeard, v.Calls[0].Report.Why)
	}
	empty := must[HoldView](b)(b.Start(b.ctx, j.ID, StartHold{Write: b.write(), Purpose: "repeat"}))
	b.event(empty.ID, trace.Stroke)
	if v := b.event(empty.ID, trace.Release); len(v.Calls) != 0 {
		t.Errorf("one stroke, nothing read, and a call of %s", v.Calls[0].Call)
	}
}

// A shop that goes away and comes back: nothing acknowledged is lost, the simulated
// gauge goes on as if it had been read, and the gap is shown.
func TestHoldsOutliveTheirProcess(t *testing.T) {
	b := open(t)
	needle := b.job("16")
	typed := b.held(needle.ID)
	b.clock.now = b.clock.now.Add(30 * time.Second)
	typed = b.read(typed.ID, 15.75)

	sim := b.job("1.1")
	must[JobView](b)(b.SetPlan(b.ctx, sim.ID, Plan{Write: b.write(), School: "exactly", Gauge: "sim-weep", Allowance: "house"}))
	h := must[HoldView](b)(b.Start(b.ctx, sim.ID, StartHold{Write: b.write(), Purpose: "test"}))
	for h.Value == nil || h.Value.Pa < 108e3 {
		b.clock.now = b.clock.now.Add(1300 * time.Millisecond) // the gauge has spoken since it was last asked
		h = b.event(h.ID, trace.Stroke)
	}
	b.event(h.ID, trace.Isolate)
	for range 30 {
		b.clock.now = b.clock.now.Add(time.Second)
		b.ReadGauges(b.ctx)
	}
	before := must[HoldView](b)(b.Hold(b.ctx, h.ID))

	b.shut()
	b.clock.now = b.clock.now.Add(40 * time.Second)
	b.open()
	after := must[HoldView](b)(b.Hold(b.ctx, h.ID))
	if !slices.Equal(after.Points, before.Points) {
		t.Errorf("%d readings before, %d after", len(before.Points), len(after.Points))
	}
	if len(after.Gaps) != 1 || after.Gaps[0].ToS-after.Gaps[0].FromS < 39 || !strings.Contains(after.Gaps[0].Why, "off") {
		t.Errorf("gaps: %+v", after.Gaps)
	}
	b.clock.now = b.clock.now.Add(time.Second)
	b.ReadGauges(b.ctx)
	on := must[HoldView](b)(b.Hold(b.ctx, h.ID))
	if len(on.Points) <= len(before.Points) || !on.Simulated || on.Value.Pa >= before.Value.Pa {
		t.Errorf("the hold does not go on: %d readings, %v", len(on.Points), on.Value)
	}
	if v := must[HoldView](b)(b.Hold(b.ctx, typed.ID)); v.State != "holding" || !slices.Equal(v.Points, typed.Points) {
		t.Errorf("the needle hold came back %s with %d readings of %d", v.State, len(v.Points), len(typed.Points))
	}
	if running := b.Running(); len(running) != 2 {
		t.Errorf("%d holds in the line-up, want 2", len(running))
	}
}
