package browser

import (
	"fmt"
	"math"
	"slices"
	"testing"
	"time"

	"github.com/chromedp/chromedp"

	"idlehiss/core/judge"
	"idlehiss/core/runsheet"
	"idlehiss/core/trace"
	"idlehiss/holds"
	"idlehiss/jobs"
	"idlehiss/trail"
)

// point taps the live picture, at shares of its width and height.
func (p *page) point(x, y float64) {
	p.t.Helper()
	p.until("the picture to lie still", `(() => {
		const e = document.querySelector('[data-picture]')
		e.scrollIntoView({ block: 'center' })
		const { x, y, width, height } = e.getBoundingClientRect()
		const still = window.pointAt && window.pointAt.x === x && window.pointAt.y === y && window.pointAt.width === width && width > 100
		window.pointAt = { x, y, width, height }
		return still
	})()`)
	p.do(chromedp.MouseClickXY(p.number(`window.pointAt.x`)+x*p.number(`window.pointAt.width`), p.number(`window.pointAt.y`)+y*p.number(`window.pointAt.height`)))
}

// The three points of a face that stands in the middle of a picture of so many pixels, its marks at some radius, from
// seven to five o'clock.
func (p *page) threePoints(width, height, radius float64) {
	p.t.Helper()
	p.until("the first point is asked for", `document.querySelector('[data-eye=points]')`)
	p.point(0.5, 0.5)
	for _, angle := range []float64{-135, 135} {
		s, c := math.Sincos(angle * math.Pi / 180)
		p.point(0.5+radius*s/width, 0.5-radius*c/height)
	}
	p.until("a reading", `document.querySelector('[data-eye=check]:not([data-seen=""])')`)
}

// filmed begins a test on a drawn gauge, sets the eye up by three taps, pumps until the target is seen and shuts the supply.
func (p *page) filmed(gauge string) {
	p.t.Helper()
	p.begin("Bin carrier 4", "routine", "16")
	p.choose("Read on", gauge)
	p.until("it read on that", fmt.Sprintf(`document.querySelector('[aria-label^="Read on: %s"]')`, gauge))
	p.rigUp()
	p.press("s")
	p.stage("pressurise")
	p.press(space)
	p.until("the first stroke", `document.querySelector('[data-strokes="1"]')`)
	p.click("button", "Read it by camera")
	p.threePoints(640, 480, 192)
	p.click("button", "Yes, read it")
	// The needle may be seen at the target just as the pump is pressed: the press then shuts the supply.
	const enough = `document.querySelector('[data-there=true]') || document.querySelector('[data-hold=holding]')`
	for n := 2; n < 60 && !p.is(enough); n++ {
		p.press(space)
		p.until("the stroke", fmt.Sprintf(`document.querySelector('[data-strokes="%d"]') || %s`, n, enough))
		kept := p.number(`+document.querySelector('[data-eye]').dataset.kept`)
		p.until("what it shows after it", fmt.Sprintf(`+document.querySelector('[data-eye]').dataset.kept > %g || %s`, kept+1, enough))
	}
	p.press("i")
	p.stage("hold")
}

// The demo's drawn gauge in place of a camera: three taps, strokes until the target is seen, the supply shut, tapped when it
// is asked for, to the call; and what was read is kept as what a camera saw.
func TestADrawnNeedleIsReadToItsCall(t *testing.T) {
	t.Parallel()
	s := serve(t, "serve", "--data", t.TempDir(), "--speed", "5")
	p := open(t, s.url, 1280, 800)
	p.filmed("Drawn needle gauge on a sound")
	p.longer(10 * time.Minute)
	for p.is(`document.querySelector('[data-call=none]')`) {
		p.until("a call, or to be asked to tap", `document.querySelector('[data-tap-due=true][data-tapping=false]') || !document.querySelector('[data-call=none]')`)
		if p.is(`document.querySelector('[data-tap-due=true][data-tapping=false]')`) {
			p.press("a")
			p.until("it is tapped", `document.querySelector('[data-tapping=true]') || !document.querySelector('[data-call=none]')`)
		}
	}
	h := testOf(t, s, p.job())()
	if len(h.Calls) == 0 || h.Calls[0].Call != judge.Tight {
		t.Errorf("called %v", h.Calls)
	}
	if seen := slices.ContainsFunc(h.Points, func(x holds.Point) bool { return x.How == trace.Camera }); !seen || p.number(`+document.querySelector('[data-eye]').dataset.kept`) < 20 {
		t.Errorf("of %d readings none is by camera", len(h.Points))
	}
	p.scan("the eye")
	p.fits("the eye")
}

