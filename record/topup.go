package record

import (
	"context"
	"encoding/json"
	"fmt"
	"slices"
	"time"

	"idlehiss/core/quantity"
	"idlehiss/core/steps"
	"idlehiss/core/terms"
	"idlehiss/desk"
	"idlehiss/logbook"
)

// NewTopUp is what somebody put into a machine, whoever and whenever.
type NewTopUp struct {
	desk.Write
	Machine string `json:"machine" maxLength:"80"`
	Added   string `json:"added" maxLength:"30" doc:"a volume, such as 0.5 L"`
	What    string `json:"what,omitempty" maxLength:"60" doc:"of what, such as water"`
}

// TopUpView is one of them.
type TopUpView struct {
	At   time.Time `json:"at"`
	By   string    `json:"by"`
	Says string    `json:"says"`
}

// TopUpsView are those of a machine, latest first, and what they come to.
type TopUpsView struct {
	All  []TopUpView `json:"all"`
	Says string      `json:"says"` // empty: too few to say
}

// added is what its fact keeps.
type added struct {
	M3 float64 `json:"m3"`
}

// mostAdded is more than is ever put into one machine at a time.
const mostAdded = 0.2 // m³

// TopUp takes down what was put into a machine, on its latest job.
func (r *Room) TopUp(ctx context.Context, in NewTopUp) (desk.Receipt, error) {
	v, err := quantity.Parse(in.Added, quantity.Volume, quantity.MustNamed("L", quantity.Volume), 0)
	if err != nil {
		return desk.Receipt{}, desk.Refuse("added", "%v", err)
	}
	if v.Mid() <= 0 || v.Mid() > mostAdded {
		return desk.Receipt{}, desk.Refuse("added", "%s is not put into a machine: type a volume such as 0.5 L", v.Unit.Show(v.Mid(), v.Digit))
	}
	m, err := r.machine(ctx, in.Machine)
	if err != nil {
		return desk.Receipt{}, err
	}
	last, err := r.desk.Book.JobsOf(ctx, m.ID, 1)
	if err != nil {
		return desk.Receipt{}, err
	}
	if len(last) == 0 {
		return desk.Receipt{}, desk.Conflicts("nothing was ever tested on %s: begin a job on it first", m.Name)
	}
	says := "Topped up " + v.Unit.Show(v.Mid(), v.Digit)
	if what := tidy(in.What); what != "" {
		says += " of " + what
	}
	return r.add(ctx, last[0].ID, in.Write, in, func(tx *logbook.Tx, st logbook.Stamp, _ logbook.Job) error {
		return fact(tx, st, last[0].ID, "added", terms.AboutAdded, st.ID, says+".", added{v.Mid()})
	})
}

// machine finds one by its name.
func (r *Room) machine(ctx context.Context, name string) (logbook.Machine, error) {
	m, err := r.desk.Book.MachineCalled(ctx, name)
	return m, desk.Sought(err)
}

// topUps are those of facts that come latest first. What the first put in made up for what went before it, so that only
// those after it say how much goes in a month.
func topUps(facts logbook.Facts) TopUpsView {
	v := TopUpsView{All: []TopUpView{}}
	after := 0.0
	for _, f := range facts {
		var a added
		if json.Unmarshal(f.Value, &a) == nil {
			v.All = append(v.All, TopUpView{f.At, f.By, f.Sentence})
			after += a.M3
		}
	}
	if len(v.All) < 2 {
		return v
	}
	first := facts[len(facts)-1]
	var a added
	_ = json.Unmarshal(first.Value, &a) // it was read above
	days := v.All[0].At.Sub(first.At).Hours() / 24
	if days < 1 {
		return v
	}
	v.Says = fmt.Sprintf("%s L in the %s days after the first: %s L a month.", quantity.Significant(1e3*(after-a.M3), 2), quantity.Significant(days, 2), quantity.Significant(1e3*(after-a.M3)/days*steps.DaysAMonth, 2))
	return v
}

// latestFirst sorts facts so.
func latestFirst(facts logbook.Facts) {
	slices.SortStableFunc(facts, func(a, b logbook.Fact) int { return b.At.Compare(a.At) })
}
