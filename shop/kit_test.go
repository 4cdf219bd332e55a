package shop

import (
	"fmt"
	"strings"
	"testing"
	"time"

	"idlehiss/core/runsheet"
	"idlehiss/core/trace"
)

func (b *bench) item(list KitList, name string) KitItem {
	b.Helper()
	for _, it := range list.Items {
		if it.Name == name {
			return it
		}
	}
	b.Fatalf("%s is not in the kit", name)
	return KitItem{}
}

func TestKitIsLentCheckedAndRetired(t *testing.T) {
	b := open(t)
	list := must[KitList](b)(b.AddFitting(b.ctx, NewFitting{Write: b.write(), Kind: "adapter", Name: "Blue bayonet", Fits: "bayonet necks", Rating: "2 bar"}))
	a := b.item(list, "Blue bayonet")
	if got := strings.Join(a.Says, "; "); got != "bayonet necks; not above 200 kPa" {
		t.Errorf("it says %q", got)
	}
	lend := NewNote{Write: b.write(), Kind: "lent", Text: "Tomas", Due: "2026-03-05"}
	must[KitList](b)(b.Note(b.ctx, a.ID, lend))
	list = must[KitList](b)(b.Note(b.ctx, a.ID, lend)) // sent twice, noted once
	if a = b.item(list, "Blue bayonet"); a.Loan == nil || a.Loan.To != "Tomas" || a.Loan.Overdue || len(a.Notes) != 1 {
		t.Errorf("lent: %+v", a)
	}
	var ics strings.Builder
	if err := b.Loans(b.ctx, &ics); err != nil {
		t.Fatal(err)
	}
	for _, line := range []string{"BEGIN:VCALENDAR", "SUMMARY:Blue bayonet is due back from Tomas", "DTSTART;VALUE=DATE:20260305", "TRIGGER:-P1D", "UID:loan-" + a.ID[:5]} {
		if !strings.Contains(ics.String(), line) {
			t.Errorf("no %q in\n%s", line, ics.String())
		}
	}
	b.clock.now = b.clock.now.AddDate(0, 0, 5)
	if list = must[KitList](b)(b.KitList(b.ctx)); !b.item(list, "Blue bayonet").Loan.Overdue {
		t.Error("not overdue a day after it was due")
	}
	_, err := b.Note(b.ctx, a.ID, NewNote{Write: b.write(), Kind: "lent", Text: "Ilse", Due: "2026-03-09"})
	refused(t, "lent twice", err, Conflict, "", "with Tomas", "take it back first")
	list = must[KitList](b)(b.Note(b.ctx, a.ID, NewNote{Write: b.write(), Kind: "back", Text: "Ring missing."}))
	if a = b.item(list, "Blue bayonet"); a.Loan != nil || a.Notes[0].Sentence != "Back from Tomas. Ring missing." {
		t.Errorf("back: %+v", a)
	}

	tester := b.item(list, "Hand tester, bar and psi")
	list = must[KitList](b)(b.Note(b.ctx, tester.ID, NewNote{Write: b.write(), Kind: "zero check", Shows: "1.5 psi"}))
	if n := b.item(list, tester.Name).Notes[0]; !strings.Contains(n.Sentence, "rests at 1.50 psi") || !strings.Contains(n.Sentence, "another gauge") {
		t.Errorf("%+v", n)
	}
	list = must[KitList](b)(b.Note(b.ctx, tester.ID, NewNote{Write: b.write(), Kind: "compared", With: "the good one", Beside: []BesideText{{"10 psi", "68 kPa"}, {"20 psi", "1.37 bar"}}}))
	if n := b.item(list, tester.Name).Notes[0]; !strings.HasPrefix(n.Sentence, "Beside the good one: up to") || !strings.Contains(n.Sentence, "within its class") {
		t.Errorf("%+v", n)
	}
	_, err = b.Note(b.ctx, a.ID, NewNote{Write: b.write(), Kind: "zero check", Shows: "0"})
	refused(t, "an adapter at nought", err, BadInput, "kind", "only a gauge")
	_, err = b.Note(b.ctx, "nothing", NewNote{Write: b.write(), Kind: "service", Text: "x"})
	refused(t, "a note on nothing", err, Missing, "")
	// A job that was planned with it stays as it was.
	j := b.job("16")
	j = must[JobView](b)(b.SetPlan(b.ctx, j.ID, Plan{Write: b.write(), School: "exactly", Gauge: tester.ID, Pump: j.Plan.Pump.ID, Allowance: "house"}))
	must[KitList](b)(b.Note(b.ctx, tester.ID, NewNote{Write: b.write(), Kind: "retired", Text: "Dropped."}))
	for _, p := range must[[]Pump](b)(b.Pumps(b.ctx)) {
		if p.ID != j.Plan.Pump.ID {
			must[KitList](b)(b.Note(b.ctx, p.ID, NewNote{Write: b.write(), Kind: "retired", Text: "Lost."}))
		}
	}
	worn := NewNote{Write: b.write(), Kind: "retired", Text: "Worn."}
	_, err = b.Note(b.ctx, j.Plan.Pump.ID, worn)
	refused(t, "the last pump", err, Conflict, "", "only pump in use", "add another first")
	must[KitList](b)(b.AddPump(b.ctx, NewPump{Write: b.write(), Name: "new pump", Stroke: "25 cm³"}))
	must[KitList](b)(b.Note(b.ctx, j.Plan.Pump.ID, worn))
	if again := must[JobView](b)(b.Job(b.ctx, j.ID)); again.Plan.Gauge.ID != tester.ID || again.Plan.Pump.ID != j.Plan.Pump.ID {
		t.Errorf("it is planned with %s and %s now", again.Plan.Gauge.Name, again.Plan.Pump.Name)
	}
	if fresh := b.begin(StartJob{Machine: "Cider press", Mark: "16"}); fresh.Plan.Pump.Name != "new pump" || fresh.Plan.Gauge.ID == tester.ID {
		t.Errorf("a new job is planned with %s and %s", fresh.Plan.Pump.Name, fresh.Plan.Gauge.Name)
	}
	for _, g := range must[[]KitGauge](b)(b.Gauges(b.ctx)) {
		if g.ID == tester.ID {
			t.Error("a retired gauge is still offered")
		}
	}
}

