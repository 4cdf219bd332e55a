package browser

import (
	"testing"

	"idlehiss/jobs"
)

// A customer comes back a month later: found in the book by name in two inputs, and tested again with what fitted.
func TestAMachineComesBack(t *testing.T) {
	t.Parallel()
	s := serve(t, "serve", "--data", t.TempDir(), "--speed", "20")
	j := safely(t, s, "Ilse", map[string]any{"machine": "Frost fan", "complaint": "overheats", "mark": "1.1"})
	told(t, s, "/api/jobs/"+j.ID+"/parties", with(wrote("Ilse"), map[string]any{"owner": "Upper terrace, Mira", "contact": "", "plate": "FF 2", "meter": "80 h"}))
	told(t, s, "/api/jobs/"+j.ID+"/fitted", with(wrote("Ilse"), map[string]any{"text": "blue bayonet, shallow"}))
	told(t, s, "/api/jobs/"+j.ID+"/close", with(wrote("Ilse"), map[string]any{"abandon": true}))
	for _, other := range []string{"Hedge saw", "Bin carrier 4", "Cider press"} {
		safely(t, s, "Ilse", map[string]any{"machine": other, "complaint": "routine", "mark": "1.1"})
	}
	p := open(t, s.url+"/book", 1280, 800)
	p.at("book")
	p.press("f")
	p.inputs = 0
	p.write("mira")
	p.reads(`[data-view=book][data-ready=true][data-rows="1"]`, "Frost fan", "Upper terrace, Mira")
	p.press(enter)
	p.stage("call")
	p.click("a", "All visits of Frost fan")
	p.reads(`[data-view=machine][data-visits="1"]`, "Upper terrace, Mira, FF 2", "overheats", "What fitted", "blue bayonet, shallow", "Marks and limits", "Same test again")
	p.scan("a machine's page")
	p.fits("a machine's page")
	p.click("[data-again=cooling-header-tank]", "")
	p.stage("first-look")
	again := ask[jobs.JobView](t, s, "/api/jobs/"+p.job())
	if again.ID == j.ID || again.Rig.Fitted != "blue bayonet, shallow" || again.Steps[0].Plan == nil || again.Parties.Owner != "Upper terrace, Mira" {
		t.Errorf("begun again with %+v, %+v", again.Rig, again.Parties)
	}
	p.click("a", "All visits of Frost fan")
	p.reads(`[data-view=machine][data-visits="2"]`, "Go on with the open job")
}
