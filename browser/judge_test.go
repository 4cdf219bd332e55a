package browser

import (
	"encoding/json"
	"fmt"
	"math"
	"net/http"
	"os"
	"strconv"
	"strings"
	"testing"
	"time"

	"github.com/chromedp/chromedp"

	"idlehiss/core/judge"
	"idlehiss/desk"
	"idlehiss/holds"
	"idlehiss/jobs"
)

// onto brings a job to its first stroke, read on a gauge that is named; empty for
// the one offered.
func (p *page) onto(machine, gauge string) (job string) {
	p.t.Helper()
	p.begin(machine, "loses coolant", "16")
	if gauge != "" {
		p.choose("Read on", gauge)
		p.until("the target", `document.querySelector('[data-target^="110.3 "]')`)
	}
	p.rigUp()
	p.press("s")
	p.stage("pressurise")
	return p.job()
}

// stands types what the needle shows.
func (p *page) stands(s *server, hold func() holds.HoldView, value float64) {
	p.t.Helper()
	had := len(hold().Points)
	p.until("the row", `document.querySelector('[data-hold=holding]') && document.getElementById('figure')`)
	p.press("g")
	p.focused("figure")
	p.write(strconv.FormatFloat(value, 'f', -1, 64))
	p.press(enter)
	p.wait("the reading", func() bool { return len(hold().Points) > had })
	p.shows(hold())
}

// click presses the first of some elements that has the words.
func (p *page) click(elements, words string) {
	p.t.Helper()
	w, _ := json.Marshal(words)
	find := fmt.Sprintf(`[...document.querySelectorAll(%q)].find((e) => e.innerText.includes(%s) && !e.disabled)`, elements, w)
	p.until(elements+" "+words, find)
	p.do(chromedp.Evaluate[chromedp.Void](find + `.click()`))
}

// leaves is true once the residuals are drawn.
const leaves = `document.querySelectorAll('svg[aria-label^="Readings less"] circle').length > 5`

// unfold opens what is folded under some words.
func (p *page) unfold(words string) {
	p.t.Helper()
	p.click("summary", words)
	w, _ := json.Marshal(words)
	p.until(words+" unfolded", fmt.Sprintf(`[...document.querySelectorAll('details')].some((d) => d.open && d.innerText.includes(%s))`, w))
}

// testOf gives what the server knows of a job's latest test.
func testOf(t *testing.T, s *server, job string) func() holds.HoldView {
	return func() holds.HoldView {
		h, _ := heldAt(t, s, job)
		return h
	}
}

// What settles is called tight before five minutes of the shop's clock.
func TestSettlingIsCalledTightBeforeFiveMinutes(t *testing.T) {
	t.Parallel()
	s := serve(t, "serve", "--data", t.TempDir(), "--speed", "20")
	p := open(t, s.url, 1280, 800)
	job := p.onto("Frost fan", "Simulated gauge on a sound loop")
	p.reads(`[data-ahead]`, "if it is tight") // the plan before the hold
	p.pump()
	p.press("i")
	p.stage("hold")
	p.called("tight")
	h := testOf(t, s, job)()
	if len(h.Calls) == 0 || h.Calls[0].Call != judge.Tight || h.Calls[0].AtS-*h.IsolatedS >= 300 {
		t.Fatalf("calls: %+v", h.Calls)
	}
	t.Logf("called tight %.0f s after shutting", h.Calls[0].AtS-*h.IsolatedS)
	// In one such hold of thirty, settling with a leak within the allowance fits a little better than without; how often
	// a shape is named rightly is counted in the judge's own study.
	if shape := h.Report.Shape; shape != judge.ShapeSettling && shape != judge.ShapeSettlingLeak && shape != judge.ShapeTight {
		t.Errorf("shape %s", shape)
	}
	p.press(enter)
	p.stage("call")
	p.called("tight")
	p.whole()
	p.press("/")
	p.write("night")
	p.press(enter)
	p.until("night", `document.documentElement.dataset.theme === 'night'`)
}

