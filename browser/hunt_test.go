package browser

import (
	"fmt"
	"image"
	"image/png"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"testing"
	"time"

	"github.com/chromedp/chromedp"

	"idlehiss/core/circuit"
	"idlehiss/core/terms"
	"idlehiss/desk"
	"idlehiss/jobs"
	"idlehiss/shop"
	"idlehiss/trail"
)

// hunted answers every check as a sound mechanic would whose leak is at one part, by keyboard alone, until
// the part is named, seen, and sure enough.
func (p *page) hunted(part string) { p.t.Helper(); p.huntedBy(mechanic{part: part}) }

// mechanic is who hunts: where it truly leaks, where that runs down to, and what of an act is noticed that the gauge does not tell.
type mechanic struct {
	part    string
	wet     []string
	noticed circuit.Noticed
	ready   func() // before an act
}

// huntedBy gives what was asked.
func (p *page) huntedBy(m mechanic) (asked []string) {
	p.t.Helper()
	part := m.part
	const known = `Number(document.querySelector('[data-known]').dataset.known)`
	for range 40 {
		if p.is(fmt.Sprintf(`document.querySelector('[data-named=%q][data-eyes=true]') && !document.querySelector('[data-check]')`, part)) {
			return asked
		}
		p.until("a check", `document.querySelector('[data-check]')`)
		check, err := chromedp.Run(p.ctx, chromedp.Evaluate[string](`document.querySelector('[data-check]')?.dataset.check ?? ''`))
		if err != nil {
			p.t.Fatal(err)
		}
		before := p.number(known)
		asked = append(asked, check)
		key := "s"
		kind, at, _ := strings.Cut(check, "/")
		at, _, _ = strings.Cut(at, "/")
		answer := fmt.Sprintf(`document.querySelector('[data-answer=%q]')`, m.noticed)
		switch {
		case kind == "act" && m.noticed != "" && p.is(answer):
			p.do(chromedp.Evaluate[chromedp.Void](answer + `.click()`))
			p.until("the answer", fmt.Sprintf(`%s > %v`, known, before))
			continue
		case (kind == "act" || kind == "mend") && p.is(`document.querySelector('[data-act=off]')`):
			if m.ready != nil {
				m.ready()
			}
			p.press("w")
			p.until("the act to be on", `document.querySelector('[data-act=on]')`)
			// How long an act is watched depends on the gauge's noise: some take minutes of the server's clock.
			p.wait("what it does", func() bool {
				return p.is(`['slower', 'same', 'faster'].includes(document.querySelector('[data-act]')?.dataset.verdict)`)
			})
			p.press("w")
			p.until("the next check", fmt.Sprintf(`!document.querySelector('[data-act=on]') && document.querySelector('[data-check]')?.dataset.check !== %q && document.querySelector('[data-check]')?.dataset.check !== 'acting'`, check))
			continue
		case kind == "look" || kind == "confirm":
			key = "x"
			if slices.Contains(m.wet, at) {
				key = "a"
			} else if at == part {
				key = "y"
			}
			p.press(key)
			p.until("the answer", fmt.Sprintf(`%s > %v`, known, before))
			continue
		}
		// No hold is running, or another step or condition would be held: the next one is taken.
		p.press(key)
		p.until("another check", fmt.Sprintf(`document.querySelector('[data-check]')?.dataset.check !== %q`, check))
	}
	p.t.Fatalf("not named after these checks: %s; the page shows\n%s", asked, p.text())
	return nil
}

// ownLook chooses a suspect and a way to look at it.
func (p *page) ownLook(part, method string) {
	p.t.Helper()
	suspect := fmt.Sprintf(`document.querySelector('#suspect-%s')`, part)
	p.until("the suspect", suspect)
	p.do(chromedp.Evaluate[chromedp.Void](suspect + `.click()`))
	option := fmt.Sprintf(`document.querySelector('label select option[value=%s]')`, method)
	p.until("the way to look", option)
	p.do(chromedp.Evaluate[chromedp.Void](`((o) => { const s = o.closest('select'); s.value = o.value; s.dispatchEvent(new Event('change', { bubbles: true })); })(` + option + `)`))
	p.until("the look", fmt.Sprintf(`document.querySelector('[data-check="look/%s/%s"]')`, part, method))
}

