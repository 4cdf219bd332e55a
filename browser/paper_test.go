package browser

import (
	"context"
	"fmt"
	"math"
	"os"
	"path/filepath"
	"testing"

	"github.com/chromedp/cdproto/cdp"
	"github.com/chromedp/cdproto/emulation"
	"github.com/chromedp/chromedp"

	"idlehiss/record"
)

// paper is a size of paper with what its margins leave, mm.
type paper struct {
	name       string
	wide, high float64
}

// papers have the margins of the page's own styles: 11 mm above and below, 13 mm at the sides.
var papers = []paper{{"A4", 210 - 2*13, 297 - 2*11}, {"letter", 215.9 - 2*13, 279.4 - 2*11}}

// pxPerMM is a style's point of the screen on paper.
const pxPerMM = 96 / 25.4

// The first page of the paper has all that a customer and a second workshop need, on A4 and Letter: of a job with a
// repair and its proof, of others of every family as far as they are one test or a few. Nothing is wider than the paper.
func TestThePaperFitsItsPage(t *testing.T) {
	t.Parallel()
	s := serve(t, "demo", "--fresh", "--data", filepath.Join(t.TempDir(), "demo"))
	usual := map[string]bool{"Bin carrier 5": true, "Sprayer tractor": true, "Hedge saw": true, "Mist-blower 3": true, "Bin carrier 4, its cap": true, "Frost fan, upper terrace": true}
	p := open(t, "about:blank", 800, 1000)
	seen := 0
	for _, r := range ask[record.BookView](t, s, "/api/book").Rows {
		if !usual[r.Machine] || r.State == "open" {
			continue
		}
		seen++
		for _, size := range papers {
			p.do(chromedp.EmulateViewport(int64(size.wide*pxPerMM), int64(size.high*pxPerMM)), chromedp.Func(func(ctx context.Context, t *chromedp.Target) error {
				_, err := cdp.Call(ctx, t, emulation.SetEmulatedMedia, emulation.SetEmulatedMediaParams{Media: "print"})
				return err
			}), chromedp.Navigate(fmt.Sprintf("%s/api/jobs/%s/paper?size=%s", s.url, r.ID, size.name)))
			p.until("the paper", `document.readyState === 'complete' && document.querySelector('.foot')`)
			at, err := chromedp.Run(p.ctx, chromedp.Evaluate[[]float64](`[document.querySelector('.foot').getBoundingClientRect().bottom, document.documentElement.scrollWidth - innerWidth]`))
			if err != nil {
				t.Fatal(err)
			}
			t.Logf("%s on %s: %.0f of %.0f mm", r.Machine, size.name, at[0]/pxPerMM, size.high)
			if at[0]/pxPerMM > math.Floor(size.high) || at[1] > 0 {
				t.Errorf("the first page of %s is %.0f mm high, and %s has %.0f; too wide by %.0f px", r.Machine, at[0]/pxPerMM, size.name, size.high, at[1])
			}
			if folder := os.Getenv("PAPERS"); folder != "" {
				p.picture(filepath.Join(folder, r.ID+"-"+size.name+".png"))
			}
		}
	}
	if seen < len(usual) {
		t.Errorf("only %d papers were looked at", seen)
	}
}

// paper opens the paper of a job: it has the mark and says the words.
func (p *page) paper(job, how, mark string, words ...string) {
	p.t.Helper()
	p.do(chromedp.Navigate(p.origin() + "/api/jobs/" + job + "/paper" + how))
	p.reads(mark, words...)
}

// origin is where the page came from.
func (p *page) origin() string {
	p.t.Helper()
	at, err := chromedp.Run(p.ctx, chromedp.Evaluate[string]("location.origin"))
	if err != nil {
		p.t.Fatal(err)
	}
	return at
}

// A carburettor's needle leaks, gets a kit, is held again and proved; whose it is stands on the paper, and the next job
// on the machine knows it.
func TestACarburettorIsProvedOnPaper(t *testing.T) {
	t.Parallel()
	s := serve(t, "serve", "--data", t.TempDir(), "--speed", "20")
	j := ready(t, s, "Mist-blower 3", "carburettor-bench")
	p := open(t, s.url+"/jobs/"+j.ID+"/first-look", 1280, 800)
	p.unfold("Customer, plate and meter")
	for _, x := range [][2]string{{"owner", "Terrace crew, Jonas"}, {"plate", "MB 3"}, {"meter", "212 h"}} {
		p.tabTo(fmt.Sprintf(`el.id === 'parties-%s'`, x[0]))
		p.write(x[1])
	}
	p.click("[data-parties] button", "Keep")
	p.until("the customer", `document.querySelector('[data-parties=true]')`)
	p.scan("a first look with its customer")
	p.do(chromedp.Navigate(s.url + "/jobs/" + j.ID + "/step-wetted"))
	p.stage("step-wetted")
	p.heldStep("Simulated low gauge, weeping", "leaking")
	told(t, s, "/api/jobs/"+j.ID+"/looks", with(wrote("Maren"), map[string]any{"part": "needle", "method": "water", "seen": true, "class": "fault", "note": "Groove in the tip."}))
	p.do(chromedp.Navigate(s.url + "/jobs/" + j.ID + "/put-right"))
	p.stage("put-right")
	p.click("button", "Kit of diaphragms and gaskets")
	p.until("the mend", `document.querySelector('[data-proof=unproved]')`)
	p.do(chromedp.Navigate(s.url + "/book"))
	p.reads(`[data-view=book][data-rows="1"]`, "Terrace crew, Jonas", "not proved yet")
	p.do(chromedp.Navigate(s.url + "/jobs/" + j.ID + "/step-wetted"))
	p.stage("step-wetted")
	p.unfold("Hold it again")
	p.heldStep("Simulated low gauge, sound", "tight")
	p.do(chromedp.Navigate(s.url + "/jobs/" + j.ID + "/put-right"))
	p.reads(`[data-proof=proved]`, "Proved: tight in the same test after the repair.")
	p.paper(j.ID, "", `.chart path[stroke-dasharray="7 4"]`, "Terrace crew, Jonas", "MB 3", "212 h", "It leaked, was mended, and is tight in the same test.", "Groove in the tip.", "kit of diaphragms and gaskets", "The tests")
	p.paper(j.ID, "?slip=1&size=letter", `.sign`, "For the customer", "Terrace crew, Jonas", "It leaked, was mended")
	if again := ready(t, s, "Mist-blower 3", "carburettor-bench"); again.Parties.Owner != "Terrace crew, Jonas" || again.Parties.Plate != "MB 3" || again.Parties.Meter != "" {
		t.Errorf("the next job has %+v", again.Parties)
	}
}
