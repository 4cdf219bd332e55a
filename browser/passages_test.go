package browser

import (
	"fmt"
	"os/exec"
	"slices"
	"testing"

	"github.com/chromedp/chromedp"

	"idlehiss/core/circuit"
	"idlehiss/core/passages"
	"idlehiss/core/terms"
	"idlehiss/jobs"
	"idlehiss/library"
	"idlehiss/trail"
)

// housing is a job on a housing with what is truly wrong with it.
type housing struct {
	c     circuit.Circuit
	tests []passages.Test
	job   jobs.JobView
	leaks string   // the part
	with  []string // flags for its options
}

// onBench begins a job, and lets one of its holds leak, as a trace that a simulated gauge took.
func onBench(t *testing.T, s *server, id, step, leaks string, options map[string]bool) housing {
	t.Helper()
	c, err := library.Circuit(id)
	if err != nil {
		t.Fatal(err)
	}
	h := housing{leaks: leaks}
	for _, o := range c.Options {
		if _, said := options[o.ID]; !said {
			options[o.ID] = o.Fitted
		}
		h.with = append(h.with, map[bool]string{true: "--with", false: "--without"}[options[o.ID]], o.ID)
	}
	h.c = c.Fitted(options)
	h.tests = passages.Tests(&h.c)
	h.job = safely(t, s, "Tomas", map[string]any{"machine": "Housing on the bench", "complaint": "after a repair", "circuit": id, "options": options})
	h.job = ticked(t, s, "Tomas", h.job, terms.StepStage("set-up")) // where there is such a step
	if step != "" {
		h.held(t, s, step, "1", leaks+"=900cm3/min")
	}
	return h
}

// held is a hold of a step, as a trace file.
func (h *housing) held(t *testing.T, s *server, step, seed string, leaks ...string) {
	t.Helper()
	args := []string{"simulate", h.c.ID, "--step", step, "--at", "250kPa", "--stroke", "40cm3", "--hold", "4min", "--seed", seed}
	args = append(args, h.with...)
	for _, x := range leaks {
		args = append(args, "--leak", x)
	}
	out, err := exec.Command(program, args...).Output()
	if err != nil {
		t.Fatalf("simulate: %v", err)
	}
	tell[jobs.DroppedView](t, s, "/api/jobs/"+h.job.ID+"/traces", with(wrote("Tomas"), map[string]any{"name": "hold.csv", "text": string(out), "step": step}))
	h.job = ask[jobs.JobView](t, s, "/api/jobs/"+h.job.ID)
}

// inHand is the test that the page has in hand.
func (p *page) inHand() string {
	p.t.Helper()
	return p.said(`document.querySelector('[data-bore-test]')?.dataset.boreTest ?? ''`)
}

// tried does the test in hand by keyboard: everything changed in its order, then where the truth lets air out. It is
// done when one more result is shown.
func (p *page) tried(h housing) (test string) {
	p.t.Helper()
	const left, done = `Number(document.querySelector('[data-changes-left]').dataset.changesLeft)`, `Number(document.querySelector('[data-bores-done]').dataset.boresDone)`
	test = p.inHand()
	i := slices.IndexFunc(h.tests, func(x passages.Test) bool { return x.ID() == test })
	if i < 0 {
		p.t.Fatalf("the test %q is none of the circuit's; the page shows\n%s", test, p.text())
	}
	for n := p.number(left); n > 0; n-- {
		p.press(enter)
		p.until("the change", fmt.Sprintf(`%s < %v`, left, n))
	}
	before, place := p.number(done), passages.PlaceOf(h.tests[i].Out[h.leaks])
	if place == "" {
		p.press("x")
	} else {
		for range 30 {
			p.press(down)
			if p.is(fmt.Sprintf(`document.querySelector('[data-bore-map]').dataset.at === %q`, place)) {
				break
			}
		}
		p.press("y")
		p.until("the place", fmt.Sprintf(`document.querySelector('[data-place=%q]').ariaPressed === 'true'`, place))
		p.press(enter)
	}
	p.until("the result", fmt.Sprintf(`%s > %v`, done, before))
	return test
}

// take takes a test in hand in place of the one that is proposed.
func (p *page) take(test string) {
	p.t.Helper()
	if p.inHand() != test {
		p.do(chromedp.Evaluate[chromedp.Void](fmt.Sprintf(`document.querySelector('[data-choose=%q]').click()`, test)))
		p.until("the test in hand", fmt.Sprintf(`document.querySelector('[data-bore-test=%q]')`, test))
	}
}

