package shop

import (
	"fmt"
	"strings"
	"testing"
	"time"

	"idlehiss/core/runsheet"
	"idlehiss/core/terms"
	"idlehiss/core/trace"
	"idlehiss/desk"
	"idlehiss/door"
	"idlehiss/holds"
	"idlehiss/kit"
)

func (b *bench) item(list kit.ListView, name string) kit.ItemView {
	b.Helper()
	for _, it := range list.Items {
		if it.Name == name {
			return it
		}
	}
	b.Fatalf("%s is not in the kit", name)
	return kit.ItemView{}
}

func TestKitIsLentCheckedAndRetired(t *testing.T) {
	b := open(t)
	list := b.Fitting(NewFitting{Write: b.write(), Kind: terms.AdapterKit, Name: "Blue bayonet", Families: []terms.Fitting{terms.Bayonet}, Rating: "2 bar"})
	a := b.item(list, "Blue bayonet")
	if got := strings.Join(a.Says, "; "); got != "bayonet; at most 200 kPa" {
		t.Errorf("it says %q", got)
	}
	lend := kit.NewNote{Write: b.write(), Kind: "lent", Text: "Tomas", Due: "2026-03-05"}
	must[kit.ListView](b)(b.Note(a.ID, lend))
	list = must[kit.ListView](b)(b.Note(a.ID, lend)) // sent twice, noted once
	if a = b.item(list, "Blue bayonet"); a.Loan == nil || a.Loan.To != "Tomas" || a.Loan.Overdue || len(a.Notes) != 1 {
		t.Errorf("lent: %+v", a)
	}
	var ics strings.Builder
	if err := b.Kit.Loans(b.ctx, &ics); err != nil {
		t.Fatal(err)
	}
	for _, line := range []string{"BEGIN:VCALENDAR", "SUMMARY:Blue bayonet is due back from Tomas", "DTSTART;VALUE=DATE:20260305", "TRIGGER:-P1D", "UID:loan-" + a.ID[:5]} {
		if !strings.Contains(ics.String(), line) {
			t.Errorf("no %q in\n%s", line, ics.String())
		}
	}
	b.clock.set(b.clock.Now().AddDate(0, 0, 5))
	if list = must[kit.ListView](b)(b.Kit.List(b.ctx)); !b.item(list, "Blue bayonet").Loan.Overdue {
		t.Error("not overdue a day after it was due")
	}
	_, err := b.Note(a.ID, kit.NewNote{Write: b.write(), Kind: "lent", Text: "Ilse", Due: "2026-03-09"})
	refused(t, "lent twice", err, desk.Conflict, "", "with Tomas", "note its return first")
	list = must[kit.ListView](b)(b.Note(a.ID, kit.NewNote{Write: b.write(), Kind: "back", Text: "Ring missing."}))
	if a = b.item(list, "Blue bayonet"); a.Loan != nil || a.Notes[0].Sentence != "Returned from Tomas. Ring missing." {
		t.Errorf("back: %+v", a)
	}

	tester := b.item(list, "Hand tester, bar and psi")
	list = must[kit.ListView](b)(b.Note(tester.ID, kit.NewNote{Write: b.write(), Kind: "zero check", Shows: "1.5 psi"}))
	if n := b.item(list, tester.Name).Notes[0]; !strings.Contains(n.Sentence, "Rests at 1.50 psi") || !strings.Contains(n.Sentence, "another gauge") {
		t.Errorf("%+v", n)
	}
	list = must[kit.ListView](b)(b.Note(tester.ID, kit.NewNote{Write: b.write(), Kind: "compared", With: "the good one", Beside: []kit.BesideText{{Read: "10 psi", True: "68 kPa"}, {Read: "20 psi", True: "1.37 bar"}}}))
	if n := b.item(list, tester.Name).Notes[0]; !strings.HasPrefix(n.Sentence, "Compared with the good one: ") || !strings.Contains(n.Sentence, "within its class") {
		t.Errorf("%+v", n)
	}
	_, err = b.Note(a.ID, kit.NewNote{Write: b.write(), Kind: "zero check", Shows: "0"})
	refused(t, "an adapter at nought", err, desk.BadInput, "kind", "only a gauge")
	_, err = b.Note("nothing", kit.NewNote{Write: b.write(), Kind: "service", Text: "x"})
	refused(t, "a note on nothing", err, desk.Missing, "")
	// A job that was planned with it stays as it was.
	j := b.job("16")
	j = must[JobView](b)(b.SetPlan(j.ID, Plan{Write: b.write(), School: "exactly", Gauge: tester.ID, Pump: j.Plan.Pump.ID, Allowance: "house"}))
	must[kit.ListView](b)(b.Note(tester.ID, kit.NewNote{Write: b.write(), Kind: "retired", Text: "Dropped."}))
	for _, p := range b.shelf().PumpsInUse() {
		if p.ID != j.Plan.Pump.ID {
			must[kit.ListView](b)(b.Note(p.ID, kit.NewNote{Write: b.write(), Kind: "retired", Text: "Lost."}))
		}
	}
	worn := kit.NewNote{Write: b.write(), Kind: "retired", Text: "Worn."}
	_, err = b.Note(j.Plan.Pump.ID, worn)
	refused(t, "the last pump", err, desk.Conflict, "", "last pump in use", "add another first")
	must[kit.ListView](b)(b.AddPump(kit.NewPump{Write: b.write(), Name: "new pump", Stroke: "25 cm³"}))
	must[kit.ListView](b)(b.Note(j.Plan.Pump.ID, worn))
	if again := must[JobView](b)(b.Job(j.ID)); again.Plan.Gauge.ID != tester.ID || again.Plan.Pump.ID != j.Plan.Pump.ID {
		t.Errorf("it is planned with %s and %s now", again.Plan.Gauge.Name, again.Plan.Pump.Name)
	}
	if fresh := b.begin(StartJob{Machine: "Cider press", Mark: "16"}); fresh.Plan.Pump.Name != "new pump" || fresh.Plan.Gauge.ID == tester.ID {
		t.Errorf("a new job is planned with %s and %s", fresh.Plan.Pump.Name, fresh.Plan.Gauge.Name)
	}
	for _, g := range b.shelf().InUse() {
		if g.ID == tester.ID {
			t.Error("a retired gauge is still offered")
		}
	}
}

