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
	"idlehiss/record"
)

// violation is one rule of the accessibility scan that a page breaks.
type violation struct {
	ID, Impact, Help string
	Nodes            []struct{ HTML, FailureSummary string }
}

// scan runs axe on the page with all rules; anything serious or critical fails the test.
func (p *page) scan(name string) { p.t.Helper(); p.scanned(name, `{}`, 10) }

// scanned runs it with some of the rules, which look at no fewer places than least.
func (p *page) scanned(name, options string, least int) {
	p.t.Helper()
	if !p.is(`window.axe`) {
		axe, err := os.ReadFile("../ui/node_modules/axe-core/axe.min.js")
		if err != nil {
			p.t.Fatal(err)
		}
		p.do(chromedp.Evaluate[chromedp.Void](string(axe) + ";0"))
	}
	raw, err := chromedp.Run(p.ctx, chromedp.Evaluate[string](
		`axe.run(document, {resultTypes: ['violations'], ...`+options+`}).then((r) => JSON.stringify({violations: r.violations, passes: r.passes.length}))`, chromedp.EvalAwaitPromise))
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
	if r.Passes < least {
		p.t.Errorf("%s: only %d rules had anything to look at", name, r.Passes)
	}
	for _, v := range r.Violations {
		if v.Impact == "serious" || v.Impact == "critical" {
			for _, n := range v.Nodes {
				p.t.Errorf("%s: %s: %s\n%s\n%s", name, v.ID, v.Help, n.HTML, n.FailureSummary)
			}
		}
	}
}

// fits fails where the page is wider than its window, and names what sticks out.
func (p *page) fits(name string) {
	p.t.Helper()
	if over := p.settledAs(`(() => {
		const d = document.documentElement
		const clipped = (e) => e.parentElement !== null && e.parentElement !== document.body && (getComputedStyle(e.parentElement).overflowX !== 'visible' || clipped(e.parentElement))
		if (d.scrollWidth <= innerWidth) return ''
		const out = [...document.querySelectorAll('body *')].filter((e) => e.getBoundingClientRect().right > innerWidth + 0.5 && e.checkVisibility() && !clipped(e))
		return d.scrollWidth - innerWidth + ' px: ' + out.slice(-3).map((e) => e.tagName + ' ' + e.getAttribute('class') + ' ' + e.innerText?.slice(0, 30)).join(' | ')
	})()`, ""); over != "" {
		p.t.Errorf("%s: wider than the screen by %s", name, over)
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
	for _, j := range ask[record.BookView](t, s, "/api/book").Rows {
		if strings.HasPrefix(j.Machine, "Frost fan, lower") && j.Call != string(judge.Tight) {
			t.Errorf("the book says %q of the frost fan", j.Call)
		}
	}
}