// From the call to the named part on the map, by keyboard, past what ran down from it; a photo; the mend; what
// is left is a second hunt, done on a phone.
func TestFromLeakingToTheNamedPart(t *testing.T) {
	t.Parallel()
	s := serve(t, "serve", "--data", t.TempDir(), "--speed", "20")
	p := open(t, s.url, 1280, 800)
	job := p.onto("Frost fan", "Simulated gauge on a weeping loop")
	p.pump()
	p.press("i")
	p.called("leaking")
	p.press(enter)
	p.stage("call")
	p.until("the suspects beside the call", `document.querySelector('[data-likely]')`)
	p.press(enter)
	p.stage("hunt")
	p.scan("the hunt")
	p.press("d")
	p.until("that it dripped", `document.querySelector('[data-escape=drip]')`)
	p.huntedBy(mechanic{part: "radiator", wet: []string{"drain"}})
	p.reads(`[data-named=radiator]`, "Radiator core", "Smallest repair")
	p.until("the ring on the map", `Number(document.querySelector('[data-ring-of=radiator]').dataset.share) === Math.max(...[...document.querySelectorAll('[data-ring-of]')].map((e) => Number(e.dataset.share)))`)

	// A photo of it, shrunk in the page and kept in the book.
	file := filepath.Join(t.TempDir(), "corner.png")
	f, err := os.Create(file)
	if err != nil {
		t.Fatal(err)
	}
	if err := png.Encode(f, image.NewGray(image.Rect(0, 0, 2400, 1800))); err != nil {
		t.Fatal(err)
	}
	f.Close()
	p.do(chromedp.Evaluate[chromedp.Void](`document.querySelector('#suspect-radiator').click()`))
	p.until("the place for a photo", `document.querySelector('[data-part=radiator] input[type=file]')`)
	p.until("what raised it", `document.querySelector('[data-why=radiator] li')`)
	p.do(chromedp.SetUploadFiles(`[data-part=radiator] input[type=file]`, []string{file}))
	p.until("the photo", `document.querySelector('[data-part=radiator] [data-photos="1"] img')?.naturalWidth === 1600`)
	if paper := string(fetch(t, s, "/api/jobs/"+job+"/paper")); !strings.Contains(paper, "data:image/jpeg;base64,") {
		t.Error("the photo is not on the paper")
	}
	p.do(chromedp.Evaluate[chromedp.Void](`document.querySelector('#suspect-radiator').click()`))

	p.press(enter)
	p.stage("put-right")
	p.press("z")
	p.until("it let down", `document.querySelector('[data-let-down]')`)
	p.click("main details[data-school] button.btn-main", "")
	p.until("the mend", `document.querySelector('[data-proved=false]')`)
	p.click("main button", "Hold it again")
	p.stage("pressurise")
	p.pump()
	p.press("i")
	p.called("leaking")
	p.do(chromedp.Navigate(s.url + "/jobs/" + job + "/put-right"))
	p.stage("put-right")
	p.press("z")
	p.until("it let down again", `document.querySelector('[data-let-down]')`)
	phone := open(t, s.url+"/jobs/"+job+"/hunt", 390, 844)
	phone.reads(`[data-hunt=second]`, "still leaks after the mend", "cm³/min is left")
	phone.until("another check", `document.querySelector('[data-check]')`)
	phone.scan("the hunt on the phone")
	phone.fits("the hunt on the phone")
	if j := ask[jobs.JobView](t, s, "/api/jobs/"+job); !j.Hunt.Second || j.Suspects[0].ID == "radiator" || len(j.Photos) != 1 {
		t.Errorf("second %v, first %s, %d photos", j.Hunt.Second, j.Suspects[0].ID, len(j.Photos))
	}
	asked := phone.huntedBy(mechanic{part: "water-pump", wet: []string{"bottom-hose"}})
	if !slices.Contains(asked, "look/bottom-hose/eyes") {
		t.Errorf("the wet hose was not looked at: %s", asked)
	}
	phone.reads(`[data-named=water-pump]`, "Water pump", "Seen leaking")
}