// bored goes on by keyboard until a seal is named, working stuck valves first, and answering the acts that split those
// that no test tells apart.
func (p *page) bored(h housing) {
	p.t.Helper()
	for tests := 0; !p.is(`document.querySelector('[data-bores=named]')`); tests++ {
		if tests > len(h.tests) {
			p.t.Fatalf("not named after %d tests; the page shows\n%s", tests, p.text())
		}
		p.until("a test in hand", `document.querySelector('[data-bore-test]') || document.querySelector('[data-bores=named]')`)
		if p.inHand() != "" {
			p.tried(h)
		}
		if p.is(`document.querySelector('[data-work-first]')`) {
			p.press("s")
			p.until("that it was worked", `!document.querySelector('[data-work-first]')`)
		}
	}
	named := fmt.Sprintf(`[...document.querySelectorAll('[data-bores=named]')].some((e) => e.dataset.seal === %q)`, h.leaks)
	for range h.c.Acts {
		if p.is(named) {
			break
		}
		act := p.said(`document.querySelector('[data-prove]')?.dataset.prove ?? ''`)
		i := slices.IndexFunc(h.c.Acts, func(a circuit.Act) bool { return a.ID == act })
		if i < 0 {
			break
		}
		answers := h.c.Acts[i].Answers
		k := slices.IndexFunc(answers, func(a circuit.Answer) bool { return slices.Contains(a.Points, h.leaks) })
		if k < 0 { // none points there: the one that rules out
			k = len(answers) - 1
		}
		p.do(chromedp.Evaluate[chromedp.Void](fmt.Sprintf(`document.querySelector('[data-prove=%q] [data-answer=%q]').click()`, act, answers[k].Seen)))
		p.until("the answer", fmt.Sprintf(`!document.querySelector('[data-prove=%q]')`, act))
	}
	p.until("the seal by name", named)
}

// A lift housing of each kind, from a leaking hold to the named poppet, with its options on and off, by keyboard. In
// the end everything is put back as it was found.
func TestALiftHousingFromTheCallToThePoppet(t *testing.T) {
	t.Parallel()
	s := serve(t, "serve", "--data", t.TempDir())
	p := open(t, s.url, 1280, 800)
	for _, c := range []struct {
		id, step, leaks string
		on              []string
	}{
		{"lift-housing", "ram", "drop", nil},
		{"lift-housing", "ram", "second-check", []string{"outlet-valve"}},
		{"lift-housing-sensed", "ram", "check", nil},
		{"lift-housing-sensed", "second-held", "second-poppet", []string{"third-outlet", "assist", "remote", "second-remote"}},
	} {
		options := map[string]bool{}
		for _, id := range c.on {
			options[id] = true
		}
		h := onBench(t, s, c.id, c.step, c.leaks, options)
		p.do(chromedp.Navigate(s.url + "/jobs/" + h.job.ID + "/call"))
		if i := slices.IndexFunc(h.job.Steps, func(x jobs.StepView) bool { return x.ID == c.step }); h.job.Steps[i].Outcome.Verdict != "bad" {
			t.Fatalf("%s: %s leaks, and %s is %+v", c.id, c.leaks, c.step, h.job.Steps[i].Outcome)
		}
		p.until("the call", `document.querySelector('[data-verdict=bad]')`)
		p.press("h")
		p.stage(terms.HuntStage)
		p.until("the test whose hold leaks", `document.querySelector('[data-bore-test]')`)
		before := p.inputs
		p.bored(h)
		t.Logf("%s, %s: %d inputs from the hunt to the name", c.id, c.leaks, p.inputs-before)
		p.do(chromedp.Evaluate[chromedp.Void](`document.querySelectorAll('details[data-back-left]').forEach((d) => (d.open = true))`))
		for p.is(`document.querySelector('[data-back]:not(:disabled)')`) {
			n := p.number(`Number(document.querySelector('[data-back-left]').dataset.backLeft)`)
			p.do(chromedp.Evaluate[chromedp.Void](`document.querySelector('[data-back]:not(:disabled)').click()`))
			p.until("that it is put back", fmt.Sprintf(`Number(document.querySelector('[data-back-left]')?.dataset.backLeft ?? 0) < %v`, n))
		}
		p.until("nothing to put back", `!document.querySelector('[data-back-left]')`)
		if v := ask[trail.PassagesView](t, s, "/api/jobs/"+h.job.ID+"/passages"); len(v.Back) > 0 {
			t.Errorf("%s: left as %+v", c.id, v.Back)
		}
	}
}

// What one section of a valve block showed is tried on the next, and both stand side by side.
func TestTheSameOnTheNextSection(t *testing.T) {
	t.Parallel()
	s := serve(t, "serve", "--data", t.TempDir())
	p := open(t, s.url, 1280, 800)
	h := onBench(t, s, "valve-block", "", "lock-b", map[string]bool{})
	p.do(chromedp.Navigate(s.url + "/jobs/" + h.job.ID + "/hunt"))
	p.until("the tests", `document.querySelector('[data-bore-test]')`)
	first := h.tests[slices.IndexFunc(h.tests, func(x passages.Test) bool { return x.Own == "port-a" })].ID()
	p.take(first)
	p.tried(h)
	if p.is(`document.querySelector('[data-bores=named]')`) {
		t.Fatalf("named after section A; the page shows\n%s", p.text())
	}
	p.until("the same on the next section", `document.querySelector('[data-the-same^="b-port/"]')`)
	p.do(chromedp.Evaluate[chromedp.Void](`document.querySelector('button[data-the-same^="b-port/"]')?.click()`)) // unless it is next anyway
	p.until("it in hand", `document.querySelector('[data-bore-test^="b-port/"]')`)
	second := p.tried(h)
	p.until("both side by side", fmt.Sprintf(`((a, b) => a && b && a.parentElement === b.parentElement && a.dataset.found === '' && b.dataset.found === 'tank')(document.querySelector('[data-bore-row=%q]'), document.querySelector('[data-bore-row=%q]'))`, first, second))
	p.bored(h)
}

