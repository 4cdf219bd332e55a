package browser

import (
	"context"
	"fmt"
	"math"
	"strings"
	"testing"

	"github.com/chromedp/cdproto/cdp"
	"github.com/chromedp/cdproto/input"
	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"

	"idlehiss/core/terms"
	"idlehiss/desk"
	"idlehiss/jobs"
)

// keptDown presses a key, again and again as a keyboard does while it is kept down, until the page is so.
func (p *page) keptDown(name, what, js string) {
	p.t.Helper()
	p.inputs++
	k := kb.Keys[[]rune(name)[0]]
	send := func(kind input.DispatchKeyEventType, again bool) {
		e := input.DispatchKeyEventParams{Type: kind, Key: k.Key, Code: k.Code, WindowsVirtualKeyCode: k.Windows, NativeVirtualKeyCode: k.Native, AutoRepeat: &again}
		p.do(chromedp.Func(func(ctx context.Context, t *chromedp.Target) error {
			_, err := cdp.Call(ctx, t, input.DispatchKeyEvent, e)
			return err
		}))
	}
	send(input.DispatchKeyEventTypeKeyDown, false)
	for range 5 {
		send(input.DispatchKeyEventTypeKeyDown, true)
	}
	p.until(what, js)
	send(input.DispatchKeyEventTypeKeyUp, false)
}

// begunBy is a hold begun beside the browser, with one stroke and what was typed of its gauge.
func begunBy(t *testing.T, s *server, job string, typed ...string) (hold string, post func(path string, more map[string]any)) {
	t.Helper()
	of := func(path string, more map[string]any) string {
		return tell[desk.Receipt](t, s, path, with(wrote("Maren"), more)).Of
	}
	hold = of("/api/jobs/"+job+"/holds", map[string]any{"purpose": terms.Test})
	post = func(path string, more map[string]any) { t.Helper(); of("/api/holds/"+hold+path, more) }
	post("/events", map[string]any{"kind": "stroke"})
	for _, text := range typed {
		post("/readings", map[string]any{"how": "read", "text": text})
	}
	return hold, post
}

// What a person meant with one key is not taken by what was clicked last, nor by a key that is kept down: strokes are
// strokes, good readings stay, a hold is not let down by a touch, and Enter goes on after a tick and a menu.
func TestNoKeyIsStolen(t *testing.T) {
	t.Parallel()
	s := serve(t, "serve", "--data", t.TempDir(), "--speed", "20")
	job := safely(t, s, "Maren", map[string]any{"machine": "Bin carrier 4", "complaint": "loses coolant", "mark": "16"}).ID
	_, post := begunBy(t, s, job, "12")
	hold := testOf(t, s, job)
	p := open(t, s.url+"/jobs/"+job+"/pressurise", 1280, 800)
	p.reads(`[data-primary=stroke] [data-row=reading]`)
	strokes := func(n int) {
		t.Helper()
		p.wait(fmt.Sprint(n, " strokes"), func() bool { return hold().Strokes == n })
		p.shows(hold())
	}
	// Space kept down is one stroke. After any button was clicked it is still the stroke, and that button is not pressed.
	p.keptDown(space, "a stroke", `document.querySelector('[data-strokes="2"]')`)
	p.click("main .thumb button", "More")
	p.reads(`[data-sheet=true]`)
	p.tabTo(`el.closest('[data-sheet]')`)
	p.press(space)
	strokes(3)
	if h := hold(); len(h.Points) != 1 || h.FirstHeard != nil || h.State != terms.Pumping {
		t.Errorf("the button that had the focus was pressed: %s, %d readings, first heard %v", h.State, len(h.Points), h.FirstHeard)
	}
	p.blur()
	// Escape, then Space: typed and thought better of.
	p.press("g")
	p.focused("figure")
	p.write("9")
	p.press(esc, space)
	strokes(4)
	post("/readings", map[string]any{"how": "read", "text": "16"})
	p.reads(`[data-primary=shut]`)
	p.press(space)
	p.stage("hold")
	p.reads(`[data-hold=holding]`)

	// A good reading stays when Space comes after a click on Undo: it notes the next mark.
	p.press(space)
	p.until("it noted", `document.querySelector('[data-noted=true] [data-undo]')`)
	p.wait("the crossing", func() bool { return len(hold().Points) == 3 })
	p.do(chromedp.Evaluate[chromedp.Void](`document.querySelector('[data-undo]')?.focus()`))
	p.press(space)
	p.wait("the next crossing", func() bool { return len(hold().Points) == 4 })
	if h := hold(); struck(h) != 0 || h.Points[3].Pa >= h.Points[2].Pa {
		t.Errorf("%d readings are ignored, the last two are %v", struck(h), h.Points[2:])
	}
	p.shows(hold())
	// Undo takes the last in time, and nothing else.
	last := hold().Points[3].Pa
	post("/readings", map[string]any{"how": "mark", "value": 15.25})
	p.wait("it", func() bool { return len(hold().Points) == 5 })
	p.shows(hold())
	post("/undo", map[string]any{"seq": 0})
	p.wait("it undone", func() bool { return struck(hold()) == 1 })
	p.shows(hold())
	if now := hold().Points; now[3].Pa != last || now[3].Struck != "" {
		t.Errorf("undo took %+v", now)
	}
	// An undo is undone beside the value.
	p.press(back)
	p.wait("a reading undone", func() bool { return struck(hold()) == 2 })
	p.until("the way back", `document.querySelector('[data-noted=false] [data-undo]')`)
	p.click("[data-undo]", "Count it again")
	p.wait("it counted again", func() bool { return struck(hold()) == 1 })

	// A touch of Z lets nothing down; kept down for a second it does.
	p.press("z")
	p.press("w")
	p.wait("something moved", func() bool { e := hold().Events; return e[len(e)-1].Kind == "moved" })
	if h := hold(); h.State != terms.Holding {
		t.Fatalf("a touch of Z left the hold %s", h.State)
	}
	p.keptDown("z", "it let down", `document.querySelector('main [data-hold=ended]')`)

	// Enter goes on after a tick that was clicked and one that was set by key, and after a menu.
	job = told(t, s, "/api/jobs", with(wrote("Maren"), map[string]any{"machine": "Frost fan", "complaint": "routine", "mark": "16"})).ID
	p.do(chromedp.Navigate(s.url + "/jobs/" + job + "/make-safe"))
	p.stage("make-safe")
	p.tabTo(`el.getAttribute('role') === 'checkbox'`)
	p.press(space)
	p.until("a tick", `document.querySelector('[role=checkbox][aria-checked=true]')`)
	for n := 2; n <= 3; n++ {
		p.press("c")
		p.until("a tick", fmt.Sprintf(`document.querySelectorAll('[role=checkbox][aria-checked=true]').length === %d`, n))
	}
	p.press(enter)
	p.stage("limit")
	p.kept(0)
	if v := ask[jobs.JobView](t, s, "/api/jobs/"+job); !v.Stages[1].Done {
		t.Error("Enter took a tick back")
	}
	p.until("the plan", `document.querySelector('[data-target]')`)
	p.tabTo(`el.getAttribute('aria-haspopup') === 'listbox'`)
	p.press(enter)
	p.until("its alternatives", `document.querySelectorAll('[role=option]').length > 1`)
	p.press(enter)
	p.until("it to close", `!document.querySelector('[role=option]')`)
	p.until("the plan again", `[...document.querySelectorAll('button.btn-main')].some((b) => !b.disabled)`)
	p.press(enter)
	p.stage("rig")
}