// A head on the bench: tight at the first pressure; nipped, turned over and held at the second, a pore by soap.
func TestAPoreInAHeadIsHuntedDown(t *testing.T) {
	t.Parallel()
	s := serve(t, "serve", "--data", t.TempDir(), "--speed", "20")
	j := ready(t, s, "Irrigation pump, its head", "cylinder-head")
	nip := func() {
		told(t, s, "/api/jobs/"+j.ID+"/steps/nip", with(wrote("Maren"), map[string]any{"fields": map[string]string{"done": "3"}, "rows": []any{}}))
	}
	nip()
	p := open(t, s.url+"/jobs/"+j.ID+"/step-first", 1280, 800)
	p.stage("step-first")
	p.unfold("How far")
	p.choose("Pump with", "Foot pump")
	p.heldStepOpen("Simulated high gauge, sound", "tight")
	nip()
	p.do(chromedp.Navigate(s.url + "/jobs/" + j.ID + "/step-second"))
	p.stage("step-second")
	p.unfold("How far")
	p.choose("Pump with", "Foot pump")
	p.heldStepOpen("Simulated high gauge, weeping", "leaking")
	p.do(chromedp.Navigate(s.url + "/jobs/" + j.ID + "/hunt"))
	p.stage("hunt")
	p.ownLook("port-walls", "soap")
	p.press("y")
	p.until("the bubbles taken down", `document.querySelector('[data-part=port-walls][data-seen=true]')`)
	p.hunted("port-walls")
	p.reads(`[data-named=port-walls]`, "Walls of the ports", "Seen leaking")
}

// A train of eight whose pipe leaks at one wagon: halved with cocks while the gauge is watched, then listened to.
func TestOneWagonOfEightIsFoundByHalving(t *testing.T) {
	t.Parallel()
	s := serve(t, "serve", "--data", t.TempDir())
	j := ticked(t, s, "Maren", told(t, s, "/api/jobs", with(wrote("Maren"), map[string]any{"machine": "Fruit train", "complaint": "before running", "circuit": "train-brake",
		"things": []string{"1", "2", "3", "4", "5", "6", "7", "8"}})))
	p := open(t, s.url+"/jobs/"+j.ID+"/step-leak-brake", 1280, 800)
	p.longer(10 * time.Minute)
	p.stage("step-leak-brake")
	p.unfold("How far")
	p.choose("Read on", "Simulated high gauge, weeping")
	p.choose("Pump with", "Works air")
	p.pump()
	p.press("i")
	p.called("leaking")
	p.do(chromedp.Navigate(s.url + "/jobs/" + j.ID + "/hunt"))
	p.stage("hunt")
	// The pipe is empty after some minutes: before an act it is topped up, and watched for a while.
	start, _ := heldAt(t, s, j.ID)
	full := start.Points[len(start.Points)-1].Pa
	for _, x := range start.Points {
		full = max(full, x.Pa)
	}
	topUp := func() {
		h, _ := heldAt(t, s, j.ID)
		if h.Points[len(h.Points)-1].Pa > 0.8*full {
			return
		}
		at := "/api/holds/" + h.ID + "/events"
		p.wait("it to be full", func() bool {
			if h, _ = heldAt(t, s, j.ID); h.Points[len(h.Points)-1].Pa > 0.9*full {
				return true
			}
			tell[desk.Receipt](t, s, at, with(wrote("Maren"), map[string]any{"kind": "stroke"}))
			return false
		})
		tell[desk.Receipt](t, s, at, with(wrote("Maren"), map[string]any{"kind": "top-up"}))
		from := h.Points[len(h.Points)-1].AtS
		p.wait("some of its fall", func() bool { h, _ = heldAt(t, s, j.ID); return h.Points[len(h.Points)-1].AtS > from+20 })
		t.Logf("topped up at %.0f s, %.0f kPa at %.0f s", from, h.Points[len(h.Points)-1].Pa/1e3, h.Points[len(h.Points)-1].AtS)
	}
	p.huntedBy(mechanic{part: "brake-hoses@3", noticed: circuit.ItBubbles, ready: topUp})
	p.reads(`[data-named="brake-hoses@3"]`, "wagon 3", "Seen leaking")
}

// A crankcase under pressure first: the plate's own weep is found and accepted; under vacuum it is a seal.
func TestAPlateIsAcceptedThenASealIsFound(t *testing.T) {
	t.Parallel()
	s := serve(t, "serve", "--data", t.TempDir(), "--speed", "20")
	j := ready(t, s, "Hedge saw", "two-stroke-crankcase")
	told(t, s, "/api/jobs/"+j.ID+"/schools", with(wrote("Maren"), map[string]any{"matter": "signs", "school": "pressure-first"}))
	p := open(t, s.url+"/jobs/"+j.ID+"/step-pressure-first", 1280, 800)
	p.stage("step-pressure-first")
	p.heldStep("Simulated low gauge, weeping", "leaking")
	p.do(chromedp.Navigate(s.url + "/jobs/" + j.ID + "/hunt"))
	p.stage("hunt")
	p.hunted("exhaust")
	p.do(chromedp.Evaluate[chromedp.Void](`document.querySelector('[data-accepted=false]').click()`))
	p.until("the plate accepted, and no longer hunted", `document.querySelector('[data-accepted=true]') && !document.querySelector('[data-named]')`)
	p.do(chromedp.Navigate(s.url + "/jobs/" + j.ID + "/step-vacuum"))
	p.stage("step-vacuum")
	p.heldStep("Simulated low gauge, weeping", "leaking")
	p.do(chromedp.Navigate(s.url + "/jobs/" + j.ID + "/hunt"))
	p.stage("hunt")
	p.hunted("clutch-seal")
	p.reads(`[data-named=clutch-seal]`, "Shaft seal, clutch side", "Seen leaking")
}

