package shop

import (
	"fmt"
	"strings"
	"testing"
	"time"

	"idlehiss/core/steps"
	"idlehiss/core/terms"
	"idlehiss/desk"
	"idlehiss/jobs"
	"idlehiss/kit"
	"idlehiss/logbook"
	"idlehiss/record"
	"idlehiss/trail"
)

// A train is one machine and five: what its round says of each wagon stands at the wagon, by name or, for a test from before it
// was a set, by place. A wagon is in one set at a time.
func TestATrainIsASetOfWagons(t *testing.T) {
	b := open(t)
	machine := func(name string) MachineView {
		t.Helper()
		return must[MachineView](b)(b.Record.Machine(b.ctx, name))
	}
	round := func(j JobView, bad string) {
		t.Helper()
		b.tickAll(j, true)
		step := b.step(must[JobView](b)(b.Job(j.ID)), "still-on")
		var rows []steps.EntryRow
		for _, r := range step.Ask.Rows {
			rows = append(rows, steps.EntryRow{ID: r.ID, Cells: map[string]string{"still": map[bool]string{true: "no", false: "yes"}[r.Title == bad]}})
		}
		must[JobView](b)(b.Found(j.ID, "still-on", Found{Write: b.write(), Rows: rows}))
	}
	round(b.train("Wagon 1", "Wagon 2", "Wagon 3"), "Wagon 2")
	v := machine("Fruit train").Set
	if v.Thing != "wagon" || len(v.Members) != 0 || fmt.Sprint(v.Proposed) != "[Fruit train, Wagon 1 Fruit train, Wagon 2 Fruit train, Wagon 3]" {
		t.Fatalf("before it is a set: %+v", v)
	}
	set := record.NewSet{Write: b.write(), Whole: "Fruit train", Members: append(v.Proposed, " ")}
	must[desk.Receipt](b)(b.Record.SetOf(b.ctx, set))
	must[desk.Receipt](b)(b.Record.SetOf(b.ctx, set)) // sent twice
	b.clock.set(b.clock.Now().AddDate(0, 1, 0))
	round(b.train(v.Proposed...), v.Proposed[2])
	v = machine("Fruit train").Set
	if len(v.Members) != 3 || len(v.Members[1].In) != 2 {
		t.Fatalf("%+v", v)
	}
	for n, want := range [][2]terms.Ring{{terms.RingWhole, terms.RingWhole}, {terms.RingWhole, terms.RingCut}, {terms.RingCut, terms.RingWhole}} {
		in := v.Members[n].In
		if in[0].Ring != want[0] || in[1].Ring != want[1] || (in[0].Ring == terms.RingCut) != (in[0].Says != "") {
			t.Errorf("wagon %d: %+v, want %v", n+1, in, want)
		}
	}
	one := machine("Fruit train, Wagon 3")
	if one.Set.Whole != "Fruit train" || len(one.Set.Members[0].In) != 2 || one.Set.Members[0].In[0].Ring != terms.RingCut {
		t.Errorf("%+v", one.Set)
	}
	b.begin(StartJob{Machine: "Hay train", Circuit: "train-brake", Things: []string{"a", "b"}})
	_, err := b.Record.SetOf(b.ctx, record.NewSet{Write: b.write(), Whole: "Hay train", Members: []string{"Fruit train, Wagon 3"}})
	refused(t, "in two sets", err, desk.BadInput, "members[0]", "another set")
	_, err = b.Record.SetOf(b.ctx, record.NewSet{Write: b.write(), Whole: "Hay train", Members: []string{"x", "x"}})
	refused(t, "twice", err, desk.BadInput, "members[1]")
	_, err = b.Record.SetOf(b.ctx, record.NewSet{Write: b.write(), Whole: "Fruit train, Wagon 1", Members: []string{"x"}})
	refused(t, "a set in a set", err, desk.Conflict, "")
	must[desk.Receipt](b)(b.Record.SetOf(b.ctx, record.NewSet{Write: b.write(), Whole: "Fruit train", Members: v.Proposed}))
	if n := len(machine("Fruit train").Set.Members); n != 0 {
		t.Errorf("%d left of a set that was dissolved", n)
	}
	must[desk.Receipt](b)(b.Record.SetOf(b.ctx, record.NewSet{Write: b.write(), Whole: "Hay train", Members: []string{"Fruit train, Wagon 3"}}))
	// A fleet grows one by one, and was never tested together.
	for _, name := range []string{"Sprayer 1", "Sprayer 2", "Sprayer 1"} {
		b.begin(StartJob{Machine: name, Complaint: "routine", Mark: "16"})
		must[desk.Receipt](b)(b.Record.SetOf(b.ctx, record.NewSet{Write: b.write(), Whole: "Sprayers", Members: []string{name}, Add: true}))
	}
	if of := machine("Sprayers").Set; len(of.Members) != 2 || of.Members[1].Name != "Sprayer 2" || of.Members[1].At == nil || of.Thing != "" {
		t.Errorf("a fleet: %+v", of)
	}
}

