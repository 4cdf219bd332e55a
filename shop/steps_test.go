package shop

import (
	"bytes"
	"os"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"idlehiss/catalogue"
	"idlehiss/core/circuit"
	"idlehiss/core/steps"
	"idlehiss/core/terms"
	"idlehiss/core/trace"
	"idlehiss/desk"
	"idlehiss/jobs"
	"idlehiss/trail"
)

// step finds one of a job's.
func (b *bench) step(j JobView, id string) StepView {
	b.Helper()
	for _, s := range j.Steps {
		if s.ID == id {
			return s
		}
	}
	b.Fatalf("no step %s", id)
	return StepView{}
}

// heldAt pumps a step up on a simulated gauge, holds it until it is called, and
// lets it go.
func (b *bench) heldAt(j JobView, step, gauge string) JobView {
	b.Helper()
	return b.heldWith(j, gauge, "vacuum-pump-8", StartHold{Step: step}, 0)
}

// heldWith is the same with a pump and under a condition; seconds is how long it is
// held, 0 until it is called.
func (b *bench) heldWith(j JobView, gauge, pump string, start StartHold, seconds int) JobView {
	b.Helper()
	plan := b.step(j, start.Step).Plan
	must[JobView](b)(b.SetPlan(j.ID, Plan{Write: b.write(), Step: start.Step, School: plan.Target.School, Gauge: gauge, Pump: pump, Allowance: plan.Wanted.From, AllowanceText: plan.Wanted.Text}))
	start.Write, start.Purpose = b.write(), "test"
	h := must[HoldView](b)(b.Start(j.ID, start))
	want := h.Target.Pa
	for h.Value == nil || h.Value.Pa/want < 0.9 {
		b.clock.set(b.clock.Now().Add(time.Second))
		h = b.event(h.ID, trace.Stroke)
	}
	b.event(h.ID, trace.Isolate)
	for n := range 900 {
		b.clock.set(b.clock.Now().Add(time.Second))
		b.Holds.ReadGauges(b.ctx)
		if h = must[HoldView](b)(b.Hold(h.ID)); n+1 == seconds || seconds == 0 && len(h.Calls) > 0 {
			break
		}
	}
	b.event(h.ID, trace.Release)
	return must[JobView](b)(b.Job(j.ID))
}

// Both signs of a crankcase, each a hold of its own: one call, one sheet.
func TestACrankcaseIsHeldBothWays(t *testing.T) {
	b := open(t)
	j := b.begin(StartJob{Machine: "Hedge saw", Complaint: "runs lean", Circuit: "two-stroke-crankcase", Options: map[string]bool{"decompressor": false}})
	if j.Plan == nil || !j.Plan.Draws || j.Plan.Target.Pa > -30e3 || j.Plan.Target.Pa < -34e3 || j.Marked {
		t.Fatalf("%+v", j.Plan)
	}
	// Read where ten inches are printed, drawn by a pump that draws.
	if p := j.Plan; !strings.Contains(p.Gauge.Name, "Compound") || p.Target.Printed != "−10.0 inHg" || !p.Pump.Draws {
		t.Errorf("a vacuum to %s is planned on %s with the %s", p.Target.Printed, p.Gauge.Name, p.Pump.Name)
	}
	for _, s := range j.Suspects {
		if s.ID == "decompression" {
			t.Error("what is not fitted is suspected")
		}
	}
	counted := 0
	for _, st := range j.Stages {
		for _, x := range st.Ticks {
			if strings.HasPrefix(x.ID, "shut-") {
				counted++
			}
			if strings.HasPrefix(x.ID, "out-") && !x.Must {
				t.Errorf("%s need not come out again", x.Text)
			}
		}
	}
	if counted != 2 {
		t.Errorf("%d closures are counted in, want intake and exhaust", counted)
	}
	j = b.heldAt(j, "vacuum", "sim-low-weep")
	if v := b.step(j, "vacuum"); v.Outcome.Verdict != steps.Bad || v.Ring != terms.RingCut || j.Call.Verdict != steps.Bad {
		t.Errorf("vacuum: %+v; %+v", v.Outcome, j.Call)
	}
	j = b.heldAt(j, "pressure", "sim-low-sound")
	if v := b.step(j, "pressure"); v.Outcome.Verdict != steps.Good || !strings.Contains(j.Call.Sentence, "leaks inward only") {
		t.Errorf("pressure: %+v; %s", v.Outcome, j.Call.Sentence)
	}
	for _, h := range j.Holds {
		if h.Test == "vacuum" && (h.Highest == nil || h.Highest.Pa > -30e3 || h.Air == nil || h.Air.Litres < 0.12 || h.Air.Litres > 0.25 || h.Stage != terms.StepStage("vacuum")) {
			t.Errorf("the vacuum hold: deepest %+v, air %+v, at %s", h.Highest, h.Air, h.Stage)
		}
	}
	var paper bytes.Buffer
	if err := b.Paper(b.ctx, &paper, j.ID, PaperWanted{}); err != nil {
		t.Fatal(err)
	}
	for _, words := range []string{"Vacuum hold", "not right", "Pressure hold, test", "leaks inward only"} {
		if !strings.Contains(paper.String(), words) {
			t.Errorf("the sheet does not say %q", words)
		}
	}
}

