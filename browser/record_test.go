package browser

import (
	"context"
	"testing"
	"time"

	"github.com/chromedp/cdproto/cdp"
	"github.com/chromedp/cdproto/emulation"
	"github.com/chromedp/chromedp"

	"idlehiss/core/steps"
	"idlehiss/core/terms"
	"idlehiss/jobs"
	"idlehiss/record"
)

// at has a write happen at a moment before now.
func at(w map[string]any, moment time.Time) map[string]any {
	w["at"] = moment.Format(time.RFC3339)
	return w
}

// An accumulator is looked at every half year; at the third visit its page names the month in which its gas is too low.
func TestAnAccumulatorsPageNamesTheMonth(t *testing.T) {
	t.Parallel()
	s := serve(t, "serve", "--data", t.TempDir())
	const machine = "Cider press, front accumulator"
	visit := func(monthsAgo int, bar string) {
		when := time.Now().AddDate(0, -monthsAgo, 0)
		j := told(t, s, "/api/jobs", at(with(wrote("Maren"), map[string]any{"machine": machine, "complaint": "yearly check", "circuit": "accumulator-small"}), when))
		for _, st := range j.Stages {
			for _, x := range st.Ticks {
				told(t, s, "/api/jobs/"+j.ID+"/ticks", at(with(wrote("Maren"), map[string]any{"item": x.ID, "on": true}), when))
			}
		}
		told(t, s, "/api/jobs/"+j.ID+"/steps/precharge", at(with(wrote("Maren"), map[string]any{"fields": map[string]string{"plate": "30 bar", "temperature": "20 °C", "found": bar}, "rows": []any{}}), when))
	}
	visit(12, "29.6 bar")
	visit(6, "29.0 bar")
	p := open(t, s.url+"/machines/"+"Cider%20press%2C%20front%20accumulator", 1280, 800)
	p.reads(`[data-view=machine][data-visits="2"]`, "29 bar")
	visit(0, "28.4 bar") // beside the page, which learns of it
	p.reads(`[data-charges="3"]`, "29.6 bar", "29 bar", "28.4 bar", "bar a month at 20 °C", "At that rate it is too low in ", time.Now().AddDate(1, 0, 0).Format("2006"))
	p.scan("an accumulator's page")
	q := open(t, s.url+"/machines/"+"Cider%20press%2C%20front%20accumulator", 390, 844)
	q.reads(`[data-charges="3"]`)
	q.fits("an accumulator's page on a phone")
}

// A train that was tested wagon by wagon becomes a set: it is tested again as one, and each wagon has what the round says of it.
func TestATrainIsTestedAsOneAndEach(t *testing.T) {
	t.Parallel()
	s := serve(t, "serve", "--data", t.TempDir())
	round := func(job, bad string) {
		t.Helper()
		j := ticked(t, s, "Ilse", ask[jobs.JobView](t, s, "/api/jobs/"+job))
		var rows []steps.EntryRow
		for _, st := range j.Steps {
			if st.ID != "still-on" {
				continue
			}
			for _, r := range st.Ask.Rows {
				rows = append(rows, steps.EntryRow{ID: r.ID, Cells: map[string]string{"still": map[bool]string{true: "no", false: "yes"}[r.Title == bad]}})
			}
		}
		told(t, s, "/api/jobs/"+job+"/steps/still-on", with(wrote("Ilse"), map[string]any{"fields": map[string]string{}, "rows": rows}))
	}
	j := told(t, s, "/api/jobs", with(wrote("Ilse"), map[string]any{"machine": "Fruit train", "complaint": "before running", "circuit": "train-brake", "things": []string{"Wagon 1", "Wagon 2", "Wagon 3"}}))
	round(j.ID, "Wagon 2")
	p := open(t, s.url+"/machines/Fruit%20train", 1280, 800)
	p.until("no set yet", `document.querySelector('[data-members="0"]')`)
	p.inputs = 0
	p.click("[data-members] button", "It is several machines")
	p.until("names for its wagons", `document.querySelector('[data-members] textarea')?.value.split('\n').length === 3`)
	p.click("[data-members] form button", "Keep the set")
	p.reads(`[data-members="3"]`)
	p.reads(`[data-members="3"] li:nth-child(2)[data-member=cut]`, "Fruit train, Wagon 2", "Still on after ten minutes")
	p.scan("a set")
	p.fits("a set")
	told(t, s, "/api/jobs/"+j.ID+"/close", with(wrote("Ilse"), map[string]any{"abandon": true}))
	p.click("[data-members] button", "Test all 3 together")
	p.stage("first-look")
	again := ask[jobs.JobView](t, s, "/api/jobs/"+p.job())
	if len(again.Things) != 3 || again.Things[2] != "Fruit train, Wagon 3" || again.ID == j.ID {
		t.Fatalf("begun with %v", again.Things)
	}
	round(again.ID, "Fruit train, Wagon 3")
	p.click("a", "All visits of Fruit train")
	p.reads(`[data-members="3"] li:nth-child(3)[data-member=cut]`)
	p.reads(`[data-members="3"] li:nth-child(2)[data-member=whole]`, "nothing wrong")
	p.click("[data-member=cut] a", "Wagon 3")
	p.reads(`[data-part-of="Fruit train"]`, "One of Fruit train", "Still on after ten minutes")
	q := open(t, s.url+"/machines/Fruit%20train", 390, 844)
	q.reads(`[data-members="3"]`)
	q.fits("a set on a phone")
}

