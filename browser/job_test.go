package browser

import (
	"encoding/json"
	"fmt"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"testing"

	"github.com/chromedp/chromedp"

	"idlehiss/core/judge"
	"idlehiss/core/terms"
	"idlehiss/holds"
	"idlehiss/jobs"
)

// mostInputs is how many keys a cooling test may take from the bench to its first
// stroke, typing the machine's name aside.
const mostInputs = 20

// begin starts a job from the bench and brings it to the limit, by keys.
func (p *page) begin(machine, complaint, mark string) {
	p.t.Helper()
	p.at("bench")
	p.press("n")
	p.focused("machine")
	before := p.inputs
	p.write(machine)
	p.inputs = before
	p.press(tab)
	p.write(complaint)
	p.press(tab)
	p.write(mark)
	p.press(enter)
	p.stage("first-look")
	p.press(enter) // looked round
	p.stage("make-safe")
	p.ticks(3)
	p.press(enter)
	p.stage("limit")
}

// rigUp takes the plan and ticks the rig.
func (p *page) rigUp() {
	p.t.Helper()
	p.until("the plan", `[...document.querySelectorAll('button')].some((b) => b.innerText.startsWith('Pump to') && !b.disabled)`)
	p.press(enter)
	p.stage("rig")
	p.ticks(3)
	p.press(enter)
	p.stage("prove")
}

// ticks ticks so many items, one after another.
func (p *page) ticks(most int) {
	p.t.Helper()
	for n := 1; n <= most; n++ {
		p.press("c")
		p.until("a tick", fmt.Sprintf(`document.querySelectorAll('[role=checkbox][aria-checked=true]').length === %d`, n))
	}
}

// shownValue is what a page shows of the pressure while it is pumped.
const shownValue = `Math.abs(Number(document.querySelector('main [data-value]').dataset.value.replace('−', '-')))`

// pump strokes until the target is there, and bleeds back what is too much.
func (p *page) pump() {
	p.t.Helper()
	const strokes = `Number(document.querySelector('[data-strokes]')?.dataset.strokes)`
	p.press(space)
	p.until("the first stroke", strokes+" === 1")
	for n := 2; !p.is(`document.querySelector('[data-there=true]')`); {
		if n > 60 {
			p.t.Fatalf("60 strokes and not there; the page shows\n%s", p.text())
		}
		if !p.is(`document.querySelector('[data-over=true]')`) {
			p.press(space)
			p.until("a stroke", fmt.Sprintf("%s === %d", strokes, n))
			n++
			continue
		}
		high := p.number(shownValue)
		p.press("v")
		p.until("less pressure", fmt.Sprintf("%s < %v", shownValue, high))
	}
}

// choose takes an alternative of one of the limit's choices, with the keyboard alone.
func (p *page) choose(label, title string) {
	p.t.Helper()
	l, _ := json.Marshal(label + ":")
	q, _ := json.Marshal(title)
	p.until("the choice "+label, fmt.Sprintf(`[...document.querySelectorAll('[aria-haspopup=listbox]')].some((e) => e.getAttribute('aria-label').startsWith(%s))`, l))
	p.tabTo(fmt.Sprintf(`el.getAttribute('aria-label')?.startsWith(%s)`, l))
	p.press(enter)
	p.until("its alternatives", `document.querySelectorAll('[role=option]').length > 1`)
	p.press(home) // it opens at what stands
	p.until("the first", `document.querySelector('[role=option]')?.hasAttribute('data-highlighted')`)
	for range 40 {
		if p.is(fmt.Sprintf(`document.querySelector('[role=option][data-highlighted]')?.innerText.startsWith(%s)`, q)) {
			break
		}
		p.press(down)
	}
	p.press(enter)
	p.until("it to close", `!document.querySelector('[role=option]')`)
	p.blur()
}

