package shop

import (
	"bytes"
	"slices"
	"strings"
	"testing"

	"idlehiss/core/passages"
	"idlehiss/core/terms"
	"idlehiss/desk"
	"idlehiss/jobs"
	"idlehiss/trail"
)

// setUp ticks what is removed and held down.
func setUp(b *bench, j JobView) JobView {
	for _, st := range j.Stages {
		for _, x := range st.Ticks {
			if st.ID == terms.StepStage("set-up") {
				j = must[JobView](b)(b.Tick(j.ID, Tick{Write: b.write(), Item: x.ID, On: true}))
			}
		}
	}
	return j
}

// inHand is the test in hand.
func inHand(t *testing.T, v trail.PassagesView) trail.PassageTest {
	t.Helper()
	i := slices.IndexFunc(v.Tests, func(x trail.PassageTest) bool { return x.ID == v.Hand })
	if i < 0 {
		t.Fatalf("no test is in hand: %+v", v.Named)
	}
	return v.Tests[i]
}

// Set-up changes are kept one by one and counted back at the end; where air comes out names the seal, is evidence for
// the hunt, and lasts over a restart.
func TestAHousingPassageByPassage(t *testing.T) {
	b := open(t)
	j := b.begin(StartJob{Machine: "Bin carrier 1", Circuit: "lift-housing", Options: map[string]bool{"outlet-valve": true}})
	if !j.Bores || b.job("16 psi").Bores {
		t.Error("a housing is tested passage by passage, a cooling loop is not")
	}
	_, err := b.Jobs.SetUp(b.ctx, j.ID, jobs.TakeSetUp{Write: b.write(), SetUp: trail.SetUp{Does: passages.Feed, What: "inlet"}})
	refused(t, "air before the ram is held", err, desk.Conflict, "")
	j = setUp(b, j)
	set := func(x trail.PassageChange) {
		t.Helper()
		if _, err := b.Jobs.SetUp(b.ctx, j.ID, jobs.TakeSetUp{Write: b.write(), SetUp: trail.SetUp{Does: x.Does, What: x.At, To: x.To}}); err != nil {
			t.Fatal(err)
		}
	}
	tried := func(test string, places ...string) {
		t.Helper()
		if _, err := b.Jobs.Tried(b.ctx, j.ID, jobs.TakeTried{Write: b.write(), Tried: trail.Tried{Test: test, Places: places}}); err != nil {
			t.Fatal(err)
		}
	}
	v := must[trail.PassagesView](b)(b.Jobs.Passages(b.ctx, j.ID))
	if v.Set < 2 || len(v.Back) > 0 || v.Minutes < 10 {
		t.Fatalf("%d tests in the set, %v to put back, %v min", v.Set, v.Back, v.Minutes)
	}
	before := len(j.Outstanding)
	for tests := 0; v.Hand != "" && tests < 9; tests++ {
		x := inHand(t, v)
		if len(x.Changes) == 0 || x.AtPa < 50e3 || x.AtPa > 480e3 {
			t.Errorf("%s: changes %v, at %v Pa", x.ID, x.Changes, x.AtPa)
		}
		for _, change := range x.Changes {
			set(change)
		}
		v = must[trail.PassagesView](b)(b.Jobs.Passages(b.ctx, j.ID))
		if v.Hand != x.ID || len(inHand(t, v).Changes) > 0 {
			t.Fatalf("everything stands for %s, and in hand is %s with %v", x.ID, v.Hand, inHand(t, v).Changes)
		}
		var at []string
		for _, p := range x.Places { // the second check leaks
			if slices.Contains(p.Seals, "Check of the second outlet") {
				at = append(at, p.ID)
			}
		}
		tried(x.ID, at...)
		v = must[trail.PassagesView](b)(b.Jobs.Passages(b.ctx, j.ID))
	}
	if len(v.Named) != 1 || v.Named[0][0].Part != "second-check" || v.Named[0][0].Odds < 0.9 || len(v.Confirm) == 0 || v.Confirm[0].ID != "second-cap" {
		t.Errorf("named %+v, proved by %+v", v.Named, v.Confirm)
	}
	if v.Work == nil || v.Work.Parts[0].Part != "second-check" {
		t.Errorf("it is a valve, and to be worked first is %+v", v.Work)
	}
	now := must[JobView](b)(b.Job(j.ID))
	if now.Suspects[0].ID != "second-check" || now.Suspects[0].Share < 0.5 {
		t.Errorf("the hunt has %s at %.2f", now.Suspects[0].ID, now.Suspects[0].Share)
	}
	if len(v.Back) == 0 || len(now.Outstanding) != before+len(v.Back) {
		t.Errorf("%d to put back, %d outstanding, %d before", len(v.Back), len(now.Outstanding), before)
	}
	shown := 0
	for _, x := range now.Facts {
		if x.Subject == terms.AboutSetUp {
			shown++
		}
	}
	if shown != 1 {
		t.Errorf("%d facts of a set-up are shown", shown)
	}
	// On paper the whole set is a checklist with a drawing each.
	var paper bytes.Buffer
	if err := b.Paper(b.ctx, &paper, j.ID, PaperWanted{}); err != nil {
		t.Fatal(err)
	}
	if n := strings.Count(paper.String(), `class="bore"`); n < v.Set || strings.Count(paper.String(), "<circle cx=") < n {
		t.Errorf("%d tests on paper, the set is %d", n, v.Set)
	}
	b.shut()
	b.open()
	for _, x := range must[trail.PassagesView](b)(b.Jobs.Passages(b.ctx, j.ID)).Back {
		set(x)
	}
	if v = must[trail.PassagesView](b)(b.Jobs.Passages(b.ctx, j.ID)); len(v.Back) > 0 || len(v.Named) != 1 || len(must[JobView](b)(b.Job(j.ID)).Outstanding) != before {
		t.Errorf("put back: %v left, named %+v", v.Back, v.Named)
	}
	// A mended part is looked at again; what held stays held.
	if _, err := b.Jobs.Mend(b.ctx, j.ID, jobs.Mend{Write: b.write(), Part: "second-check", Repair: "new-poppet"}); err != nil {
		t.Fatal(err)
	}
	if v = must[trail.PassagesView](b)(b.Jobs.Passages(b.ctx, j.ID)); v.Hand == "" || len(v.Named) > 0 && v.Named[0][0].Part == "second-check" {
		t.Errorf("after the mend in hand is %q, named %+v", v.Hand, v.Named)
	}
	for in, field := range map[trail.SetUp]string{
		{Does: passages.Plug, What: "moon"}:                       "what",
		{Does: passages.Move, What: "control", To: "upside-down"}: "what",
		{Does: passages.Work, What: "check", To: "sideways"}:      "to",
		{Does: passages.Feed, What: "check"}:                      "what",
	} {
		_, err := b.Jobs.SetUp(b.ctx, j.ID, jobs.TakeSetUp{Write: b.write(), SetUp: in})
		refused(t, string(in.Does), err, desk.BadInput, field)
	}
	_, err = b.Jobs.Tried(b.ctx, j.ID, jobs.TakeTried{Write: b.write(), Tried: trail.Tried{Test: "moon"}})
	refused(t, "an unknown test", err, desk.BadInput, "test")
	_, err = b.Jobs.Tried(b.ctx, j.ID, jobs.TakeTried{Write: b.write(), Tried: trail.Tried{Test: v.Tests[0].ID, Places: []string{"moon"}}})
	refused(t, "an unknown place", err, desk.BadInput, "places", "lift housing")
}

