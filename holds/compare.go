package holds

import (
	"context"
	"fmt"

	"idlehiss/core/judge"
	"idlehiss/desk"
)

// CompareView is two holds beside each other.
type CompareView struct {
	First      HoldView         `json:"first"`
	Second     HoldView         `json:"second"`
	Comparison judge.Comparison `json:"comparison"`
}

// Compare sets the second hold beside the first.
func (r *Room) Compare(ctx context.Context, first, second string) (CompareView, error) {
	if first == second {
		return CompareView{}, desk.Refuse("second", "a hold cannot be compared with itself")
	}
	a, err := r.picture(ctx, first)
	if err != nil {
		return CompareView{}, err
	}
	b, err := r.picture(ctx, second)
	if err != nil {
		return CompareView{}, err
	}
	now := r.desk.Clock.Now()
	v := CompareView{First: a.view(part{whole: true}, a.axis(now)), Second: b.view(part{whole: true}, b.axis(now))}
	if v.First.Report == nil || v.Second.Report == nil {
		return v, desk.Conflicts("a hold that was never judged cannot be compared")
	}
	if v.Comparison, err = judge.Compare(*v.First.Report, *v.Second.Report); err != nil {
		return v, desk.Conflicts("%v", err)
	}
	if a.machine != b.machine {
		v.Comparison.Cautions = append(v.Comparison.Cautions, fmt.Sprintf("They are holds of two machines: %s and %s.", a.machine, b.machine))
	}
	return v, nil
}