// Who types faster than the circuits come starts the one that the words mean all the
// same, and not the first of the list.
func TestStartedBeforeTheCircuitsCame(t *testing.T) {
	t.Parallel()
	s := serve(t, "serve", "--data", t.TempDir())
	p := open(t, "about:blank", 1280, 800)
	p.before(`{ const real = window.fetch; const held = new Promise((go) => { window.letGo = go });
		window.fetch = (what, ...more) => /api.(bench|meant)/.test(String(what.url ?? what)) ? held.then(() => real(what, ...more)) : real(what, ...more) }`)
	for _, c := range []struct {
		keys    []string // of each field
		circuit string
		mark    string
		wagons  int
	}{
		{[]string{"Fruit train"}, "train-brake", "", 5},
		{[]string{"Fruit train", "routine", "3"}, "train-brake", "", 3},
		{[]string{"Hedge saw", "loses coolant", "16"}, "cooling-header-tank", "16", 0},
		{[]string{"Hedge saw", "", "16"}, "cooling-header-tank", "16", 0}, // a saw's own circuit has no use for a mark
		{[]string{"Hedge saw", "runs lean"}, "two-stroke-crankcase", "", 0},
	} {
		p.do(chromedp.Navigate(s.url))
		p.until("the form", `document.getElementById('machine')`)
		p.press("n")
		p.focused("machine")
		for i, text := range c.keys {
			if i > 0 {
				p.press(tab)
			}
			p.write(text)
		}
		p.press(enter)
		p.do(chromedp.Evaluate[chromedp.Void](`window.letGo()`))
		j := ask[jobs.JobView](t, s, "/api/jobs/"+p.opened())
		wagons, mark := 0, ""
		for _, st := range j.Steps {
			if st.ID == "continuity" {
				wagons = len(st.Ask.Rows)
			}
			if st.Plan != nil && st.Plan.Mark != nil {
				mark = st.Plan.Mark.Text
			}
		}
		if j.CircuitID != c.circuit || mark != c.mark || wagons != c.wagons {
			t.Errorf("%q started %s with the mark %q and %d wagons, want %s, %q and %d", c.keys, j.CircuitID, mark, wagons, c.circuit, c.mark, c.wagons)
		}
	}
	p.do(chromedp.Navigate(s.url), chromedp.Evaluate[chromedp.Void](`window.letGo()`))
	p.until("the form", `document.getElementById('machine')`)
	p.press("n")
	p.focused("machine")
	p.write("Fruit train")
	p.press(tab, tab)
	p.write("1.1")
	p.press(enter)
	p.focused("mark")
	p.reads(`form [role=alert]`, "How many wagons is a whole number from 1 to 60")
}

// Space is the stroke though another button was pressed last, and over the limit it bleeds back.
func TestSpaceIsTheStrokeWhereverTheFocusIs(t *testing.T) {
	t.Parallel()
	s := serve(t, "serve", "--data", t.TempDir(), "--speed", "20")
	p := open(t, s.url, 1280, 800)
	hold := testOf(t, s, p.onto("Frost fan", "Simulated gauge on a sound loop"))
	const strokes = `Number(document.querySelector('[data-strokes]')?.dataset.strokes)`
	p.press(space)
	p.until("the first stroke", strokes+" === 1")
	p.do(chromedp.Evaluate[chromedp.Void](`[...document.querySelectorAll('main button')].find((b) => b.innerText.startsWith('First hiss')).focus()`))
	p.press(space)
	p.until("a stroke", strokes+" === 2")
	if p.is(`document.querySelector('main [data-heard]')`) {
		t.Error("the button that had the focus was pressed too")
	}
	// At the target it stops being the stroke: one more is a press of its own. The air cools meanwhile, so that the
	// pressure may fall below the target again between a look and a press.
	const more = `(() => { const b = document.querySelector('[data-primary=shut]') && [...document.querySelectorAll('[data-sheet] button')].find((b) => b.innerText.startsWith('One more stroke')); b?.click(); return !!b })()`
	n, shut := 2, false
	for ; n < 60 && !p.is(`document.querySelector('[data-over=true]')`); n++ {
		p.wait("a way to one more stroke", func() bool {
			if p.is(more) {
				shut = true
				return true
			}
			if p.is(`document.querySelector('[data-primary=stroke]')`) {
				p.press(space)
				return true
			}
			return false
		})
		p.until("a stroke", fmt.Sprintf("%s === %d", strokes, n+1))
		p.shows(hold())
	}
	if !shut {
		t.Error("at the target Space stayed the stroke")
	}
	if !p.is(`document.querySelector('[data-over=true]')`) {
		t.Fatalf("%d strokes and not over the limit", n)
	}
	for p.is(`document.querySelector('[data-over=true]')`) {
		high := p.number(shownValue)
		p.press(space)
		p.until("less pressure", fmt.Sprintf("%s < %v", shownValue, high))
	}
	if got := p.number(strokes); got != float64(n) {
		t.Errorf("%v strokes of %d: one went in over the limit", got, n)
	}
}