func TestAPumpIsKnownByWhatItDraws(t *testing.T) {
	b := open(t)
	for says, in := range map[string]NewPump{
		"30.0 ± 0.6 cm³ a stroke": {Drawn: "600 mL", Strokes: "20"},
		"30.4 ± 0.8 cm³ a stroke": {Bore: "22 mm", Length: "80 mm"},
		"25.0 ± 0.5 cm³ a stroke": {Stroke: "25 cm³ ± 0.5 cm³"},
	} {
		in.Write, in.Name = b.write(), "pump "+says
		list := must[KitList](b)(b.AddPump(b.ctx, in))
		if it := b.item(list, in.Name); it.Says[0] != says {
			t.Errorf("it says %q, not %q", it.Says[0], says)
		}
	}
	_, err := b.AddPump(b.ctx, NewPump{Write: b.write(), Name: "x", Drawn: "600 mL"})
	refused(t, "strokes not counted", err, BadInput, "strokes", "how many strokes")
	_, err = b.AddPump(b.ctx, NewPump{Write: b.write(), Name: "x"})
	refused(t, "nothing known", err, BadInput, "bore", "drawn off")
	_, err = b.AddPump(b.ctx, NewPump{Write: b.write(), Name: "x", Stroke: "20 L"})
	refused(t, "a barrel", err, BadInput, "stroke", "1 to 1000")
}

