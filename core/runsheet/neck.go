package runsheet

import (
	"fmt"
	"regexp"
	"slices"
	"strings"

	"idlehiss/core/quantity"
	"idlehiss/core/terms"
)

// Fit is what an adapter or plug goes on. Nothing of it is read from its name.
type Fit struct {
	Families []terms.Fitting `json:"families,omitempty" yaml:"families"` // of necks, threads and holes
	FromM    float64         `json:"from_m,omitempty" yaml:"-"`          // the smallest width, m; 0: any
	ToM      float64         `json:"to_m,omitempty" yaml:"-"`            // and the largest
	Make     terms.Make      `json:"make,omitempty" yaml:"make"`
	OwnAir   bool            `json:"own_air,omitempty" yaml:"own_air"` // it has an air channel of its own: inflated first, let down last
}

// Neck is the place an adapter goes on, as it was measured.
type Neck struct {
	Families []terms.Fitting
	WidthM   float64 // 0: not measured
	Make     terms.Make
}

// widths finds "38", "38 mm", "36 to 41 mm" and "1.5 in".
var (
	widths = regexp.MustCompile(`([0-9]+(?:[.,][0-9]+)?)(?:\s*(?:to|-|–)\s*([0-9]+(?:[.,][0-9]+)?))?\s*(mm|cm|in|inch)?\b`)
	plain  = regexp.MustCompile(`[a-z]+`)
)

// widest is the largest neck there is, m.
const widest = 0.3

// Width is one width or a range of widths, m; 0, 0 for an empty text. A bare number is mm.
func Width(text string) (fromM, toM float64, err error) {
	if strings.TrimSpace(text) == "" {
		return 0, 0, nil
	}
	low, high := width(text)
	switch {
	case low == 0, widths.FindString(strings.ToLower(text)) != strings.ToLower(strings.TrimSpace(text)):
		return 0, 0, fmt.Errorf("%q is no width: write 38 mm, or 36 to 41 mm", text)
	case high < low:
		return 0, 0, fmt.Errorf("%q runs downwards: write the smaller width first", text)
	case high > widest:
		return 0, 0, fmt.Errorf("%s mm is wider than any neck: in which unit was it measured?", quantity.Significant(high*1e3, 3))
	}
	return low, high, nil
}

// width finds the first width of a text, m; 0, 0 where there is none.
func width(text string) (low, high float64) {
	m := widths.FindStringSubmatch(strings.ToLower(text))
	if m == nil {
		return 0, 0
	}
	unit := map[string]float64{"cm": 1e-2, "in": 25.4e-3, "inch": 25.4e-3}[m[3]]
	if unit == 0 {
		unit = 1e-3
	}
	read := func(s string) float64 {
		v, _, err := quantity.Number(s)
		if err != nil {
			return 0
		}
		return v * unit
	}
	low = read(m[1])
	if high = low; m[2] != "" {
		high = read(m[2])
	}
	return low, high
}

// necks are the words in which a person tells how a neck is made.
var necks = map[string][]terms.Fitting{
	"smooth": {terms.ExpandingRubber, terms.DoubleRingPlug, terms.Bladder},
	"thread": {terms.ThreadInside, terms.ThreadOutside},
}

// ParseNeck reads what a person measured: "38 mm", "38", "smooth, 1.5 in" or "bayonet,
// shallow". A bare number is mm.
func ParseNeck(text string) (Neck, error) {
	low, high := width(text)
	if low != high {
		return Neck{}, fmt.Errorf("%q is a range: measure the neck, such as 38 mm", text)
	}
	if low > widest {
		return Neck{}, fmt.Errorf("%s mm is wider than any neck: in which unit was it measured?", quantity.Significant(low*1e3, 3))
	}
	n := Neck{WidthM: low}
	about := strings.ToLower(text)
	for _, f := range terms.Fitting("").Values() {
		if strings.Contains(about, f) {
			n.Families = append(n.Families, terms.Fitting(f))
		}
	}
	for _, w := range plain.FindAllString(about, -1) {
		if m := terms.Make(w); m != terms.AnyMake && slices.Contains(m.Values(), w) {
			n.Make = m
		}
		if len(n.Families) == 0 {
			n.Families = append(n.Families, necks[w]...)
		}
	}
	if n.WidthM == 0 && len(n.Families) == 0 && n.Make == terms.AnyMake {
		return n, fmt.Errorf("type how wide the neck is, such as 38 mm, or how it is made, such as bayonet, shallow")
	}
	return n, nil
}

// Misfit is why a piece does not go on a neck, or does.
type Misfit string

// What a comparison of piece and neck comes to.
const (
	FitNotKnown Misfit = "not-known"
	OtherMake   Misfit = "other-make"
	TooLarge    Misfit = "too-large" // by ByM
	TooSmall    Misfit = "too-small" // by ByM
	RightSize   Misfit = "right-size"
	RightFamily Misfit = "right-family"
)

// Fitted is how a piece suits a neck.
type Fitted struct {
	Misfit Misfit
	ByM    float64       // by how much its size is wrong, m
	Family terms.Fitting // they have in common
}

// Suits reports whether the piece goes on; known is false where nothing tells it.
func (f Fitted) Suits() (suits, known bool) {
	return f.Misfit == RightSize || f.Misfit == RightFamily, f.Misfit != FitNotKnown
}

// sizeTells is how far a single width may be from the neck's and still be meant, m.
const sizeTells = 0.75e-3

// Takes compares a piece with the neck: its make, then its size, then its family.
func (n Neck) Takes(f Fit) Fitted {
	if n.Make != terms.AnyMake && f.Make == n.Make.Against() {
		return Fitted{Misfit: OtherMake}
	}
	if n.WidthM > 0 && f.FromM > 0 {
		low, high := f.FromM, f.ToM
		if low == high {
			low, high = low-sizeTells, high+sizeTells
		}
		switch {
		case n.WidthM < low-1e-9:
			return Fitted{Misfit: TooLarge, ByM: low - n.WidthM}
		case n.WidthM > high+1e-9:
			return Fitted{Misfit: TooSmall, ByM: n.WidthM - high}
		}
		return Fitted{Misfit: RightSize}
	}
	for _, x := range n.Families {
		if slices.Contains(f.Families, x) {
			return Fitted{Misfit: RightFamily, Family: x}
		}
	}
	return Fitted{Misfit: FitNotKnown}
}

// FitsAny reports whether a piece is of a family that some port takes.
func (f Fit) FitsAny(takes []terms.Fitting) bool {
	return slices.ContainsFunc(f.Families, func(x terms.Fitting) bool { return slices.Contains(takes, x) })
}
