package browser

import (
	"encoding/json"
	"fmt"
	"os"
	"path/filepath"
	"strings"
	"testing"

	"github.com/chromedp/chromedp"

	"idlehiss/core/judge"
	"idlehiss/shop"
)

// violation is one rule of the accessibility scan that a page breaks.
type violation struct {
	ID, Impact, Help string
	Nodes            []struct{ HTML, FailureSummary string }
}

// scan runs axe on the page; anything serious or critical fails the test. Rules that cannot judge it are left out.
func (p *page) scan(name string, without ...string) {
	p.t.Helper()
	axe, err := os.ReadFile("../ui/node_modules/axe-core/axe.min.js")
	if err != nil {
		p.t.Fatal(err)
	}
	p.do(chromedp.Evaluate[chromedp.Void](string(axe) + ";0"))
	left, _ := json.Marshal(append([]string{}, without...))
	raw, err := chromedp.Run(p.ctx, chromedp.Evaluate[string](
		`axe.run(document, {resultTypes: ['violations'], rules: Object.fromEntries(`+string(left)+`.map((r) => [r, {enabled: false}]))}).then((r) => JSON.stringify({violations: r.violations, passes: r.passes.length}))`, chromedp.EvalAwaitPromise))
	if err != nil {
		p.t.Fatal(err)
	}
	var r struct {
		Violations []violation
		Passes     int
	}
	if err := json.Unmarshal([]byte(raw), &r); err != nil {
		p.t.Fatal(err)
	}
	if r.Passes < 10 {
		p.t.Errorf("%s: the scan looked at %d rules only", name, r.Passes)
	}
	for _, v := range r.Violations {
		if v.Impact == "serious" || v.Impact == "critical" {
			for _, n := range v.Nodes {
				p.t.Errorf("%s: %s: %s\n%s\n%s", name, v.ID, v.Help, n.HTML, n.FailureSummary)
			}
		}
	}
}

// fits fails where the page is wider than its window.
func (p *page) fits(name string) {
	p.t.Helper()
	if over := p.number(`document.documentElement.scrollWidth - window.innerWidth`); over > 0 {
		p.t.Errorf("%s: %v px wider than the screen", name, over)
	}
}

// tap clicks the first element shown whose text begins so, as a thumb does: once
// it lies still and nothing lies over it.
func (p *page) tap(text string) {
	p.t.Helper()
	q, _ := json.Marshal(text)
	find := fmt.Sprintf(`[...document.querySelectorAll('a, button, summary, label')].find((e) => e.innerText.trim().startsWith(%s) && e.getBoundingClientRect().height > 0)`, q)
	p.until("something to tap that says "+text, find)
	p.until(text+" to lie still", `(() => {
		const e = `+find+`
		e.scrollIntoView({ block: 'center' })
		const { x, y } = e.getBoundingClientRect()
		const still = window.tapAt?.e === e && window.tapAt.x === x && window.tapAt.y === y && e.contains(document.elementFromPoint(x + 12, y + 12))
		window.tapAt = { e, x, y }
		return still
	})()`)
	p.do(chromedp.MouseClickXY(p.number(`window.tapAt.x + 12`), p.number(`window.tapAt.y + 12`)))
}