// Findings are taken down, judged, refused where they cannot be read, and counted
// into the one call.
func TestFindingsOfATrain(t *testing.T) {
	b := open(t)
	j := b.train("Wagon 1", "Wagon 2", "Wagon 3")
	if rows := b.step(j, "continuity").Ask.Rows; len(rows) != 3 || rows[2].Title != "Wagon 3" {
		t.Fatalf("rows: %+v", rows)
	}
	row := func(n, on string) steps.EntryRow {
		return steps.EntryRow{ID: "continuity-" + n, Title: "Wagon " + n, Cells: map[string]string{"on": on, "off": "yes"}}
	}
	_, err := b.Found(j.ID, "continuity", Found{Write: b.write(), Rows: []steps.EntryRow{row("1", "yes")}})
	refused(t, "walked before it is secured", err, desk.Conflict, "", "comes after: Train secured")
	_, err = b.Found(j.ID, "no-such", Found{Write: b.write()})
	refused(t, "no such step", err, desk.BadInput, "", "no step")
	_, err = b.Found(j.ID, "leak-brake", Found{Write: b.write()})
	refused(t, "a hold", err, desk.BadInput, "", "nothing is typed")
	_, err = b.Start(j.ID, StartHold{Write: b.write(), Purpose: terms.Test, Step: "continuity"})
	refused(t, "no hold", err, desk.BadInput, "step", "is no hold")
	// Nothing is charged before the train is secured.
	_, err = b.Start(j.ID, StartHold{Write: b.write(), Purpose: terms.Test, Step: "leak-brake"})
	refused(t, "a train that is not secured", err, desk.Conflict, "", "comes after: Train secured")
	_, err = b.Found(j.ID, "one-way", Found{Write: b.write(), Fields: map[string]string{"before": "800 kPa", "after": "800 kPa"}})
	refused(t, "charged before it is secured", err, desk.Conflict, "", "comes after: Train secured")
	b.tickAll(j, true)
	_, err = b.Found(j.ID, "continuity", Found{Write: b.write(), Rows: []steps.EntryRow{row("1", "maybe")}})
	refused(t, "maybe", err, desk.BadInput, "continuity-1.on", "type yes, no")
	j = must[JobView](b)(b.Found(j.ID, "continuity", Found{Write: b.write(), Rows: []steps.EntryRow{row("1", "20 s"), row("2", "no")}}))
	if v := b.step(j, "continuity"); v.Outcome.Verdict != steps.Bad || v.Entry.Rows[1].Cells["on"] != "no" {
		t.Errorf("%+v", v.Outcome)
	}
	j = must[JobView](b)(b.Found(j.ID, "continuity", Found{Write: b.write(), Rows: []steps.EntryRow{row("1", "20 s"), row("2", "yes"), row("3", "31 s")}}))
	if v := b.step(j, "continuity"); v.Outcome.Verdict != steps.Good || j.Call.Verdict != steps.Unknown || j.Call.Next != "leak-brake" {
		t.Errorf("%+v; %+v", v.Outcome, j.Call)
	}
	j = must[JobView](b)(b.Found(j.ID, "one-way", Found{Write: b.write(), Fields: map[string]string{"before": "800 kPa", "after": "800 kPa"}}))
	if v := b.step(j, "one-way"); v.Outcome.Verdict != steps.Good {
		t.Errorf("secured, and still %+v", v.Outcome)
	}
	if rows := must[BookView](b)(b.Book(b.ctx, "fruit train", "")).Rows; len(rows) != 1 || rows[0].Call != "" {
		t.Errorf("in the book: %+v", rows)
	}
}

