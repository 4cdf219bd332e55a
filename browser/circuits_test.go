package browser

import (
	"fmt"
	"os"
	"path/filepath"
	"strconv"
	"strings"
	"testing"

	"github.com/chromedp/chromedp"

	"idlehiss/catalogue"
	"idlehiss/core/steps"
	"idlehiss/jobs"
	"idlehiss/shop"
)

// verdict is what the server says of a job's step.
func verdict(t *testing.T, s *server, job, step string) steps.Verdict {
	t.Helper()
	return stepOf(t, s, job, step).Outcome.Verdict
}

// heldStep takes a gauge for the step in hand, pumps, holds until it is called, and
// lets it go.
func (p *page) heldStep(gauge, called string) {
	p.t.Helper()
	p.unfold("How far")
	p.heldStepOpen(gauge, called)
}

// heldStepOpen is the same where the choices are unfolded already.
func (p *page) heldStepOpen(gauge, called string) {
	p.t.Helper()
	p.choose("Read on", gauge)
	p.until("it read on that", `document.querySelector('[aria-label^="Read on: `+gauge+`"]')`)
	p.pump()
	p.press("i")
	p.called(called)
	p.press("z")
	p.until("it let down", `!document.querySelector('nav[aria-label="Holds in progress"] a')`)
}

// A lip that passes inward only is found by both signs, from the bench to the call.
func TestACrankcaseFromBenchToCall(t *testing.T) {
	t.Parallel()
	s := serve(t, "serve", "--data", t.TempDir(), "--speed", "20")
	p := open(t, s.url, 1280, 800)
	p.at("bench")
	p.press("n")
	p.focused("machine")
	before := p.inputs
	p.write("hedge saw")
	p.inputs = before
	p.press(tab)
	p.write("runs lean")
	p.reads(`[data-circuit=two-stroke-crankcase]`, "Two-stroke crankcase", "No mark limits it") // proposed from what was typed
	p.press(enter)
	p.stage("first-look")
	p.press(enter) // looked round
	p.stage("make-safe")
	job := p.job()
	p.press("3")
	p.stage("limit")
	p.reads(`[data-stage=limit]`, "10 inches of mercury")
	p.press("4")
	p.stage("rig")
	p.reads(`[data-stage=rig]`, "0 of 2 closed and counted")
	p.press("2")
	p.stage("make-safe")
	p.ticks(3)
	p.reads(`[data-stage=make-safe]`, "Fuel drained")
	p.wait("the tick", func() bool {
		for _, st := range ask[jobs.JobView](t, s, "/api/jobs/"+job).Stages {
			if st.ID == "make-safe" {
				return st.Ticks[0].Ticked && st.Ticks[1].Ticked && st.Ticks[2].Ticked
			}
		}
		return false
	})
	p.press("6")
	p.stage("step-vacuum")
	p.reads(`[data-first=new]`, "Draw down to")
	p.heldStep("Simulated low gauge, weeping", "leaking")
	p.press("8")
	p.stage("step-pressure")
	p.heldStep("Simulated low gauge, sound", "tight")
	if v, w := verdict(t, s, job, "vacuum"), verdict(t, s, job, "pressure"); v != steps.Bad || w != steps.Good {
		t.Errorf("vacuum %s, pressure %s", v, w)
	}
	p.press("0")
	p.stage("call")
	p.reads(`[data-stage=call] [data-verdict=bad][data-untested="0"]`, "It leaks inward only")
	t.Logf("%d inputs from the bench to the call", p.inputs)
	if p.inputs > mostCrankcase {
		t.Errorf("%d inputs from the bench to the call; at most %d are wanted", p.inputs, mostCrankcase)
	}
	p.scan("the call of many steps")
	// What leaks inward only is hunted by what works under vacuum.
	p.do(chromedp.Navigate(s.url + "/jobs/" + job + "/hunt"))
	p.stage("hunt")
	p.hunted("clutch-seal")
	p.reads(`[data-named=clutch-seal]`, "Shaft seal, clutch side")
	p.scan("the hunt of a crankcase")
}

