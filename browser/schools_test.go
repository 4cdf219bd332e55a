package browser

import (
	"fmt"
	"testing"

	"github.com/chromedp/chromedp"

	"idlehiss/core/steps"
	"idlehiss/core/terms"
	"idlehiss/desk"
	"idlehiss/jobs"
)

// ready begins a job of a circuit with everything on its sheet ticked.
func ready(t *testing.T, s *server, machine, circuit string) jobs.JobView {
	t.Helper()
	return ticked(t, s, "Maren", told(t, s, "/api/jobs", with(wrote("Maren"), map[string]any{"machine": machine, "complaint": "routine", "circuit": circuit})))
}

// A plate of no regular pattern: each bolt is tapped in where it sits, by thumb or by
// key, and turned in its order.
func TestBoltsAreTappedInWhereTheySit(t *testing.T) {
	t.Parallel()
	s := serve(t, "serve", "--data", t.TempDir())
	j := ready(t, s, "Irrigation pump, its head", "cylinder-head")
	p := open(t, s.url+"/jobs/"+j.ID+"/step-nip", 390, 844)
	p.tap("Tap them in")
	const plate = `document.querySelector('svg[role=application]')`
	p.until("the plate", plate)
	set := func(n int) {
		p.t.Helper()
		p.until(fmt.Sprint(n, " set"), plate+fmt.Sprintf(`.getAttribute('aria-label').endsWith('%d set')`, n))
	}
	side := func(of string) float64 { return p.number(plate + `.getBoundingClientRect().` + of) }
	for i, at := range [][2]float64{{0.15, 0.2}, {0.85, 0.2}, {0.85, 0.8}, {0.15, 0.8}, {0.5, 0.2}} {
		p.do(chromedp.MouseClickXY(side("left")+at[0]*side("width"), side("top")+at[1]*side("height")))
		set(i + 1)
	}
	p.do(chromedp.MouseClickXY(side("left")+0.5*side("width"), side("top")+0.2*side("height"))) // on it: taken away
	set(4)
	p.tabTo(`el.getAttribute('role') === 'application'`)
	for range 5 {
		p.press(up)
	}
	p.press(enter) // near the middle, above
	set(5)
	p.scan("bolts being tapped in")
	p.tap("5 bolts: number them")
	p.reads(`[data-bolts="5"][data-done="0"]`, "1 to 5 in order")
	p.fits("bolts on the phone")
	// The sheets that would show a round are held back: a round is not lost while they are.
	p.do(chromedp.Evaluate[chromedp.Void](`(() => {
		const was = window.fetch, through = new Promise((go) => { window.through = go });
		window.fetch = (to, how) => how?.method === 'POST' ? was(to, how) : through.then(() => was(to, how)) })()`))
	for round := 1; round <= 3; round++ {
		p.press(space)
		p.kept(0)
		p.until("a round", fmt.Sprintf(`document.querySelector('[data-kept="0"] [data-done="%d"]')`, round))
	}
	p.do(chromedp.Evaluate[chromedp.Void](`window.through()`))
	p.until("three rounds on the sheet", `document.querySelector('[data-kept="3"] [data-done="3"]')`)
	p.reads(`[data-verdict=good]`, "All 5 bolts, 3 rounds")
	bolts := stepOf(t, s, j.ID, "nip").Outcome.Bolts
	if len(bolts) != 5 || bolts[4].Turn != 1 || bolts[4].X < 48 || bolts[4].X > 52 {
		t.Errorf("the one in the middle is turned first: %+v", bolts)
	}
	for _, b := range bolts { // 2 and 3 lie across from each other
		for _, c := range bolts {
			if b.Turn == 2 && c.Turn == 3 && (b.X-50)*(c.X-50) > 0 {
				t.Errorf("2 and 3 are on one side: %+v", bolts)
			}
		}
	}
}

func stepOf(t *testing.T, s *server, job, step string) jobs.StepView {
	t.Helper()
	for _, st := range ask[jobs.JobView](t, s, "/api/jobs/"+job).Steps {
		if st.ID == step {
			return st
		}
	}
	t.Fatalf("no step %s", step)
	return jobs.StepView{}
}