// A slow leak is called with its size, both sides of it, and why.
func TestASlowLeakIsCalledWithItsSize(t *testing.T) {
	t.Parallel()
	s := serve(t, "serve", "--data", t.TempDir(), "--speed", "20")
	p := open(t, s.url, 1280, 800)
	job := p.onto("Bin carrier 4", "Simulated gauge on a weeping loop")
	p.press("1") // what is topped up is told at the first look
	p.stage("first-look")
	p.tabTo(`el.id === 'added'`)
	p.write("0.4 L")
	p.press(tab)
	p.write("14 d")
	p.press(enter)
	p.reads(`[data-fact="topped up"]`, "mL an hour")
	p.blur()
	p.press("6")
	p.stage("pressurise")
	p.pump()
	p.until("the trapped air", `document.querySelector('[data-air=true]')`)
	p.press("i")
	p.stage("hold")
	p.called("leaking")
	// A call as soon as it can be made leans on little; the whole of five minutes tells the size.
	p.pass(s, 240)
	p.press("0")
	p.stage("put-right")
	p.press("z")
	p.until("it let down", `document.querySelector('[data-let-down]')`)
	p.press("8")
	p.stage("call")
	p.called("leaking")
	h := testOf(t, s, job)()
	r := h.Report
	// 5 cm³ a minute leave the simulated loop at 110 kPa. One interval in twenty may
	// miss that (TestTheSizeOfASimulatedLeakIsTold counts them), but not by much.
	t.Logf("%+v after %.0f s", r.FlowCm3PerMin, r.HeldS)
	if f := r.FlowCm3PerMin; f == nil || 5 < 0.8*f.Low || 5 > 1.25*f.High || f.High > 40 {
		t.Errorf("5 cm³ a minute leave; it is called %+v", f)
	}
	p.reads(`main [data-call=leaking][data-explains=true]`, "Leaking", "mL an hour", "of what was topped up")
	p.unfold("Leak size")
	p.reads(`[data-call=leaking]`, "Below the liquid line", "The smallest leak this hold would have shown")
	p.unfold("Why, and what")
	p.until("what the curve leaves", leaves)
	p.reads(`[data-call=leaking]`, "would change the call")
}

// One hold cannot tell a floor from settling; a top-up does.
func TestATopUpTellsAFloorFromSettling(t *testing.T) {
	t.Parallel()
	s := serve(t, "serve", "--data", t.TempDir(), "--speed", "12")
	p := open(t, s.url, 1280, 800)
	p.longer(10 * time.Minute)
	again := func(job string, falls, after []float64) judge.Report {
		hold := testOf(t, s, job)
		p.press(space)
		p.until("the first stroke", `document.querySelector('[data-strokes="1"]')`)
		p.press("i")
		p.stage("hold")
		p.reads(`[data-hold=holding]`)
		for i, list := range [][]float64{falls, after} {
			if i > 0 {
				p.press("t")
				p.wait("the top-up", func() bool {
					n := 0
					for _, e := range hold().Events {
						if e.Kind == "top-up" {
							n++
						}
					}
					return n == 1
				})
				p.shows(hold())
			}
			for _, v := range list {
				// Typed beside the page: forty readings by keys take a slow machine longer than the judge needs.
				tell[desk.Receipt](t, s, "/api/holds/"+hold().ID+"/readings", with(wrote("Maren"), map[string]any{"how": "read", "text": fmt.Sprint(v)}))
				p.pass(s, 12)
			}
		}
		return *hold().Report
	}
	job := p.onto("Hedge saw", "")
	fall := []float64{16, 15.25, 14.75, 14.5, 14.25, 14.125, 14, 14, 14, 14, 14}
	if r := again(job, fall, fall); r.Shape != judge.ShapeFloor || r.FloorKPa == nil || math.Abs(*r.FloorKPa-14*6.894757) > 2 {
		t.Errorf("it fell to 14 psi twice: %s, floor %v: %v", r.Shape, r.FloorKPa, r.Why)
	}
	p.press("0")
	p.stage("put-right")
	p.press("z") // the tester is wanted on the next machine
	p.until("it let down", `document.querySelector('[data-let-down]')`)
	p.do(chromedp.Navigate(s.url))
	job = p.onto("Cider press", "")
	if r := again(job, fall, []float64{16, 15.875, 15.75, 15.75, 15.75, 15.75, 15.75, 15.75, 15.75}); r.Shape == judge.ShapeFloor || r.FloorKPa != nil || r.Call == judge.Leaking {
		t.Errorf("it came back smaller: %s %s: %v", r.Call, r.Shape, r.Why)
	}
}

// A cold and a hot hold of one machine, compared from the call.
func TestAHotAndAColdHoldAreCompared(t *testing.T) {
	t.Parallel()
	s := serve(t, "serve", "--data", t.TempDir(), "--speed", "30")
	p := open(t, s.url, 1280, 800)
	job := p.onto("Irrigation pump", "")
	hold := testOf(t, s, job)
	one := func(condition string, values []float64) {
		p.click("fieldset button", condition)
		p.blur()
		before := len(ask[jobs.JobView](t, s, "/api/jobs/"+job).Holds)
		p.press(space)
		p.wait("a hold", func() bool {
			return len(ask[jobs.JobView](t, s, "/api/jobs/"+job).Holds) == before+1 && hold().Strokes == 1
		})
		p.shows(hold())
		p.press("i")
		p.stage("hold")
		for _, v := range values {
			p.stands(s, hold, v)
			p.pass(s, 15)
		}
	}
	one("cold", []float64{16, 15.875, 15.875, 15.75, 15.75, 15.75, 15.75, 15.75, 15.75, 15.75})
	p.press("0")
	p.stage("put-right")
	p.press("z")
	p.until("it let down", `document.querySelector('[data-let-down]')`)
	p.press("6")
	p.stage("pressurise")
	one("hot", []float64{16, 15.5, 15, 14.5, 14.125, 13.75, 13.25, 12.875})
	p.press("8")
	p.stage("call")
	p.unfold("Compare with")
	p.click("main a", "cold")
	p.reads(`[data-second=more]`, "Two holds compared", "First: cold", "Second: hot")
	p.until("both traces", `document.querySelectorAll('svg[aria-label^="The fall of both"] circle').length === 18`)
	p.press("x")
	p.until("the other way about", `document.querySelector('[data-second=less]')`)
}

