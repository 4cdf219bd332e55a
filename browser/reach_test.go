package browser

import (
	"encoding/json"
	"fmt"
	"testing"
	"time"

	"github.com/chromedp/chromedp"

	"idlehiss/core/terms"
	"idlehiss/desk"
)

// sizes are the windows in which everything is to be in reach: small and usual phone, a phone held across,
// a tablet, the bench.
var sizes = [][2]int64{{360, 640}, {390, 844}, {844, 390}, {820, 1180}, {1280, 800}}

// reach says what of the page is out of reach, too small or too close, and what makes it wider than its window;
// nothing where all is well. Targets are 44 px and 8 px apart, the black button of the bar 88 px; what a stage goes
// on by is in the window.
const reach = `(() => {
	const out = [], W = innerWidth, H = innerHeight, e = 0.6
	const shown = (n) => n.checkVisibility({ visibilityProperty: true, contentVisibilityAuto: true })
	const open = (n) => { const r = n.getBoundingClientRect(), at = document.elementFromPoint((r.left + r.right) / 2, (r.top + r.bottom) / 2); return at !== null && n.contains(at) }
	const name = (n) => (n.getAttribute('aria-label') || n.innerText || n.id || n.tagName).trim().replace(/\s+/g, ' ').slice(0, 24)
	const inside = (n) => { const r = n.getBoundingClientRect(); return r.top >= -e && r.left >= -e && r.bottom <= H + e && r.right <= W + e }
	const over = document.documentElement.scrollWidth - W
	if (over > 0) out.push(over + ' px wider than the window')
	const thumb = document.querySelector('[data-thumb]')
	const black = thumb || [...document.querySelectorAll('[data-stage] .btn-main')].find(shown)
	if (document.querySelector('[data-stage]') && !black) out.push('no black button')
	if (black && !inside(black)) out.push('the black button is outside the window')
	if (thumb && thumb.getBoundingClientRect().height < 88 - e) out.push('the black button is only ' + thumb.getBoundingClientRect().height)
	const row = document.querySelector('[data-row=reading]')
	if (row && !inside(row)) out.push('the reading row is outside the window')
	const value = document.querySelector('main [data-value]')
	if (value && scrollY === 0 && !inside(value)) out.push('the value is outside the window')
	const bar = [...document.querySelectorAll('.thumb button, .thumb input, header a, header button')].filter(shown).filter(open)
	const rest = [...document.querySelectorAll('main button, main summary, main input:not(.sr-only), main select, main a')].filter(shown)
	for (const n of [...bar, ...rest]) {
		const r = n.getBoundingClientRect()
		if (r.height < 44 - e || r.width < 44 - e) if (!n.matches('[role=checkbox]')) out.push(name(n) + ' is ' + Math.round(r.width) + ' by ' + Math.round(r.height))
	}
	const near = (all) => {
		for (const a of all) for (const b of all) {
			if (a === b || a.contains(b) || b.contains(a)) continue
			const p = a.getBoundingClientRect(), q = b.getBoundingClientRect()
			const dx = Math.max(p.left, q.left) - Math.min(p.right, q.right), dy = Math.max(p.top, q.top) - Math.min(p.bottom, q.bottom)
			// Rows of a list may touch where each is high enough to be hit without its neighbour.
			const rows = dy >= -e && dx < 0 && Math.min(p.height, q.height) >= 48 - e
			if (Math.max(dx, dy) < 8 - e && !rows) out.push(name(a) + ' and ' + name(b) + ' are ' + Math.round(Math.max(dx, dy)) + ' apart')
		}
	}
	near(bar)
	near(rest.filter((n) => !n.closest('.thumb, .foot')))
	return [...new Set(out)].slice(0, 12).join('; ')
})()`

// said is a string that the page works out.
func (p *page) said(js string) string {
	p.t.Helper()
	v, err := chromedp.Run(p.ctx, chromedp.Evaluate[string](js))
	if err != nil {
		p.t.Fatal(err)
	}
	return v
}

// settledAs waits until a string that the page works out is as wanted, and gives the last one.
func (p *page) settledAs(js, want string) string {
	p.t.Helper()
	end := time.Now().Add(20 * time.Second)
	for {
		got := p.said(js)
		if got == want || time.Now().After(end) {
			return got
		}
		time.Sleep(25 * time.Millisecond)
	}
}

// where is the place of the black button.
const where = `(() => { const r = document.querySelector('[data-thumb]').getBoundingClientRect(); return [r.left, r.top, r.width, r.height].map(Math.round).join(' ') })()`