// A shop's own file appears without a restart, outranks the one that ships, and is
// named with line and reason when it is wrong.
func TestAShopsOwnCircuitsAppear(t *testing.T) {
	b := open(t)
	folder := filepath.Join(b.book.Folder(), "circuits")
	if err := os.MkdirAll(folder, 0o755); err != nil {
		t.Fatal(err)
	}
	put := func(name, from string, edits ...string) {
		raw, err := os.ReadFile("../library/circuits/" + from + ".yaml")
		if err != nil {
			t.Fatal(err)
		}
		text := strings.NewReplacer(edits...).Replace(string(raw))
		if err := os.WriteFile(filepath.Join(folder, name), []byte(text), 0o644); err != nil {
			t.Fatal(err)
		}
	}
	put("railway.yaml", "train-brake", "at: 500 kPa", "at: 480 kPa", "version: 2", "version: 7")
	put("press.yaml", "accumulator-small", "id: accumulator-small", "id: press-accumulator", "title: Gas-charged accumulator, small, up to 1 L", "title: Our press's accumulator", "words: [accumulator, press]", "words: [vat]")
	put("twice.yaml", "accumulator-small", "id: accumulator-small", "id: press-accumulator")
	put("wrong.yaml", "pressure-cap", "reseats: 100 kPa", "reseats: 130 kPa", "volume: 0.15 L", "volume: 0.15")
	list := must[catalogue.CircuitList](b)(b.Catalogue.List())
	own := map[string]string{}
	for _, c := range list.Circuits {
		own[c.ID] = c.File
	}
	if own["press-accumulator"] != "press.yaml" || own["train-brake"] != "railway.yaml" || own["pressure-cap"] != "" {
		t.Errorf("%v", own)
	}
	if len(list.Wrong) != 2 || list.Wrong[0].File != "twice.yaml" || !strings.Contains(list.Wrong[0].Faults[0].Says, "every id once") || list.Wrong[1].Faults[0].Line == 0 || !strings.Contains(list.Wrong[1].Faults[0].Says, "with its unit") {
		t.Errorf("wrong: %+v", list.Wrong)
	}
	// It is proposed by its own words, and a job that names no circuit gets what its
	// words mean, of those with a mark where one was read.
	for _, in := range []struct{ machine, mark, want string }{{"Vat 3", "", "press-accumulator"}, {"Fruit train", "", "train-brake"}, {"Hedge saw", "1.1", "cooling-header-tank"}, {"Old cap", "1.1", "pressure-cap"}} {
		if j := b.begin(StartJob{Machine: in.machine, Mark: in.mark}); j.CircuitID != in.want {
			t.Errorf("%s %s begins %s, want %s", in.machine, in.mark, j.CircuitID, in.want)
		}
	}
	c := must[catalogue.CircuitView](b)(b.Catalogue.Circuit("train-brake"))
	if c.Version != 7 {
		t.Errorf("version %d", c.Version)
	}
	j := b.begin(StartJob{Machine: "Fruit train", Circuit: "train-brake"})
	if p := b.step(j, "leak-brake").Plan; p == nil || p.Target.Pa > 481e3 || p.Target.Pa < 470e3 {
		t.Errorf("the shop's own figure is not used: %+v", p)
	}
	if p := b.step(j, "leak-feed"); p.Kind != circuit.Hold || !strings.Contains(p.Energy, "Shield it") || strings.Contains(p.Energy, "Fill") {
		t.Errorf("60 L at 8 bar and no word of it: %q", p.Energy)
	}
	_, err := b.Begin(StartJob{Write: b.write(), Machine: "Cap", Circuit: "wrong"})
	refused(t, "a refused file", err, desk.BadInput, "circuit", "wrong.yaml", "line")
	// What has begun keeps its circuit as it was.
	if err := os.Remove(filepath.Join(folder, "railway.yaml")); err != nil {
		t.Fatal(err)
	}
	if p := b.step(must[JobView](b)(b.Job(j.ID)), "leak-brake").Plan; p.Target.Pa > 481e3 {
		t.Errorf("a job's circuit changed under it: %v", p.Target.Says)
	}
}

