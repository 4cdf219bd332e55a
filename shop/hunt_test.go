package shop

import (
	"bytes"
	"fmt"
	"image"
	"image/jpeg"
	"math"
	"strings"
	"testing"
	"time"

	"idlehiss/core/judge"
	"idlehiss/core/terms"
	"idlehiss/core/trace"
	"idlehiss/desk"
	"idlehiss/jobs"
	"idlehiss/trail"
)

// odds are those of a suspect on a sheet.
func odds(j JobView, part string) float64 {
	for _, s := range j.Suspects {
		if s.ID == part {
			return s.Share
		}
	}
	return math.NaN()
}

// From a leaking call to the named part: every look, act, place and mend moves the suspects, and what
// is taken back leaves nothing.
func TestAJobsHuntLearns(t *testing.T) {
	b := open(t)
	j := b.job("110 kPa")
	j = must[JobView](b)(b.SetPlan(j.ID, Plan{Write: b.write(), School: "exactly", Gauge: "sim-weep", Pump: "hand-pump-20", Allowance: "house"}))
	before := j
	h := must[HoldView](b)(b.Start(j.ID, StartHold{Write: b.write(), Purpose: terms.Test}))
	for h.Value == nil || h.Value.Pa < 105e3 {
		b.clock.set(b.clock.Now().Add(time.Second))
		h = b.event(h.ID, trace.Stroke)
	}
	b.event(h.ID, trace.Isolate)
	pass := func(seconds int) {
		for range seconds {
			b.clock.set(b.clock.Now().Add(time.Second))
			b.Holds.ReadGauges(b.ctx)
		}
		b.Holds.Quiet(b.ctx)
		h = must[HoldView](b)(b.Hold(h.ID))
	}
	for len(h.Calls) == 0 {
		pass(10)
	}
	if h.Report.Call != judge.Leaking || h.Report.ActS == nil {
		t.Fatalf("%s, an act watched for %v", h.Report.Call, h.Report.ActS)
	}
	j = must[JobView](b)(b.Job(j.ID))
	if j.Hunt.Next == nil || j.Hunt.Named != nil || j.Hunt.Flow == nil || math.Abs(odds(j, "radiator")-odds(before, "radiator")) < 1e-6 {
		t.Fatalf("a leaking call moves nothing: %+v", j.Hunt)
	}
	// An act that cuts the leak off, and is undone: the stand-in leaks at the radiator.
	called := odds(j, "radiator")
	b.event(h.ID, "act:clamp-radiator")
	pass(int(*h.Report.ActS)*2 + 60)
	if a := h.Report.Acts; len(a) != 1 || a[0].Verdict != judge.ActSlower || a[0].Says == "" {
		t.Fatalf("the leak was cut off: %+v", a)
	}
	b.event(h.ID, trace.ActOver)
	j = must[JobView](b)(b.Job(j.ID))
	if got := odds(j, "radiator"); got < 3*called {
		t.Errorf("the radiator was cut off and it stopped: from %.3f to %.3f", called, got)
	}
	cut := odds(j, "radiator")
	look := func(part, method string, seen bool, class terms.Class) {
		t.Helper()
		j = must[JobView](b)(b.Look(j.ID, Look{Write: b.write(), Part: part, Method: method, Seen: seen, Class: class}))
	}
	look("radiator", "eyes", false, "")
	if got := odds(j, "radiator"); got > 0.9*cut {
		t.Errorf("wiped dry and watched, and nothing: from %.3f to %.3f", cut, got)
	}
	look("radiator", "eyes", false, terms.TakenBack)
	if got := odds(j, "radiator"); math.Abs(got-cut) > 1e-12 {
		t.Errorf("taken back: %.15f, was %.15f", got, cut)
	}
	answered := must[JobView](b)(b.sheet(b.Jobs.Answer(b.ctx, j.ID, jobs.TakeAnswer{Write: b.write(), Answered: trail.Answered{Act: "rock-pump", Seen: "same"}})))
	if odds(answered, "water-pump") >= odds(j, "water-pump") {
		t.Errorf("rocked, and the same: the pump went from %.4f to %.4f", odds(j, "water-pump"), odds(answered, "water-pump"))
	}
	_, err := b.sheet(b.Jobs.Answer(b.ctx, j.ID, jobs.TakeAnswer{Write: b.write(), Answered: trail.Answered{Act: "rock-pump", Seen: "sings"}}))
	refused(t, "no such answer", err, desk.BadInput, "seen", "no answer")
	out := must[JobView](b)(b.sheet(b.Jobs.CameOut(b.ctx, j.ID, jobs.TakePlace{Write: b.write(), CameOut: trail.CameOut{Place: "bores", Seen: true}})))
	if odds(out, "head-gasket") < 3*odds(answered, "head-gasket") {
		t.Errorf("it came out in the bores: the gasket went from %.4f to %.4f", odds(answered, "head-gasket"), odds(out, "head-gasket"))
	}
	_, err = b.sheet(b.Jobs.CameOut(b.ctx, j.ID, jobs.TakePlace{Write: b.write(), CameOut: trail.CameOut{Place: "moon", Seen: true}}))
	refused(t, "no such place", err, desk.BadInput, "place", "no chamber")
	must[JobView](b)(b.sheet(b.Jobs.CameOut(b.ctx, j.ID, jobs.TakePlace{Write: b.write(), CameOut: trail.CameOut{Place: "bores"}})))
	look("radiator", "eyes", true, terms.Fault)
	if n := j.Hunt.Named; n == nil || n.Part != "radiator" || !n.Seen || len(n.Repairs) == 0 || j.Hunt.Next != nil {
		t.Fatalf("seen: %+v", n)
	}
	why, err := b.Jobs.Why(b.ctx, j.ID, "radiator")
	if err != nil || len(why) < 3 || why[0].Times <= 1 {
		t.Errorf("why: %+v %v", why, err)
	}
	// Mended: it waits for its proof. A retest that leaks opens the hunt for what is left.
	b.event(h.ID, trace.Release)
	j = must[JobView](b)(b.sheet(b.Jobs.Mend(b.ctx, j.ID, jobs.Mend{Write: b.write(), Part: "radiator", Repair: "new-part"})))
	if !j.Hunt.Retest || j.Hunt.Named != nil {
		t.Errorf("mended: %+v", j.Hunt)
	}
	h = must[HoldView](b)(b.Start(j.ID, StartHold{Write: b.write(), Purpose: terms.Test}))
	for h.Value == nil || h.Value.Pa < 105e3 {
		b.clock.set(b.clock.Now().Add(time.Second))
		h = b.event(h.ID, trace.Stroke)
	}
	b.event(h.ID, trace.Isolate)
	for len(h.Calls) == 0 {
		pass(10)
	}
	j = must[JobView](b)(b.Job(j.ID))
	if !j.Hunt.Second || j.Hunt.Retest || j.Hunt.Named != nil || odds(j, "radiator") > called {
		t.Errorf("it leaks on: second %v, %+v, the radiator at %.3f", j.Hunt.Second, j.Hunt.Named, odds(j, "radiator"))
	}
}