// Everything that the thumb works is in reach, in every stage of a hold and every state of it, at five sizes
// and with text at twice its size; and the alarm moves none of it.
func TestEverythingIsInReachOfTheThumb(t *testing.T) {
	t.Parallel()
	s := serve(t, "serve", "--data", t.TempDir(), "--speed", "60")
	wire := plug(t, s)
	p := open(t, wire.url(), 1280, 800)
	post := func(path string, more map[string]any) string {
		return tell[desk.Receipt](t, s, path, with(wrote("Maren"), more)).Of
	}
	at := func(path, mark string) {
		p.do(chromedp.EmulateViewport(1280, 800), chromedp.Navigate(wire.url()+path))
		p.reads(mark)
	}
	size := func(w, h int64) {
		p.do(chromedp.EmulateViewport(w, h))
		p.until("the window", fmt.Sprintf(`innerWidth === %d && innerHeight === %d`, w, h))
	}
	places := map[string]string{}
	look := func(name string) {
		t.Helper()
		for _, v := range sizes {
			size(v[0], v[1])
			if bad := p.settledAs(reach, ""); bad != "" {
				t.Errorf("%s at %dx%d: %s", name, v[0], v[1], bad)
			}
			places[fmt.Sprint(name, v)] = p.said(where)
		}
		p.do(chromedp.Evaluate[chromedp.Void](`document.documentElement.style.fontSize = '200%'`))
		for _, v := range sizes {
			size(v[0], v[1])
			const wide = `(() => { const r = document.querySelector('[data-thumb]').getBoundingClientRect(); return document.documentElement.scrollWidth > innerWidth ? 'wider by ' + (document.documentElement.scrollWidth - innerWidth) : r.bottom > innerHeight + 1 || r.top < 0 ? "the black button is outside: " + Math.round(r.top) + " " + Math.round(r.bottom) + " scrolled " + scrollY : '' })()`
			if bad := p.settledAs(wide, ""); bad != "" {
				t.Errorf("%s at %dx%d and twice the text: %s", name, v[0], v[1], bad)
			}
		}
		p.do(chromedp.Evaluate[chromedp.Void](`document.documentElement.style.fontSize = ''`))
		size(1280, 800)
	}
	job := safely(t, s, "Maren", map[string]any{"machine": "Bin carrier 4, lower orchard", "complaint": "loses coolant since the spring", "mark": "16"}).ID
	sheet := "/jobs/" + job
	at(sheet+"/prove", `[data-primary=first]`)
	look("proof to begin")
	proof := post("/api"+sheet+"/holds", map[string]any{"purpose": terms.RigProof})
	post("/api/holds/"+proof+"/events", map[string]any{"kind": "stroke"})
	at(sheet+"/prove", `[data-primary=stroke]`)
	look("proof pumped")
	post("/api/holds/"+proof+"/events", map[string]any{"kind": "isolate"})
	at(sheet+"/prove", `[data-primary=mark]`)
	look("proof held")
	post("/api/holds/"+proof+"/events", map[string]any{"kind": "release"})

	at(sheet+"/pressurise", `[data-primary=first]`)
	look("first stroke")
	hold := post("/api"+sheet+"/holds", map[string]any{"purpose": terms.Test})
	read := func(more map[string]any) {
		post("/api/holds/"+hold+"/readings", with(more, map[string]any{"how": "read"}))
	}
	post("/api/holds/"+hold+"/events", map[string]any{"kind": "stroke"})
	read(map[string]any{"text": "12"})
	at(sheet+"/pressurise", `[data-primary=stroke] [data-row=reading]`)
	look("pumped")
	read(map[string]any{"text": "17"})
	p.reads(`[data-primary=bleed]`)
	p.reads(`[data-alarm=over-limit]`)
	look("over the limit")
	for _, v := range sizes {
		if before, now := places[fmt.Sprint("pumped", v)], places[fmt.Sprint("over the limit", v)]; before != now {
			t.Errorf("at %dx%d the alarm moves the black button from %s to %s", v[0], v[1], before, now)
		}
	}
	read(map[string]any{"text": "16"})
	p.reads(`[data-primary=shut]`)
	look("at the target")
	post("/api/holds/"+hold+"/events", map[string]any{"kind": "isolate"})
	at(sheet+"/hold", `[data-primary=mark]`)
	p.click("main .thumb button", "More")
	p.reads(`[data-sheet=true]`)
	look("held, with everything rarer open")
	wire.set(true)
	p.alone()
	p.press(space)
	p.kept(1)
	look("held, offline")
	wire.set(false)
	p.kept(0)
	p.wait("what was kept", func() bool { h, _ := heldAt(t, s, job); return len(h.Points) == 4 })
	h, _ := heldAt(t, s, job)
	from := h.NowS - *h.IsolatedS
	p.pass(s, 200)
	for i, psi := range []string{"14", "12", "10", "8", "6", "4"} {
		read(map[string]any{"text": psi, "into": fmt.Sprintf("%.1f s", from+float64(30*(i+1)))})
	}
	p.reads(`[data-primary=call]`)
	look("called")

	saw := safely(t, s, "Maren", map[string]any{"machine": "Hedge saw", "complaint": "runs lean"})
	step := "/jobs/" + saw.ID + "/" + string(terms.StepStage("vacuum"))
	at(step, `[data-primary=first]`)
	look("a step to begin")
	hold = post("/api/jobs/"+saw.ID+"/holds", map[string]any{"purpose": terms.Test, "step": "vacuum"})
	post("/api/holds/"+hold+"/events", map[string]any{"kind": "stroke"})
	at(step, `[data-primary=stroke]`)
	look("a step drawn down")
	post("/api/holds/"+hold+"/events", map[string]any{"kind": "isolate"})
	at(step, `[data-primary=mark]`)
	look("a step held")
	if raw, _ := json.Marshal(places); len(places) != 13*len(sizes) {
		t.Errorf("looked at %d places: %s", len(places), raw)
	}
}
