package browser

import (
	"fmt"
	"math"
	"os"
	"testing"
	"time"

	"github.com/chromedp/chromedp"

	"idlehiss/core/judge"
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

// eye is what the page marks of its eye; absent: ”.
func (p *page) eye(mark string) string {
	p.t.Helper()
	return p.said(fmt.Sprintf(`document.querySelector('[data-eye]')?.dataset[%q] ?? ''`, mark))
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

// The demo's drawn gauge in place of a camera: three taps, strokes until the target is seen, the supply shut, tapped when it
// is asked for, to the call; and what was read is kept as what a camera saw.
func TestADrawnNeedleIsReadToItsCall(t *testing.T) {
	t.Parallel()
	s := serve(t, "serve", "--data", t.TempDir(), "--speed", "5")
	p := open(t, s.url, 1280, 800)
	p.begin("Bin carrier 4", "routine", "16")
	p.choose("Read on", "Drawn needle gauge on a sound loop")
	p.until("it read on that", `document.querySelector('[aria-label^="Read on: Drawn needle gauge on a sound"]')`)
	p.rigUp()
	p.press("s")
	p.stage("pressurise")
	p.press(space)
	p.until("the first stroke", `document.querySelector('[data-strokes="1"]')`)
	p.click("button", "Read it by camera")
	p.threePoints(640, 480, 192)
	p.picture("/tmp/eye-check.png")
	p.click("button", "Yes, read it")
	for n := 2; n < 60 && !p.is(`document.querySelector('[data-there=true]')`); n++ {
		p.press(space)
		p.until("the stroke", fmt.Sprintf(`document.querySelector('[data-strokes="%d"]') || document.querySelector('[data-there=true]')`, n))
		kept := p.number(`+document.querySelector('[data-eye]').dataset.kept`)
		p.until("what it shows after it", fmt.Sprintf(`+document.querySelector('[data-eye]').dataset.kept > %g + 1 || document.querySelector('[data-there=true]')`, kept))
	}
	p.press("i")
	p.stage("hold")
	p.picture("/tmp/eye-hold.png")
	p.longer(10 * time.Minute)
	for p.is(`document.querySelector('[data-call=none]')`) {
		p.until("a call, or to be asked to tap", `document.querySelector('[data-tap-due=true][data-tapping=false]') || !document.querySelector('[data-call=none]')`)
		if p.is(`document.querySelector('[data-tap-due=true][data-tapping=false]')`) {
			p.press("a")
			p.until("it is tapped", `document.querySelector('[data-tapping=true]') || !document.querySelector('[data-call=none]')`)
			p.picture("/tmp/eye-tap.png")
		}
	}
	h := testOf(t, s, p.job())()
	if len(h.Calls) == 0 || h.Calls[0].Call != judge.Tight {
		t.Errorf("called %v", h.Calls)
	}
	os.WriteFile("/tmp/eye.csv", fetch(t, s, "/api/holds/"+h.ID+"/trace.csv"), 0o644)
	fmt.Println(h.Calls, *h.IsolatedS, h.Sentence, p.eye("cutMs"))
}
