package browser

import (
	"context"
	"fmt"
	"path/filepath"
	"slices"
	"strings"
	"testing"
	"time"

	"github.com/chromedp/cdproto/cdp"
	"github.com/chromedp/cdproto/dom"
	"github.com/chromedp/chromedp"

	"idlehiss/core/terms"
	"idlehiss/jobs"
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

// acts finds a control by its role and the beginning of its name (of a link any part: the ring beside it is read first), puts the focus on it and presses keys there.
func (p *page) acts(role, name string, keys ...string) {
	p.t.Helper()
	p.wait(fmt.Sprintf("a %s named %q", role, name), func() bool {
		for _, n := range p.tree() {
			if n.role == role && (strings.HasPrefix(n.name, name) || role == "link" && strings.Contains(n.name, name)) && n.is["disabled"] != "true" {
				_, err := chromedp.Run(p.ctx, chromedp.Func(func(ctx context.Context, t *chromedp.Target) error {
					_, err := cdp.Call(ctx, t, dom.Focus, dom.FocusParams{BackendNodeID: n.dom})
					return err
				}))
				return err == nil // else it was drawn again meanwhile
			}
		}
		return false
	})
	p.press(keys...)
}

// A whole job by what a screen reader has of it: every stage says where one is, every control is found by its role and
// its name, and says how it stands.
func TestAWholeJobByNameAndRole(t *testing.T) {
	t.Parallel()
	s := serve(t, "serve", "--data", t.TempDir(), "--speed", "20")
	p := open(t, s.url, 1280, 800)
	p.longer(3 * time.Minute)
	p.at("bench")
	p.acts("combobox", "What is on the bench?")
	p.write("Bin carrier 4")
	p.acts("combobox", "Complaint")
	p.write("loses coolant")
	p.reads(`[data-circuit=cooling-header-tank]`)
	p.acts("textbox", "Mark on the cap")
	p.write("16")
	p.acts("button", "Start the test", enter)
	p.stage(terms.FirstLook)
	job := p.job()
	sheet := func() jobs.JobView { return ask[jobs.JobView](t, s, "/api/jobs/"+job) }
	// stage waits for one, and wants its heading and the one place in the order of work that is current.
	stage := func(id terms.Stage) jobs.StageView {
		t.Helper()
		p.stage(id)
		all := sheet().Stages
		st := all[slices.IndexFunc(all, func(x jobs.StageView) bool { return x.ID == id })]
		var heading, here bool
		for _, n := range p.tree() {
			heading = heading || n.role == "heading" && n.is["level"] == "1" && n.name == st.Title
			here = here || n.role == "link" && strings.Contains(n.name, st.Title)
		}
		p.until("one current place", `document.querySelectorAll('nav [aria-current=step]').length === 1`)
		if !heading || !here {
			t.Errorf("%s: heading %t, place %t", id, heading, here)
		}
		return st
	}
	// black is the button that is told to go on, by the name that it shows.
	black := func() {
		t.Helper()
		const main = `['.thumb [data-thumb]', '.foot .btn-main', '[data-stage] .btn-main'].map((q) => [...document.querySelectorAll(q)].find((e) => e.checkVisibility() && !e.disabled)).find(Boolean)`
		p.until("a black button", main)
		p.acts("button", p.said(main+`.innerText.split('\n')[0].trim()`), enter)
	}
	ticks := func(st jobs.StageView) {
		t.Helper()
		for _, x := range st.Ticks {
			p.acts("checkbox", x.Text, space)
			p.wait("it said to be ticked", func() bool {
				return slices.ContainsFunc(p.tree(), func(n node) bool {
					return n.role == "checkbox" && n.name == x.Text && n.is["checked"] == "true"
				})
			})
		}
		p.kept(0)
	}
	stage(terms.FirstLook)
	sign := sheet().Signs[0]
	p.acts("button", sign.Title, space)
	p.wait("the sign said to be seen", func() bool {
		return slices.ContainsFunc(p.tree(), func(n node) bool { return n.role == "button" && n.name == sign.Title && n.is["pressed"] == "true" })
	})
	black()
	ticks(stage(terms.MakeSafe))
	black()
	stage(terms.KnowLimit)
	p.reads(`[data-target]`)
	black()
	ticks(stage(terms.RigUp))
	black()
	stage(terms.ProveRig)
	p.acts("button", "Skip the rig proof", enter)
	stage(terms.Pressurise)
	black()
	hold := testOf(t, s, job)
	p.wait("the hold", func() bool { _, ok := heldAt(t, s, job); return ok })
	p.shows(hold())
	p.acts("textbox", "The gauge stands at")
	p.write("16")
	p.press(enter)
	p.reads(`[data-primary=shut]`)
	black()
	stage(terms.HoldStage)
	p.reads(`[data-hold=holding]`)
	for n, psi := range []string{"14", "12", "10", "8", "6", "4", "2"} {
		if len(hold().Calls) > 0 {
			break
		}
		p.pass(s, 30)
		p.acts("textbox", "The gauge stands at")
		p.write(psi)
		p.press(enter)
		p.wait("the reading", func() bool { return len(hold().Points) == n+2 })
		p.shows(hold())
	}
	p.called("leaking")
	// What the chart draws stands in a table, the ring is named, and the call is told.
	p.acts("DisclosureTriangle", "The readings as a table", enter)
	p.wait("the readings in a table", func() bool {
		rows := 0
		for _, n := range p.tree() {
			if n.role == "row" {
				rows++
			}
		}
		return rows > len(hold().Points)-1 // its head, and all but the one before the supply was shut
	})
	black()
	stage(terms.CallStage)
	if !slices.ContainsFunc(p.tree(), func(n node) bool { return n.role == "image" && n.name != "" }) {
		t.Error("the ring of the call has no name")
	}
	black()
	stage(terms.HuntStage)
	tree := p.tree()
	for _, x := range sheet().Suspects {
		if !slices.ContainsFunc(tree, func(n node) bool { return n.role == "button" && strings.Contains(n.name, x.Title) }) {
			t.Errorf("no control is named after the suspect %s", x.Title)
		}
	}
	p.acts("button", sheet().Suspects[0].Title, enter)
	p.reads(`[data-check^=look]`)
	part := sheet().Suspects[0].ID
	p.acts("button", "Leaks here", enter)
	p.until("it named", fmt.Sprintf(`document.querySelector('[data-named=%q]')`, part))
	right := slices.IndexFunc(sheet().Stages, func(x jobs.StageView) bool { return x.ID == terms.PutRight })
	p.acts("link", sheet().Stages[right].Title, enter)
	put := stage(terms.PutRight)
	p.acts("button", "Bleed down", enter)
	p.until("it let down", `document.querySelector('[data-let-down]')`)
	ticks(put)
	black()
	stage(terms.WriteDown)
	black()
	p.until("it closed", `document.querySelector('[data-job=closed]')`)
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