// A photo is kept without what the camera wrote into it; what is none is refused.
func TestAPhotoIsKeptInTheBook(t *testing.T) {
	b := open(t)
	j := b.job("110 kPa")
	var raw bytes.Buffer
	if err := jpeg.Encode(&raw, image.NewGray(image.Rect(0, 0, 40, 30)), nil); err != nil {
		t.Fatal(err)
	}
	const where = "Exif\x00\x00 N 46.1 E 7.2"
	marked := append([]byte{0xFF, 0xD8, 0xFF, 0xE1, 0, byte(len(where) + 2)}, where...)
	marked = append(marked, raw.Bytes()[2:]...)
	j = must[JobView](b)(b.sheet(b.Jobs.Photo(b.ctx, j.ID, jobs.TakePhoto{Write: b.write(), Part: "radiator", Note: "lower corner", JPEG: marked})))
	if len(j.Photos) != 1 || j.Photos[0].Part != "radiator" {
		t.Fatalf("%+v", j.Photos)
	}
	got, err := b.Jobs.PhotoOf(b.ctx, j.Photos[0].ID)
	if err != nil || bytes.Contains(got, []byte("46.1")) || !bytes.Equal(got, raw.Bytes()) {
		t.Errorf("%d bytes of %d, %v", len(got), raw.Len(), err)
	}
	for what, bad := range map[string][]byte{"no picture": []byte("hello"), "cut off": marked[:40], "too large": make([]byte, trail.MostPhotoBytes+1)} {
		_, err := b.sheet(b.Jobs.Photo(b.ctx, j.ID, jobs.TakePhoto{Write: b.write(), Part: "radiator", JPEG: bad}))
		refused(t, what, err, desk.BadInput, "jpeg")
	}
}