// Air at the pulse nipple of a carburettor, which nothing should reach, is traced to the gasket of the wrong shape.
func TestAWrongGasketIsTraced(t *testing.T) {
	t.Parallel()
	s := serve(t, "serve", "--data", t.TempDir())
	p := open(t, s.url, 390, 844)
	h := onBench(t, s, "carburettor-bench", "", "wrong-metering-gasket", map[string]bool{})
	p.do(chromedp.Navigate(s.url + "/jobs/" + h.job.ID + "/hunt"))
	p.until("the tests", `document.querySelector('[data-bore-test]')`)
	// With the needle shut the metering side holds nothing: air at the pulse nipple would want two leaks.
	dry := h.tests[slices.IndexFunc(h.tests, func(x passages.Test) bool { return x.Own == "dry" })].ID()
	p.take(dry)
	for n := p.number(`Number(document.querySelector('[data-changes-left]').dataset.changesLeft)`); n > 0; n-- {
		p.press(enter)
		p.until("the change", fmt.Sprintf(`Number(document.querySelector('[data-changes-left]').dataset.changesLeft) < %v`, n))
	}
	// A plug that leaks is chosen among all parts, and taken back; the primer's side is tapped.
	p.do(chromedp.Evaluate[chromedp.Void](`((s) => { s.value = 'bulb'; s.dispatchEvent(new Event('change', { bubbles: true })); })(document.querySelector('[data-elsewhere]'))`))
	p.until("the bulb among the places", `document.querySelector('[data-place=bulb]').ariaPressed === 'true'`)
	p.do(chromedp.Evaluate[chromedp.Void](`document.querySelector('[data-place=bulb]').click()`))
	p.until("it off again", `!document.querySelector('[data-place=bulb]')`)
	p.do(chromedp.Evaluate[chromedp.Void](`document.querySelector('[data-place=purge]').click()`))
	p.until("the place", `document.querySelector('[data-place=purge]').ariaPressed === 'true'`)
	p.press(enter)
	p.until("the ways to it, the needle first", fmt.Sprintf(`document.querySelector('[data-bore-row=%q] [data-way]')?.dataset.way === 'needle'`, dry))
	p.do(chromedp.Evaluate[chromedp.Void](fmt.Sprintf(`document.querySelector('[data-take-back=%q]').click()`, dry)))
	p.until("it taken back", fmt.Sprintf(`document.querySelector('[data-bore-row=%q]').dataset.done === 'false'`, dry))
	p.bored(h)
}

// A core plug that leaks hides the casting behind it: that is said, and with a new plug the bank is held tight.
func TestACorePlugHidesTheCasting(t *testing.T) {
	t.Parallel()
	s := serve(t, "serve", "--data", t.TempDir())
	p := open(t, s.url, 1280, 800)
	h := onBench(t, s, "engine-block", "left", "left-plugs", map[string]bool{})
	p.do(chromedp.Navigate(s.url + "/jobs/" + h.job.ID + "/hunt"))
	p.until("the tests", `document.querySelector('[data-bore-test]')`)
	p.bored(h)
	p.do(chromedp.Evaluate[chromedp.Void](`document.querySelector('[data-by=looks]').click()`))
	p.ownLook("left-plugs", "soap")
	p.press("y")
	p.until("that it was seen", `document.querySelector('[data-part=left-plugs][data-seen=true]')`)
	p.do(chromedp.Navigate(s.url + "/jobs/" + h.job.ID + "/call"))
	p.until("the casting untested past the plug", `document.querySelector('[data-hidden~=left-bores][data-hidden~=left-wall]')`)
	p.do(chromedp.Navigate(s.url + "/jobs/" + h.job.ID + "/put-right"))
	p.stage("put-right")
	p.click("main details[data-school] button.btn-main", "")
	p.until("the mend", `document.querySelector('[data-proved=false]')`)
	p.do(chromedp.Navigate(s.url + "/jobs/" + h.job.ID + "/hunt"))
	p.until("the way to the hold that proves it", `document.querySelector('[data-hold-again]')`)
	p.do(chromedp.Navigate(s.url + "/jobs/" + h.job.ID + "/call"))
	p.until("nothing hidden once it is mended", `document.querySelector('[data-verdict]') && !document.querySelector('[data-hidden]')`)
	h.held(t, s, "left", "2")
	if i := slices.IndexFunc(h.job.Steps, func(x jobs.StepView) bool { return x.ID == "left" }); h.job.Steps[i].Outcome.Verdict != "good" {
		t.Errorf("the left bank with its new plug: %+v", h.job.Steps[i].Outcome)
	}
}