// A school of order is chosen on the sheet, a fault is mended by a school of repair,
// and the repair is not proved before it was held again.
func TestASchoolIsChosenAndARepairProved(t *testing.T) {
	t.Parallel()
	s := serve(t, "serve", "--data", t.TempDir(), "--speed", "20")
	j := ready(t, s, "Hedge saw", "two-stroke-crankcase")
	p := open(t, s.url+"/jobs/"+j.ID+"/limit", 1280, 800)
	p.reads(`[data-matter=signs][data-school]`, "Seals are never left sucked inward")
	p.choose("Vacuum and pressure", "pressure first")
	p.reads(`[data-matter=signs][data-school=pressure-first]`, "Bubbles find the place at once")
	p.until("its step in the spine", `document.querySelector('[aria-label="Order of work"]').innerText.includes('Pressure hold, first')`)
	p.scan("schools on the limit")
	p.do(chromedp.Navigate(s.url + "/jobs/" + j.ID + "/step-pressure-first"))
	p.stage("step-pressure-first")
	p.heldStep("Simulated low gauge, weeping", "leaking")
	told(t, s, "/api/jobs/"+j.ID+"/looks", with(wrote("Maren"), map[string]any{"part": "boot", "method": "soap", "seen": true, "class": "fault"}))
	p.do(chromedp.Navigate(s.url + "/jobs/" + j.ID + "/call"))
	p.reads(`main [data-verdict=bad]:has([data-seen="1"])`, "Leaking", "Intake boot: seen. The rest is not tested past it.")
	p.do(chromedp.Navigate(s.url + "/jobs/" + j.ID + "/put-right"))
	p.reads(`[data-stage=put-right] [data-school=smallest]`, "the smallest honest repair first", "A leak was seen here")
	p.choose("By school", "the whole part")
	p.reads(`[data-stage=put-right] [data-school=whole]`, "It costs most")
	p.scan("a repair")
	p.fits("a repair")
	p.click("button", "Part renewed")
	p.reads(`[data-proved=false]`, "Intake boot: part renewed.")
	if c := ask[jobs.JobView](t, s, "/api/jobs/"+j.ID).Call; len(c.Seen) != 0 || c.Verdict != steps.Bad {
		t.Errorf("mended, and not held again: %+v", c)
	}
	p.click("button", "Hold it again")
	p.stage("step-pressure-first")
	p.unfold("Hold it again")
	p.press(space)
	p.until("the first stroke", `document.querySelector('[data-strokes="1"]')`)
	if h := testOf(t, s, j.ID)(); h.Purpose != "retest" {
		t.Errorf("held again as a %s", h.Purpose)
	}
	if v := verdict(t, s, j.ID, "pressure-first"); v == steps.Good {
		t.Error("right before it was held")
	}
}

// A leak that was seen is the call, before anything is pumped, and stands in the book; nothing seen
// there at the next look takes it back.
func TestALeakSeenIsTheCall(t *testing.T) {
	t.Parallel()
	s := serve(t, "serve", "--data", t.TempDir())
	j := ready(t, s, "Frost fan", "cooling-header-tank")
	look := func(seen bool) {
		told(t, s, "/api/jobs/"+j.ID+"/looks", with(wrote("Maren"), map[string]any{"part": "radiator", "method": "eyes", "seen": seen, "class": map[bool]string{true: "fault"}[seen]}))
	}
	look(true)
	p := open(t, s.url+"/jobs/"+j.ID+"/call", 390, 844)
	p.reads(`main [role=status]:has([data-seen="1"])`, "Leaking", "Radiator core and end tanks: seen.")
	p.scan("a leak seen on the phone")
	p.fits("a leak seen on the phone")
	p.do(chromedp.Navigate(s.url + "/book"))
	p.at("book")
	p.reads(`[data-view=book][data-rows="1"]`, "leaking", "Radiator")
	look(false)
	p.do(chromedp.Navigate(s.url + "/jobs/" + j.ID + "/call"))
	p.stage("call")
	p.until("nothing seen", `!document.querySelector('main [data-seen="1"]')`)
}