// What is put in is noted by anyone, also on a machine whose job is closed; it comes to so much a month.
func TestWhatIsToppedUpComesToSoMuchAMonth(t *testing.T) {
	b := open(t)
	b.clock.set(time.Date(2026, 3, 20, 8, 0, 0, 0, time.UTC))
	j := b.job("16")
	must[desk.Receipt](b)(b.Jobs.End(b.ctx, j.ID, CloseJob{Write: b.write(), Abandon: true}))
	for n, l := range []string{"1 L", "300 mL", "0.4 L"} {
		w := b.write()
		w.By = []string{"Tomas", "Ilse", ""}[n]
		must[desk.Receipt](b)(b.Record.TopUp(b.ctx, record.NewTopUp{Write: w, Machine: j.Machine, Added: l, What: "water"}))
		b.clock.set(b.clock.Now().AddDate(0, 0, 10))
	}
	v := must[MachineView](b)(b.Record.Machine(b.ctx, j.Machine)).TopUps
	if len(v.All) != 3 || v.All[0].Says != "Topped up 0.4 L of water." || v.All[1].By != "Ilse" || v.Says != "0.70 L in the 20 days after the first: 1.1 L a month." {
		t.Errorf("%+v", v)
	}
	for added, field := range map[string]string{"": "added", "-1 L": "added", "2 m3": "added", "5 kPa": "added"} {
		_, err := b.Record.TopUp(b.ctx, record.NewTopUp{Write: b.write(), Machine: j.Machine, Added: added})
		refused(t, added, err, desk.BadInput, field)
	}
	_, err := b.Record.TopUp(b.ctx, record.NewTopUp{Write: b.write(), Machine: "no such", Added: "1 L"})
	refused(t, "an unknown machine", err, desk.Missing, "")
}