// A camera fed from a film: three taps on a phone, a leak to its call; the camera is bumped on the way, stops reading, finds the
// face by itself, and the hold shows the gap.
func TestABumpedCameraFindsItsGauge(t *testing.T) {
	t.Parallel()
	const width, height, radius = 320, 240, 96
	seen := film{width: width, height: height, radius: radius, seconds: 400, bumpedS: 45, coveredS: 6, bumpX: 14, bumpY: -9,
		share: func(s float64) float64 { return 0.44 - 0.0009*max(0, s-12) }}.draw(t)
	own := another(t, map[string]any{"use-fake-device-for-media-stream": true, "use-fake-ui-for-media-stream": true, "use-file-for-fake-video-capture": seen})
	s := serve(t, "serve", "--data", t.TempDir(), "--speed", "5")
	tell[runsheet.Gauge](t, s, "/api/kit/gauges", with(wrote("Maren"), map[string]any{"name": "Gauge at the filler", "kind": "needle", "read": 0, "class": 1.6,
		"rings": []runsheet.Ring{{Unit: "bar", To: 2.5, Division: 0.05, Numbered: 0.5}}}))
	p := openIn(t, own, s.url, 1280, 800)
	p.begin("Bin carrier 7", "routine", "16")
	p.choose("Read on", "Gauge at the filler")
	p.until("it read on that", `document.querySelector('[aria-label^="Read on: Gauge at the filler"]')`)
	p.rigUp()
	p.press("s")
	p.stage("pressurise")
	p.press(space)
	p.until("the first stroke", `document.querySelector('[data-strokes="1"]')`)
	job := p.job()
	p.do(chromedp.EmulateViewport(390, 844))
	p.tap("Read it by camera")
	p.threePoints(width, height, radius)
	p.until("the lamp", `document.querySelector('[data-lamp=Camera]')`)
	p.scan("the eye on the phone")
	p.fits("the eye on the phone")
	p.tap("Yes, read it")
	p.until("readings", `+document.querySelector('[data-eye=reading]')?.dataset.kept > 1`)
	p.press("i")
	p.stage("hold")
	p.until("the bump", `+document.querySelector('[data-eye=reading]')?.dataset.lost > 0`)
	kept := p.number(`+document.querySelector('[data-eye]').dataset.kept`)
	p.until("readings again", fmt.Sprintf(`+document.querySelector('[data-eye=reading]').dataset.kept > %g`, kept+5))
	p.until("the gap", `document.querySelector('[data-gaps]')`)
	p.called("leaking")
	h := testOf(t, s, job)()
	if len(h.Gaps) == 0 || h.Gaps[0].Why != trace.Unseen.Gap() {
		t.Errorf("gaps: %v", h.Gaps)
	}
	last := math.Inf(1)
	for _, x := range h.Points { // never read beside the needle: it only falls, by the error of a picture
		if x.How != trace.Camera {
			continue
		}
		if x.Pa > last+2e3 {
			t.Errorf("at %.0f s the needle is read %.0f Pa above where it was", x.AtS, x.Pa-last)
		}
		last = min(last, x.Pa)
	}
	p.tap("Camera off")
	p.until("the lamp to go out", `!document.querySelector('[data-lamp]') && document.querySelector('[data-eye=off]')`)
	p.tap("Read it by camera") // it is remembered, and found where it is now
	p.until("a reading without a tap", `document.querySelector('[data-eye=check]:not([data-seen=""])')`)
}

