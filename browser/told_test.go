package browser

import (
	"fmt"
	"path/filepath"
	"slices"
	"strings"
	"testing"

	"github.com/chromedp/chromedp"

	"idlehiss/core/terms"
)

// What the page tells who cannot see it: the stage's heading takes the focus and names the page, the way past the
// header is first, the controls of a hold have their names, and a call is told once in one polite place and in the title.
func TestAHoldIsToldWithoutLooking(t *testing.T) {
	t.Parallel()
	s := serve(t, "serve", "--data", t.TempDir(), "--speed", "20")
	job := safely(t, s, "Maren", map[string]any{"machine": "Bin carrier 4", "complaint": "loses coolant", "mark": "16"}).ID
	_, post := begunBy(t, s, job, "15")
	p := open(t, s.url+"/jobs/"+job+"/pressurise", 1280, 800)
	p.reads(`[data-primary=stroke] [data-row=reading]`)
	p.press(tab)
	p.until("the way past the header", `document.activeElement.getAttribute('href') === '#work'`)
	p.press(enter)
	p.focused("work")
	have := p.named("pumping")
	for _, want := range []string{"button: Stroke", "textbox: The gauge stands at", "button: Figure up", "button: Figure down", "button: Stands at", "button: 16.0 target", "button: More"} {
		if !slices.ContainsFunc(have, func(x string) bool { return strings.HasPrefix(x, want) }) {
			t.Errorf("while it is pumped there is no %q among %s", want, have)
		}
	}
	p.press("i")
	p.stage(terms.HoldStage)
	p.until("the focus on the heading", `document.activeElement.id === 'stage'`)
	p.until("the title", `document.title.includes('Bin carrier 4')`)
	p.reads(`[data-hold=holding]`)
	p.do(chromedp.Evaluate[chromedp.Void](`window.said = []; new MutationObserver(() => said.push(document.querySelector('[data-told]').dataset.told)).observe(document.querySelector('[data-told]'), { attributes: true, attributeFilter: ['data-told'] })`))
	p.pass(s, 200)
	for i, psi := range []string{"14", "12", "10", "8", "6", "4"} {
		post("/readings", map[string]any{"how": "read", "text": psi, "into": fmt.Sprint(30*(i+1), " s")})
	}
	p.called("leaking")
	p.until("the call in the title", `document.querySelector('[data-first=call]') && document.title.includes('Bin carrier 4')`)
	p.until("the call told", `said.filter((x) => x.startsWith('Leaking: Bin carrier 4')).length === 1`)
	// The alarm is told once, though its figure moves on.
	p.do(chromedp.Evaluate[chromedp.Void](`window.alarms = []; new MutationObserver((list) => { for (const m of list) for (const n of m.addedNodes) if (n.querySelector?.('[role=alert]') || n.closest?.('[role=alert]')) alarms.push(n.textContent) }).observe(document.body, { childList: true, subtree: true, characterData: true })`))
	for _, psi := range []string{"17", "17.5", "18"} {
		post("/readings", map[string]any{"how": "read", "text": psi})
		p.until(psi, fmt.Sprintf(`document.querySelector('[data-alarms]')?.innerText.includes('%s')`, psi))
	}
	if n := p.number(`alarms.length`); n != 1 {
		t.Errorf("the alarm was announced %v times: %s", n, p.said(`JSON.stringify(alarms)`))
	}
}

// The wall shows what is under pressure in letters that are read across a shop, and nothing to press.
func TestTheWallIsReadAcrossTheShop(t *testing.T) {
	t.Parallel()
	s := serve(t, "demo", "--fresh", "--data", filepath.Join(t.TempDir(), "demo"))
	for i := range 4 {
		job := safely(t, s, "Maren", map[string]any{"machine": fmt.Sprint("Bin carrier ", 10+i), "complaint": "routine", "mark": "16"}).ID
		begunBy(t, s, job)
	}
	p := open(t, s.url+"/wall", 1920, 1080)
	const shown = `document.querySelectorAll('[data-wall]').length`
	p.until("six holds", shown+` === 6`)
	size := func(mark string) float64 {
		return p.number(`Math.min(...[...document.querySelectorAll('[data-` + mark + `]')].map((e) => parseFloat(getComputedStyle(e).fontSize)))`)
	}
	if v, w, says := size("wall-value"), size("wall-verdict"), size("wall-says"); v < 120 || w < 64 || says < 40 {
		t.Errorf("value %v px, verdict %v, sentence %v; wanted are 120, 64 and 40", v, w, says)
	}
	for _, v := range [][2]int64{{1920, 1080}, {1280, 800}} {
		p.do(chromedp.EmulateViewport(v[0], v[1]))
		if bad := p.settledAs(`[...document.querySelectorAll('[data-wall-value], [data-wall-verdict]')].filter((e) => { const r = e.getBoundingClientRect(); return r.bottom > innerHeight || r.right > innerWidth || r.top < 0 }).length + ''`, "0"); bad != "0" {
			t.Errorf("at %dx%d %s values or verdicts are outside the window", v[0], v[1], bad)
		}
	}
	if n := p.number(`document.querySelectorAll('button, a, input').length`); n != 0 {
		t.Errorf("%v things to press on the wall", n)
	}
}