// At the end of a shift: a job in other hands is found by them, a question waits until it is answered, a note stands until it is
// taken off, and the calendar has what is due for whoever has its link, and for nobody else.
func TestAShiftIsHandedOver(t *testing.T) {
	b := open(t)
	j, other := b.job("16"), b.begin(StartJob{Machine: "Cider press", Complaint: "weeps", Mark: "16"})
	hold := must[HoldView](b)(b.Start(j.ID, StartHold{Write: b.write(), Purpose: terms.Test}))
	must[desk.Receipt](b)(b.Record.Pass(b.ctx, j.ID, record.Passed{Write: b.write(), To: "Ilse", Note: "Look at the seam at 7."}))
	q := b.write()
	must[desk.Receipt](b)(b.Record.Ask(b.ctx, other.ID, record.Question{Write: q, To: "Upper Valley", Text: "is this weep worth a new core?"}))
	must[desk.Receipt](b)(b.Jobs.Remind(b.ctx, other.ID, jobs.NewReminder{Write: b.write(), LookAgain: trail.LookAgain{Text: "the seam", Minutes: 90, For: "Ilse"}}))
	must[desk.Receipt](b)(b.Record.SetNote(b.ctx, record.NewShiftNote{Write: b.write(), Text: "The drain is open."}))
	piece := b.item(b.Fitting(NewFitting{Write: b.write(), Kind: terms.AdapterKit, Name: "Blue bayonet"}), "Blue bayonet")
	must[kit.ListView](b)(b.Note(piece.ID, kit.NewNote{Write: b.write(), Kind: terms.Lent, Text: "Tomas", Due: "2026-03-04"}))

	v := must[record.HandoverView](b)(b.Record.Handover(b.ctx))
	if len(v.Under) != 1 || v.Under[0].JobID != j.ID || v.Under[0].Hands != "Ilse" || v.Under[0].Left {
		t.Errorf("under pressure: %+v", v.Under)
	}
	if len(v.Waits) != 1 || v.Waits[0].JobID != other.ID || v.Waits[0].Hands != "Maren" || len(v.Promised) != 1 || len(v.Questions) != 1 || len(v.Kit) != 1 || v.Note.By != "Maren" || fmt.Sprint(v.People) != "[Ilse Maren]" {
		t.Errorf("%+v", v)
	}
	if bench := must[BenchView](b)(b.Bench(b.ctx)); bench.Note.Text != "The drain is open." {
		t.Errorf("the bench has the note %+v", bench.Note)
	}
	for words, want := range map[string]int{"in the hands of ilse": 1, "by Maren": 1, "passed to nobody": 0, "due": 1} {
		if rows := must[BookView](b)(b.Book(b.ctx, words, "")).Rows; len(rows) != want {
			t.Errorf("%q finds %d, want %d", words, len(rows), want)
		}
	}
	if out := must[BookView](b)(b.Book(b.ctx, "lent out", "")); len(out.Kit) != 1 || len(out.Rows) != 0 {
		t.Errorf("lent out: %+v", out)
	}

	must[desk.Receipt](b)(b.Record.Answer(b.ctx, other.ID, record.Answered{Write: b.write(), Question: q.ID, Text: "A new one, yes."}))
	_, err := b.Record.Answer(b.ctx, j.ID, record.Answered{Write: b.write(), Question: q.ID, Text: "No."})
	refused(t, "an answer on another sheet", err, desk.BadInput, "question")
	b.event(hold.ID, "release")
	must[desk.Receipt](b)(b.Record.SetNote(b.ctx, record.NewShiftNote{Write: b.write()}))
	v = must[record.HandoverView](b)(b.Record.Handover(b.ctx))
	if len(v.Under) != 0 || len(v.Questions) != 0 || v.Note.Text != "" || len(v.Waits) != 2 {
		t.Errorf("later: %+v", v)
	}

	read := func(path string) (string, error) {
		var ics strings.Builder
		err := b.Record.Feed(b.ctx, strings.TrimSuffix(strings.TrimPrefix(path, "/calendar/"), ".ics"), &ics)
		return ics.String(), err
	}
	_, err = read("")
	refused(t, "before there is a link", err, desk.Missing, "")
	first := must[record.FeedLink](b)(b.Record.NewFeed(b.ctx, b.write()))
	ics, err := read(first.Path)
	for _, line := range []string{"SUMMARY:Ilse: Cider press: the seam", "DTSTART:20260302T093", "SUMMARY:Blue bayonet is due back from Tomas", "DTSTART;VALUE=DATE:20260304"} {
		if err != nil || !strings.Contains(ics, line) {
			t.Errorf("no %q in %v\n%s", line, err, ics)
		}
	}
	second := must[record.FeedLink](b)(b.Record.NewFeed(b.ctx, b.write()))
	if len(second.Path) < 32 || second == first {
		t.Errorf("%v after %v", second, first)
	}
	_, err = read(first.Path)
	refused(t, "the old link", err, desk.Missing, "")
	if all := must[logbook.Facts](b)(b.book.Facts(b.ctx, other.ID)); len(all.On(terms.AboutAnswer)) != 1 {
		t.Errorf("%+v", all)
	}
}

// The last look of the day is due before the shop closes, by its own clock, also where that changes in the night.
func TestALookBeforeClosing(t *testing.T) {
	b := open(t)
	last := func() string {
		t.Helper()
		all := must[[]LookOffer](b)(b.LookOffers(b.ctx))
		return all[len(all)-1].On
	}
	if last() != "" {
		t.Error("offered though nobody said when it closes")
	}
	must[desk.Receipt](b)(b.SetHead(b.ctx, SetHead{Write: b.write(), Head: Head{Closes: "17:00"}}))
	for at, want := range map[time.Time]string{
		time.Date(2026, 3, 28, 16, 29, 0, 0, time.Local):  "2026-03-28T16:30",
		time.Date(2026, 3, 28, 16, 31, 0, 0, time.Local):  "2026-03-29T16:30",
		time.Date(2026, 12, 31, 20, 0, 0, 0, time.Local):  "2027-01-01T16:30",
		time.Date(2026, 10, 24, 23, 59, 0, 0, time.Local): "2026-10-25T16:30",
	} {
		b.clock.set(at)
		if got := last(); got != want {
			t.Errorf("at %v it is %q, want %q", at, got, want)
		}
	}
	_, err := b.SetHead(b.ctx, SetHead{Write: b.write(), Head: Head{Closes: "5 pm"}})
	refused(t, "no time of day", err, desk.BadInput, "closes", "17:00")
}