func TestAPumpIsKnownByWhatItDraws(t *testing.T) {
	b := open(t)
	for says, in := range map[string]kit.NewPump{
		"30.0 ± 0.6 cm³ a stroke": {Drawn: "600 mL", Strokes: "20"},
		"30.4 ± 0.8 cm³ a stroke": {Bore: "22 mm", Length: "80 mm"},
		"25.0 ± 0.5 cm³ a stroke": {Stroke: "25 cm³ ± 0.5 cm³"},
	} {
		in.Write, in.Name = b.write(), "pump "+says
		list := must[kit.ListView](b)(b.AddPump(in))
		if it := b.item(list, in.Name); it.Says[0] != says {
			t.Errorf("it says %q, not %q", it.Says[0], says)
		}
	}
	_, err := b.AddPump(kit.NewPump{Write: b.write(), Name: "x", Drawn: "600 mL"})
	refused(t, "strokes not counted", err, desk.BadInput, "strokes", "number of strokes")
	_, err = b.AddPump(kit.NewPump{Write: b.write(), Name: "x"})
	refused(t, "nothing known", err, desk.BadInput, "bore", "drawn off")
	_, err = b.AddPump(kit.NewPump{Write: b.write(), Name: "x", Stroke: "20 L"})
	refused(t, "a barrel", err, desk.BadInput, "stroke", "1 to 1000")
}

