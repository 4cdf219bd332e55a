package browser

import (
	"context"
	"encoding/json"
	"fmt"
	"path/filepath"
	"slices"
	"strings"
	"testing"
	"time"

	"github.com/chromedp/cdproto/accessibility"
	"github.com/chromedp/cdproto/cdp"
	"github.com/chromedp/cdproto/emulation"
	"github.com/chromedp/chromedp"

	"idlehiss/core/terms"
	"idlehiss/shop"
)

// named are the controls and pictures of a page as a screen reader meets them, "role: name"; one without a name fails.
func (p *page) named(screen string) []string {
	p.t.Helper()
	var tree accessibility.GetFullAXTreeResult
	p.do(chromedp.Func(func(ctx context.Context, t *chromedp.Target) (err error) {
		r, err := cdp.Call(ctx, t, accessibility.GetFullAXTree, accessibility.GetFullAXTreeParams{})
		if err == nil {
			tree = r
		}
		return err
	}))
	text := func(v *accessibility.Value) (s string) {
		if v != nil {
			_ = json.Unmarshal(v.Value, &s)
		}
		return s
	}
	wants := []string{"button", "link", "textbox", "searchbox", "spinbutton", "checkbox", "switch", "combobox", "listbox", "option", "radio", "image", "img", "timer", "navigation", "dialog"}
	var out []string
	for _, n := range tree.Nodes {
		role, name := text(n.Role), strings.TrimSpace(text(n.Name))
		if n.Ignored || !slices.Contains(wants, role) {
			continue
		}
		if name == "" {
			p.t.Errorf("%s: a %s has no name", screen, role)
		}
		out = append(out, role+": "+name)
	}
	if len(out) < 5 {
		p.t.Errorf("%s: only %d controls: %s", screen, len(out), out)
	}
	return out
}

// Screens, what opens over them, and lists: nothing serious or critical, by day, by night and in forced colours, at
// every size; every control has a name and a role.
func TestNothingSeriousAtAnySize(t *testing.T) {
	t.Parallel()
	s := serve(t, "demo", "--fresh", "--data", filepath.Join(t.TempDir(), "demo"))
	running := "/jobs/" + ask[shop.BenchView](t, s, "/api/bench").Holds[0].JobID
	job := safely(t, s, "Maren", map[string]any{"machine": "Bin carrier 4", "complaint": "loses coolant", "mark": "16"}).ID
	told(t, s, "/api/jobs/"+job+"/plan", with(wrote("Maren"), map[string]any{"school": "exactly", "gauge": "tester-two-rings", "ring": 1, "allowance": "house"}))
	begunBy(t, s, job, "12", "17") // over its limit
	p := open(t, s.url, 1280, 800)
	p.longer(10 * time.Minute)
	more := func() {
		p.click("main .thumb button", "More")
		p.reads(`[data-sheet=true]`)
	}
	for _, x := range []struct {
		path, mark string
		open       func()
	}{
		{"/", `[data-view=bench][data-ready=true]`, func() {}},
		{running + "/hold", `main [data-thumb]`, more},
		{"/jobs/" + job + "/pressurise", `[data-alarm=over-limit]`, more},
		{"/jobs/" + job + "/limit", `[data-target]`, func() {
			p.tabTo(`el.getAttribute('aria-haspopup') === 'listbox'`)
			p.press(enter)
			p.until("its alternatives", `document.querySelectorAll('[role=option]').length > 1`)
		}},
		{"/wall", `[data-view=wall]`, func() {}},
	} {
		for _, v := range sizes {
			p.do(chromedp.EmulateViewport(v[0], v[1]), chromedp.Navigate(s.url+x.path))
			p.reads(x.mark)
			x.open()
			for _, how := range []string{"day", "night", "forced"} {
				features := []*emulation.MediaFeature{}
				if how == "forced" {
					features = append(features, &emulation.MediaFeature{Name: "forced-colors", Value: "active"})
				} else {
					p.do(chromedp.Evaluate[chromedp.Void](fmt.Sprintf(`document.documentElement.dataset.theme = %q`, how)))
				}
				p.do(chromedp.Func(func(ctx context.Context, t *chromedp.Target) error {
					_, err := cdp.Call(ctx, t, emulation.SetEmulatedMedia, emulation.SetEmulatedMediaParams{Features: features})
					return err
				}))
				name := fmt.Sprint(how, " ", x.path, " at ", v)
				if how == "forced" {
					p.scan(name, "color-contrast") // the colours are the person's own, and the rule reads the page's
				} else {
					p.scan(name)
				}
			}
			p.do(chromedp.Func(func(ctx context.Context, t *chromedp.Target) error {
				_, err := cdp.Call(ctx, t, emulation.SetEmulatedMedia, emulation.SetEmulatedMediaParams{})
				return err
			}))
			if x.path != "/wall" {
				p.named(fmt.Sprint(x.path, " at ", v))
			}
		}
	}
	// By touch alone, on a phone, everything is found: the menu, the palette, the keys and settings.
	p.do(chromedp.EmulateViewport(390, 844), chromedp.Navigate(s.url))
	p.at("bench")
	p.do(chromedp.Evaluate[chromedp.Void](`document.querySelector('header [aria-controls=menu]').click()`))
	menu := p.named("the menu")
	for _, want := range []string{"button: Find", "button: Calculators", "button: Start", "button: Keys and settings", "link: Bench", "link: Book", "link: Kit", "link: Circuits"} {
		if !slices.ContainsFunc(menu, func(have string) bool { return strings.HasPrefix(have, want) }) {
			t.Errorf("on a phone there is no %q among %s", want, menu)
		}
	}
	p.scan("the menu")
	p.click("header button", "Find")
	p.reads(`[data-dialog=palette][data-ready=true]`)
	p.scan("the palette on a phone")
	p.named("the palette")
}

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
