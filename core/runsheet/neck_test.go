package runsheet

import (
	"math"
	"testing"

	"idlehiss/core/terms"
)

func TestAnAdapterIsFoundFromTheNeck(t *testing.T) {
	rubber := Fit{Families: []terms.Fitting{terms.ExpandingRubber}, FromM: 36e-3, ToM: 41e-3}
	blue := Fit{Families: []terms.Fitting{terms.Bayonet}, Make: terms.Shallow}
	bladder := Fit{Families: []terms.Fitting{terms.Bladder}, FromM: 40e-3, ToM: 40e-3, OwnAir: true}
	for _, x := range []struct {
		neck string
		fit  Fit
		want Misfit
		byMm float64
	}{
		{"38 mm", rubber, RightSize, 0},
		{"38", rubber, RightSize, 0},
		{"1.5 in", rubber, RightSize, 0},
		{"43 mm", rubber, TooSmall, 2},
		{"33,5 mm smooth", rubber, TooLarge, 2.5},
		{"40 mm", bladder, RightSize, 0},
		{"42 mm", bladder, TooSmall, 1.25},
		{"bayonet, shallow", blue, RightFamily, 0},
		{"bayonet, deep", blue, OtherMake, 0},
		{"smooth", rubber, RightFamily, 0},
		{"38 mm", blue, FitNotKnown, 0},
		{"bayonet", Fit{}, FitNotKnown, 0},
	} {
		n, err := ParseNeck(x.neck)
		if err != nil {
			t.Errorf("%s: %v", x.neck, err)
			continue
		}
		if got := n.Takes(x.fit); got.Misfit != x.want || math.Abs(got.ByM*1e3-x.byMm) > 1e-9 {
			t.Errorf("%+v on %s: %+v, want %s by %g mm", x.fit, x.neck, got, x.want, x.byMm)
		}
	}
	for _, bad := range []string{"36 to 41 mm", "900", "odd"} {
		if n, err := ParseNeck(bad); err == nil {
			t.Errorf("%q was read as %+v", bad, n)
		}
	}
	if from, to, err := Width("36 to 41 mm"); err != nil || math.Abs(from-36e-3) > 1e-12 || math.Abs(to-41e-3) > 1e-12 {
		t.Errorf("%v %v %v", from, to, err)
	}
	for _, bad := range []string{"wide", "41 to 36 mm", "2 cm to 400 cm"} {
		if _, _, err := Width(bad); err == nil {
			t.Errorf("%q was read as a width", bad)
		}
	}
}
