package shop

import (
	"database/sql"
	"encoding/csv"
	"fmt"
	"path/filepath"
	"slices"
	"strings"
	"testing"
	"time"

	"idlehiss/core/judge"
	"idlehiss/core/runsheet"
	"idlehiss/core/terms"
	"idlehiss/core/trace"
	"idlehiss/desk"
	"idlehiss/jobs"
	"idlehiss/kit"
	"idlehiss/logbook"
	"idlehiss/record"
)

func TestMarksAndTargetsThatCannotBe(t *testing.T) {
	b := open(t)
	for mark, says := range map[string]string{"banana": "16 psi or 1.1 bar", "-3": "above ambient", "400": "20 to 250 kPa"} {
		_, err := b.Begin(StartJob{Write: b.write(), Machine: "x", Mark: mark})
		refused(t, mark, err, desk.BadInput, "mark", mark, says)
		_, err = b.Catalogue.DecodeMark(mark, "")
		refused(t, mark, err, desk.BadInput, "text", says)
	}
	if rows := must[BookView](b)(b.Book(b.ctx, "", "")).Rows; len(rows) != 0 {
		t.Fatalf("a refused beginning left %d jobs", len(rows))
	}
	v, err := b.Catalogue.DecodeMark("1.1", "")
	if err != nil || v.Readings[0].Unit != "bar" || v.Readings[1].Unit != "kgf/cm²" || !strings.Contains(v.Doubt, "does not matter") {
		t.Errorf("%+v %v", v, err)
	}

	j := b.job("16")
	if j.Plan.Shown.Text != "16.0" || j.Plan.Target.School != "exactly" {
		t.Errorf("the plan before anything is chosen: %+v", j.Plan.Shown)
	}
	plan := Plan{Write: b.write(), School: "typed", Typed: "19 psi", Gauge: j.Plan.Gauge.ID, Ring: 1, Allowance: "house"}
	_, err = b.SetPlan(j.ID, plan)
	refused(t, "over the limit", err, desk.BadInput, "typed", "131 kPa", "the cap at 110 kPa", "type the reason")
	if again := must[JobView](b)(b.Job(j.ID)); again.Plan.Target.Pa != j.Plan.Target.Pa {
		t.Error("a refused plan changed the target")
	}
	plan.Write, plan.Reason = b.write(), "manual says so, page 12"
	over := must[JobView](b)(b.SetPlan(j.ID, plan))
	if !over.Plan.Target.Over {
		t.Error("an override is not marked as one")
	}
	var paper strings.Builder
	if err := b.Paper(b.ctx, &paper, j.ID, PaperWanted{}); err != nil || !strings.Contains(paper.String(), "ABOVE") || !strings.Contains(paper.String(), "page 12") {
		t.Errorf("the override is not on the sheet: %v", err)
	}
}

func TestACoarseGaugeComesWithAdvice(t *testing.T) {
	b := open(t)
	g := must[kit.Gauge](b)(b.Kit.AddGauge(b.ctx, b.write(), NewGauge{Gauge: runsheet.Gauge{Name: "old tester", Kind: "needle", Rings: []runsheet.Ring{{Unit: "kPa", To: 400, Division: 10, Numbered: 100}}}}))
	j := b.job("110 kPa")
	v := must[JobView](b)(b.SetPlan(j.ID, Plan{Write: b.write(), School: "exactly", Gauge: g.ID, Allowance: "two-minutes-ten"}))
	says := strings.Join(v.Plan.Fit.Says, " ")
	if v.Plan.Fit.Fits || !strings.Contains(says, "One division is 10 kPa") || !strings.Contains(says, "5 kPa or finer") {
		t.Errorf("fits %v: %s", v.Plan.Fit.Fits, says)
	}
	_, err := b.Kit.AddGauge(b.ctx, b.write(), NewGauge{Gauge: runsheet.Gauge{Name: "odd", Kind: "needle", Rings: []runsheet.Ring{{Unit: "kPa", From: 100, To: 0, Division: 10}}}})
	refused(t, "a face that runs down", err, desk.BadInput, "rings", "upwards")
}

func TestTheSameWriteCountsOnceAndAChangedOneIsRefused(t *testing.T) {
	b := open(t)
	j := b.job("16")
	h := b.held(j.ID)
	w := b.write()
	in := TypedReading{Write: w, Value: new(15.5), How: "mark"}
	first := must[HoldView](b)(b.Reading(h.ID, in))
	second := must[HoldView](b)(b.Reading(h.ID, in))
	if len(first.Points) != len(second.Points) {
		t.Errorf("sent twice, the reading is there %d and %d times", len(first.Points), len(second.Points))
	}
	in.Value = new(15.0)
	_, err := b.Reading(h.ID, in)
	refused(t, "the same id with another value", err, desk.Conflict, "")
	if now := must[HoldView](b)(b.Hold(h.ID)); len(now.Points) != len(first.Points) || now.Value.Text != "15.50" {
		t.Errorf("%d readings, the last %v", len(now.Points), now.Value)
	}
}