// Reminders wait, come due on the bench, and end with what there was to see; what
// fitted a machine is known the next time; the rig may be seen to leak.
func TestWhatIsLookedAtAgain(t *testing.T) {
	b := open(t)
	j := b.job("16")
	_, err := b.sheet(b.Jobs.Remind(b.ctx, j.ID, jobs.NewReminder{Write: b.write(), LookAgain: trail.LookAgain{Text: " ", Minutes: 60}}))
	refused(t, "nothing to look at", err, desk.BadInput, "text")
	j = must[JobView](b)(b.sheet(b.Jobs.Remind(b.ctx, j.ID, jobs.NewReminder{Write: b.write(), LookAgain: trail.LookAgain{Text: "the powder at the lower seam", Minutes: 60}})))
	if r := j.Reminders; len(r) != 1 || r[0].Due || r[0].DueAt.Sub(b.clock.Now()) > time.Hour {
		t.Fatalf("%+v", r)
	}
	b.clock.set(b.clock.Now().Add(61 * time.Minute))
	for range 45 { // it is found by its time, however many were begun after it
		b.clock.set(b.clock.Now().Add(time.Second))
		b.begin(StartJob{Machine: "Frost fan", Mark: "16"})
	}
	found := false
	for _, n := range must[BenchView](b)(b.Bench(b.ctx)).Next {
		found = found || n.DueAt != nil && strings.Contains(n.Text, "lower seam")
	}
	if j = must[JobView](b)(b.Job(j.ID)); !found || !j.Reminders[0].Due {
		t.Errorf("it does not come due: %v, %+v", found, j.Reminders)
	}
	id := j.Reminders[0].ID
	j = must[JobView](b)(b.sheet(b.Jobs.Reminded(b.ctx, j.ID, jobs.RemindedOf{Write: b.write(), Look: trail.Look{Reminder: id, Saw: "a dark streak"}})))
	if len(j.Reminders) != 0 {
		t.Errorf("still waiting: %+v", j.Reminders)
	}
	_, err = b.sheet(b.Jobs.Reminded(b.ctx, j.ID, jobs.RemindedOf{Write: b.write(), Look: trail.Look{Reminder: id}}))
	refused(t, "done twice", err, desk.BadInput, "reminder")

	must[JobView](b)(b.sheet(b.Jobs.RigFitted(b.ctx, j.ID, jobs.RigFitted{Write: b.write(), Text: "blue bayonet, shallow"})))
	b.clock.set(b.clock.Now().Add(24 * time.Hour))
	again := b.begin(StartJob{Machine: j.Machine, Mark: "16"})
	if again.Rig.Before != "blue bayonet, shallow" || again.Rig.Fitted != "" {
		t.Errorf("before %q, now %q", again.Rig.Before, again.Rig.Fitted)
	}
	if other := b.begin(StartJob{Machine: j.Machine, Circuit: "bare-radiator"}); other.Rig.Before != "" {
		t.Errorf("another circuit's rig is offered: %q", other.Rig.Before)
	}
	seen := must[JobView](b)(b.Look(again.ID, Look{Write: b.write(), Part: "rig", Seen: true, Class: "fault"}))
	if len(seen.Rig.SeenAt) != 1 {
		t.Errorf("the rig is not named: %v", seen.Rig.SeenAt)
	}
}

// With the cap off nothing relieves a loop whose engine runs: it is to be stopped
// before the limit, and that is said on every screen.
func TestAnEngineThatRunsIsStoppedInTime(t *testing.T) {
	b := open(t)
	h := b.held(b.job("16").ID)
	b.event(h.ID, trace.EngineOn)
	read := func(psi float64) HoldView {
		b.clock.set(b.clock.Now().Add(20 * time.Second))
		return b.read(h.ID, psi)
	}
	if h := read(13.5); h.Alarm != terms.NoAlarm {
		t.Errorf("an alarm at 13.5 psi of 16: %s", h.Alarm)
	}
	if h := read(15); h.Alarm != terms.StopEngine || h.OverLimit || !strings.Contains(h.AlarmText, "15.0 psi") {
		t.Errorf("at 15 psi: %q", h.Alarm)
	}
	if h := b.event(h.ID, trace.EngineOff); h.Alarm != terms.NoAlarm {
		t.Errorf("it is off: %s", h.Alarm)
	}
	if h := read(17); h.Alarm != terms.OverLimit {
		t.Errorf("over the limit: %q", h.Alarm)
	}
}