// What was put in, a note and a visit stand at the shop's own time on a phone in another part of the world, over both changes
// of the shop's clocks and a year's end.
func TestDatesAreTheShopsOwn(t *testing.T) {
	t.Parallel()
	s := &server{t: t, zone: "Europe/Berlin", args: []string{"serve", "--data", t.TempDir()}}
	s.start("127.0.0.1:0")
	t.Cleanup(s.kill)
	begun := time.Date(2024, 12, 31, 23, 30, 0, 0, time.UTC) // half past midnight at the shop, noon in the phone's place
	told(t, s, "/api/jobs", at(with(wrote("Maren"), map[string]any{"machine": "Frost fan", "complaint": "overheats", "mark": "1.1"}), begun))
	for _, when := range []time.Time{
		time.Date(2025, 3, 30, 0, 59, 0, 0, time.UTC), time.Date(2025, 3, 30, 1, 1, 0, 0, time.UTC), // 2 o'clock is 3 o'clock
		time.Date(2025, 10, 26, 0, 30, 0, 0, time.UTC), time.Date(2025, 10, 26, 1, 30, 0, 0, time.UTC), // half past two comes twice
		time.Date(2025, 12, 31, 22, 59, 0, 0, time.UTC),
	} {
		tell[map[string]any](t, s, "/api/machine/top-ups", at(with(wrote("Maren"), map[string]any{"machine": "Frost fan", "added": "1 L"}), when))
	}
	p := open(t, "about:blank", 390, 844)
	p.do(chromedp.Func(func(ctx context.Context, t *chromedp.Target) error {
		_, err := cdp.Call(ctx, t, emulation.SetTimezoneOverride, emulation.SetTimezoneOverrideParams{TimezoneID: "Pacific/Auckland"})
		return err
	}), chromedp.Navigate(s.url+"/machines/Frost%20fan"))
	if !p.is(`Intl.DateTimeFormat().resolvedOptions().timeZone === 'Pacific/Auckland'`) {
		t.Fatal("the phone is where the shop is")
	}
	p.until("the shop's clock", `document.documentElement.dataset.zone === 'shop'`)
	p.reads(`[data-top-ups="5"]`, "30 Mar, 01:59", "30 Mar, 03:01", "31 Dec, 23:59", "1 Jan 2025")
	if n := p.number(`document.body.innerText.split('26 Oct, 02:30').length - 1`); n != 2 {
		t.Errorf("half past two stands %v times", n)
	}
}

// The end of a shift: a job is passed on and found by its new hands with plain words, what is mended and not proved is found by a
// filter, and a note waits for the next shift until it is taken off.
func TestAShiftEndsOnOnePage(t *testing.T) {
	t.Parallel()
	s := serve(t, "serve", "--data", t.TempDir(), "--speed", "20")
	j := safely(t, s, "Ilse", map[string]any{"machine": "Frost fan", "complaint": "overheats", "mark": "1.1"})
	told(t, s, "/api/jobs/"+j.ID+"/looks", with(wrote("Ilse"), map[string]any{"part": "radiator", "method": "eyes", "seen": true, "class": terms.Fault}))
	parts := ask[jobs.JobView](t, s, "/api/jobs/"+j.ID).Mend.Parts
	told(t, s, "/api/jobs/"+j.ID+"/repairs", with(wrote("Ilse"), map[string]any{"part": parts[0].ID, "repair": parts[0].Ladder[0].ID}))
	safely(t, s, "Tomas", map[string]any{"machine": "Hedge saw", "complaint": "routine", "mark": "1.1"})
	p := open(t, s.url+"/book", 1280, 800)
	p.at("book")
	p.click("a", "End of shift")
	p.at("handover")
	p.reads("[data-waits=Ilse]", "Frost fan", "mended, not proved yet")
	p.inputs = 0
	p.fill("#shift-note", "The drain is open.")
	p.click("section[aria-label=Note] button", "Leave it")
	p.reads(`[data-note="The drain is open."]`)
	p.fill("[data-waits=Ilse] input", "Jonas")
	p.click("[data-waits=Ilse] button", "Pass")
	p.reads("[data-waits=Jonas]")
	p.scan("the end of a shift")
	p.fits("the end of a shift")
	p.do(chromedp.Navigate(s.url + "/"))
	p.at("bench")
	p.reads("[data-shift-note]", "The drain is open.")
	p.do(chromedp.Navigate(s.url + "/book"))
	p.at("book")
	p.press("f")
	p.write("in the hands of jonas")
	p.reads(`[data-view=book][data-ready=true][data-hands=Jonas][data-rows="1"]`, "Frost fan", "leaking, Jonas")
	p.do(chromedp.Navigate(s.url + "/book"))
	p.at("book")
	p.click("button", "Not proved yet")
	p.reads(`[data-view=book][data-ready=true][data-only=unproved][data-rows="1"]`, "Frost fan", "not proved yet")
	p.scan("the book, filtered")
	q := open(t, s.url+"/book", 390, 844)
	q.at("book")
	q.fits("the book's filters on a phone")

	// A second opinion is asked and given on the sheet.
	p.do(chromedp.Navigate(s.url + "/jobs/" + j.ID))
	p.click("summary", "In the hands of Jonas")
	p.fill(`form[aria-label="Ask somebody else"] label input`, "is it worth a new core?")
	p.fill(`form[aria-label="Ask somebody else"] div input`, "Upper Valley")
	p.click(`form[aria-label="Ask somebody else"] button`, "Ask")
	p.reads(`[data-questions="1"]`, "Upper Valley is asked: is it worth a new core?")
	p.scan("a question")
	p.fill(`form[aria-label=Answer] input`, "A new one, yes.")
	p.click("form[aria-label=Answer] button", "Answer")
	p.reads(`[data-questions="0"]`)
	p.until("the answer", `document.querySelector('[data-fact=answer]')`)
	if v := ask[record.HandoverView](t, s, "/api/handover"); len(v.Questions) != 0 || len(v.Waits) != 2 {
		t.Errorf("%+v", v)
	}
}
