package shop

import (
	"strings"
	"testing"
	"time"

	"idlehiss/core/terms"
	"idlehiss/desk"
	"idlehiss/jobs"
	"idlehiss/trail"
)

// A machine's page has its visits, its mark, what fitted and what it lost; the same test begins again with all of that, and with
// nothing that is decided each time.
func TestAMachineIsTestedAgainWithWhatIsKnown(t *testing.T) {
	b := open(t)
	kitNow := b.Fitting(NewFitting{Write: b.write(), Kind: terms.AdapterKit, Name: "Blue bayonet adapter", Families: []terms.Fitting{terms.Bayonet}, Make: "shallow", Rating: "200 kPa"})
	j := b.job("14 psi")
	must[desk.Receipt](b)(b.Jobs.SetParties(b.ctx, j.ID, jobs.SetParties{Write: b.write(), Parties: trail.Parties{Owner: "Packing  shed", Plate: "HO 47", Meter: "12 h"}}))
	must[desk.Receipt](b)(b.Jobs.RigFitted(b.ctx, j.ID, jobs.RigFitted{Write: b.write(), Pieces: []string{kitNow.Items[len(kitNow.Items)-1].ID}, Text: "thin ring", Neck: "38 mm; bayonet, shallow"}))
	must[JobView](b)(b.SetPlan(j.ID, Plan{Write: b.write(), School: "modest", Gauge: j.Plan.Gauge.ID, Allowance: "two-minutes-ten"}))
	b.clock.set(b.clock.Now().AddDate(0, 1, 0))
	w := b.write()
	got := must[desk.Receipt](b)(b.Record.Again(b.ctx, j.ID, w))
	if again := must[desk.Receipt](b)(b.Record.Again(b.ctx, j.ID, w)); again.Of != got.Of {
		t.Errorf("the same write began %s and %s", got.Of, again.Of)
	}
	n := must[JobView](b)(b.Job(got.Of))
	if p := n.Steps[0].Plan; n.CircuitID != j.CircuitID || p == nil || p.Target.School != "modest" || p.Wanted.From != "two-minutes-ten" || p.Mark == nil {
		t.Fatalf("planned as %+v", p)
	}
	if n.Rig.Fitted != "Blue bayonet adapter + thin ring" || n.Rig.Neck != "38 mm; bayonet, shallow" || n.Parties != (trail.Parties{Owner: "Packing shed", Plate: "HO 47"}) {
		t.Errorf("fitted %q, neck %q, %+v", n.Rig.Fitted, n.Rig.Neck, n.Parties)
	}
	m := must[MachineView](b)(b.Record.Machine(b.ctx, strings.ToUpper(j.Machine)))
	if len(m.Visits) != 2 || !m.Visits[0].Latest || m.Visits[1].Latest || m.Parties.Owner != "Packing shed" || len(m.Marks) != 1 || m.Marks[0].JobID != n.ID || len(m.Fitted) != 1 || m.Fitted[0].Says != "Blue bayonet adapter + thin ring" {
		t.Errorf("%+v", m)
	}
	_, err := b.Record.Machine(b.ctx, "no such machine")
	refused(t, "an unknown machine", err, desk.Missing, "", "no machine")
	// A target beyond a limit was allowed for that day.
	over := b.job("16 psi")
	must[JobView](b)(b.SetPlan(over.ID, Plan{Write: b.write(), School: "typed", Typed: "19 psi", Reason: "manual says so", Gauge: j.Plan.Gauge.ID, Ring: 1, Allowance: "house"}))
	if p := must[JobView](b)(b.Job(must[desk.Receipt](b)(b.Record.Again(b.ctx, over.ID, b.write())).Of)).Steps[0].Plan; p.Target.Over {
		t.Errorf("it aims beyond the limit again: %+v", p.Target)
	}
}

// Three services of an accumulator name the month in which it is too low, by the shop's own calendar.
func TestAnAccumulatorsTrendNamesTheMonth(t *testing.T) {
	b := open(t)
	b.clock.set(time.Date(2026, 1, 31, 23, 30, 0, 0, time.UTC))
	for n, bar := range []string{"29.6 bar", "29.0 bar", "28.4 bar"} {
		j := b.begin(StartJob{Machine: "Cider press, front accumulator", Circuit: "accumulator-small"})
		b.tickAll(j, true)
		must[JobView](b)(b.Found(j.ID, "precharge", Found{Write: b.write(), Fields: map[string]string{"plate": "30 bar", "temperature": "20 °C", "found": bar}}))
		if n < 2 {
			b.clock.set(b.clock.Now().AddDate(0, 6, 0))
		}
	}
	m := must[MachineView](b)(b.Record.Machine(b.ctx, "Cider press, front accumulator"))
	if len(m.Charges) != 1 || len(m.Charges[0].Reads) != 3 || m.Charges[0].Reads[0].Bar != 29.6 {
		t.Fatalf("%+v", m.Charges)
	}
	// 28.4 bar in January 2027 is 1.4 above the least, fourteen months away.
	if says := m.Charges[0].Says; !strings.Contains(says, "0.10 bar a month") || !strings.Contains(says, "too low in April 2028 (") {
		t.Errorf("%s", says)
	}
}
