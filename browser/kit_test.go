package browser

import (
	"fmt"
	"testing"
	"time"

	"github.com/chromedp/chromedp"

	"idlehiss/jobs"
	"idlehiss/kit"
)

// fill puts text into a field, as if it were pasted there; a field that was gone into counts as one input, its text as
// another.
func (p *page) fill(field, text string) {
	p.t.Helper()
	p.until(field, fmt.Sprintf(`document.querySelector(%q)`, field))
	p.inputs += 2
	p.do(chromedp.Evaluate[chromedp.Void](fmt.Sprintf(`((f) => {
		f.focus();
		Object.getOwnPropertyDescriptor(Object.getPrototypeOf(f), 'value').set.call(f, %q);
		f.dispatchEvent(new Event('input', { bubbles: true }));
	})(document.querySelector(%q))`, text, field)))
}

// A case of kit is counted in at a counter, a piece of it goes on a rig, its day passes, and it goes back with one missing.
func TestABorrowedCaseIsCountedOut(t *testing.T) {
	t.Parallel()
	s := serve(t, "serve", "--data", t.TempDir(), "--speed", "20")
	p := open(t, s.url+"/kit", 1280, 800)
	p.at("kit")
	p.inputs = 0
	p.click("button", "Borrow a case")
	form := `form[aria-label="Borrow a case"] `
	p.fill(form+"label:nth-child(1) input", "blue cooling kit")
	p.fill(form+"div label:nth-child(1) input", "Northgate counter")
	p.fill(form+"[type=date]", time.Now().AddDate(0, 0, -1).Format(time.DateOnly))
	p.fill(form+"textarea", "hand pump with gauge\ncap, 42 mm\nblue bayonet\nlong hose")
	p.click(form+"fieldset button", "cap, 42 mm")
	p.click(form+"button", "Take it in: 3 of 4")
	p.reads("[data-piece] [data-borrowed=true]", "Borrowed from Northgate counter.")
	p.reads("[data-piece]", "3 of 4 pieces counted in; not in it then: cap, 42 mm.", "was not in it")
	p.scan("a borrowed case")
	p.fits("a borrowed case")
	p.click("[data-piece] li:nth-child(3) button", "Put on the shelf")
	p.click("[data-piece] button", "as adapter")
	p.click(`form[aria-label="Describe it"] button`, "Add")
	p.reads(`[data-piece] [data-borrowed=true]`, "Northgate counter")
	if p.inputs > 16 {
		t.Errorf("%d inputs", p.inputs)
	}

	// On the bench it is overdue, and on a rig its piece is to be had.
	p.do(chromedp.Navigate(s.url + "/"))
	p.at("bench")
	p.reads("[data-kit-due=true]", "blue cooling kit", "Goes back to Northgate counter.")
	j := safely(t, s, "Ilse", map[string]any{"machine": "Frost fan", "complaint": "overheats", "mark": "1.1"})
	var adapter string
	for _, x := range ask[jobs.JobView](t, s, "/api/jobs/"+j.ID).Rig.Pieces {
		if x.Name == "blue bayonet" {
			adapter = x.ID
		}
	}
	told(t, s, "/api/jobs/"+j.ID+"/fitted", with(wrote("Ilse"), map[string]any{"pieces": []string{adapter}}))

	p.click("[data-kit-due=true]", "")
	p.at("kit")
	p.click("[data-piece] button", "Give it back")
	p.reads("[data-lost='3']", "0 of 3 there.")
	p.click("[data-piece] form li button", "hand pump with gauge")
	p.click("[data-piece] form li button", "long hose")
	p.reads("[data-lost='1']", "Missing: blue bayonet.")
	p.click("[data-piece] form button", "Give it back with 1 missing")
	p.reads("[data-piece][data-gone=true]", "Given back to Northgate counter. 2 of 3 pieces counted out; missing: blue bayonet.")
	for _, it := range ask[kit.ListView](t, s, "/api/kit/items").Items {
		if (it.Name == "blue cooling kit" || it.ID == adapter) && !it.Gone {
			t.Errorf("%s is still here: %+v", it.Name, it)
		}
	}
	// What it was done with stays on the sheet; no other rig gets it.
	rig := ask[jobs.JobView](t, s, "/api/jobs/"+j.ID).Rig
	if rig.Fitted != "blue bayonet" {
		t.Errorf("fitted %q", rig.Fitted)
	}
	for _, x := range rig.Pieces {
		if x.ID == adapter {
			t.Error("it is proposed though it was given back")
		}
	}
	p.do(chromedp.Navigate(s.url + "/"))
	p.at("bench")
	if p.is(`document.querySelector("[data-kit-due]")`) {
		t.Error("it is still due")
	}
}