// A sign seen before any tool moves its part up, on a phone whose network is away.
func TestASignIsTickedAtTheFirstLook(t *testing.T) {
	t.Parallel()
	s := serve(t, "serve", "--data", t.TempDir())
	j := ready(t, s, "Bin carrier 4", "cooling-header-tank")
	wire := plug(t, s)
	p := open(t, wire.url()+"/jobs/"+j.ID+"/first-look", 390, 844)
	p.stage("first-look")
	wire.set(true)
	p.alone()
	p.tap("wet carpet")
	p.kept(1)
	wire.set(false)
	p.until("the sign", `document.querySelector('[data-fact=sign][data-stands=true]')`)
	p.reads(`[data-likeliest=heater-core]`, "Likeliest now: Heater core and valve")
	p.choose("Your guess", "Water pump")
	p.wait("the guess", func() bool { return ask[jobs.JobView](t, s, "/api/jobs/"+j.ID).Hunch == "water-pump" })
	p.scan("first look on the phone")
	p.fits("first look on the phone")
	p.do(chromedp.Navigate(s.url + "/jobs/" + j.ID + "/hunt"))
	p.until("the likeliest first: the sign, then the guess", `(([a, b]) => a.innerText.startsWith('Heater core') && b.innerText.startsWith('Water pump'))([...document.querySelectorAll('main ol li')])`)
}

// Our plate leaks, and it was seen: accepted by name where it was seen, by one press; the head
// is not tested past it, and what must be done to know is said.
func TestARigsLeakIsAcceptedOnTheSheet(t *testing.T) {
	t.Parallel()
	s := serve(t, "serve", "--data", t.TempDir(), "--speed", "20")
	j := ready(t, s, "Irrigation pump, its head", "cylinder-head")
	told(t, s, "/api/jobs/"+j.ID+"/steps/nip", with(wrote("Maren"), map[string]any{"fields": map[string]string{"done": "3"}, "rows": []any{}}))
	p := open(t, s.url+"/jobs/"+j.ID+"/step-first", 1280, 800)
	p.stage("step-first")
	p.reads(`[data-stage=step-first]`, "Let down to zero, every bolt nipped")
	p.unfold("How far")
	p.choose("Pump with", "Foot pump")
	p.heldStepOpen("Simulated high gauge, weeping", "leaking")
	p.do(chromedp.Navigate(s.url + "/jobs/" + j.ID + "/hunt"))
	p.do(chromedp.Click(`[data-part=plate-joint] button`))
	p.reads(`[data-part=plate-joint] [aria-expanded=true]`, "Joint of plate and deck")
	p.press("y")
	p.reads(`[data-accepted=false]`, "Seen to leak at the rig itself: Joint of plate and deck")
	p.click("button", "It is the rig's: “First pressure” is not tested past it")
	p.reads(`[data-accepted=true]`, "accepted as the rig's")
	p.do(chromedp.Navigate(s.url + "/jobs/" + j.ID + "/call"))
	p.reads(`[data-verdict=unknown]`, "Not tested past the rig's leak, seen at joint of plate and deck: first pressure. To know:")
	p.scan("a rig accepted")
	if st := stepOf(t, s, j.ID, "first"); len(st.Accepted) != 1 || st.Ring != terms.RingDotted || len(stepOf(t, s, j.ID, "second").Waits) != 0 {
		t.Errorf("%+v", st)
	}
	p.click("button", "Undo")
	p.reads(`[data-accepted=false]`, "It is the rig's: “First pressure” is not tested past it")
}

