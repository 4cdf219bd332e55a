package shop

import (
	"context"
	"errors"
	"fmt"
	"strings"
	"sync"
	"testing"
	"time"

	"idlehiss/core/judge"
	"idlehiss/core/terms"
	"idlehiss/core/trace"
	"idlehiss/desk"
	"idlehiss/holds"
	"idlehiss/jobs"
	"idlehiss/kit"
	"idlehiss/logbook"
	"idlehiss/record"
)

// What tests say often, by its short name.
type (
	Write        = desk.Write
	Refusal      = desk.Refusal
	HoldView     = holds.HoldView
	HoldEvent    = holds.HoldEvent
	TypedReading = holds.TypedReading
	Undo         = holds.Undo
	Leave        = holds.Leave
	StartJob     = jobs.StartJob
	StartHold    = jobs.StartHold
	Tick         = jobs.Tick
	Plan         = jobs.Plan
	PlanView     = jobs.PlanView
	Found        = jobs.Found
	Look         = jobs.Look
	CloseJob     = jobs.CloseJob
	StepView     = jobs.StepView
	NewFitting   = kit.NewFitting
	NewGauge     = kit.NewGauge
	BookView     = record.BookView
	BookRow      = record.BookRow
	MachineView  = record.MachineView
)

// JobView is a sheet with the plan of its first hold.
type JobView struct {
	jobs.JobView
	Plan *PlanView
}

// hand is a clock set by hand; the shop's own loop hardly runs on it.
type hand struct {
	mu  sync.Mutex
	now time.Time
}

func (h *hand) Now() time.Time {
	h.mu.Lock()
	defer h.mu.Unlock()
	return h.now
}

func (h *hand) set(now time.Time) {
	h.mu.Lock()
	defer h.mu.Unlock()
	h.now = now
}

func (h *hand) Speed() float64 { return 0.001 }

// bench is a shop on a book of its own, with a mechanic who does things in it and looks
// at what became of each.
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
	b := &bench{TB: t, ctx: context.Background(), clock: &hand{now: time.Date(2026, 3, 2, 8, 0, 0, 0, time.UTC)}, folder: t.TempDir()}
	b.open()
	t.Cleanup(func() { b.shut() })
	return b
}

func (b *bench) open() { b.openWith(b.clock) }