// The demo shop on a phone: several holds at once, one watched to its call.
func TestHoldAndCallOnAPhone(t *testing.T) {
	t.Parallel()
	s := serve(t, "demo", "--fresh", "--data", filepath.Join(t.TempDir(), "demo"), "--speed", "5")
	p := open(t, s.url, 390, 844)
	p.until("two holds in the line-up", `document.querySelectorAll('nav[aria-label="Holds in progress"] a').length === 2`)
	p.fits("bench")
	p.tap("Frost fan, lower")
	p.stage("hold")
	p.until("the fork", fork)
	p.fits("hold")
	p.scan("hold on a phone")
	p.tap("Book")
	p.at("book")
	p.until("the line-up on the book too", `document.querySelectorAll('nav[aria-label="Holds in progress"] a').length === 2`)
	p.fits("book")
	p.tap("Kit")
	p.at("kit")
	p.tap("Logger on")
	p.reads(`[data-piece]`, "curl")
	p.fits("kit")
	// Called or not meanwhile: the stage of the call is reached from the spine either way.
	p.tap("Frost fan, lower")
	p.until("its sheet", `document.querySelector('[data-stage]')`)
	p.tap("Call it")
	p.stage("call")
	p.called("tight")
	p.reads(`main [data-call=tight]`, "Not tested: the cap")
	p.fits("call")
	p.scan("call on a phone")
	p.tap("Why, and what would change it")
	p.until("what the curve leaves", leaves)
	p.tap("Verdict by each hold school")
	p.reads(`details[open] [data-schools]`, "Five minutes, needle still")
	p.click("button.btn-main", "Bleed down")
	p.click("button.btn-main", "Bleed down")
	p.until("it let down", `document.querySelector('[data-let-down]')`)
	p.until("one hold left in the line-up", `document.querySelectorAll('nav[aria-label="Holds in progress"] a').length === 1`)
	for _, j := range ask[[]shop.BookRow](t, s, "/api/book") {
		if strings.HasPrefix(j.Machine, "Frost fan, lower") && j.Call != string(judge.Tight) {
			t.Errorf("the book says %q of the frost fan", j.Call)
		}
	}
}

// Every main view by day and by night.
func TestNothingSeriousInTheAccessibilityScan(t *testing.T) {
	t.Parallel()
	s := serve(t, "demo", "--fresh", "--data", filepath.Join(t.TempDir(), "demo"))
	running := ask[shop.BenchView](t, s, "/api/bench").Holds[0].JobID
	leaking := ""
	var carrier []string // two holds of one machine
	for _, j := range ask[[]shop.BookRow](t, s, "/api/book") {
		if j.State == "closed" && j.Call == string(judge.Leaking) {
			leaking = j.ID
		}
		if h, ok := heldAt(t, s, j.ID); ok && j.Machine == "Bin carrier 2" {
			carrier = append(carrier, h.ID)
		}
	}
	p := open(t, s.url, 1280, 800)
	for _, theme := range []string{"day", "night"} {
		p.at("bench")
		if theme == "night" {
			p.press("d")
			p.until("night", `document.documentElement.dataset.theme === 'night'`)
		}
		const whole = `[data-view][data-ready=true]`
		for _, view := range []struct{ path, mark, shows string }{
			{"/", whole, "Under pressure now"}, {"/book", whole, "Bin carrier 2"}, {"/kit", whole, "Expanding rubber"},
			{"/jobs/" + running + "/limit", `[data-target]`, "Pump to"}, {"/jobs/" + running + "/hold", `main [data-hold]`, "kPa"},
			{"/jobs/" + leaking + "/call", `main [data-call=leaking]`, "Leaking"}, {"/jobs/" + running + "/make-safe", `[data-stage=make-safe]`, "cold to the hand"}, {"/jobs/" + running + "/hunt", `[data-part]`, "Top hose"},
			{"/jobs/" + running + "/put-right", `[data-pressed]`, "still in there"}, {"/jobs/" + leaking + "/write-down", `[data-stage=write-down]`, "Print the sheet"},
			{"/jobs/" + running + "/first-look", `[data-stage=first-look]`, "topped up"}, {"/compare/" + carrier[1] + "/" + carrier[0], `[data-second=less]`, "less than the first"},
		} {
			p.do(chromedp.Navigate(s.url + view.path))
			p.reads(view.mark, view.shows)
			p.scan(theme + " " + view.path)
			p.fits(view.path)
		}
		p.press("?")
		p.reads(`[data-dialog=keys]`, "Keys never fire while you type")
		p.scan(theme + " keys")
		p.press(esc)
		p.until("the help to close", `!document.querySelector('[role=dialog]')`)
		p.press("/")
		p.until("the calculators in the palette", `document.querySelector('[data-dialog=palette][data-ready=true]')`)
		p.scan(theme + " palette")
		p.press(esc)
		p.until("the palette to close", `!document.querySelector('[role=dialog]')`)
		p.blur()
		p.press("k")
		p.click("aside button", "Stored energy")
		p.focused("slate-at")
		p.write("300 kPa")
		p.press(tab)
		p.write("6 L")
		p.reads(`[data-calculator=energy][data-told=true]`, "hard hammer blows")
		p.scan(theme + " slate")
		p.do(chromedp.Navigate(s.url))
	}
}