// A value that was read long ago turns grey and says how old it is; the page says when to read next and then
// that it is time, in its title and to who listens too.
func TestAnOldValueSaysSo(t *testing.T) {
	t.Parallel()
	s := serve(t, "serve", "--data", t.TempDir(), "--speed", "4")
	job := safely(t, s, "Maren", map[string]any{"machine": "Bin carrier 4", "complaint": "loses coolant", "mark": "16"}).ID
	_, post := begunBy(t, s, job, "16")
	post("/events", map[string]any{"kind": "isolate"})
	p := open(t, s.url+"/jobs/"+job+"/hold", 390, 844)
	p.until("the first wanted", `document.querySelector('[data-due]')`)
	post("/readings", map[string]any{"how": "read", "text": "15.5"})
	p.until("when to read next", `document.querySelector('[data-next=early]')`)
	p.until("it to be time", `document.querySelector('[data-due]')`)
	p.until("the value old", `document.querySelector('main [data-old=true]')`)
	p.until("the title", `document.querySelector('[data-first=due]') && document.title.includes('Bin carrier 4')`)
	p.until("it told", `document.querySelector('[role=status][data-told]').dataset.told.includes('Bin carrier 4')`)
	post("/readings", map[string]any{"how": "read", "text": "15"})
	p.until("a fresh value", `document.querySelector('main [data-old=false]') && document.querySelector('[data-value="15.00"]')`)
}

// While the browser lets no sound through the page says so, and after the first touch that it does. Nothing
// moves by that.
func TestASilentBrowserIsSaid(t *testing.T) {
	t.Parallel()
	s := serve(t, "serve", "--data", t.TempDir())
	job := safely(t, s, "Maren", map[string]any{"machine": "Bin carrier 4", "complaint": "loses coolant", "mark": "16"}).ID
	begunBy(t, s, job, "12")
	p := open(t, "about:blank", 1280, 800)
	p.before(`{ const real = AudioContext; let touched = false; addEventListener('pointerdown', () => (touched = true), true); addEventListener('keydown', () => (touched = true), true)
		window.AudioContext = class extends real { #fns = []; get state() { return touched ? 'running' : 'suspended' } resume() { this.onstatechange?.(new Event('statechange')); return Promise.resolve() } } }`)
	p.do(chromedp.Navigate(s.url + "/jobs/" + job + "/pressurise"))
	p.reads(`[data-sound=blocked]`, "No sound until you touch the page")
	p.reads(`[data-primary=stroke]`)
	before := p.said(where)
	p.press(space)
	p.reads(`[data-sound=on]`, "Sound is on")
	if now := p.said(where); now != before {
		t.Errorf("the first touch moves the black button from %s to %s", before, now)
	}
}