// Pieces of the kit go on a rig: those that suit come first, each is a joint to
// suspect, and none is pumped past what it is good for.
func TestARigOfStackedPieces(t *testing.T) {
	b := open(t)
	for _, f := range []NewFitting{{Kind: terms.AdapterKit, Name: "Grey reducer", Fits: "between two tapers", Rating: "150 kPa"}, {Kind: terms.AdapterKit, Name: "Neck bladder, 40 mm", Families: []terms.Fitting{terms.Bladder}, Width: "40 mm", OwnAir: true, Rating: "90 kPa"}, {Kind: terms.AdapterKit, Name: "Blue bayonet", Families: []terms.Fitting{terms.Bayonet}, Make: terms.Shallow, Rating: "200 kPa"}} {
		f.Write = b.write()
		b.Fitting(f)
	}
	j := b.job("16")
	if p := j.Rig.Pieces; len(p) != 3 || p[0].Name != "Blue bayonet" || !p[0].Suits || p[1].Suits || !strings.Contains(j.Rig.Ports[0], "bayonet") {
		t.Fatalf("%+v", j.Rig)
	}
	id := map[string]string{}
	for _, p := range j.Rig.Pieces {
		id[p.Name] = p.ID
	}
	sized := must[JobView](b)(b.sheet(b.Jobs.RigFitted(b.ctx, j.ID, jobs.RigFitted{Write: b.write(), Neck: "40 mm, smooth"})))
	if p := sized.Rig.Pieces[0]; p.Name != "Neck bladder, 40 mm" || !p.Suits || p.Why != "the size for 40 mm" {
		t.Errorf("for a neck of 40 mm: %+v", sized.Rig.Pieces)
	}
	_, err := b.sheet(b.Jobs.RigFitted(b.ctx, j.ID, jobs.RigFitted{Write: b.write(), Neck: "4000"}))
	refused(t, "a neck of 4 m", err, desk.BadInput, "neck", "wider than any neck")
	_, err = b.sheet(b.Jobs.RigFitted(b.ctx, j.ID, jobs.RigFitted{Write: b.write(), Pieces: []string{"none"}}))
	refused(t, "no such piece", err, desk.BadInput, "pieces")
	_, err = b.sheet(b.Jobs.RigFitted(b.ctx, b.job("1.1").ID, jobs.RigFitted{Write: b.write()}))
	refused(t, "nothing", err, desk.BadInput, "text")
	j = must[JobView](b)(b.sheet(b.Jobs.RigFitted(b.ctx, j.ID, jobs.RigFitted{Write: b.write(), Pieces: []string{id["Grey reducer"], id["Neck bladder, 40 mm"]}, Text: "wetted"})))
	if j.Rig.Fitted != "Grey reducer + Neck bladder, 40 mm + wetted" {
		t.Errorf("fitted: %q", j.Rig.Fitted)
	}
	says := strings.Join(j.Rig.Says, " ")
	for _, w := range []string{"2 joints", "rated to 90.0 kPa"} {
		if !strings.Contains(says, w) {
			t.Errorf("%q is not in %q", w, says)
		}
	}
	if p := j.Plan; p.Target.Pa > 90e3 || p.Weakest.Of != "Neck bladder, 40 mm" {
		t.Errorf("through a bladder good for 90 kPa: %s, weakest %s", p.Target.Says, p.Weakest.Of)
	}
	// Its bladder has an order of its own: up before the first stroke, down after the last.
	up, down := "up-"+id["Neck bladder, 40 mm"], "down-"+id["Neck bladder, 40 mm"]
	for item, want := range map[string]struct {
		stage terms.Stage
		must  bool
	}{up: {"rig", false}, down: {"put-right", true}} {
		found := false
		for _, st := range j.Stages {
			for i, x := range st.Ticks {
				if x.ID == item {
					found = st.ID == want.stage && x.Must == want.must && (item == up || i == 0)
				}
			}
		}
		if !found {
			t.Errorf("%s does not stand at %s", item, want.stage)
		}
	}
	_, err = b.Start(j.ID, StartHold{Write: b.write(), Purpose: terms.Test})
	refused(t, "pumped beside a slack bladder", err, desk.Conflict, "", "Neck bladder, 40 mm comes first")
	must[JobView](b)(b.Tick(j.ID, Tick{Write: b.write(), Item: up, On: true}))
	h := must[HoldView](b)(b.Start(j.ID, StartHold{Write: b.write(), Purpose: terms.Test}))
	b.event(h.ID, trace.Release)
	_, err = b.sheet(b.Jobs.End(b.ctx, j.ID, CloseJob{Write: b.write()}))
	refused(t, "closed with a bladder up", err, desk.Conflict, "", "Neck bladder, 40 mm deflated")
	joints := 0
	for _, s := range j.Suspects {
		if strings.HasPrefix(s.Title, "Joint of ") {
			joints++
			if j = must[JobView](b)(b.Look(j.ID, Look{Write: b.write(), Part: s.ID, Seen: true, Class: "fault"})); len(j.Rig.SeenAt) != joints {
				t.Errorf("seen at the rig: %v", j.Rig.SeenAt)
			}
		}
	}
	j = must[JobView](b)(b.sheet(b.Jobs.RigFitted(b.ctx, j.ID, jobs.RigFitted{Write: b.write()})))
	if j.Rig.Fitted != "" || j.Plan.Target.Pa < 100e3 {
		t.Errorf("taken off again: %q, %s", j.Rig.Fitted, j.Plan.Target.Says)
	}
	if joints != 2 {
		t.Errorf("%d joints are suspected", joints)
	}
}