// The slate answers while one types and gives what it found to the open job, whose
// hold then tells a flow.
func TestTheSlateGivesTheJobItsAir(t *testing.T) {
	t.Parallel()
	s := serve(t, "serve", "--data", t.TempDir(), "--speed", "30")
	p := open(t, s.url, 1280, 800)
	job := p.onto("Tipping trailer", "")
	hold := testOf(t, s, job)
	p.press(space)
	p.until("the first stroke", `document.querySelector('[data-strokes="1"]')`)
	p.press("i")
	p.stage("hold")
	for _, v := range []float64{16, 15, 14.25, 13.5, 12.75, 12} {
		p.stands(s, hold, v)
		p.pass(s, 12)
	}
	if hold().Report.FlowCm3PerMin != nil {
		t.Fatal("a flow without air")
	}
	p.whole()
	p.press("k")
	p.click("aside button", "Trapped air from a known vessel")
	p.focused("slate-vessel")
	p.write("1.2 L")
	p.press(tab)
	p.write("90 kPa")
	p.press(tab)
	p.write("30 wombats")
	p.refused()
	for range "wombats" {
		p.press(back)
	}
	p.write("kPa")
	p.reads(`[data-calculator=volume-vessel][data-told=true]`, "0.600 L of air")
	p.click("aside button", "Use as")
	p.reads(`[data-sent]`, "Taken over as the trapped air of Tipping trailer")
	p.until("the fact", `document.querySelector('[data-fact=air][data-stands=true]')`)
	p.wait("a flow", func() bool {
		r := hold().Report
		return r != nil && r.FlowCm3PerMin != nil && hold().Allowance.From == "house"
	})
	// The sheet lives on beside it: what another device writes is there.
	other := `{"id":"write-from-another","by":"Ilse","device":"other bench","stage":"first-look","text":"crust under the pump"}`
	r, err := http.Post(s.url+"/api/jobs/"+job+"/remarks", "application/json", strings.NewReader(other))
	if err != nil || r.StatusCode != http.StatusOK {
		t.Fatal(r, err)
	}
	r.Body.Close()
	p.reads(`[data-fact=remark]`, "crust under the pump")
	p.press(esc) // from within its field
	p.until("the slate to close", `!document.querySelector('aside[aria-label=Calculators]')`)
}

// A trace file dropped on the sheet becomes a finished hold, once.
func TestADroppedTraceBecomesAHold(t *testing.T) {
	t.Parallel()
	s := serve(t, "serve", "--data", t.TempDir(), "--speed", "20")
	p := open(t, s.url, 1280, 800)
	job := p.onto("Mist-blower", "")
	raw, err := os.ReadFile("../core/judge/testdata/traces/18-floor-cap-relief.csv")
	if err != nil {
		t.Fatal(err)
	}
	drop := func(name, text string) {
		content, _ := json.Marshal(text)
		p.do(chromedp.Evaluate[chromedp.Void](fmt.Sprintf(`(() => {
			const data = new DataTransfer();
			data.items.add(new File([%s], %q, { type: 'text/csv' }));
			for (const kind of ['dragover', 'drop'])
				document.querySelector('main').dispatchEvent(new DragEvent(kind, { dataTransfer: data, bubbles: true, cancelable: true }));
		})()`, content, name)))
	}
	drop("nonsense.csv", "weather,fine")
	p.refused()
	if n := len(ask[jobs.JobView](t, s, "/api/jobs/"+job).Holds); n != 0 {
		t.Fatalf("a refused file made %d holds", n)
	}
	drop("cap.csv", string(raw))
	p.until("the hold of the file", `document.querySelector('[data-dropped=false]')`)
	p.stage("call")
	p.until("its call", `document.querySelector('main [data-call]')`)
	drop("the same again.csv", string(raw))
	p.until("the hold known", `document.querySelector('[data-dropped=true]')`)
	v := ask[jobs.JobView](t, s, "/api/jobs/"+job)
	if len(v.Holds) != 1 || v.Holds[0].State != "ended" || v.Holds[0].Report.Shape != judge.ShapeFloor {
		t.Fatalf("%d holds", len(v.Holds))
	}
	out := string(fetch(t, s, "/api/holds/"+v.Holds[0].ID+"/trace.csv"))
	if strings.Count(out, "top-up") != strings.Count(string(raw), "top-up") {
		t.Error("the export has not the top-ups of the file")
	}
}
