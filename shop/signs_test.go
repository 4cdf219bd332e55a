package shop

import (
	"strings"
	"testing"

	"idlehiss/catalogue"
	"idlehiss/core/terms"
	"idlehiss/desk"
	"idlehiss/jobs"
)

// What is seen before any tool moves its part up among the suspects, a guess less so,
// and taking it back moves it down again.
func TestASignMovesItsPartUp(t *testing.T) {
	b := open(t)
	j := b.job("1.1")
	at := func(j JobView, part string) (place int, share float64) {
		for i, s := range j.Suspects {
			if s.ID == part {
				return i, s.Share
			}
		}
		t.Fatalf("no suspect %s", part)
		return 0, 0
	}
	whole := func(j JobView) {
		t.Helper()
		sum, last := 0.0, 1.0
		for _, s := range j.Suspects {
			if sum += s.Share; s.Share > last {
				t.Errorf("%s stands below a less likely one", s.Title)
			}
			last = s.Share
		}
		if sum += j.Hunt.Elsewhere - j.Hunt.Two; sum < 0.999 || sum > 1.001 {
			t.Errorf("the hypotheses add up to %v", sum)
		}
	}
	whole(j)
	before, was := at(j, "heater-core")
	sign := func(id string, seen bool) (JobView, error) {
		return b.sheet(b.Jobs.Sign(b.ctx, j.ID, jobs.Sign{Write: b.write(), Sign: id, Seen: seen}))
	}
	wet := must[JobView](b)(sign("wet-carpet", true))
	whole(wet)
	after, is := at(wet, "heater-core")
	if after >= before || is < 2*was {
		t.Errorf("wet carpet: from place %d (%.2f) to %d (%.2f)", before, was, after, is)
	}
	if f := wet.Facts[len(wet.Facts)-1]; f.Sentence != "Wet carpet: seen." || f.Stage != terms.FirstLook || f.Source != terms.FromEyes {
		t.Errorf("%+v", f)
	}
	guessed := must[JobView](b)(b.sheet(b.Jobs.Hunch(b.ctx, j.ID, jobs.Hunch{Write: b.write(), Part: "water-pump"})))
	_, pumpWas := at(wet, "water-pump")
	if _, pump := at(guessed, "water-pump"); pump < 1.5*pumpWas || guessed.Hunch != "water-pump" {
		t.Errorf("a guess: %.3f from %.3f", pump, pumpWas)
	}
	_, err := b.sheet(b.Jobs.Hunch(b.ctx, j.ID, jobs.Hunch{Write: b.write(), Part: "horn"}))
	refused(t, "horn", err, desk.BadInput, "part", "no part")
	_, err = sign("smells of apples", true)
	refused(t, "no sign", err, desk.BadInput, "sign", "write it in words")
	must[JobView](b)(b.sheet(b.Jobs.Hunch(b.ctx, j.ID, jobs.Hunch{Write: b.write()})))
	back := must[JobView](b)(sign("wet-carpet", false))
	if n, share := at(back, "heater-core"); n != before || share != was || back.Hunch != "" {
		t.Errorf("taken back: place %d, %.3f", n, share)
	}
	for _, s := range back.Signs {
		if s.Seen || strings.TrimSpace(s.Title) == "" {
			t.Errorf("%+v", s)
		}
	}
}

// Every circuit has signs, and each points to a part that can be looked at.
func TestEveryCircuitHasSigns(t *testing.T) {
	b := open(t)
	list := must[catalogue.CircuitList](b)(b.Catalogue.List())
	for _, c := range list.Circuits {
		mark := ""
		switch {
		case c.Mark == "":
		case c.Family == "cooling" || c.Family == "cap":
			mark = "1.1"
		default:
			mark = "100 kPa"
		}
		j := b.begin(StartJob{Machine: c.ID, Circuit: c.ID, Mark: mark})
		if len(j.Signs) < 3 {
			t.Errorf("%s has %d signs", c.ID, len(j.Signs))
		}
	}
}

// A gas charge is held against the last service of the same machine, not of another.
func TestAChargeRemembersTheLastService(t *testing.T) {
	b := open(t)
	service := func(machine, found string) StepView {
		j := b.begin(StartJob{Machine: machine, Circuit: "accumulator-small"})
		b.tickAll(j, true)
		return b.step(must[JobView](b)(b.Found(j.ID, "precharge", Found{Write: b.write(), Fields: map[string]string{"plate": "30", "temperature": "20", "found": found}})), "precharge")
	}
	service("Cider press, front", "30.2")
	service("Cider press, rear", "33")
	b.clock.set(b.clock.Now().AddDate(1, 0, 0))
	if notes := strings.Join(service("Cider press, front", "29.2").Outcome.Notes, " "); !strings.Contains(notes, "Since the service 12 months ago the pressure fell by 1.0 bar (at 20 °C), 0.083 bar a month") {
		t.Errorf("%q", notes)
	}
	if notes := strings.Join(service("Tail lift", "29.2").Outcome.Notes, " "); strings.Contains(notes, "Since") {
		t.Errorf("of another machine: %q", notes)
	}
}
