package shop

import (
	"math"
	"testing"
	"time"

	"idlehiss/core/judge"
	"idlehiss/core/terms"
	"idlehiss/desk"
	"idlehiss/holds"
	"idlehiss/jobs"
)

// A reading is typed in any unit, or added from a slip of paper with its time; undone, it is counted again.
// What is next to be read follows from what counts.
func TestReadingsAreTypedLateAndCountedAgain(t *testing.T) {
	b := open(t)
	j := b.job("16")
	h := b.held(j.ID)
	shut := *h.IsolatedS
	read := func(in TypedReading) (HoldView, error) {
		in.Write, in.How = b.write(), "read"
		return b.Reading(h.ID, in)
	}
	b.clock.set(b.clock.Now().Add(5 * time.Minute))
	h = must[HoldView](b)(read(TypedReading{Text: "1.05 bar"}))
	if h.Value.Text != "15.23" && h.Value.Text != "15.25" {
		t.Errorf("1.05 bar shows as %s %s", h.Value.Text, h.Unit)
	}
	last := h.Points[len(h.Points)-1]
	if h.ReadNext == nil || h.ReadNext.AtS <= last.AtS {
		t.Errorf("read at %.0f s, next %+v", last.AtS, h.ReadNext)
	}
	h = must[HoldView](b)(read(TypedReading{Text: "15.5", Into: "2:30"}))
	late := h.Points[len(h.Points)-2]
	if math.Abs(late.AtS-shut-150) > 1e-3 || math.Abs(late.Pa-15.5*6894.757) > 1 {
		t.Errorf("the slip of paper stands at %.1f s with %.0f Pa, want 150 s after the supply was shut", late.AtS-shut, late.Pa)
	}
	for name, c := range map[string]struct {
		in           TypedReading
		field, wants string
	}{
		"neither":        {TypedReading{}, "value", "once"},
		"both":           {TypedReading{Text: "15", Value: new(15.0)}, "value", "once"},
		"no number":      {TypedReading{Text: "sixteen"}, "text", "not a number"},
		"off the face":   {TypedReading{Text: "9 bar"}, "value", "off the face"},
		"still to come":  {TypedReading{Text: "15", Into: "9:00"}, "into", "still to come"},
		"a time of what": {TypedReading{Text: "15", Into: "noon"}, "into", ""},
	} {
		_, err := read(c.in)
		refused(t, name, err, desk.BadInput, c.field, c.wants)
	}
	n := len(h.Points)
	undo := func(back bool) HoldView {
		return must[HoldView](b)(b.hold(b.Holds.Undo(b.ctx, h.ID, holds.Undo{Write: b.write(), Back: back})))
	}
	before := *must[HoldView](b)(b.Hold(h.ID)).Report
	if h = undo(false); h.Points[n-1].Struck == "" {
		t.Error("the last reading is not ignored")
	}
	if h = undo(true); h.Points[n-1].Struck != "" || h.Report.Call != before.Call || *h.Report.RateKPaPerMin != *before.RateKPaPerMin {
		t.Errorf("counted again it is %+v, judged %s %+v; before %s %+v", h.Points[n-1], h.Report.Call, h.Report.RateKPaPerMin, before.Call, before.RateKPaPerMin)
	}
	if h.Report.Call != judge.NotYet {
		return
	}
	// A phone that is left shows the same after a restart.
	was := *h.ReadNext
	b.shut()
	b.open()
	if again := must[HoldView](b)(b.Hold(h.ID)); again.ReadNext == nil || again.ReadNext.AtS != was.AtS {
		t.Errorf("after a restart it is read next at %+v, before at %+v", again.ReadNext, was)
	}
}

// A gauge, a pump and an adapter that are on another job's hold are not proposed; chosen all the same, the plan says on which
// machine they are. A hold without a reading comes first on the bench, by its machine.
func TestKitOnAnotherHoldIsSaidAndAnUnreadHoldIsFirst(t *testing.T) {
	b := open(t)
	first := b.job("16")
	b.Fitting(NewFitting{Write: b.write(), Kind: terms.AdapterKit, Name: "Blue bayonet"})
	piece := b.shelf().Pieces[0]
	must[JobView](b)(b.sheet(b.Jobs.RigFitted(b.ctx, first.ID, jobs.RigFitted{Write: b.write(), Pieces: []string{piece.ID}})))
	h := b.held(first.ID)
	second := must[JobView](b)(b.Begin(StartJob{Write: b.write(), Machine: "Hedge saw carrier", Complaint: "overheats", Mark: "16"}))
	if second.Plan.Gauge.ID == h.Gauge.ID || len(second.Plan.Elsewhere) != 1 || second.Plan.Elsewhere[0].Machine != first.Machine {
		t.Errorf("proposed: %s; on the hold %s; said %+v", second.Plan.Gauge.ID, h.Gauge.ID, second.Plan.Elsewhere)
	}
	second = must[JobView](b)(b.SetPlan(second.ID, Plan{Write: b.write(), School: "exactly", Gauge: h.Gauge.ID, Ring: h.Gauge.Read, Allowance: "house"}))
	if e := second.Plan.Elsewhere; len(e) != 2 || e[0].Name != h.Gauge.Name || e[0].Machine != first.Machine {
		t.Errorf("chosen all the same: %+v", e)
	}
	wants := func() (out []string) {
		for _, n := range must[BenchView](b)(b.Bench(b.ctx)).Next {
			if n.JobID == first.ID && n.Due {
				out = append(out, n.Machine)
			}
		}
		return out
	}
	b.clock.set(b.clock.Now().Add(time.Hour))
	if next := must[BenchView](b)(b.Bench(b.ctx)).Next; len(next) == 0 || next[0].JobID != first.ID || !next[0].Due || next[0].Machine != first.Machine || len(wants()) != 1 {
		t.Errorf("not read for an hour, and first comes %+v", next)
	}
	if b.read(h.ID, 15.5); len(wants()) != 0 {
		t.Errorf("read just now, and wanted again: %v", wants())
	}
	inUse := func() (on string) {
		for _, p := range must[JobView](b)(b.Job(second.ID)).Rig.Pieces {
			if p.ID == piece.ID {
				on = p.Busy
			}
		}
		return on
	}
	if on := inUse(); on != first.Machine {
		t.Errorf("%s is under pressure on %s, said is %q", piece.Name, first.Machine, on)
	}
	b.event(h.ID, "release")
	if got := must[JobView](b)(b.Job(second.ID)); len(got.Plan.Elsewhere) != 0 || inUse() != "" {
		t.Errorf("let down, and still said: %+v %q", got.Plan.Elsewhere, inUse())
	}
}