func TestPostedReadingsMakeAHold(t *testing.T) {
	b := open(t)
	face := runsheet.Gauge{Name: "logger", Kind: "digital", Rings: []runsheet.Ring{{Unit: "kPa", To: 250, Division: 0.1, Numbered: 50}}}
	g := must[KitGauge](b)(b.AddGauge(b.ctx, b.write(), NewGauge{Gauge: face, Posted: true}))
	post := func(values ...float64) Posted {
		p := Posted{Write: b.write()}
		for i, v := range values {
			at := b.clock.now.Add(time.Duration(i-len(values)+1) * time.Second)
			p.Readings = append(p.Readings, PostedReading{Value: v, At: &at})
		}
		return p
	}
	_, err := b.Post(b.ctx, g.ID, post(101))
	refused(t, "before a hold", err, Conflict, "", "no hold runs on logger")
	j := b.job("16")
	must[JobView](b)(b.SetPlan(b.ctx, j.ID, Plan{Write: b.write(), School: "exactly", Gauge: g.ID, Allowance: "typed", AllowanceText: "5 kPa/min"}))
	h := must[HoldView](b)(b.Start(b.ctx, j.ID, StartHold{Write: b.write(), Purpose: "test"}))
	b.clock.now = b.clock.now.Add(3 * time.Second)
	must[Ack](b)(b.Post(b.ctx, g.ID, post(0, 55, 110)))
	h = b.event(h.ID, trace.Isolate)

	b.clock.now = b.clock.now.Add(90 * time.Second)
	var falling []float64
	for i := range 60 {
		falling = append(falling, 110-0.02*float64(i))
	}
	once := post(falling...)
	must[Ack](b)(b.Post(b.ctx, g.ID, once))
	if ack := must[Ack](b)(b.Post(b.ctx, g.ID, once)); ack.Seq != 63 {
		t.Errorf("sent twice it stands at %d", ack.Seq)
	}
	h = must[HoldView](b)(b.Hold(b.ctx, h.ID))
	if h.LastSeq != 63 || len(h.Points) != 63 || h.Report == nil || len(h.Calls) != 1 || h.Calls[0].Call != "tight" {
		t.Errorf("%d readings, %d points, calls %+v, %q", h.LastSeq, len(h.Points), h.Calls, h.Sentence)
	}
	late := post(100)
	early := b.clock.now.Add(-time.Hour)
	late.Readings[0].At = &early
	_, err = b.Post(b.ctx, g.ID, late)
	refused(t, "an hour late", err, BadInput, "readings", "in order")
	wrong := post(100)
	wrong.Readings[0].Unit = "furlong"
	_, err = b.Post(b.ctx, g.ID, wrong)
	refused(t, "in furlongs", err, BadInput, "readings", "reading 1", "furlong")

	for _, odd := range []float64{1.7e308, -1.7e308, 1e7} {
		_, err = b.Post(b.ctx, g.ID, post(odd))
		refused(t, fmt.Sprint(odd), err, BadInput, "readings", "reading 1", "at most 1 GPa")
	}

	// A reading over the limit is an alarm whatever came of it.
	b.clock.now = b.clock.now.Add(2 * time.Second)
	must[Ack](b)(b.Post(b.ctx, g.ID, post(140)))
	if h = must[HoldView](b)(b.Hold(b.ctx, h.ID)); !h.OverLimit || !strings.Contains(h.Sentence, "Over the limit") {
		t.Errorf("over the limit: %v %q", h.OverLimit, h.Sentence)
	}
	// It is the gauge of one hold at a time.
	other := b.begin(StartJob{Machine: "Mist-blower", Mark: "16"})
	must[JobView](b)(b.SetPlan(b.ctx, other.ID, Plan{Write: b.write(), School: "exactly", Gauge: g.ID, Allowance: "house"}))
	_, err = b.Start(b.ctx, other.ID, StartHold{Write: b.write(), Purpose: "test"})
	refused(t, "a gauge on two holds", err, Conflict, "", "Bin carrier 4", "another gauge")
}

