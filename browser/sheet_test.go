package browser

import (
	"fmt"
	"math"
	"strings"
	"testing"

	"github.com/chromedp/chromedp"

	"idlehiss/core/judge"
	"idlehiss/core/terms"
	"idlehiss/jobs"
	"idlehiss/record"
)

// What is wrong is said at the field, and nothing that was typed is lost; keys never
// fire while typing, and single letters can be turned off.
func TestWrongInputIsSaidWhereItStands(t *testing.T) {
	t.Parallel()
	s := serve(t, "serve", "--data", t.TempDir(), "--speed", "20")
	p := open(t, s.url, 1280, 800)
	p.at("bench")
	p.press("n")
	p.focused("machine")
	p.press(enter)
	p.refused()
	p.write("nkb? bin carrier") // every one of these is a key elsewhere
	p.press(tab, tab)
	p.write("banana")
	p.until("the mark refused", `document.querySelector('[data-mark=refused]')`)
	p.press(enter)
	p.focused("mark")
	if v := p.value("machine"); v != "nkb? bin carrier" {
		t.Errorf("after a refusal the machine reads %q", v)
	}
	if rows := ask[record.BookView](t, s, "/api/book").Rows; len(rows) != 0 {
		t.Errorf("a refused start left %d jobs", len(rows))
	}
	for range "banana" {
		p.press(back)
	}
	p.write("13-15")
	p.reads(`[data-decoded="13-15"]`, "13.0 to 15.0 psi")
	p.press(enter)
	p.stage("first-look")
	p.press(enter) // looked round
	p.stage("make-safe")

	p.whole()
	p.press("?")
	p.reads(`[data-dialog=keys]`, "Keys never fire while you type")
	p.tabTo(`el.getAttribute('aria-label') ?.startsWith('Single keys')`)
	p.press(space, esc)
	p.until("the help to close", `!document.querySelector('[role=dialog]')`)
	p.blur()
	p.press("c", "3")
	p.click("nav a", "Know the limit")
	p.stage("limit")
	p.press("1", "c")
	p.click("nav a", "Make safe")
	p.stage("make-safe")
	if p.is(`document.querySelector('[role=checkbox][aria-checked=true]')`) {
		t.Error("a letter fired although single keys are off")
	}
}

// The limit: the middle of a band, a later mark against an earlier one, a target over
// the limit refused without a reason and kept with one, a gauge as its face is.
func TestLimitIsArguedAtTheSheet(t *testing.T) {
	t.Parallel()
	s := serve(t, "serve", "--data", t.TempDir(), "--speed", "20")
	p := open(t, s.url, 1280, 800)
	p.begin("Hedge saw carrier", "overheats", "13-15")
	p.until("the target", `document.querySelector('[data-target="13.0 psi"]')`)
	p.choose("Pump to", "the middle of the band")
	p.until("the target", `document.querySelector('[data-target="14.0 psi"]')`)
	p.choose("Pump to", "another pressure")
	p.tabTo(`el.id === 'typed'`)
	p.write("19 psi")
	p.press(enter)
	p.refused()
	p.tabTo(`el.closest('label')?.innerText.startsWith('Reason')`)
	p.write("manual of the maker, page 12")
	p.press(enter)
	p.reads(`[data-target][data-over=true]`, "page 12")

	p.tap("Other mark")
	p.write("16")
	p.press(enter)
	p.wait("the mark put right", func() bool {
		n := 0
		for _, f := range ask[jobs.JobView](t, s, "/api/jobs/"+p.job()).Facts {
			if f.Subject == terms.AboutMark {
				n++
				if f.Against != "" {
					t.Errorf("a mark of one's own put right is held against %q", f.Against)
				}
			}
		}
		return n == 2
	})
	told(t, s, "/api/jobs/"+p.job()+"/mark", with(wrote("Ilse"), map[string]any{"text": "15", "reading": 0}))
	p.until("another's mark told against it", `document.querySelector('[data-fact=mark] [data-against]')`)

	p.tap("Describe another gauge")
	p.tabTo(`el.closest('label')?.innerText.startsWith('Name')`)
	p.write("brass tester")
	p.tap("Add this gauge")
	p.until("the new gauge read on", `document.querySelector('[aria-label^="Read on"]').innerText.includes('brass tester')`)
	p.scan("limit with an override")
}

