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

	"idlehiss/core/judge"
	"idlehiss/desk"
	"idlehiss/record"
	"idlehiss/shop"
	"idlehiss/trail"
)

// node is one of the page's things as a screen reader meets it.
type node struct {
	role, name string
	dom        cdp.BackendNodeID
	is         map[string]string // focused, checked, pressed, disabled, level
}

// tree is the page as a screen reader meets it.
func (p *page) tree() (out []node) {
	p.t.Helper()
	text := func(v *accessibility.Value) (s string) {
		if v != nil && json.Unmarshal(v.Value, &s) != nil {
			s = string(v.Value) // a number, or true and false
		}
		return strings.TrimSpace(s)
	}
	p.do(chromedp.Func(func(ctx context.Context, t *chromedp.Target) error {
		r, err := cdp.Call(ctx, t, accessibility.GetFullAXTree, accessibility.GetFullAXTreeParams{})
		if err != nil {
			return err
		}
		for _, n := range r.Nodes {
			if n.Ignored {
				continue
			}
			one := node{role: text(n.Role), name: text(n.Name), dom: n.BackendDOMNodeID, is: map[string]string{}}
			for _, x := range n.Properties {
				one.is[string(x.Name)] = text(x.Value)
			}
			out = append(out, one)
		}
		return nil
	}))
	return out
}

// named are the controls and pictures of a page, "role: name"; one without a name fails.
func (p *page) named(screen string) (out []string) {
	p.t.Helper()
	wants := []string{"button", "link", "textbox", "searchbox", "spinbutton", "checkbox", "switch", "combobox", "listbox", "option", "radio", "image", "img", "timer", "navigation", "dialog"}
	for _, n := range p.tree() {
		if !slices.Contains(wants, n.role) {
			continue
		}
		if n.name == "" {
			p.t.Errorf("%s: a %s has no name", screen, n.role)
		}
		out = append(out, n.role+": "+n.name)
	}
	if len(out) < 5 {
		p.t.Errorf("%s: only %d controls: %s", screen, len(out), out)
	}
	return out
}

// screen is one page with what is opened over it; mark is there once it is whole.
type screen struct {
	path, mark string
	open       func()
}

// sound scans screens at every size by day and by night, at the last in forced colours too, and meets every control
// by name and role.
func (p *page) sound(url string, screens ...screen) {
	p.t.Helper()
	p.longer(10 * time.Minute)
	media := func(features ...*emulation.MediaFeature) {
		p.do(chromedp.Func(func(ctx context.Context, t *chromedp.Target) error {
			_, err := cdp.Call(ctx, t, emulation.SetEmulatedMedia, emulation.SetEmulatedMediaParams{Features: features})
			return err
		}))
	}
	for _, x := range screens {
		for i, v := range sizes {
			p.do(chromedp.EmulateViewport(v[0], v[1]))
			if i == 0 || x.open != nil {
				p.do(chromedp.Navigate(url + x.path))
			}
			p.reads(x.mark)
			if x.open != nil {
				x.open()
			}
			if bad := p.settledAs(reach, ""); bad != "" {
				p.t.Errorf("%s at %v: %s", x.path, v, bad)
			}
			p.do(chromedp.Evaluate[chromedp.Void](`document.documentElement.style.fontSize = '200%'`))
			p.fits(fmt.Sprint(x.path, " and twice the text at ", v))
			p.do(chromedp.Evaluate[chromedp.Void](`document.documentElement.style.fontSize = ''`))
			p.scan(fmt.Sprint("day, ", x.path, " at ", v))
			p.do(chromedp.Evaluate[chromedp.Void](`document.documentElement.dataset.theme = 'night'`))
			p.scanned(fmt.Sprint("night, ", x.path, " at ", v), `{runOnly: ['cat.color']}`, 1) // only the colours are others
			p.do(chromedp.Evaluate[chromedp.Void](`document.documentElement.dataset.theme = 'day'`))
			if x.path != "/wall" {
				p.named(fmt.Sprint(x.path, " at ", v))
			}
		}
		// The colours are the person's own, and the rules of contrast would read the page's.
		media(&emulation.MediaFeature{Name: "forced-colors", Value: "active"})
		p.scanned("forced colours, "+x.path, `{rules: {'color-contrast': {enabled: false}}}`, 10)
		media()
	}
}