// A slow check comes again every hour for two days, and not at night.
func TestASlowCheckIsRememberedForTwoDays(t *testing.T) {
	b := open(t)
	j := b.job("110 kPa")
	j = must[JobView](b)(b.sheet(b.Jobs.Remind(b.ctx, j.ID, jobs.NewReminder{Write: b.write(), LookAgain: trail.LookAgain{Text: "the powder", Minutes: 60, Every: 60, Until: 2880}})))
	looks := 0
	for begun := b.clock.Now(); len(j.Reminders) > 0; looks++ {
		due := j.Reminders[0].DueAt
		if hour := due.Local().Hour(); hour < 7 || hour > 20 {
			t.Errorf("due at night: %s", due.Local())
		}
		if due.Sub(begun) > 49*time.Hour {
			t.Errorf("due %s after it began", due.Sub(begun))
		}
		b.clock.set(due)
		if next := must[BenchView](b)(b.Bench(b.ctx)).Next; len(next) < 2 || !next[0].Due || next[0].JobID != j.ID || next[1].Due {
			t.Errorf("it is not the first on the bench at %s: %+v", due, next)
		}
		j = must[JobView](b)(b.sheet(b.Jobs.Reminded(b.ctx, j.ID, jobs.RemindedOf{Write: b.write(), Look: trail.Look{Reminder: j.Reminders[0].ID}})))
	}
	if looks < 20 || looks > 30 {
		t.Errorf("%d looks in two days", looks)
	}
	_, err := b.sheet(b.Jobs.Remind(b.ctx, j.ID, jobs.NewReminder{Write: b.write(), LookAgain: trail.LookAgain{Text: "it", Minutes: 60, Every: 60, Until: 10}}))
	refused(t, "it ends before it begins", err, desk.BadInput, "until")
}

// One wagon of eight is found by shutting cocks between wagons under pressure, and by a look.
func TestAWagonIsFoundByHalving(t *testing.T) {
	b := open(t)
	j := b.train("1", "2", "3", "4", "5", "6", "7", "8")
	for _, st := range j.Stages {
		for _, x := range st.Ticks {
			j = must[JobView](b)(b.Tick(j.ID, Tick{Write: b.write(), Item: x.ID, On: true}))
		}
	}
	plan := b.step(j, "leak-brake").Plan
	j = must[JobView](b)(b.SetPlan(j.ID, Plan{Write: b.write(), Step: "leak-brake", School: "typed", Typed: "500 kPa", Gauge: "sim-high-weep", Pump: "works-air", Allowance: plan.Wanted.From, AllowanceText: plan.Wanted.Text}))
	h := must[HoldView](b)(b.Start(j.ID, StartHold{Write: b.write(), Purpose: terms.Test, Step: "leak-brake"}))
	for h.Value == nil || h.Value.Pa < 450e3 {
		b.clock.set(b.clock.Now().Add(time.Second))
		h = b.event(h.ID, trace.Stroke)
	}
	b.event(h.ID, trace.Isolate)
	pass := func(until func() bool) {
		t.Helper()
		for range 1200 {
			b.clock.set(b.clock.Now().Add(time.Second))
			b.Holds.ReadGauges(b.ctx)
			b.Holds.Quiet(b.ctx)
			if h = must[HoldView](b)(b.Hold(h.ID)); until() {
				return
			}
		}
		t.Fatalf("no verdict in twenty minutes: %+v", h.Report)
	}
	pass(func() bool { return len(h.Calls) > 0 })
	if h.Report.Call != judge.Leaking {
		t.Fatalf("called %s", h.Report.Call)
	}
	// The stand-in leaks at wagon 3: behind 4 it is tight, and so on.
	watched := func(seconds int) {
		n := 0
		pass(func() bool { n++; return n > seconds })
	}
	watched(20)
	for n, k := range []int{4, 2, 3} {
		act := fmt.Sprintf("act:cut@%d", k)
		b.event(h.ID, act)
		watched(15)
		pass(func() bool {
			a := h.Report.Acts
			return len(a) > 0 && a[len(a)-1].Event == act && a[len(a)-1].Verdict != judge.ActNotYet
		})
		b.event(h.ID, trace.ActOver)
		if want := k < 3; (h.Report.Acts[len(h.Report.Acts)-1].Verdict == judge.ActSlower) != want {
			t.Errorf("cut %d behind wagon %d: %+v", n, k, h.Report.Acts)
		}
		watched(20)
	}
	j = must[JobView](b)(b.Job(j.ID))
	third := 0.0
	for _, s := range j.Suspects {
		if strings.HasSuffix(s.ID, "@3") {
			third += s.Share
		}
	}
	if third < 0.8 || !strings.HasSuffix(j.Suspects[0].ID, "@3") {
		t.Errorf("wagon 3 stands at %.2f, first is %s", third, j.Suspects[0].ID)
	}
	j = must[JobView](b)(b.Look(j.ID, Look{Write: b.write(), Part: "brake-hoses@3", Method: "tube", Seen: true, Class: terms.Fault}))
	if n := j.Hunt.Named; n == nil || n.Part != "brake-hoses@3" || len(j.Call.Seen) != 1 || j.Call.Seen[0] != "Brake hose and its head, wagon 3" {
		t.Errorf("named %+v, seen %v", j.Hunt.Named, j.Call.Seen)
	}
}