func (b *bench) openWith(clock desk.Clock) {
	b.Helper()
	var err error
	if b.book, err = logbook.Open(b.ctx, b.folder); err != nil {
		b.Fatal(err)
	}
	if b.Shop, err = New(b.ctx, b.book, clock, Options{}); err != nil {
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

// sheet is a job as it is after a write to it.
func (b *bench) sheet(r desk.Receipt, err error) (JobView, error) {
	b.Helper()
	if err != nil {
		return JobView{}, err
	}
	return b.Job(r.Of)
}

// Job gives a sheet with the plan of its first hold.
func (b *bench) Job(id string) (JobView, error) {
	b.Holds.Quiet(b.ctx)
	j, err := b.Jobs.Job(b.ctx, id)
	v := JobView{JobView: j}
	for _, s := range j.Steps {
		if s.ID == j.First {
			v.Plan = s.Plan
		}
	}
	return v, err
}

// hold is a hold as it is after a write to it.
func (b *bench) hold(r desk.Receipt, err error) (HoldView, error) {
	b.Helper()
	if err != nil {
		return HoldView{}, err
	}
	b.Holds.Quiet(b.ctx)
	return b.Holds.Hold(b.ctx, r.Of)
}

func (b *bench) Hold(id string) (HoldView, error) { return b.Holds.Hold(b.ctx, id) }
func (b *bench) Begin(in StartJob) (JobView, error) {
	return b.sheet(b.Jobs.Begin(b.ctx, in))
}
func (b *bench) Tick(job string, in Tick) (JobView, error) {
	return b.sheet(b.Jobs.Tick(b.ctx, job, in))
}
func (b *bench) SetPlan(job string, in Plan) (JobView, error) {
	return b.sheet(b.Jobs.SetPlan(b.ctx, job, in))
}
func (b *bench) Found(job, step string, in Found) (JobView, error) {
	return b.sheet(b.Jobs.Found(b.ctx, job, step, in))
}
func (b *bench) Look(job string, in Look) (JobView, error) {
	return b.sheet(b.Jobs.Look(b.ctx, job, in))
}
func (b *bench) Start(job string, in StartHold) (HoldView, error) {
	return b.hold(b.Jobs.Start(b.ctx, job, in))
}
func (b *bench) Event(hold string, in HoldEvent) (HoldView, error) {
	return b.hold(b.Holds.Event(b.ctx, hold, in))
}
func (b *bench) Reading(hold string, in TypedReading) (HoldView, error) {
	return b.hold(b.Holds.Reading(b.ctx, hold, in))
}
func (b *bench) Fitting(in NewFitting) kit.ListView {
	b.Helper()
	must[desk.Receipt](b)(b.Kit.AddFitting(b.ctx, in))
	return must[kit.ListView](b)(b.Kit.List(b.ctx))
}

// begin starts a job and makes it safe.
func (b *bench) begin(in StartJob) JobView {
	b.Helper()
	in.Write = b.write()
	j := must[JobView](b)(b.Begin(in))
	for _, st := range j.Stages {
		for _, x := range st.Ticks {
			if st.ID == terms.MakeSafe && x.Must {
				j = must[JobView](b)(b.Tick(j.ID, Tick{Write: b.write(), Item: x.ID, On: true}))
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
			must[JobView](b)(b.Tick(j.ID, Tick{Write: b.write(), Item: x.ID, On: on}))
		}
	}
}

func (b *bench) event(hold, kind string) HoldView {
	b.Helper()
	return must[HoldView](b)(b.Event(hold, HoldEvent{Write: b.write(), Kind: kind}))
}

func (b *bench) read(hold string, value float64) HoldView {
	b.Helper()
	return must[HoldView](b)(b.Reading(hold, TypedReading{Write: b.write(), Value: new(value), How: trace.Read}))
}

// held is a needle hold with its supply just shut at 16 psi.
func (b *bench) held(job string) HoldView {
	b.Helper()
	h := must[HoldView](b)(b.Start(job, StartHold{Write: b.write(), Purpose: terms.Test}))
	for n := range 8 {
		b.clock.set(b.clock.Now().Add(2 * time.Second))
		b.event(h.ID, trace.Stroke)
		b.clock.set(b.clock.Now().Add(time.Second))
		b.read(h.ID, float64(2*(n+1)))
	}
	return b.event(h.ID, trace.Isolate)
}

// question is what the judge is asked of a hold, as its export says.
func (b *bench) question(hold string) judge.Question {
	b.Helper()
	tr, _, err := b.Holds.Export(b.ctx, hold)
	if err != nil {
		b.Fatal(err)
	}
	said := must[judge.Settings](b)(judge.ParseSettings(tr.Settings))
	return must[judge.Question](b)(said.Question(tr))
}

// refused checks that something was refused, by which input, and that it says what would be right.
func refused(t *testing.T, what string, err error, kind desk.RefusalKind, field string, says ...string) {
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

// Book asks the book with plain words.
func (b *bench) Book(ctx context.Context, words, next string) (BookView, error) {
	return b.Record.Book(ctx, record.BookAsked{Q: words, Next: next})
}

// AddPump and Note give the kit as it is after them.
func (b *bench) AddPump(in kit.NewPump) (kit.ListView, error) {
	b.Helper()
	if _, err := b.Kit.AddPump(b.ctx, in); err != nil {
		return kit.ListView{}, err
	}
	return b.Kit.List(b.ctx)
}

func (b *bench) Note(id string, in kit.NewNote) (kit.ListView, error) {
	b.Helper()
	if _, err := b.Kit.Note(b.ctx, id, in); err != nil {
		return kit.ListView{}, err
	}
	return b.Kit.List(b.ctx)
}

// post posts readings to a gauge of the kit.
func (b *bench) post(gauge string, in holds.Posted) (desk.Receipt, error) {
	defer b.Holds.Quiet(b.ctx)
	return b.Holds.Post(b.ctx, gauge, func() (string, error) {
		shelf, err := b.Kit.Shelf(b.ctx)
		if err != nil {
			return "", err
		}
		g, err := shelf.Gauge(gauge)
		return g.Name, err
	}, in)
}

func (b *bench) shelf() *kit.Shelf {
	b.Helper()
	return must[*kit.Shelf](b)(b.Kit.Shelf(b.ctx))
}