func TestPostedReadingsMakeAHold(t *testing.T) {
	b := open(t)
	face := runsheet.Gauge{Name: "logger", Kind: "digital", Rings: []runsheet.Ring{{Unit: "kPa", To: 250, Division: 0.1, Numbered: 50}}}
	g := must[kit.Gauge](b)(b.Kit.AddGauge(b.ctx, b.write(), NewGauge{Gauge: face, Posted: true}))
	post := func(values ...float64) holds.Posted {
		p := holds.Posted{Write: b.write()}
		for i, v := range values {
			at := b.clock.Now().Add(time.Duration(i-len(values)+1) * time.Second)
			p.Readings = append(p.Readings, holds.PostedReading{Value: v, At: &at})
		}
		return p
	}
	_, err := b.post(g.ID, post(101))
	refused(t, "before a hold", err, desk.Conflict, "", "no hold runs on logger")
	j := b.job("16")
	must[JobView](b)(b.SetPlan(j.ID, Plan{Write: b.write(), School: "exactly", Gauge: g.ID, Allowance: "typed", AllowanceText: "5 kPa/min"}))
	h := must[HoldView](b)(b.Start(j.ID, StartHold{Write: b.write(), Purpose: terms.Test}))
	b.clock.set(b.clock.Now().Add(3 * time.Second))
	must[desk.Receipt](b)(b.post(g.ID, post(0, 55, 110)))
	h = b.event(h.ID, trace.Isolate)

	b.clock.set(b.clock.Now().Add(90 * time.Second))
	var falling []float64
	for i := range 60 {
		falling = append(falling, 110-0.02*float64(i))
	}
	once := post(falling...)
	must[desk.Receipt](b)(b.post(g.ID, once))
	if ack := must[desk.Receipt](b)(b.post(g.ID, once)); ack.Seq != 63 {
		t.Errorf("sent twice it stands at %d", ack.Seq)
	}
	h = must[HoldView](b)(b.Hold(h.ID))
	if h.LastSeq != 63 || len(h.Points) != 63 || h.Report == nil || len(h.Calls) != 1 || h.Calls[0].Call != "tight" {
		t.Errorf("%d readings, %d points, calls %+v, %q", h.LastSeq, len(h.Points), h.Calls, h.Sentence)
	}
	late := post(100)
	early := b.clock.Now().Add(-time.Hour)
	late.Readings[0].At = &early
	_, err = b.post(g.ID, late)
	refused(t, "an hour late", err, desk.BadInput, "readings", "in order")
	wrong := post(100)
	wrong.Readings[0].Unit = "furlong"
	_, err = b.post(g.ID, wrong)
	refused(t, "in furlongs", err, desk.BadInput, "readings", "reading 1", "furlong")

	for _, odd := range []float64{1.7e308, -1.7e308, 1e7} {
		_, err = b.post(g.ID, post(odd))
		refused(t, fmt.Sprint(odd), err, desk.BadInput, "readings", "reading 1", "at most 1 GPa")
	}

	// A reading over the limit is an alarm whatever came of it.
	b.clock.set(b.clock.Now().Add(2 * time.Second))
	must[desk.Receipt](b)(b.post(g.ID, post(140)))
	if h = must[HoldView](b)(b.Hold(h.ID)); !h.OverLimit || !strings.Contains(h.Sentence, "Over the limit") {
		t.Errorf("over the limit: %v %q", h.OverLimit, h.Sentence)
	}
	// It is the gauge of one hold at a time.
	other := b.begin(StartJob{Machine: "Mist-blower", Mark: "16"})
	must[JobView](b)(b.SetPlan(other.ID, Plan{Write: b.write(), School: "exactly", Gauge: g.ID, Allowance: "house"}))
	_, err = b.Start(other.ID, StartHold{Write: b.write(), Purpose: terms.Test})
	refused(t, "a gauge on two holds", err, desk.Conflict, "", "Bin carrier 4", "another gauge")
}