// Two people at two ends, each at a needle of their own.
func TestAGaugeAtTheOtherEnd(t *testing.T) {
	b := open(t)
	needle := func(name string) KitGauge {
		return must[KitGauge](b)(b.AddGauge(b.ctx, b.write(), NewGauge{Gauge: runsheet.Gauge{Name: name, Kind: "needle", Rings: []runsheet.Ring{{Unit: "psi", To: 30, Division: 0.5, Numbered: 5}}}}))
	}
	near, far := needle("near"), needle("far")
	j := b.job("16")
	plan := Plan{Write: b.write(), School: "exactly", Gauge: near.ID, Far: near.ID, Allowance: "house"}
	_, err := b.SetPlan(b.ctx, j.ID, plan)
	refused(t, "one gauge at both ends", err, BadInput, "far", "another one")
	plan.Write, plan.Far = b.write(), far.ID
	if v := must[JobView](b)(b.SetPlan(b.ctx, j.ID, plan)); v.Plan.Far == nil || v.Plan.Far.Name != "far" {
		t.Fatalf("the plan has %+v", v.Plan.Far)
	}
	h := b.held(j.ID)
	read := func(gauge int, value float64, ago time.Duration) HoldView {
		at := b.clock.now.Add(-ago)
		w := b.write()
		w.At, w.Device = &at, map[int]string{1: "bench", 2: "Ilse's phone"}[gauge]
		return must[HoldView](b)(b.Reading(b.ctx, h.ID, TypedReading{Write: w, Value: value, How: "mark", Gauge: gauge}))
	}
	b.clock.now = b.clock.now.Add(time.Minute)
	read(1, 15.5, 0)
	// What was pressed ten seconds ago on the phone keeps its moment.
	h = read(2, 14, 10*time.Second)
	if h.Far == nil || h.Far.Value.Text != "14.00" || !strings.Contains(h.Far.Says, "below the near one") || len(h.Far.Marks) == 0 {
		t.Errorf("far: %+v", h.Far)
	}
	if got := h.NowS - h.Far.Points[0].AtS; got != 10 {
		t.Errorf("it was pressed 10 s ago and stands %v s back", got)
	}
	if len(h.Points) != 9 {
		t.Errorf("the near gauge has %d readings", len(h.Points))
	}
	tr, _, err := b.Export(b.ctx, h.ID)
	if err != nil || len(tr.Second) != 1 {
		t.Errorf("exported with %d readings of the far gauge, %v", len(tr.Second), err)
	}
	// It is judged by the near gauge alone, and all is there again after a restart.
	b.shut()
	b.open()
	if again := must[HoldView](b)(b.Hold(b.ctx, h.ID)); again.Far == nil || len(again.Far.Points) != 1 || len(again.Points) != 9 {
		t.Errorf("after a restart %+v", again.Far)
	}
}

func TestTheDoor(t *testing.T) {
	b := open(t)
	_, _, err := b.Enter(b.ctx, "10.0.0.9", "1234", "phone")
	refused(t, "without a PIN", err, Conflict, "", "no PIN yet")
	_, err = b.SetPin(b.ctx, "12")
	refused(t, "a short PIN", err, BadInput, "pin", "4 to 12 digits")
	must[DoorView](b)(b.SetPin(b.ctx, "4711"))
	token, d, err := b.Enter(b.ctx, "10.0.0.9", "4711", "Ilse's phone")
	if err != nil {
		t.Fatal(err)
	}
	if got, ok := b.Known(b.ctx, token); !ok || got.Name != "Ilse's phone" {
		t.Errorf("known as %+v %v", got, ok)
	}
	if _, ok := b.Known(b.ctx, token+"x"); ok {
		t.Error("a wrong token was let in")
	}
	for range freeTries {
		_, _, err = b.Enter(b.ctx, "10.0.0.66", "0000", "stranger")
		refused(t, "wrong", err, BadInput, "pin", "not the shop's PIN")
	}
	_, _, err = b.Enter(b.ctx, "10.0.0.66", "4711", "stranger")
	refused(t, "after five wrong ones", err, TooMany, "pin", "try again in")
	if _, _, err = b.Enter(b.ctx, "10.0.0.9", "4711", "tablet"); err != nil {
		t.Errorf("another address has to wait too: %v", err)
	}
	if v := must[DoorView](b)(b.Door(b.ctx)); len(v.Devices) != 2 || !v.PinSet {
		t.Errorf("%+v", v)
	}
	must[DoorView](b)(b.SignOut(b.ctx, d.ID))
	if _, ok := b.Known(b.ctx, token); ok {
		t.Error("signed out and still known")
	}
	if v := must[DoorView](b)(b.SetPin(b.ctx, "2222")); len(v.Devices) != 0 {
		t.Errorf("a new PIN left %d devices in", len(v.Devices))
	}
	if raw, _ := b.book.Setting(b.ctx, pinSetting); strings.Contains(raw, "2222") || len(raw) < 50 {
		t.Errorf("the PIN is kept as %q", raw)
	}
}