// A slow weep on a phone: powder at the radiator, looked at every hour for two days but not at night, by two people in turn, then
// seen. The bench names each look as soon as it is due. How many looks two days have on this clock hangs on how busy this computer is,
// so each is held to its own hour instead.
func TestASlowWeepIsWatchedForTwoDays(t *testing.T) {
	t.Parallel()
	s := serve(t, "serve", "--data", t.TempDir(), "--speed", "1200")
	j := ready(t, s, "Bin carrier 4", "cooling-header-tank")
	p := open(t, s.url+"/jobs/"+j.ID+"/hunt", 390, 844)
	p.stage("hunt")
	p.ownLook("radiator", "powder-long")
	p.until("a slow check", `document.querySelector('[data-slow=powder-long]')`)
	p.do(chromedp.Evaluate[chromedp.Void](`document.querySelector('[data-slow]').click()`))
	p.until("the reminder", `document.querySelector('[data-fact=remind][data-stands=true]')`)
	bench := open(t, s.url, 1280, 800)
	bench.at("bench")
	reminders := func() []trail.Reminder { return ask[jobs.JobView](t, s, "/api/jobs/"+j.ID).Reminders }
	set := s.now()
	for looks := 0; len(reminders()) > 0; looks++ {
		if looks > 30 {
			t.Fatal("it comes again and again")
		}
		p.wait("it to be due", func() bool { r := reminders(); return len(r) > 0 && r[0].Due })
		if next := ask[shop.BenchView](t, s, "/api/bench").Next; len(next) == 0 || !next[0].Due || next[0].JobID != j.ID {
			t.Errorf("it is not the first on the bench: %+v", next)
		}
		was, looked := reminders()[0], s.now()
		if looks%2 == 1 {
			bench.until("the look overdue on the bench", `document.querySelector('[data-overdue=true]')`)
			told(t, s, "/api/jobs/"+j.ID+"/reminded", with(wrote("Tomas"), map[string]any{"reminder": was.ID, "saw": "dry"}))
		} else {
			p.do(chromedp.Navigate(s.url + "/jobs/" + j.ID + "/hunt"))
			p.click("[data-reminder=due] button", "Looked")
		}
		p.wait("the next look", func() bool { r := reminders(); return len(r) == 0 || r[0].DueAt.After(was.DueAt) })
		next := reminders()
		if len(next) == 0 { // an hour from now, or the next morning, is past the two days
			if left := set.Add(48 * time.Hour).Sub(s.now()); left > 12*time.Hour {
				t.Errorf("no look is due in the last %s of two days", left)
			}
			break
		}
		hour, after := next[0].DueAt.Local().Hour(), next[0].DueAt.Sub(looked)
		if hour < 7 || hour >= 21 || after < time.Hour-time.Second || next[0].DueAt.After(set.Add(48*time.Hour+time.Minute)) {
			t.Errorf("looked at %s, next at %s", looked.Local(), next[0].DueAt.Local())
		}
		if late := next[0].DueAt.Sub(s.now()); late > time.Hour && hour != 7 {
			t.Errorf("the next look by day is due after %s", late)
		}
	}
	by := map[string]bool{}
	for _, f := range ask[jobs.JobView](t, s, "/api/jobs/"+j.ID).Facts {
		by[f.By] = by[f.By] || f.Subject == terms.AboutReminder
	}
	if !by["Tomas"] || len(by) < 2 {
		t.Errorf("looked by %v", by)
	}
	p.do(chromedp.Navigate(s.url + "/jobs/" + j.ID + "/hunt"))
	p.ownLook("radiator", "powder-long")
	p.do(chromedp.Evaluate[chromedp.Void](`[...document.querySelectorAll('[data-check] button')].find((b) => b.classList.contains('btn-main')).click()`))
	p.until("it is seen", `document.querySelector('[data-part=radiator][data-seen=true]')`)
	p.fits("a slow weep on the phone")
}