// Two people at two ends, each at a needle of their own.
func TestAGaugeAtTheOtherEnd(t *testing.T) {
	b := open(t)
	needle := func(name string) kit.Gauge {
		return must[kit.Gauge](b)(b.Kit.AddGauge(b.ctx, b.write(), NewGauge{Gauge: runsheet.Gauge{Name: name, Kind: "needle", Rings: []runsheet.Ring{{Unit: "psi", To: 30, Division: 0.5, Numbered: 5}}}}))
	}
	near, far := needle("near"), needle("far")
	j := b.job("16")
	plan := Plan{Write: b.write(), School: "exactly", Gauge: near.ID, Far: near.ID, Allowance: "house"}
	_, err := b.SetPlan(j.ID, plan)
	refused(t, "one gauge at both ends", err, desk.BadInput, "far", "another gauge")
	plan.Write, plan.Far = b.write(), far.ID
	if v := must[JobView](b)(b.SetPlan(j.ID, plan)); v.Plan.Far == nil || v.Plan.Far.Name != "far" {
		t.Fatalf("the plan has %+v", v.Plan.Far)
	}
	h := b.held(j.ID)
	read := func(gauge holds.Side, value float64, ago time.Duration) HoldView {
		at := b.clock.Now().Add(-ago)
		w := b.write()
		w.At, w.Device = &at, map[holds.Side]string{holds.Near: "bench", holds.Far: "Ilse's phone"}[gauge]
		return must[HoldView](b)(b.Reading(h.ID, TypedReading{Write: w, Value: new(value), How: "mark", Gauge: gauge}))
	}
	b.clock.set(b.clock.Now().Add(time.Minute))
	read(1, 15.5, 0)
	// What was pressed ten seconds ago on the phone keeps its moment.
	h = read(2, 14, 10*time.Second)
	if h.Far == nil || h.Far.Value.Text != "14.00" || !strings.Contains(h.Far.Says, "below the near gauge") || len(h.Far.Marks) == 0 {
		t.Errorf("far: %+v", h.Far)
	}
	if got := h.NowS - h.Far.Points[0].AtS; got != 10 {
		t.Errorf("it was pressed 10 s ago and stands %v s back", got)
	}
	if len(h.Points) != 9 {
		t.Errorf("the near gauge has %d readings", len(h.Points))
	}
	for _, no := range []holds.Side{-1, 3, 50, 99} {
		_, err := b.Reading(h.ID, TypedReading{Write: b.write(), Value: new(14.0), How: "read", Gauge: no})
		refused(t, "a gauge that is none", err, desk.BadInput, "gauge", "no gauge")
	}
	tr, _, err := b.Holds.Export(b.ctx, h.ID)
	if err != nil || len(tr.Second) != 1 {
		t.Errorf("exported with %d readings of the far gauge, %v", len(tr.Second), err)
	}
	// It is judged by the near gauge alone, and all is there again after a restart.
	b.shut()
	b.open()
	if again := must[HoldView](b)(b.Hold(h.ID)); again.Far == nil || len(again.Far.Points) != 1 || len(again.Points) != 9 {
		t.Errorf("after a restart %+v", again.Far)
	}
}

// An address waits after a few wrong PINs, over a restart too; a network of the newer kind is one address.
func TestAnAddressWaitsAfterWrongPins(t *testing.T) {
	b := open(t)
	enter := func(from, pin string) error {
		_, _, err := b.Door.Enter(b.ctx, door.Entering{From: from, Pin: pin, Name: "phone"})
		return err
	}
	refused(t, "without a PIN", enter("10.0.0.9", "471138"), desk.Conflict, "", "no PIN yet")
	must[door.DoorView](b)(b.Door.SetPin(b.ctx, terms.Owner, door.PinWish{Pin: "471138"}))
	for i := range door.FreeTries {
		refused(t, "wrong", enter(fmt.Sprintf("2001:db8:1:2::%d", i+1), "000000"), desk.BadInput, "pin", "not the PIN of this shop")
	}
	refused(t, "after five wrong ones", enter("2001:db8:1:2:3::77", "471138"), desk.TooMany, "pin", "try again in")
	b.shut()
	b.open()
	refused(t, "after a restart", enter("2001:db8:1:2::1", "471138"), desk.TooMany, "pin", "try again in")
	if err := enter("2001:db8:1:3::1", "471138"); err != nil {
		t.Errorf("another address has to wait too: %v", err)
	}
}
