package shop

import (
	"testing"
	"time"

	"idlehiss/core/terms"
	"idlehiss/core/trace"
	"idlehiss/desk"
	"idlehiss/jobs"
	"idlehiss/kit"
)

// A check is due by days or by holds, whichever comes first, and stands on the bench until it is done. Days are the shop's own,
// over a change of its clocks.
func TestChecksAreDueByDaysOrHolds(t *testing.T) {
	b := open(t)
	b.clock.set(time.Date(2026, 3, 20, 8, 0, 0, 0, time.Local)) // the clocks change nine days later
	j := b.job("16")
	gauge := j.Plan.Gauge.ID
	every := kit.NewNote{Kind: terms.CheckDue, Of: terms.ZeroCheck, Days: 30, Uses: 2}
	note := func(n kit.NewNote) kit.ItemView {
		t.Helper()
		n.Write = b.write()
		for _, it := range must[kit.ListView](b)(b.Note(gauge, n)).Items {
			if it.ID == gauge {
				return it
			}
		}
		return kit.ItemView{}
	}
	onBench := func() int {
		t.Helper()
		return len(must[BenchView](b)(b.Bench(b.ctx)).Kit)
	}
	note(kit.NewNote{Kind: terms.ZeroCheck, Shows: "0"})
	if it := note(every); len(it.Checks) != 1 || it.Checks[0].Due || onBench() != 0 {
		t.Errorf("%+v", it.Checks)
	}
	for range 2 {
		on := b.job("16")
		b.event(must[HoldView](b)(b.Start(on.ID, StartHold{Write: b.write(), Purpose: terms.Test})).ID, trace.Release)
	}
	if it := note(kit.NewNote{Kind: terms.Service, Text: "New hose."}); it.Uses != 2 || !it.Checks[0].Due || onBench() != 1 {
		t.Errorf("after two holds: %d, %+v", it.Uses, it.Checks)
	}
	if it := note(kit.NewNote{Kind: terms.ZeroCheck, Shows: "0"}); it.Checks[0].Due || onBench() != 0 {
		t.Errorf("after its check: %+v", it.Checks)
	}
	b.clock.set(time.Date(2026, 4, 19, 7, 59, 0, 0, time.Local))
	if onBench() != 0 {
		t.Error("due a minute too early")
	}
	b.clock.set(time.Date(2026, 4, 19, 8, 30, 0, 0, time.Local))
	if onBench() != 1 {
		t.Error("not due by its days")
	}
	every.Days, every.Uses = 0, 0
	if it := note(every); len(it.Checks) != 0 {
		t.Errorf("none is due any more: %+v", it.Checks)
	}
	every.Write, every.Of = b.write(), terms.Lent
	_, err := b.Note(gauge, every)
	refused(t, "a loan again and again", err, desk.BadInput, "of")
}

// An adapter whose joint leaked in three jobs is a suspect by name, likelier on the next rig; a look that is taken back does not
// count.
func TestAnAdapterThatLeaksAgainIsASuspect(t *testing.T) {
	b := open(t)
	a := b.item(b.Fitting(NewFitting{Write: b.write(), Kind: terms.AdapterKit, Name: "Blue bayonet", Families: []terms.Fitting{terms.Bayonet}}), "Blue bayonet")
	share := func(j JobView) float64 {
		for _, s := range j.Suspects {
			if s.ID == "kit-"+a.ID {
				return s.Share
			}
		}
		t.Fatal("its joint is no suspect at all")
		return 0
	}
	on := func() JobView {
		j := b.job("16")
		must[desk.Receipt](b)(b.Jobs.RigFitted(b.ctx, j.ID, jobs.RigFitted{Write: b.write(), Pieces: []string{a.ID}}))
		return must[JobView](b)(b.Job(j.ID))
	}
	var first, last float64
	for n := range 4 {
		j := on()
		if last = share(j); n == 0 {
			first = last
		}
		look := Look{Write: b.write(), Part: "kit-" + a.ID, Method: "soap", Seen: true}
		must[desk.Receipt](b)(b.Jobs.Look(b.ctx, j.ID, look))
		if n == 3 {
			look.Write, look.Class = b.write(), terms.TakenBack
			must[desk.Receipt](b)(b.Jobs.Look(b.ctx, j.ID, look))
		}
		it := b.item(must[kit.ListView](b)(b.Kit.List(b.ctx)), "Blue bayonet")
		if want := min(n+1, 3); it.Leaked != want || it.Suspect != (want == 3) {
			t.Errorf("after %d jobs it leaked in %d, suspect %t", n+1, it.Leaked, it.Suspect)
		}
	}
	if last < 1.5*first {
		t.Errorf("its share is %.3f after three leaks and was %.3f before", last, first)
	}
	for _, p := range must[JobView](b)(b.Job(on().ID)).Rig.Pieces {
		if p.ID == a.ID && (!p.Doubt || p.Leaked != 3) {
			t.Errorf("the rig does not say so: %+v", p)
		}
	}
}