// A mechanic with a needle gauge: the shortest way to the first stroke, crossings by
// one key, a wrong press struck, a leaking call.
func TestNeedleHoldByKeyboard(t *testing.T) {
	t.Parallel()
	s := serve(t, "serve", "--data", t.TempDir(), "--speed", "30")
	p := open(t, s.url, 1280, 800)
	p.inputs = 0
	p.begin("bin carrier 4", "", "16")
	p.reads(`[data-target]`, "110 kPa")
	p.rigUp()
	p.press("s")
	p.stage("pressurise")
	p.press(space)
	p.until("the first stroke", `document.querySelector('[data-strokes="1"]')`)
	t.Logf("%d inputs from the bench to the first stroke", p.inputs)
	if p.inputs > mostInputs {
		t.Errorf("%d inputs from the bench to the first stroke; at most %d are wanted", p.inputs, mostInputs)
	}
	job := p.job()
	hold := func() holds.HoldView {
		h, _ := heldAt(t, s, job)
		return h
	}
	// Strokes, and a crossing at every figure on the face.
	for n := 2; n <= 9; n++ {
		p.press(space)
		p.until("a stroke", fmt.Sprintf(`document.querySelector('[data-strokes="%d"]')`, n))
		if n%3 == 0 { // 5, 10 and 15 psi
			p.press("m")
			p.wait("a crossing", func() bool { return len(hold().Points) == n/3 })
			p.shows(hold())
		}
	}
	p.press("h")
	p.until("it heard", `document.querySelector('main [data-heard]')`)
	p.press(up, up, "r") // the stepper: half a division higher
	p.wait("the stepper's reading", func() bool {
		return len(hold().Points) == 4 && hold().Points[3].How == "read" && hold().Value.Text == "15.25"
	})
	p.shows(hold())
	p.press("i")
	p.stage("hold")
	p.reads(`main [data-hold=holding]`)
	// The needle falls from mark to mark; one press is wrong and struck out, and with it
	// whatever was called because of it.
	for len(hold().Points) < 40 && hold().Ring != terms.RingCut {
		p.pass(s, 8)
		had := len(hold().Points)
		p.press(space)
		p.wait("a crossing", func() bool { return len(hold().Points) > had })
		p.shows(hold())
		if had == 6 {
			p.press("m", back) // the key of the mark, whatever is called meanwhile
			p.wait("the wrong press struck", func() bool { return struck(hold()) == 1 })
			p.shows(hold())
		}
	}
	h := hold()
	if len(h.Calls) == 0 || h.Calls[len(h.Calls)-1].Call != judge.Leaking {
		t.Fatalf("%d crossings of a steady fall and no leaking call: %s", len(h.Points), h.Sentence)
	}
	if struck(h) == 0 {
		t.Error("the struck press is not kept as struck")
	}
	p.called("leaking")
	p.press(enter)
	p.stage("call")
	p.reads(`main [data-call=leaking]`, "Rig not proven", "Not tested: the cap")
}

func struck(h holds.HoldView) int {
	n := 0
	for _, x := range h.Points {
		if x.Struck != "" {
			n++
		}
	}
	return n
}