func TestOrderOfWorkIsKept(t *testing.T) {
	b := open(t)
	j := must[JobView](b)(b.Begin(StartJob{Write: b.write(), Machine: "Bin carrier 4"}))
	_, err := b.Start(j.ID, StartHold{Write: b.write(), Purpose: terms.Test})
	refused(t, "a hold before it is safe", err, desk.Conflict, "", "make safe first", "Engine and cap are cold")
	must[JobView](b)(b.Tick(j.ID, Tick{Write: b.write(), Item: "cold", On: true}))
	_, err = b.Start(j.ID, StartHold{Write: b.write(), Purpose: terms.Test})
	refused(t, "a hold while a fan can start", err, desk.Conflict, "", "electric fans start with the key out")
	must[JobView](b)(b.Tick(j.ID, Tick{Write: b.write(), Item: "still", On: true}))
	must[JobView](b)(b.Tick(j.ID, Tick{Write: b.write(), Item: "eyes-on", On: true}))
	_, err = b.Start(j.ID, StartHold{Write: b.write(), Purpose: terms.Test})
	refused(t, "a hold before the mark", err, desk.Conflict, "", "mark on the cap")
	must[JobView](b)(b.sheet(b.Jobs.Mark(b.ctx, j.ID, jobs.EnterMark{Write: b.write(), Text: "16"})))
	h := b.held(j.ID)
	_, err = b.Start(j.ID, StartHold{Write: b.write(), Purpose: terms.Test})
	refused(t, "two holds of one job", err, desk.Conflict, "", "bleed it down")
	_, err = b.Event(h.ID, HoldEvent{Write: b.write(), Kind: trace.Isolate})
	refused(t, "shut twice", err, desk.Conflict, "", "already shut")
	_, err = b.Reading(h.ID, TypedReading{Write: b.write(), Value: new(99.0), How: "read"})
	refused(t, "off the face", err, desk.BadInput, "value", "0 to 36")
	_, err = b.sheet(b.Jobs.End(b.ctx, j.ID, CloseJob{Write: b.write()}))
	refused(t, "closing under pressure", err, desk.Conflict, "", "bleed it down")
	b.event(h.ID, trace.Release)
	_, err = b.Reading(h.ID, TypedReading{Write: b.write(), Value: new(15.0), How: "read"})
	refused(t, "a reading for a closed hold", err, desk.Conflict, "", "has ended", "new hold")
	_, err = b.Reading("nowhere", TypedReading{Write: b.write(), Value: new(15.0), How: "read"})
	refused(t, "a hold that is not there", err, desk.Missing, "")
	_, err = b.sheet(b.Jobs.End(b.ctx, j.ID, CloseJob{Write: b.write()}))
	refused(t, "closing with the cap off", err, desk.Conflict, "", "Cap back on", "Gauge seen at zero")
	for _, item := range []string{"cold", "saw-zero", "cap-back"} {
		must[JobView](b)(b.Tick(j.ID, Tick{Write: b.write(), Item: item, On: true}))
	}
	done := must[JobView](b)(b.sheet(b.Jobs.End(b.ctx, j.ID, CloseJob{Write: b.write(), Found: "top hose clamp"})))
	if done.State != "closed" {
		t.Errorf("the job is %s", done.State)
	}
	_, err = b.Tick(j.ID, Tick{Write: b.write(), Item: "cold", On: false})
	refused(t, "a tick on a closed job", err, desk.Conflict, "", "closed")
	if rows := must[BookView](b)(b.Book(b.ctx, "clamp carrier", "")).Rows; len(rows) != 1 || rows[0].Found != "top hose clamp" {
		t.Errorf("found by its words: %+v", rows)
	}
}