// No test is proposed past what it presses stands, nor past the weakest piece of the rig.
func TestATestStaysBelowTheWeakest(t *testing.T) {
	b := open(t)
	list := b.Fitting(NewFitting{Write: b.write(), Name: "Old plug", Kind: terms.PlugKit, Families: []terms.Fitting{"tapped plug"}, Rating: "150 kPa"})
	j := b.begin(StartJob{Machine: "Loader", Circuit: "valve-block"})
	tests := func() []trail.PassageTest { return must[trail.PassagesView](b)(b.Jobs.Passages(b.ctx, j.ID)).Tests }
	for _, x := range tests() {
		if most := map[bool]float64{true: 100e3, false: 480e3}[x.Feed == "tank-port"]; x.AtPa <= 0 || x.AtPa > most {
			t.Errorf("%s at %v Pa", x.ID, x.AtPa)
		}
	}
	must[JobView](b)(b.sheet(b.Jobs.RigFitted(b.ctx, j.ID, jobs.RigFitted{Write: b.write(), Pieces: []string{b.item(list, "Old plug").ID}})))
	for _, x := range tests() {
		// What presses the tank passage too stays at what its lips stand, below the plug.
		if x.AtPa <= 0 || x.AtPa > 150e3 || !slices.Contains(x.Pressed, "tank") && x.Weakest != "Old plug" {
			t.Errorf("%s at %v Pa with a plug that is good for 150 kPa; weakest: %q", x.ID, x.AtPa, x.Weakest)
		}
	}
}