// A step that comes too early does nothing and says what comes before it. Enter alone never goes back there;
// the button beside the sentence does.
func TestAStepLeadsToWhatComesBeforeIt(t *testing.T) {
	t.Parallel()
	s := serve(t, "serve", "--data", t.TempDir())
	begin := func(job map[string]any) string {
		return told(t, s, "/api/jobs", with(wrote("Maren"), job)).ID
	}
	p := open(t, s.url+"/jobs/"+begin(map[string]any{"machine": "Bin carrier 4", "complaint": "routine", "mark": "16"})+"/pressurise", 1280, 800)
	p.reads(`[data-gate=unsafe]`, "Make safe first: “Engine and cap are cold; pressure let off under a rag” is not ticked.")
	p.press(space, enter)
	p.reads(`[data-stage=pressurise] [data-gate=unsafe]`)
	back := func() {
		p.tabTo(`el.closest('[data-gate]')`)
		p.press(enter)
	}
	back()
	p.stage("make-safe")

	job := begin(map[string]any{"machine": "Fruit train", "complaint": "routine", "circuit": "train-brake", "things": []string{"Wagon 1"}})
	p.do(chromedp.Navigate(s.url + "/jobs/" + job + "/step-emergency-front"))
	p.reads(`[data-gate=unsafe]`, "Make safe first: “Plant's relief set and tried” is not ticked.")
	p.until("everything locked", `document.querySelectorAll('main input').length > 1 && [...document.querySelectorAll('main input')].every((e) => e.disabled)`)
	back()
	p.stage("make-safe")
	p.ticks(4)
	p.do(chromedp.Navigate(s.url + "/jobs/" + job + "/step-emergency-front"))
	p.reads(`[data-gate=waits]`, "This comes after: Train secured.")
	back()
	p.stage("step-secured")
	p.ticks(2)
	p.do(chromedp.Navigate(s.url + "/jobs/" + job + "/step-emergency-front"))
	p.reads(`[data-clock=ready]`, "start the clock")
	p.press(space)
	p.until("the clock", `document.querySelector('[role=timer]')`)
	if holds := ask[shop.BenchView](t, s, "/api/bench").Holds; len(holds) != 0 {
		t.Errorf("a hold was begun before it was safe: %+v", holds[0])
	}
}

// secured is a job on a train of two wagons that cannot move.
func secured(t *testing.T, s *server) jobs.JobView {
	t.Helper()
	j := safely(t, s, "Maren", map[string]any{"machine": "Fruit train", "complaint": "before running", "circuit": "train-brake", "things": []string{"Wagon 1", "Wagon 2"}})
	return ticked(t, s, "Maren", j, "step-secured")
}

// A train is walked with a phone in the hand: each wagon by one touch, the failed
// one named, and what is wrong refused beside it.
func TestATrainIsWalkedWithAPhone(t *testing.T) {
	t.Parallel()
	s := serve(t, "serve", "--data", t.TempDir())
	j := secured(t, s)
	p := open(t, s.url+"/jobs/"+j.ID+"/step-continuity", 390, 844)
	p.reads(`[data-stage=step-continuity]`, "Wagon 2")
	touch := func(label string) {
		p.t.Helper()
		js := `document.querySelector('button[aria-label="' + ` + "`" + label + "`" + ` + '"], [aria-label="' + ` + "`" + label + "`" + ` + '"] button')`
		p.until(label, js)
		p.do(chromedp.Evaluate[chromedp.Void](js + ".click()"))
	}
	// While the clock runs a yes is the time at which it was pressed, and stays it.
	p.press(space)
	p.until("its clock", `document.querySelector('[data-stamps=true]') && parseFloat(document.querySelector('[role=timer]').innerText) > 0.2`)
	p.do(chromedp.Evaluate[chromedp.Void](`document.querySelector('[data-stamps=true]').click()`))
	said := func() string { return stepOf(t, s, j.ID, "continuity").Entry.Rows[0].Cells["on"] }
	p.wait("the time of wagon 1", func() bool {
		rows := stepOf(t, s, j.ID, "continuity").Entry.Rows
		return len(rows) > 0 && rows[0].Cells["on"] != ""
	})
	p.kept(0)
	at := said()
	if took, err := strconv.ParseFloat(strings.TrimSuffix(at, " s"), 64); err != nil || took <= 0 {
		t.Errorf("yes at wagon 1 was taken down as %q", at)
	}
	p.until("it pressed", `document.querySelector('[data-stamps=true][aria-pressed=true]')`)
	p.do(chromedp.Evaluate[chromedp.Void](`document.querySelector('[data-stamps=true][aria-pressed=true]').click()`))
	touch("Wagon 1, And lets go again")
	touch("Wagon 2, Brake shows on: no")
	touch("Wagon 2, And lets go again")
	p.reads(`[data-verdict=bad]`, "Failed: Wagon 2.")
	if now := said(); now != at {
		t.Errorf("pressed once more it is %q, it was %q", now, at)
	}
	p.tabTo(`el.id === 'continuity-2-on'`)
	p.write("soon")
	p.press(tab)
	p.refused()
	p.tabTo(`el.id === 'continuity-2-on'`)
	for range "soon" {
		p.press(back)
	}
	p.write("48 s")
	p.press(tab)
	p.reads(`[data-verdict=good]`, "All 2 right.")
	if v := verdict(t, s, j.ID, "continuity"); v != steps.Good {
		t.Errorf("the book says %s", v)
	}
	p.scan("a round on the phone")
}