// A reading is typed with its unit in few inputs, and a slip of paper is added with its time; what is refused
// says why at the bar.
func TestAReadingTakesFewInputs(t *testing.T) {
	t.Parallel()
	s := serve(t, "serve", "--data", t.TempDir(), "--speed", "20")
	job := safely(t, s, "Maren", map[string]any{"machine": "Bin carrier 4", "complaint": "loses coolant", "mark": "30"}).ID
	_, post := begunBy(t, s, job)
	hold := testOf(t, s, job)
	p := open(t, s.url+"/jobs/"+job+"/pressurise", 1280, 800)
	p.reads(`[data-primary=stroke] [data-row=reading]`)
	value := func(want float64) {
		t.Helper()
		p.wait(fmt.Sprint("a reading of ", want, " psi"), func() bool {
			h := hold()
			n := len(h.Points)
			return n > 0 && math.Abs(h.Points[n-1].Pa-want*6894.757) < 2
		})
		p.shows(hold())
	}
	p.inputs = 0
	p.press("g")
	p.focused("figure")
	p.write("29")
	p.press(enter)
	value(29)
	if p.inputs > 5 {
		t.Errorf("29.0 psi took %d inputs", p.inputs)
	}
	// From zero by the key that is kept down, which speeds up; then exactly.
	post("/readings", map[string]any{"how": "read", "text": "0"})
	value(0)
	p.inputs = 0
	p.keptDown(up, "2 psi and more", `Number(document.getElementById('figure').value) >= 1`)
	if got := p.number(`Number(document.getElementById('figure').value)`); got <= 6*hold().Step {
		t.Errorf("six repeats come to %v psi: they do not speed up", got)
	}
	p.press(esc, "g")
	p.focused("figure")
	p.write("2 bar")
	p.press(enter)
	value(29.0075)
	p.press("g")
	p.focused("figure")
	p.write("9 bar")
	p.press(enter)
	p.reads(`.thumb [role=alert]`, "off the face of this gauge")
	if n := len(hold().Points); n != 3 {
		t.Errorf("%d readings after one was refused", n)
	}
	p.press("i")
	p.stage("hold")
	p.reads(`[data-hold=holding]`)
	p.pass(s, 40)
	p.click("main .thumb button", "More")
	p.unfold("Add a reading from paper")
	p.tabTo(`el.id === 'slip-into'`)
	p.write("0:20")
	p.press(tab)
	p.write("28.5")
	p.press(enter)
	p.wait("the slip of paper", func() bool {
		h := hold()
		for _, x := range h.Points {
			if math.Abs(x.AtS-*h.IsolatedS-20) < 0.01 && math.Abs(x.Pa-28.5*6894.757) < 2 {
				return true
			}
		}
		return false
	})
	if text := p.text(); strings.Contains(text, "off the face") {
		t.Error("what was refused before is still said")
	}
}

// What is refused is said at the button that was pressed, on a stage without a bar too.
func TestARefusalStandsWhereItWasPressed(t *testing.T) {
	t.Parallel()
	s := serve(t, "serve", "--data", t.TempDir())
	wire := plug(t, s)
	job := safely(t, s, "Maren", map[string]any{"machine": "Bin carrier 4", "complaint": "loses coolant", "mark": "16"}).ID
	p := open(t, wire.url()+"/jobs/"+job+"/first-look", 390, 844)
	p.reads(`[data-likeliest]`)
	wire.set(true)
	p.alone()
	const sign = `[...document.querySelectorAll('main section button[aria-pressed]')].at(-1)`
	p.do(chromedp.Evaluate[chromedp.Void](sign + `.scrollIntoView({block: 'center'}); ` + sign + `.click()`))
	p.kept(1)
	told(t, s, "/api/jobs/"+job+"/close", with(wrote("Ilse"), map[string]any{"abandon": true}))
	wire.set(false)
	p.until("it said", `document.querySelector('[data-refused=here]')`)
	const apart = `(() => {
		const a = ` + sign + `.getBoundingClientRect(), b = document.querySelector('[data-refused]').parentElement.getBoundingClientRect()
		return Math.max(b.top - a.bottom, a.top - b.bottom, a.left - b.right, b.left - a.right)
	})()`
	p.until("it at the button", apart+` < 12`)
	if bad := p.said(`(() => { const r = document.querySelector('[data-refused]').parentElement.getBoundingClientRect(); return r.left >= 0 && r.right <= innerWidth && r.top >= 0 && r.bottom <= innerHeight ? '' : JSON.stringify(r) })()`); bad != "" {
		t.Errorf("the refusal is outside the window: %s", bad)
	}
	p.scan("a refusal at a button")
	p.tap("Close")
	p.until("it closed", `!document.querySelector('[data-refused]')`)
}