// A tight hold of a step is a test that held, unless an escape that is meant would hide a leak in it; one that leaks
// wants to know where.
func TestHoldsCountAsTests(t *testing.T) {
	b := open(t)
	of := func(j JobView, step string) trail.PassageTest {
		v := must[trail.PassagesView](b)(b.Jobs.Passages(b.ctx, j.ID))
		i := slices.IndexFunc(v.Tests, func(x trail.PassageTest) bool { return x.Step == step })
		if i < 0 {
			return trail.PassageTest{}
		}
		return v.Tests[i]
	}
	held := func(step, gauge string) JobView {
		j := setUp(b, b.begin(StartJob{Machine: "Bin carrier 1", Circuit: "lift-housing"}))
		return b.heldAt(j, step, gauge)
	}
	j := held("ram", "sim-high-sound")
	if x := of(j, "ram"); !x.Done || !x.ByHold || x.Fell {
		t.Errorf("the ram holds: %+v", x)
	}
	if x := of(held("neutral", "sim-high-sound"), "neutral"); x.Done {
		t.Errorf("the orifice would hide a leak: %+v", x)
	}
	j = held("ram", "sim-high-weep")
	if x := of(j, "ram"); x.Done || !x.Fell || len(x.Changes) > 0 {
		t.Errorf("the ram leaks, and everything stands for its test: %+v", x)
	}
	if v := must[trail.PassagesView](b)(b.Jobs.Passages(b.ctx, j.ID)); inHand(t, v).Step != "ram" {
		t.Errorf("where it comes out is asked in %s", v.Hand)
	}
}

// Seals that no test tells apart are named together, and an act splits them.
func TestAnActSplitsWhatNoTestTellsApart(t *testing.T) {
	b := open(t)
	j := b.begin(StartJob{Machine: "Bin carrier 1", Circuit: "lift-housing-sensed"})
	view := func() trail.PassagesView { return must[trail.PassagesView](b)(b.Jobs.Passages(b.ctx, j.ID)) }
	v := view()
	for tests := 0; v.Hand != "" && tests < 9; tests++ {
		x := inHand(t, v)
		var at []string
		for _, p := range x.Places {
			if slices.Contains(p.Seals, "Lowering poppet") {
				at = append(at, p.ID)
			}
		}
		if _, err := b.Jobs.Tried(b.ctx, j.ID, jobs.TakeTried{Write: b.write(), Tried: trail.Tried{Test: x.ID, Places: at}}); err != nil {
			t.Fatal(err)
		}
		v = view()
	}
	named := func(v trail.PassagesView) (ids []string) {
		for _, g := range v.Named {
			for _, s := range g {
				ids = append(ids, s.Part)
			}
		}
		slices.Sort(ids)
		return ids
	}
	if got := named(v); !slices.Equal(got, []string{"drop", "ram-safety", "ram-seal"}) {
		t.Fatalf("named %v", got)
	}
	if _, err := b.Jobs.Answer(b.ctx, j.ID, jobs.TakeAnswer{Write: b.write(), Answered: trail.Answered{Act: "push-drop", Seen: "stops"}}); err != nil {
		t.Fatal(err)
	}
	if got := named(view()); !slices.Equal(got, []string{"drop"}) {
		t.Errorf("the poppet pushed shut stops it, and named is %v", got)
	}
}

// Air at a place that one leak does not explain is traced through the passages, likeliest way first; a gasket of the
// wrong shape is on a way to the pulse nipple.
func TestAirAtAnUnexpectedPlaceIsTraced(t *testing.T) {
	b := open(t)
	j := b.begin(StartJob{Machine: "Hedge saw", Circuit: "carburettor-bench"})
	v := must[trail.PassagesView](b)(b.Jobs.Passages(b.ctx, j.ID))
	i := slices.IndexFunc(v.Tests, func(x trail.PassageTest) bool { return x.Step == "dry" })
	if i < 0 {
		t.Fatalf("the needle is not tried: %+v", v.Tests)
	}
	if _, err := b.Jobs.Tried(b.ctx, j.ID, jobs.TakeTried{Write: b.write(), Tried: trail.Tried{Test: v.Tests[i].ID, Places: []string{"purge"}}}); err != nil {
		t.Fatal(err)
	}
	v = must[trail.PassagesView](b)(b.Jobs.Passages(b.ctx, j.ID))
	ways := v.Tests[slices.IndexFunc(v.Tests, func(x trail.PassageTest) bool { return x.Step == "dry" })].Ways
	if len(ways) == 0 || ways[0].Leaks[0] != "needle" || !slices.Equal(ways[0].Through, []string{"fuel-side", "metering", "purge"}) {
		t.Errorf("traced to %+v", ways)
	}
	if i := slices.IndexFunc(v.Left, func(x trail.PassageSeal) bool { return x.Part == "needle" }); i != 0 || v.Left[0].Odds < 0.5 {
		t.Errorf("the needle is on the way, and left is %+v", v.Left)
	}
	if now := must[JobView](b)(b.Job(j.ID)); now.Suspects[0].ID != "needle" {
		t.Errorf("the hunt has %s first", now.Suspects[0].ID)
	}
}