// Two people at two ends of a train time one fall on one clock. What the far one
// takes down while its network is away arrives later, and takes nothing of the
// near one's with it.
func TestTwoEndsOfATrainOnOneClock(t *testing.T) {
	t.Parallel()
	s := serve(t, "serve", "--data", t.TempDir())
	j := secured(t, s)
	for _, st := range j.Stages {
		for _, x := range st.Ticks {
			told(t, s, "/api/jobs/"+j.ID+"/ticks", with(wrote("Maren"), map[string]any{"item": x.ID, "on": true}))
		}
	}
	wire := plug(t, s)
	near, far := open(t, s.url+"/jobs/"+j.ID+"/step-emergency-front", 1280, 800), open(t, wire.url()+"/jobs/"+j.ID+"/step-emergency-front", 390, 844)
	running := `document.querySelector('[role=timer]')?.innerText.endsWith(' s')`
	near.reads(`[data-clock=ready]`, "Valve opened: start the clock")
	far.reads(`[data-clock=ready]`, "Valve opened: start the clock")
	near.press(space)
	near.until("its clock", running)
	far.until("the same clock", running)
	wire.set(true)
	far.alone()
	far.do(chromedp.Evaluate[chromedp.Void](`document.querySelector('button[aria-label="Far gauge at 20.0 kPa: now"]').click()`))
	far.kept(1)
	// Another stage and back: what waits to be sent still stands in its field.
	far.tap("Emergency from the rear")
	far.stage("step-emergency-rear")
	far.tap("Emergency from the front")
	far.stage("step-emergency-front")
	far.until("the time that waits", `document.getElementById('emergency-front-far').value.endsWith(' s')`)
	near.until("some time", `parseFloat(document.querySelector('[role=timer]').innerText) > 1.5`)
	near.press(space) // the next that is empty: the near gauge
	entry := func() map[string]string { return stepOf(t, s, j.ID, "emergency-front").Entry.Fields }
	near.wait("the near time", func() bool { return entry()["near"] != "" })
	wire.set(false)
	far.wait("the far time", func() bool { return entry()["far"] != "" })
	e := entry()
	at := func(text string) float64 {
		v, err := strconv.ParseFloat(strings.TrimSuffix(text, " s"), 64)
		if err != nil {
			t.Fatalf("%q: %v", text, err)
		}
		return v
	}
	if at(e["far"]) >= at(e["near"]) || at(e["near"]) < 1.5 || at(e["far"]) <= 0 {
		t.Errorf("the far gauge at %s was pressed before the near one at %s", e["far"], e["near"])
	}
	near.reads(`[data-verdict=bad]`, "too soon") // both ends together are judged: a press at once is sooner than any pipe falls
	far.fits("a clock on the phone")
	far.scan("a clock on the phone")
}

// A shop's own file appears while the page is open; a wrong one is named by line.
func TestAShopsOwnCircuitAppearsOnTheScreen(t *testing.T) {
	t.Parallel()
	data := t.TempDir()
	s := serve(t, "serve", "--data", data)
	p := open(t, s.url+"/circuits", 1280, 800)
	p.reads(`[href$="/circuits/train-brake"]`, "Two-pipe air brake")
	raw, err := os.ReadFile("../library/circuits/pressure-cap.yaml")
	if err != nil {
		t.Fatal(err)
	}
	folder := filepath.Join(data, "circuits")
	if err := os.MkdirAll(folder, 0o755); err != nil {
		t.Fatal(err)
	}
	for name, edit := range map[string][2]string{"ours.yaml": {"title: Pressure cap on its own", "title: Caps as we try them"}, "wrong.yaml": {"reseats: 100 kPa", "reseats: 130 kPa"}} {
		if err := os.WriteFile(filepath.Join(folder, name), []byte(strings.Replace(string(raw), edit[0], edit[1], 1)), 0o644); err != nil {
			t.Fatal(err)
		}
	}
	p.reads(`[data-file="ours.yaml"]`, "Caps as we try them")
	p.reads(`[data-wrong="wrong.yaml"]`, "wrong.yaml is refused", "a relief shuts below where it opens")
	p.click("a", "Two-stroke crankcase")
	p.reads(`[data-map=two-stroke-crankcase]`, "Shaft seal, clutch side")
	p.scan("circuits")
}

// Every circuit's page shows its map, its tests and its acts, and a part opens to what is known of it.
func TestEveryCircuitIsDrawn(t *testing.T) {
	t.Parallel()
	s := serve(t, "serve", "--data", t.TempDir())
	p := open(t, s.url+"/circuits", 1280, 800)
	for _, c := range ask[catalogue.CircuitList](t, s, "/api/circuits").Circuits {
		p.do(chromedp.Navigate(s.url + "/circuits/" + c.ID))
		p.until(c.ID, fmt.Sprintf(`document.querySelector('[data-map=%s]') && document.querySelectorAll('[data-act]').length === %d`, c.ID, len(ask[catalogue.CircuitView](t, s, "/api/circuits/"+c.ID).Acts)))
	}
	p.tap("Brake cylinders and relays")
	p.until("what is known of a part", `document.querySelector('[data-part-open]')`)
	p.scan("a circuit with a part open")
}