// A camera that is not allowed says what to do, and a reading is typed as before.
func TestWithoutACameraReadingsAreTyped(t *testing.T) {
	t.Parallel()
	s := serve(t, "serve", "--data", t.TempDir(), "--speed", "5")
	p := open(t, s.url, 390, 844)
	p.before(`navigator.mediaDevices.getUserMedia = () => Promise.reject(new DOMException('no', 'NotAllowedError'))`)
	p.do(chromedp.Navigate(s.url))
	p.begin("Bin carrier 4", "routine", "16")
	p.rigUp()
	p.press("s")
	p.stage("pressurise")
	p.press(space)
	p.until("the first stroke", `document.querySelector('[data-strokes="1"]')`)
	p.tap("Read it by camera")
	p.until("what to do", `document.querySelector('[data-eye=refused][data-refusal=refused] [role=alert]') && !document.querySelector('[data-lamp]')`)
	p.scan("no camera")
	p.fits("no camera")
	p.fill("#figure", "8")
	p.tap("Stands at")
	p.until("the reading", `document.querySelector('[data-seq="1"]')`)
}

// hears learns the shop's noise, listens at one part, then at another until it is louder there by so many dB.
func (p *page) hears(first, then string, db float64) {
	p.t.Helper()
	choose := func(part string) {
		p.until(part+" to choose", fmt.Sprintf(`document.querySelector('#suspect-%s')`, part))
		p.do(chromedp.Evaluate[chromedp.Void](fmt.Sprintf(`document.querySelector('#suspect-%s').click()`, part)))
		p.until(part+" in hand", fmt.Sprintf(`document.querySelector('[data-check^="look/%s/"]')`, part))
	}
	choose(first)
	p.tap("Listen with this device")
	p.until("the shop's noise learned", `document.querySelector('[data-ear=listening][data-loud=false]')`)
	p.until("some hiss", `+document.querySelector('[data-ear=listening]').dataset.level > 5`)
	choose(then)
	p.until("it louder there", fmt.Sprintf(`document.querySelector('[data-ear=listening][data-loudest=%q]')?.dataset.by > %g`, then, db))
}

// A hiss that grows: it is told of the part in hand, in relation to the shop and to the other part.
func TestAHissGrowsTowardsAPart(t *testing.T) {
	t.Parallel()
	own := another(t, map[string]any{"use-fake-device-for-media-stream": true, "use-fake-ui-for-media-stream": true, "use-file-for-fake-audio-capture": hiss(t, 180, 8, 60, 36),
		"autoplay-policy": "no-user-gesture-required"})
	s := serve(t, "serve", "--data", t.TempDir(), "--speed", "20")
	p := openIn(t, own, s.url, 390, 844)
	job := safely(t, s, "Maren", map[string]any{"machine": "Frost fan", "complaint": "overheats", "mark": "1.1"}).ID
	p.do(chromedp.Navigate(s.url + "/jobs/" + job + "/hunt"))
	p.stage("hunt")
	p.hears("radiator", "water-pump", 6)
	p.until("the lamp", `document.querySelector('[data-lamp=Microphone]')`)
	p.scan("the ear on the phone")
	p.fits("the ear on the phone")
	p.tap("Hisses here")
	p.until("the look", `document.querySelector('[data-named=water-pump]')`)
	j := ask[jobs.JobView](t, s, "/api/jobs/"+job)
	i := slices.IndexFunc(j.Suspects, func(x trail.SuspectView) bool { return x.ID == "water-pump" })
	if i < 0 || len(j.Suspects[i].Seen) != 1 {
		t.Errorf("what was heard at the pump: %+v", j.Suspects[max(0, i)].Seen)
	}
	p.tap("Microphone off")
	p.until("the lamp to go out", `!document.querySelector('[data-lamp]')`)
}
