package browser

import (
	"fmt"
	"testing"

	"idlehiss/core/judge"
	"idlehiss/core/terms"
)

// How many inputs a job may take, the machine's name aside: keys, and clicks where there is none.
const (
	mostToCall    = 45
	mostToRetest  = 120
	mostCrankcase = 90
)

// A needle on a hose: from the bench to a leaking call, to the mend and the tight retest, as a person does it who
// reads only the screen: strokes, marks as they are crossed, the needle still standing when the page wants it read.
func TestALeakIsMendedAndRetestedInFewInputs(t *testing.T) {
	t.Parallel()
	s := serve(t, "serve", "--data", t.TempDir(), "--speed", "60")
	p := open(t, s.url, 1280, 800)
	p.inputs = 0
	p.begin("bin carrier 4", "", "16")
	p.rigUp()
	p.press("s")
	p.stage("pressurise")
	job := p.job()
	hold := testOf(t, s, job)
	pumped := func() {
		t.Helper()
		for n := 1; n <= 9; n++ {
			p.press(space)
			p.wait("a stroke", func() bool { h, ok := heldAt(t, s, job); return ok && h.State == terms.Pumping && h.Strokes == n })
			p.shows(hold())
			if n%3 == 0 { // 5, 10 and 15 psi
				p.press("m")
				p.wait("a crossing", func() bool { return len(hold().Points) == n/3 })
				p.shows(hold())
			}
		}
		p.press("m") // the target: now the black button shuts the supply
		p.reads(`[data-primary=shut]`)
		p.press(space)
		p.stage("hold")
		p.reads(`[data-hold=holding]`)
	}
	pumped()
	for len(hold().Points) < 30 && hold().Ring != terms.RingCut {
		p.pass(s, 20)
		had := len(hold().Points)
		p.press(space)
		p.wait("a crossing", func() bool { return len(hold().Points) > had })
		p.shows(hold())
	}
	p.reads(`[data-primary=call]`)
	p.press(space)
	p.stage("call")
	p.called("leaking")
	t.Logf("%d inputs from the bench to the call", p.inputs)
	if p.inputs > mostToCall {
		t.Errorf("%d inputs from the bench to the call; at most %d are wanted", p.inputs, mostToCall)
	}

	p.press("0")
	p.stage("put-right")
	p.press("z")
	p.until("it let down", `document.querySelector('[data-let-down]')`)
	p.click("main details[data-school] button.btn-main", "")
	p.until("the mend", `document.querySelector('[data-proved=false]')`)
	p.click("main button", "Hold it again")
	p.inputs += 2
	p.stage("pressurise")
	p.until("the retest to begin", `document.querySelector('[data-first=again] [data-primary=first]')`)
	pumped()
	for n := range 40 {
		if c := hold().Calls; len(c) > 0 && c[len(c)-1].Call == judge.Tight {
			break
		}
		p.until("the next reading wanted, or a call", `document.querySelector('[data-due]') || document.querySelector('main [data-call=tight]')`)
		p.press("r") // it stands where it stood
		p.wait(fmt.Sprint("reading ", n), func() bool { h := hold(); return len(h.Points) > 4+n || len(h.Calls) > 0 })
		p.shows(hold())
	}
	p.called("tight")
	t.Logf("%d inputs with the retest", p.inputs)
	if p.inputs > mostToRetest {
		t.Errorf("%d inputs with the retest; at most %d are wanted", p.inputs, mostToRetest)
	}
	p.press("0")
	p.stage("put-right")
	p.reads(`[data-proof=proved]:has(~ dl)`, "Lost before", "Loses now", "How sure", "psi/")
	p.until("both holds on one chart", `document.querySelectorAll('[data-pair] svg path').length === 2`)
	p.scan("a proved repair")
	p.until("the question for the cause", `document.querySelector('[data-asks]')`)
	p.click("[data-asks] button", "Tightened too far")
	p.until("the answer", `!document.querySelector('[data-asks]')`)
	p.press("z")
	p.until("it let down", `document.querySelector('[data-let-down]')`)
	p.paper(job, "?unit=bar", `.chart path[stroke-dasharray="7 4"]`, "It leaked, was mended, and is tight in the same test.", "Cause: tightened too far.", "bar/")
}