// A whole job on a simulated gauge, the server killed in the middle of its hold.
func TestWholeJobByKeyboard(t *testing.T) {
	t.Parallel()
	data := t.TempDir()
	s := serve(t, "serve", "--data", data, "--speed", "20")
	p := open(t, s.url, 1280, 800)
	p.begin("Frost fan", "loses coolant", "1.1")
	p.reads(`[data-target]`, "16.0 psi", "kgf/cm²") // the equivalents and the doubt
	p.choose("Read on", "Simulated gauge on a weeping loop")
	p.until("the target", `document.querySelector('[data-target^="110.0 "]')`)
	p.rigUp()
	p.pump()
	p.press("i")
	p.called("tight")
	p.press("z")
	p.reads(`main [data-hold=ended]`, "Prove again")
	p.until("the proof", `document.querySelector('[data-fact=proof][data-stands=true]')`)
	p.press(enter)
	p.stage("pressurise")
	p.reads(`[data-first=new]`, "never past the cap")
	p.pump()
	p.until("the trapped air", `document.querySelector('[data-air=true]')`)
	p.press("i")
	p.stage("hold")
	p.until("the fork", fork)

	// The power goes. What was acknowledged is there, the hold goes on, the gap is shown,
	// and what was pressed meanwhile arrives once.
	job := p.job()
	held, _ := heldAt(t, s, job)
	trace := "/api/holds/" + held.ID + "/trace.csv"
	before := strings.TrimSpace(string(fetch(t, s, trace)))
	p.kept(0)
	s.kill()
	p.alone()
	p.press("w")
	p.kept(1)
	const counted = `((m) => m[1] * 60 + Number(m[2]))(document.querySelector('main').innerText.match(/held (\d+):(\d\d)/))`
	p.until("the hold to go on unseen", fmt.Sprintf(`%s > %v`, counted, p.number(counted)+10))
	s.restart()
	p.until("the page to come back", `document.querySelector('header').dataset.connected === 'true' && document.querySelector('header').dataset.waiting === '0'`)
	after, _ := heldAt(t, s, job)
	if n := strings.Count(before, "\n"); n < 20 {
		t.Fatalf("only %d rows before the kill", n)
	}
	if now := string(fetch(t, s, trace)); !strings.HasPrefix(now, before) {
		t.Errorf("what was acknowledged before the kill is not what is there now:\n%s\n---\n%s", before, now)
	}
	if len(after.Gaps) != 1 {
		t.Errorf("%d gaps are kept, want the one of the kill", len(after.Gaps))
	}
	moved := 0
	for _, e := range after.Events {
		if e.Kind == "moved" {
			moved++
		}
	}
	if moved != 1 {
		t.Errorf("the event pressed without a server is there %d times", moved)
	}
	p.reads(`[data-gaps="1"]`, "The hold went on")

	p.called("leaking")
	p.press(enter)
	p.stage("call")
	p.reads(`main [data-call=leaking]`, "mL an hour", "µm", "Not tested: the cap", "95 in 100")
	if p.is(`document.body.innerText.includes('Rig not proven')`) {
		t.Error("a proven rig is said to be unproven")
	}
	p.scan("a call with its question")
	p.press("d")
	p.reads(`[data-escape=drip]`, "Dripped")
	p.press("h")
	p.until("the other answer", `document.querySelector('[data-escape=hiss]')`)
	p.press(enter)
	p.stage("hunt")
	for range 40 {
		if p.is(`document.querySelector('[data-part=radiator] [aria-expanded=true]')`) {
			break
		}
		p.press(down)
	}
	// Seen once, and once more where that is asked for.
	p.huntedBy(mechanic{part: "radiator"})
	p.reads(`[data-named=radiator][data-eyes=true]`, "Radiator core", "Seen leaking", "Smallest repair")
	p.press(enter)
	p.stage("put-right")
	p.press("z")
	p.until("it let down", `document.querySelector('[data-let-down]')`)
	p.press(enter)
	p.stage("write-down")
	p.reads(`[data-outstanding]:not([data-outstanding="0"])`, "Cap back on") // it cannot be closed
	p.until("no closing yet", `[...document.querySelectorAll('button')].find((b) => b.innerText.startsWith('Close the job'))?.disabled`)
	p.press("0")
	p.stage("put-right")
	p.ticks(5)
	p.press("-")
	p.stage("write-down")
	p.until("closing allowed", `[...document.querySelectorAll('button')].find((b) => b.innerText.startsWith('Close the job'))?.disabled === false`)
	p.press(enter)
	p.until("it closed", `document.querySelector('[data-job=closed]')`)

	// Tomorrow: found in the book, printed, exported, judged again.
	p.press("o")
	p.at("book")
	p.press("f")
	p.write("fan radiator")
	p.reads(`[data-view=book][data-ready=true][data-rows="1"]`, "Frost fan")
	p.press(tab, enter)
	p.stage("call")
	p.called("leaking")
	h, _ := heldAt(t, s, job)
	paper := string(fetch(t, s, "/api/jobs/"+job+"/paper"))
	for _, words := range []string{"Frost fan", "Leaking", "<svg", "Radiator core", "Simulated readings", "Not tested: the cap"} {
		if !strings.Contains(paper, words) {
			t.Errorf("the sheet on paper lacks %q", words)
		}
	}
	file := filepath.Join(t.TempDir(), "trace.csv")
	if err := os.WriteFile(file, fetch(t, s, "/api/holds/"+h.ID+"/trace.csv"), 0o644); err != nil {
		t.Fatal(err)
	}
	out, err := exec.Command(program, "judge", file, "--json").Output()
	if err != nil {
		t.Fatal(err)
	}
	var again judge.Report
	if err := json.Unmarshal(out, &again); err != nil {
		t.Fatal(err)
	}
	// The call that was made and kept is made again; the answer to the whole hold is the
	// book's last, or takes nothing back.
	last := *h.Report
	if again.Called == nil || *again.Called != h.Calls[0].Call || *again.Called != last.Call {
		t.Errorf("watched again, the exported trace is called %v; the book says %s, then %s", again.Called, h.Calls[0].Call, last.Call)
	}
	if again.Call != judge.NotYet && (again.Call != last.Call || *again.RateKPaPerMin != *last.RateKPaPerMin) {
		t.Errorf("the exported trace is judged %s %+v; the book says %s %+v", again.Call, *again.RateKPaPerMin, last.Call, *last.RateKPaPerMin)
	}
}
