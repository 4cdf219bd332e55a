package runsheet

import (
	"fmt"
	"regexp"
	"strings"

	"idlehiss/core/circuit"
	"idlehiss/core/quantity"
)

// Sized are the families of fitting that come in sizes: a neck's width chooses one.
var Sized = []string{"thread inside", "thread outside", "bayonet", "double-ring plug", "expanding rubber", "bladder", "lidded coupler", "hose nipple"}

// Neck is the place an adapter goes on: how it is made and how wide it is.
type Neck struct {
	Families []string // of circuit.Fittings, as they are named in what was typed
	WidthM   float64  // 0: not told
	Words    []string // what else was said of it, such as shallow
}

var (
	widths = regexp.MustCompile(`([0-9]+(?:[.,][0-9]+)?)(?:\s*(?:to|-|–)\s*([0-9]+(?:[.,][0-9]+)?))?\s*(mm|cm|in|inch)?\b`)
	plain  = regexp.MustCompile(`[a-z]+`)
)

// ParseNeck reads "38 mm", "38", "smooth, 1.5 in" or "bayonet, shallow". A bare
// number is mm. Wider than 300 mm is refused: no neck is.
func ParseNeck(text string) (Neck, error) {
	low, high := span(text, true)
	if low != high {
		return Neck{}, fmt.Errorf("%q is a range: measure the neck, such as 38 mm", text)
	}
	if low > 0.3 {
		return Neck{}, fmt.Errorf("%s mm is wider than any neck: in which unit was it measured?", quantity.Significant(low*1e3, 3))
	}
	n := Neck{WidthM: low, Families: familiesIn(text)}
	if n.Words = others(text); low == 0 && len(n.Words) == 0 && len(n.Families) == 0 {
		return n, fmt.Errorf("say how wide the neck is or how it is made, such as 38 mm, or bayonet, shallow")
	}
	return n, nil
}

// span finds the first width or range of widths in a text, m; 0, 0 where none is.
// bare lets a number without a unit be mm.
func span(text string, bare bool) (low, high float64) {
	var m []string
	for _, found := range widths.FindAllStringSubmatch(strings.ToLower(text), -1) {
		if found[3] != "" || bare {
			m = found
			break
		}
	}
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

// familiesIn names the families of fitting that a text speaks of.
func familiesIn(text string) []string {
	var out []string
	about := strings.ToLower(text)
	for _, f := range circuit.Fittings {
		if strings.Contains(about, f) {
			out = append(out, f)
		}
	}
	return out
}

// telling are words that tell necks of one family from each other.
var telling = map[string]string{"shallow": "deep", "deep": "shallow", "coarse": "fine", "fine": "coarse", "inside": "outside", "outside": "inside"}

func others(text string) []string {
	var out []string
	for _, w := range plain.FindAllString(strings.ToLower(text), -1) {
		if _, ok := telling[w]; ok || w == "smooth" || w == "thread" || w == "bayonet" {
			out = append(out, w)
		}
	}
	return out
}

// sizeTells is how far a single width may be from the neck's and still be meant.
const sizeTells = 0.75e-3

// Takes tells whether a piece described so ("smooth necks of 36 to 41 mm") goes on
// this neck: yes, no, or unknown where its description does not say; and why.
func (n Neck) Takes(about string) (suits, known bool, says string) {
	for _, w := range n.Words {
		if against := telling[w]; against != "" && strings.Contains(strings.ToLower(about), against) {
			return false, true, "for a " + against + " one"
		}
	}
	if low, high := span(about, false); n.WidthM > 0 && low > 0 {
		if low == high {
			low, high = low-sizeTells, high+sizeTells
		}
		mm := func(m float64) string { return quantity.Significant(m*1e3, 2) + " mm" }
		switch {
		case n.WidthM < low-1e-9:
			return false, true, mm(low-n.WidthM) + " too large"
		case n.WidthM > high+1e-9:
			return false, true, mm(n.WidthM-high) + " too small"
		}
		return true, true, "the size for " + mm(n.WidthM)
	}
	theirs := familiesIn(about)
	for _, f := range n.Families {
		for _, t := range theirs {
			if f == t {
				return true, true, "made for " + f
			}
		}
	}
	for _, w := range n.Words {
		if strings.Contains(strings.ToLower(about), w) {
			return true, true, "made for " + w
		}
	}
	return false, false, ""
}