// Two jobs at once: one laid by, walked through by the line-up's keys; a hold let
// down and repeated beside the first.
func TestLineUpAndRepeat(t *testing.T) {
	t.Parallel()
	s := serve(t, "serve", "--data", t.TempDir(), "--speed", "30")
	p := open(t, s.url, 1280, 800)
	all := []string{}
	for _, machine := range []string{"Bin carrier 1", "Bin carrier 2"} {
		p.begin(machine, "routine", "1.1")
		p.choose("Read on", "Simulated gauge on a sound loop")
		p.until("the target", `document.querySelector('[data-target^="110.0 "]')`)
		p.rigUp()
		p.press("s")
		p.stage("pressurise")
		p.pump()
		p.press("i")
		p.stage("hold")
		all = append(all, p.job())
		p.reads(`[data-hold=holding][data-laid-by=false]`) // the stage is there before the hold is
		p.press("l")
		p.reads(`[data-laid-by=true]`)
		p.press("b")
		p.reads(`[data-view=bench] [data-left=true]`, "left running")
	}
	p.until("two in the line-up", `document.querySelectorAll('nav[aria-label="Holds in progress"] a').length === 2`)
	p.press("]")
	first := p.opened()
	p.press("]")
	p.until("the other job", fmt.Sprintf(`location.pathname.startsWith('/jobs/') && !location.pathname.includes(%q)`, first))
	if second := p.opened(); !strings.Contains(strings.Join(all, " "), first) || first == second {
		t.Errorf("the line-up's keys lead to %s and %s", first, second)
	}
	p.called("tight")
	p.press("8")
	p.stage("call")
	p.called("tight")
	p.press(enter)
	p.stage("put-right")
	p.press("z")
	p.until("it let down", `document.querySelector('[data-let-down]')`)
	p.press("8", "a")
	p.stage("pressurise")
	p.reads(`[data-first=again]`, "A repeat is kept")
	p.press(space)
	p.until("the repeat's first stroke", `document.querySelector('[data-strokes="1"]')`)
	j := ask[jobs.JobView](t, s, "/api/jobs/"+p.job())
	if len(j.Holds) != 2 || j.Holds[1].Purpose != "repeat" || j.Holds[0].Calls[len(j.Holds[0].Calls)-1].Call != judge.Tight {
		t.Errorf("%d holds; the second is a %s", len(j.Holds), j.Holds[len(j.Holds)-1].Purpose)
	}
}

// A page that loses its server keeps the marks of a needle, with the moments of
// pressing, and delivers them once; a page that is closed and opened again, too.
func TestMarksPressedWithoutAServerArriveOnce(t *testing.T) {
	t.Parallel()
	s := serve(t, "serve", "--data", t.TempDir()) // its clock is the computer's, which goes on while it is off
	p := open(t, s.url, 1280, 800)
	p.begin("Frost fan", "routine", "16")
	p.rigUp()
	p.press("s")
	p.stage("pressurise")
	p.press(space)
	p.until("the first stroke", `document.querySelector('[data-strokes="1"]')`)
	p.press("i")
	p.stage("hold")
	p.reads(`[data-hold=holding]`)
	job := p.job()
	p.press(space)
	p.until("a crossing", `document.querySelectorAll('main svg path[stroke="var(--brass)"]').length >= 1`)
	p.kept(0)
	s.kill()
	p.alone()
	p.press(space)
	p.kept(1)
	const elapsed = `((m) => m[1] * 60 + Number(m[2]))(document.querySelector('main').innerText.match(/held (\d+):(\d\d)/))`
	p.until("time to go on", fmt.Sprintf("%s > %v", elapsed, p.number(elapsed)+1))
	p.press("w")
	p.kept(2)
	// The moments of pressing as the page keeps them, s from one to the other.
	pressed := p.number(`((at) => (at[1] - at[0]) / 1000)(Object.keys(localStorage).filter((k) => k.startsWith('hiss.outbox.')).sort().map((k) => Date.parse(JSON.parse(localStorage.getItem(k)).body.at)))`)
	// The page is closed before the server is back.
	p.do(chromedp.Navigate("about:blank"))
	s.restart()
	p.do(chromedp.Navigate(s.url + "/jobs/" + job + "/hold"))
	p.wait("what was kept to arrive", func() bool {
		h, _ := heldAt(t, s, job)
		return len(h.Points) == 2 && len(h.Events) == 3
	})
	h, _ := heldAt(t, s, job)
	// 16 psi was crossed, then pressed again for the same mark's next: 15.5; both are kept at their moments.
	if apart := h.Events[2].AtS - h.Points[1].AtS; pressed <= 0 || math.Abs(apart-pressed) > 0.01 || h.Events[2].Kind != "moved" {
		t.Errorf("%s came %.1f s after the crossing, and was pressed %.1f s after it", h.Events[2].Kind, apart, pressed)
	}
	p.until("nothing left to send", `document.querySelector('header').dataset.waiting === '0' && !Object.keys(localStorage).some((k) => k.startsWith('hiss.outbox'))`)
}