// A hold in every place that shows one, with what opens over it: nothing serious or critical.
func TestNothingSeriousAtAnySize(t *testing.T) {
	t.Parallel()
	s := serve(t, "demo", "--fresh", "--data", filepath.Join(t.TempDir(), "demo"))
	running := "/jobs/" + ask[shop.BenchView](t, s, "/api/bench").Holds[0].JobID
	job := safely(t, s, "Maren", map[string]any{"machine": "Bin carrier 4", "complaint": "loses coolant", "mark": "16"}).ID
	told(t, s, "/api/jobs/"+job+"/plan", with(wrote("Maren"), map[string]any{"school": "exactly", "gauge": "tester-two-rings", "ring": 1, "allowance": "house"}))
	begunBy(t, s, job, "12", "17") // over its limit
	p := open(t, s.url, 1280, 800)
	more := func() {
		p.click("main .thumb button", "More")
		p.reads(`[data-sheet=true]`)
	}
	p.sound(s.url, screen{"/", `[data-view=bench][data-ready=true]`, nil}, screen{running + "/hold", `main [data-thumb]`, more},
		screen{"/jobs/" + job + "/pressurise", `[data-alarm=over-limit]`, more}, screen{"/wall", `[data-view=wall]`, nil},
		screen{"/jobs/" + job + "/limit", `[data-target]`, func() {
			p.tabTo(`el.getAttribute('aria-haspopup') === 'listbox'`)
			p.press(enter)
			p.until("its alternatives", `document.querySelectorAll('[role=option]').length > 1`)
		}})
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

// Every other screen and stage, the calculators, the palette and the keys.
func TestNothingSeriousOnAnyScreen(t *testing.T) {
	t.Parallel()
	s := serve(t, "demo", "--fresh", "--data", filepath.Join(t.TempDir(), "demo"))
	running := "/jobs/" + ask[shop.BenchView](t, s, "/api/bench").Holds[0].JobID
	leaking, train, lift := "", "", ""
	var carrier []string // two holds of one machine
	for _, j := range ask[record.BookView](t, s, "/api/book").Rows {
		if j.State == "closed" && j.Call == string(judge.Leaking) {
			leaking = "/jobs/" + j.ID
		}
		if h, ok := heldAt(t, s, j.ID); ok && j.Machine == "Bin carrier 2" {
			carrier = append(carrier, h.ID)
		}
		if j.Machine == "Fruit train" {
			train = "/jobs/" + j.ID
		}
		if j.Machine == "Bin carrier 1, its lift" {
			lift = "/jobs/" + j.ID
		}
	}
	p := open(t, s.url, 1280, 800)
	over := func(key, mark string) func() {
		return func() {
			p.blur()
			p.press(key)
			p.reads(mark)
		}
	}
	const whole = `[data-view][data-ready=true]`
	p.sound(s.url,
		screen{"/book", whole, nil}, screen{"/kit", whole, nil}, screen{"/devices", whole, nil}, screen{"/circuits/lift-housing", `[data-map=lift-housing]`, nil},
		screen{"/handover", whole, nil}, screen{"/machines/Fruit%20train", `[data-members="5"]`, nil},
		screen{"/kit", whole, func() {
			p.click("button", "Blue cooling kit")
			p.click("[data-piece] button", "Give it back")
			p.until("what is counted out", `document.querySelector('[data-lost]')`)
		}},
		screen{running + "/first-look", `[data-in-hands]`, func() { p.unfold("In the hands of") }},
		screen{"/compare/" + carrier[1] + "/" + carrier[0], `[data-second=less]`, nil},
		screen{running + "/first-look", `[data-likeliest]`, nil}, screen{running + "/make-safe", `[data-stage=make-safe] [role=checkbox]`, nil},
		screen{running + "/rig", `[data-stage=rig] [role=checkbox]`, nil}, screen{running + "/prove", `[data-stage=prove] main [data-hold], [data-stage=prove] [data-hold]`, nil},
		screen{leaking + "/call", `main [data-call=leaking]`, nil}, screen{running + "/hunt", `[data-part]`, nil},
		screen{lift + "/hunt", `[data-bore-test]`, nil},
		screen{lift + "/hunt", `[data-bore-test]`, func() {
			p.do(chromedp.Evaluate[chromedp.Void](`document.querySelector('[data-choose]').click()`))
			p.until("a test with changes", `document.querySelector('[data-bore-test]:not([data-changes-left="0"])')`)
		}},
		screen{lift + "/hunt", `[data-bore-map]`, func() {
			if v := ask[trail.PassagesView](t, s, "/api"+lift+"/passages"); v.Hand != "" {
				tell[desk.Receipt](t, s, "/api"+lift+"/tried", with(wrote("Tomas"), map[string]any{"test": v.Hand, "places": []string{"sump"}, "worked": false, "undone": false}))
			}
			p.until("what leaks, to be worked first", `document.querySelector('[data-bores=named]') && document.querySelector('[data-work-first]')`)
		}},
		screen{running + "/put-right", `[data-pressed]`, nil}, screen{leaking + "/write-down", `[data-outstanding]`, nil},
		screen{train + "/call", `[data-verdict]`, nil}, screen{train + "/step-emergency-front", `[data-stage=step-emergency-front]`, nil}, screen{train + "/step-continuity", `[data-stage=step-continuity] [aria-pressed=true]`, nil},
		screen{"/", whole, over("?", `[data-dialog=keys]`)}, screen{"/", whole, over("/", `[data-dialog=palette][data-ready=true]`)},
		screen{"/", whole, func() {
			over("k", `aside`)()
			p.click("aside button", "Stored energy")
			p.focused("slate-at")
			p.write("300 kPa")
			p.press(tab)
			p.write("6 L")
			p.reads(`[data-calculator=energy][data-told=true]`)
		}})
}