// Right, and the complaint stands: the next steps are buttons. A hot hold says before the first
// stroke and at once what can be judged, takes a temperature, and is shown next to the first try; the
// cap's test is a job of its own, each a link on the other.
func TestRightAndTheComplaintStands(t *testing.T) {
	t.Parallel()
	s := serve(t, "serve", "--data", t.TempDir(), "--speed", "20")
	p := open(t, s.url, 1280, 800)
	job := p.onto("Bin carrier 4", "Simulated gauge on a sound loop")
	p.pump()
	p.press("i")
	p.stage("hold")
	p.called("tight")
	p.press(enter)
	p.stage("call")
	p.until("nothing is held again while this one runs", `document.querySelector('[data-next=hot]').disabled && !document.querySelector('[data-next=cap]').disabled`)
	p.scan("tight, and what next")
	tell[desk.Receipt](t, s, "/api/holds/"+testOf(t, s, job)().ID+"/events", with(wrote("Maren"), map[string]any{"kind": "release"}))
	p.click("[data-next=hot]", "Hold it hot")
	p.stage("pressurise")
	p.reads(`[data-heats]`, "no fall is judged unless its temperature is read")
	p.until("hot is chosen", `[...document.querySelectorAll('[aria-pressed=true]')].some((b) => b.innerText === 'hot')`)
	p.pump()
	p.press("i")
	p.stage("hold")
	p.until("it tells at once what it cannot", `document.querySelector('form[data-celsius=""]')`)
	if h := testOf(t, s, job)(); !h.Unread || h.Condition.Warmth != terms.Hot || h.CallAtS != nil {
		t.Errorf("unread %v, %+v, a call promised at %v", h.Unread, h.Condition, h.CallAtS)
	}
	p.do(chromedp.Focus("#celsius"))
	p.write("84,5")
	p.press(enter)
	p.until("the temperature", `document.querySelector('form[data-celsius="84.5"]')`)
	// It was warm, not hot: put right by one press.
	p.click("[data-held-under] button", "warm")
	p.until("put right", `document.querySelector('[data-held-under=warm]')`)
	p.scan("a hot hold")
	tell[desk.Receipt](t, s, "/api/holds/"+testOf(t, s, job)().ID+"/events", with(wrote("Maren"), map[string]any{"kind": "release"}))
	p.do(chromedp.Navigate(s.url + "/jobs/" + job + "/call"))
	p.until("both tries", `document.querySelector('[data-tries="2"]')`)
	p.click("[data-next=cap]", "Test the cap")
	p.until("another sheet", `document.querySelector('[data-stage]') && !location.pathname.includes('`+job+`')`)
	capJob := p.job()
	if j := ask[jobs.JobView](t, s, "/api/jobs/"+capJob); j.CircuitID != "pressure-cap" || j.Machine != "Bin carrier 4" {
		t.Errorf("%s on %s", j.CircuitID, j.Machine)
	}
	p.do(chromedp.Navigate(s.url + "/jobs/" + capJob + "/call"))
	p.until("the loop's sheet", `document.querySelector('[data-beside="1"] a').href.includes('`+job+`')`)
	p.click("[data-beside] a", "Cooling loop")
	p.until("back on it", `location.pathname.includes('`+job+`')`)
}

// Which of two conditions it is must be said before the first stroke, is clearly shown, and can be
// put right afterwards.
func TestOneOfTwoConditionsIsChosen(t *testing.T) {
	t.Parallel()
	s := serve(t, "serve", "--data", t.TempDir(), "--speed", "20")
	j := ready(t, s, "Mist-blower 3", "carburettor-bench")
	p := open(t, s.url+"/jobs/"+j.ID+"/step-cover", 1280, 800)
	p.stage("step-cover")
	const chosen = `[...document.querySelectorAll('fieldset [aria-pressed=true]')].map((b) => b.innerText).join()`
	p.until("the first of the two is proposed", chosen+` === 'with the cover off'`)
	p.unfold("How far")
	p.choose("Pump with", "Small pump")
	p.heldStepOpen("Simulated low gauge, sound", "tight")
	p.until("then the other", `[...document.querySelectorAll('fieldset:not([data-held-under]) [aria-pressed=true]')].map((b) => b.innerText).join() === 'with the cover on'`)
	p.click("[data-held-under] button", "with the cover on")
	p.until("it was the other one", `document.querySelector('[data-held-under="with the cover on"]')`)
	p.until("so the first is wanted again", `[...document.querySelectorAll('fieldset:not([data-held-under]) [aria-pressed=true]')].map((b) => b.innerText).join() === 'with the cover off'`)
	if st := stepOf(t, s, j.ID, "cover"); len(st.Pending) != 1 || st.Pending[0].ID != "cover-off" {
		t.Errorf("%+v", st.Pending)
	}
}
