package trail

import (
	"encoding/json"
	"testing"
	"time"
	_ "time/tzdata" // a shop's clock where the computer has no list of them

	"idlehiss/core/terms"
	"idlehiss/logbook"
)

// shopIn puts the shop where its clocks change twice a year.
func shopIn(t *testing.T, zone string) func(text string) time.Time {
	t.Helper()
	there, err := time.LoadLocation(zone)
	if err != nil {
		t.Fatal(err)
	}
	was := time.Local
	time.Local = there
	t.Cleanup(func() { time.Local = was })
	return func(text string) time.Time {
		at, err := time.ParseInLocation(onFormat, text, there)
		if err != nil {
			t.Fatal(err)
		}
		return at
	}
}

// looks are the moments at which looks are due by the shop's clock, each looked at as soon as it is due.
func looks(t *testing.T, n LookAgain, begun time.Time) (out []string) {
	t.Helper()
	kept, _, err := n.Keep(begun.UTC())
	for err == nil && !kept.Done && len(out) < 100 {
		out = append(out, kept.Due.Local().Format("02 15:04"))
		raw, _ := json.Marshal(kept)
		facts := logbook.Facts{{Subject: terms.AboutReminder, About: "r", Value: raw}}
		if r := Reminders(facts, kept.Due); len(r) != 1 || !r[0].Due || r[0].Says != kept.Due.Local().Format(remindFormat) {
			t.Errorf("at %s: %+v", kept.Due, r)
		}
		kept, _, err = Looked(facts, Look{Reminder: "r"}, kept.Due)
	}
	if err != nil {
		t.Fatal(err)
	}
	return out
}

// Looks are due by the shop's clock: also on the days on which it changes, over a year's end, and wherever the one is who asked.
func TestLooksKeepToTheShopsClock(t *testing.T) {
	at := shopIn(t, "Europe/Vienna")
	for name, x := range map[string]struct {
		begun string
		n     LookAgain
		want  []string
	}{
		"clocks go forward at night":   {"2026-03-28T18:30", LookAgain{Text: "x", Minutes: 30, Every: 12 * 60, Until: 36 * 60, From: 7, To: 19}, []string{"29 07:00", "30 07:00"}},
		"clocks go back at night":      {"2026-10-24T18:30", LookAgain{Text: "x", Minutes: 60, Every: 12 * 60, Until: 38 * 60, From: 7, To: 19}, []string{"25 07:00", "26 07:00"}},
		"over a year's end":            {"2026-12-31T20:30", LookAgain{Text: "x", Minutes: 60, Every: 24 * 60, Until: 3 * 24 * 60}, []string{"01 07:00", "02 07:00", "03 07:00"}},
		"on a day, once":               {"2026-12-30T10:00", LookAgain{Text: "x", On: "2027-01-02T03:15"}, []string{"02 03:15"}},
		"on a day after clocks change": {"2026-03-27T10:00", LookAgain{Text: "x", On: "2026-03-29T07:30"}, []string{"29 07:30"}},
		"within the hour that is not":  {"2026-03-27T10:00", LookAgain{Text: "x", On: "2026-03-29T02:30"}, []string{"29 03:30"}},
		"hourly, 7 to 19, two days": {"2026-05-04T17:00", LookAgain{Text: "x", Minutes: 60, Every: 60, Until: 2 * 24 * 60, From: 7, To: 19},
			[]string{"04 18:00", "05 07:00", "05 08:00", "05 09:00", "05 10:00", "05 11:00", "05 12:00", "05 13:00", "05 14:00", "05 15:00", "05 16:00", "05 17:00", "05 18:00",
				"06 07:00", "06 08:00", "06 09:00", "06 10:00", "06 11:00", "06 12:00", "06 13:00", "06 14:00", "06 15:00", "06 16:00", "06 17:00"}},
	} {
		got := looks(t, x.n, at(x.begun))
		if len(got) != len(x.want) {
			t.Errorf("%s: %v", name, got)
			continue
		}
		for i := range got {
			if got[i] != x.want[i] {
				t.Errorf("%s: %v, want %v", name, got, x.want)
				break
			}
		}
	}
}

// A look that is put off is due then, and nothing is said to have been seen; what cannot be is refused at its field.
func TestALookIsPutOff(t *testing.T) {
	at := shopIn(t, "America/Denver")
	begun := at("2026-05-04T08:00")
	kept, says, err := LookAgain{Text: "the seam.", Minutes: 10, For: " Ilse "}.Keep(begun)
	if err != nil || says != "Ilse: Look again at 4 May 08:10: the seam." {
		t.Fatalf("%q %v", says, err)
	}
	raw, _ := json.Marshal(kept)
	facts := logbook.Facts{{Subject: terms.AboutReminder, About: "r", Value: raw}}
	kept, says, err = Looked(facts, Look{Reminder: "r", Later: 30}, at("2026-05-04T08:20"))
	if err != nil || kept.Done || !kept.Due.Equal(at("2026-05-04T08:50")) || says != "Put off to 4 May 08:50: the seam." || kept.For != "Ilse" {
		t.Errorf("%+v %q %v", kept, says, err)
	}
	for name, n := range map[string]LookAgain{
		"yesterday": {Text: "x", On: "2026-05-03T08:00"}, "no day": {Text: "x", On: "tomorrow"}, "in ten years": {Text: "x", On: "2036-05-03T08:00"},
		"never": {Text: "x"}, "backwards": {Text: "x", Minutes: 5, From: 19, To: 7}, "again without an end": {Text: "x", On: "2026-05-05T08:00", Every: 60},
	} {
		if _, _, err := n.Keep(begun); err == nil {
			t.Errorf("%s is taken", name)
		}
	}
}
