package browser

import (
	"os"
	"path/filepath"
	"strings"
	"testing"

	"github.com/chromedp/chromedp"

	"idlehiss/holds"
	"idlehiss/record"
	"idlehiss/shop"
)

// fork is both of its sides drawn ahead of the trace.
const fork = `[...document.querySelectorAll('main svg text')].filter((e) => ['tight', 'leaking'].includes(e.textContent)).length === 2`

// TestScreenshots rewrites the pictures of the documentation from the demo shop.
// It runs where SHOTS names a folder, as `make shots` does.
func TestScreenshots(t *testing.T) {
	folder := os.Getenv("SHOTS")
	if folder == "" {
		t.Skip("pictures are made by 'make shots'")
	}
	s := serve(t, "demo", "--fresh", "--data", filepath.Join(t.TempDir(), "demo"))
	bench := ask[shop.BenchView](t, s, "/api/bench")
	held := bench.Holds[len(bench.Holds)-1].JobID // the frost fan
	rows := ask[record.BookView](t, s, "/api/book").Rows
	leaking := ""
	for _, r := range rows {
		if r.State == "closed" && r.Call == "leaking" && r.LossMLH != nil { // by one hold of a loop
			leaking = r.ID
		}
	}
	// One page at a time: a browser full of live pages draws all of them.
	var last *page
	fresh := func(url string, width, height int64) *page {
		if last != nil {
			last.do(chromedp.Navigate("about:blank"))
		}
		last = open(t, "about:blank", width, height)
		last.before(`try { localStorage.setItem('hiss.sound', 'off') } catch {}`) // a browser that nobody touches lets none through
		last.do(chromedp.Navigate(url))
		return last
	}
	shot := func(p *page, name string) {
		p.until("the line-up", `document.querySelector('nav[aria-label="Holds in progress"] a')`)
		p.picture(filepath.Join(folder, name+".png"))
	}

	p := fresh(s.url, 1280, 800)
	p.at("bench")
	p.until("live traces", `document.querySelectorAll('main svg[role=img] path').length > 4`)
	shot(p, "bench")
	p = fresh(s.url+"/jobs/"+held+"/limit", 1280, 800)
	p.until("the plan of the hold", `document.querySelector('[data-ahead]')`)
	shot(p, "limit")
	p = fresh(s.url+"/jobs/"+held+"/hold", 1280, 800)
	p.until("the fork", fork)
	shot(p, "hold")
	p = fresh(s.url+"/jobs/"+leaking+"/call", 1280, 800)
	p.called("leaking")
	shot(p, "call")
	var repaired []holds.HoldView // before and after
	for _, r := range rows {
		if r.Machine == "Bin carrier 2" {
			h, _ := heldAt(t, s, r.ID)
			repaired = append([]holds.HoldView{h}, repaired...)
		}
	}
	compare := s.url + "/compare/" + repaired[0].ID + "/" + repaired[1].ID
	p = fresh(compare, 1280, 800)
	p.until("the difference", `document.querySelector('[data-second=less]')`)
	shot(p, "compare")
	slate := func(width, height int64, name string) {
		p := fresh(s.url+"/jobs/"+held+"/hold", width, height)
		p.until("the fork", fork)
		p.click("header button", "Calculators")
		p.click("aside button", "Boiling point")
		p.focused("slate-cap")
		p.write("110 kPa")
		p.press(tab)
		p.write("62 kPa")
		p.until("an answer", `document.querySelector('[data-calculator=boiling][data-told=true]')`)
		shot(p, name)
	}
	slate(1280, 800, "slate")
	of := func(machine string) string {
		for _, r := range rows {
			if r.Machine == machine {
				return s.url + "/jobs/" + r.ID
			}
		}
		t.Fatalf("no job of %s", machine)
		return ""
	}
	p = fresh(of("Fruit train")+"/step-continuity", 1280, 800)
	p.until("what it says", `document.querySelector('[data-verdict=bad]')`)
	shot(p, "step")
	p = fresh(s.url+"/handover", 1280, 800)
	p.at("handover")
	shot(p, "handover")
	p = fresh(s.url+"/circuits/lift-housing", 1280, 800)
	p.until("its map", `document.querySelector('[data-map=lift-housing]')`)
	shot(p, "circuits")
	p = fresh(s.url+"/book", 1280, 800)
	p.at("book")
	shot(p, "book")
	p = fresh(s.url+"/jobs/"+held+"/make-safe", 1280, 800)
	p.stage("make-safe")
	shot(p, "sheet")
	p = fresh(s.url, 1280, 800)
	p.filmed("Drawn needle gauge on a weeping")
	p.until("to be asked to tap", `document.querySelector('[data-tap-due=true]')`)
	p.press("a")
	p.until("it tapped for a while", `document.querySelector('[data-tapping=true]') && +document.querySelector('[data-eye]').dataset.kept > 40`)
	p.do(chromedp.Evaluate[chromedp.Void](`scrollTo(0, 0)`))
	shot(p, "eye")
	p = fresh(s.url+"/machines/Bin%20carrier%202", 1280, 800)
	p.until("the machine", `document.querySelector('[data-view=machine] [data-losses]')`)
	shot(p, "machine")
	p = fresh(s.url+"/jobs/"+bench.Holds[0].JobID+"/hunt", 1280, 800)
	p.until("the next check", `document.querySelector('[data-check]') && document.querySelector('[data-hunt-map]')`)
	shot(p, "hunt")
	p = fresh(s.url+"/kit", 1280, 800)
	p.at("kit")
	p.click("button[aria-pressed]", "Hand tester")
	p.until("the piece", `document.querySelector('[data-piece]')`)
	shot(p, "kit")
	p = fresh(of("Bin carrier 1, its lift")+"/hunt", 1280, 800)
	p.until("the test in hand", `document.querySelector('[data-bore-test]')`)
	p.do(chromedp.Evaluate[chromedp.Void](`document.querySelector('[data-place=sump]').click()`))
	p.until("the place", `document.querySelector('[data-place=sump]').ariaPressed === 'true'`)
	shot(p, "housing")

	p = fresh("about:blank", 800, 1120)
	p.do(chromedp.Navigate(strings.Replace(of("Bin carrier 5"), "/jobs/", "/api/jobs/", 1) + "/paper?size=A4"))
	p.until("the paper", `document.querySelector('.chart path[stroke-dasharray="7 4"]')`)
	p.picture(filepath.Join(folder, "paper.png"))

	// A phone that listens.
	ears := another(t, map[string]any{"use-fake-device-for-media-stream": true, "use-fake-ui-for-media-stream": true, "use-file-for-fake-audio-capture": hiss(t, 180, 8, 60, 36),
		"autoplay-policy": "no-user-gesture-required"})
	p = openIn(t, ears, s.url+"/jobs/"+bench.Holds[0].JobID+"/hunt", 390, 844)
	p.hears("radiator", "water-pump", 6)
	shot(p, "phone-hunt")

	// A needle read by its crossings, on a clock that runs faster.
	s = serve(t, "serve", "--data", t.TempDir(), "--speed", "30")
	p = fresh(s.url, 1280, 800)
	p.begin("Mist-blower tractor", "loses coolant", "1.1")
	p.rigUp()
	p.press("s")
	p.stage("pressurise")
	job := p.job()
	hold := func() holds.HoldView {
		h, _ := heldAt(t, s, job)
		return h
	}
	crossed := func(key string) {
		had := len(hold().Points)
		p.press(key)
		p.wait("a reading", func() bool { return len(hold().Points) > had })
		p.shows(hold())
	}
	for n := 1; n <= 12; n++ {
		p.press(space)
		p.wait("a stroke", func() bool { return hold().Strokes == n })
		p.shows(hold())
		p.pass(s, 1)
		if n%4 == 0 {
			crossed("m")
		}
	}
	for range 8 {
		p.press(up)
	}
	crossed("r")
	p.press("i")
	p.stage("hold")
	for _, wait := range []float64{14, 30, 46} {
		p.pass(s, wait)
		crossed(space)
	}
	p.until("three crossings drawn", `document.querySelectorAll('main svg path[stroke="var(--brass)"]').length >= 3`)
	p.do(chromedp.EmulateViewport(390, 844), chromedp.Navigate(s.url+"/jobs/"+job+"/hold"))
	p.until("the phone", `document.querySelector('[data-thumb]') && innerWidth === 390 && document.querySelector('[data-thumb]').getBoundingClientRect().right <= 390 && document.querySelector('main svg').clientWidth < 390`)
	p.picture(filepath.Join(folder, "phone-hold.png"))
}