func TestCallsStandUntilTheirReadingIsStruck(t *testing.T) {
	b := open(t)
	j := b.job("16")
	h := b.held(j.ID)
	var v HoldView
	for value := 16.0; len(v.Calls) == 0 && value > 8; value -= 0.5 {
		b.clock.set(b.clock.Now().Add(12 * time.Second))
		v = b.read(h.ID, value)
	}
	if len(v.Calls) != 1 || v.Calls[0].Call != judge.Leaking || v.Ring != terms.RingCut {
		t.Fatalf("a steady fall of 2.5 psi a minute: %s, %d calls", v.Sentence, len(v.Calls))
	}
	if why := strings.Join(v.Report.Why, " "); !strings.Contains(why, "Rig not proven") || !strings.Contains(why, "Not tested: the cap") {
		t.Errorf("the call does not say what it lacks: %s", why)
	}
	first := v.Calls[0]
	for range 5 {
		v = must[HoldView](b)(b.hold(b.Holds.Undo(b.ctx, h.ID, Undo{Write: b.write()})))
	}
	if v.Ring != terms.RingDotted || v.Calls[len(v.Calls)-1].Call != judge.NotYet {
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
	h := must[HoldView](b)(b.Start(j.ID, StartHold{Write: b.write(), Purpose: terms.Test}))
	for n := range 12 {
		b.clock.set(b.clock.Now().Add(2 * time.Second))
		b.event(h.ID, trace.Stroke)
		b.clock.set(b.clock.Now().Add(time.Second))
		b.read(h.ID, min(float64(n+1), 4.5))
	}
	b.event(h.ID, trace.FirstHiss)
	v := b.event(h.ID, trace.Release)
	if len(v.Calls) != 1 || v.Calls[0].Call != judge.NeverReached || v.Ring != terms.RingCut || !strings.Contains(v.Sentence, "Never reached") {
		t.Errorf("%s, %d calls, ring %s", v.Sentence, len(v.Calls), v.Ring)
	}
	if v.Highest.Text != "4.50" || v.FirstHeard.Text != "4.50" || !strings.Contains(v.Report.Why[0], "4.50 psi of 16.0 psi") {
		t.Errorf("highest %v, heard %v: %v", v.Highest, v.FirstHeard, v.Report.Why)
	}
	empty := must[HoldView](b)(b.Start(j.ID, StartHold{Write: b.write(), Purpose: terms.Repeat}))
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
	b.clock.set(b.clock.Now().Add(30 * time.Second))
	typed = b.read(typed.ID, 15.75)

	sim := b.job("1.1")
	must[JobView](b)(b.SetPlan(sim.ID, Plan{Write: b.write(), School: "exactly", Gauge: "sim-weep", Allowance: "house"}))
	h := must[HoldView](b)(b.Start(sim.ID, StartHold{Write: b.write(), Purpose: terms.Test}))
	for h.Value == nil || h.Value.Pa < 108e3 {
		b.clock.set(b.clock.Now().Add(1300 * time.Millisecond)) // the gauge has spoken since it was last asked
		h = b.event(h.ID, trace.Stroke)
	}
	b.event(h.ID, trace.Isolate)
	for range 30 {
		b.clock.set(b.clock.Now().Add(time.Second))
		b.Holds.ReadGauges(b.ctx)
	}
	before := must[HoldView](b)(b.Hold(h.ID))

	b.shut()
	b.clock.set(b.clock.Now().Add(40 * time.Second))
	b.open()
	after := must[HoldView](b)(b.Hold(h.ID))
	if !slices.Equal(after.Points, before.Points) {
		t.Errorf("%d readings before, %d after", len(before.Points), len(after.Points))
	}
	if len(after.Gaps) != 1 || after.Gaps[0].ToS-after.Gaps[0].FromS < 39 || !strings.Contains(after.Gaps[0].Why, "off") {
		t.Errorf("gaps: %+v", after.Gaps)
	}
	b.clock.set(b.clock.Now().Add(time.Second))
	b.Holds.ReadGauges(b.ctx)
	on := must[HoldView](b)(b.Hold(h.ID))
	if len(on.Points) <= len(before.Points) || !on.Simulated || on.Value.Pa >= before.Value.Pa {
		t.Errorf("the hold does not go on: %d readings, %v", len(on.Points), on.Value)
	}
	if v := must[HoldView](b)(b.Hold(typed.ID)); v.State != "holding" || !slices.Equal(v.Points, typed.Points) {
		t.Errorf("the needle hold came back %s with %d readings of %d", v.State, len(v.Points), len(typed.Points))
	}
	if running := b.Holds.Running(); len(running) != 2 {
		t.Errorf("%d holds in the line-up, want 2", len(running))
	}
}

// The book comes some rows at a time, without words the open jobs first, then latest first. None is left out or comes twice
// between one answer and the next; a search goes on the same way, and a table has them all.
func TestTheBookComesSomeRowsAtATime(t *testing.T) {
	b := open(t)
	const many = 2*record.RowsAtOnce + 7
	for n := range many {
		complaint := "routine"
		if n%2 == 0 {
			complaint = "rattles"
		}
		j := must[desk.Receipt](b)(b.Jobs.Begin(b.ctx, StartJob{Write: b.write(), Machine: fmt.Sprintf("Bin carrier %d", n), Complaint: complaint, Circuit: "cooling-header-tank"}))
		if n%9 > 0 {
			must[desk.Receipt](b)(b.Jobs.End(b.ctx, j.Of, jobs.CloseJob{Write: b.write(), Abandon: true}))
		}
	}
	for words, want := range map[string]int{"": many, "rattles": (many + 1) / 2, "bin rattl": (many + 1) / 2, "rattles routine": 0,
		"in hand": (many + 8) / 9, "open bin rattl": (many + 17) / 18, "all cooling by maren": many, "all trains": 0, "not proved": 0, "due": 0, `"in hand"`: 0} {
		seen, next, last, open := map[string]bool{}, "", time.Time{}, words == ""
		for pages := 1; ; pages++ {
			v := must[BookView](b)(b.Book(b.ctx, words, next))
			for _, row := range v.Rows {
				if open && row.State != terms.Open {
					open, last = false, time.Time{}
				}
				if words == "" && open != (row.State == terms.Open) {
					t.Errorf("the open job of %s comes after others", row.At)
				}
				if seen[row.ID] || !last.IsZero() && row.At.After(last) {
					t.Errorf("%q: %s of %s comes twice, or too late", words, row.ID, row.At)
				}
				seen[row.ID], last = true, row.At
			}
			if next = v.Next; next == "" {
				break
			}
			if len(v.Rows) < record.RowsAtOnce || pages > many/record.RowsAtOnce {
				t.Fatalf("%q: page %d has %d rows and there are more", words, pages, len(v.Rows))
			}
		}
		if len(seen) != want {
			t.Errorf("%q: %d rows, want %d", words, len(seen), want)
		}
	}
	if _, err := b.Book(b.ctx, "", "x"); err == nil {
		t.Error("a next that was never given is taken")
	}
	must[desk.Receipt](b)(b.Jobs.Begin(b.ctx, StartJob{Write: b.write(), Machine: "=HYPERLINK(1)", Complaint: "a, \"b\"\nc", Circuit: "cooling-header-tank"}))
	for words, want := range map[string]int{"": many + 1, "hyperlink": 1} {
		var table strings.Builder
		if err := b.Record.BookCSV(b.ctx, &table, record.BookAsked{Q: words}); err != nil {
			t.Fatal(err)
		}
		rows, err := csv.NewReader(strings.NewReader(table.String())).ReadAll()
		if err != nil || len(rows) != want+1 || rows[1][1] != "'=HYPERLINK(1)" || rows[1][4] != "open" {
			t.Errorf("%q: %d rows, %v: %v", words, len(rows), err, rows[:min(2, len(rows))])
		}
	}
}

// A job whose snapshot cannot be read says so where it is listed and where it is opened; it takes no other with it.
func TestAJobThatCannotBeReadLeavesTheOthersAlone(t *testing.T) {
	b := open(t)
	sound := must[desk.Receipt](b)(b.Jobs.Begin(b.ctx, StartJob{Write: b.write(), Machine: "Bin carrier 4", Circuit: "cooling-header-tank"}))
	spoilt := must[desk.Receipt](b)(b.Jobs.Begin(b.ctx, StartJob{Write: b.write(), Machine: "Hedge saw", Circuit: "two-stroke-crankcase"}))
	db, err := sql.Open("sqlite", "file:"+filepath.Join(b.desk.Book.Folder(), logbook.File))
	if err != nil {
		t.Fatal(err)
	}
	defer db.Close()
	if _, err := db.Exec("UPDATE snapshot SET body = '{', hash = 'another' WHERE circuit = 'two-stroke-crankcase'"); err != nil {
		t.Fatal(err)
	}
	next := map[string]string{}
	for _, n := range must[BenchView](b)(b.Bench(b.ctx)).Next {
		next[n.JobID] = n.Text
	}
	if len(next) != 2 || next[sound.Of] == "" || next[spoilt.Of] == "" || next[sound.Of] == next[spoilt.Of] {
		t.Errorf("the bench lists %v", next)
	}
	if rows := must[BookView](b)(b.Book(b.ctx, "", "")).Rows; len(rows) != 2 {
		t.Errorf("the book lists %d jobs", len(rows))
	}
	must[jobs.JobView](b)(b.Jobs.Job(b.ctx, sound.Of))
	if _, err := b.Jobs.Job(b.ctx, spoilt.Of); err == nil {
		t.Error("a job that cannot be read is shown")
	}
}
