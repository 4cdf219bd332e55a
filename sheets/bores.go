package sheets

import (
	"fmt"
	"html/template"
	"strings"
)

// Bores are the isolation tests of a housing, as a checklist to take to the bench.
type Bores struct {
	Minutes string
	Tests   []Bore
	Last    []string // what is put back after the last
}

// Bore is one isolation test.
type Bore struct {
	N       int
	Title   string
	At      string // the pressure; empty: none is known
	Changes []string
	Feed    string // the bore into which air goes
	Plugs   []string
	Pressed []string
	Places  []BorePlace
	Meant   []string
	Result  string // what it showed; empty: not done
}

// BorePlace is where air may come out.
type BorePlace struct {
	Title, Seals string
	Found        bool
}

// Measures of the drawing, points.
const (
	boreWide  = 680.0
	boreLine  = 12.0  // from one line of a label to the next
	boreRow   = 26.0  // of a label of one line
	boreLeft  = 240.0 // where the space under pressure begins
	boreRight = 340.0 // and where it ends
)

// Letters of a label in one line: on the left, in the middle, on the right.
const (
	lettersLeft, lettersIn, lettersRight = 27, 15, 46
)

// Drawn is a test in black ink: air in and plugs on the left, what is under pressure in the middle, on the right the
// places where air may come out.
func (b Bore) Drawn() template.HTML {
	var w strings.Builder
	text := func(x, y float64, anchor, weight string, lines []string) {
		for i, l := range lines {
			fmt.Fprintf(&w, `<text x="%.0f" y="%.1f" text-anchor="%s" font-weight="%s" font-size="11">%s</text>`, x, y+4+boreLine*(float64(i)-float64(len(lines)-1)/2), anchor, weight, template.HTMLEscapeString(l))
		}
	}
	line := func(x1, x2, y, width float64, dash string) {
		fmt.Fprintf(&w, `<path d="M%.0f %.1f H%.0f" stroke="#111" stroke-width="%.1f" stroke-dasharray="%s" fill="none"/>`, x1, y, x2, width, dash)
	}
	arrow := func(x, y float64) {
		fmt.Fprintf(&w, `<path d="M%.0f %.1f l8 5 l-8 5" stroke="#111" stroke-width="2" fill="none"/>`, x-8, y-5)
	}
	high := func(lines []string) float64 { return boreRow + boreLine*float64(len(lines)-1) }
	left := [][]string{folded("Air in: "+b.Feed, lettersLeft)}
	for _, p := range b.Plugs {
		left = append(left, folded(p, lettersLeft))
	}
	var right [][]string
	for _, p := range b.Places {
		says := map[bool]string{true: "☒ ", false: "☐ "}[p.Found] + p.Title
		if p.Seals != "" {
			says += ": " + p.Seals
		}
		right = append(right, folded(says, lettersRight))
	}
	for _, m := range b.Meant {
		right = append(right, folded("meant: "+m, lettersRight))
	}
	in := folded(strings.Join(b.Pressed, ", "), lettersIn)
	sum := func(all [][]string) (h float64) {
		for _, l := range all {
			h += high(l)
		}
		return h
	}
	tall := 8 + max(sum(left), sum(right), high(in))
	fmt.Fprintf(&w, `<svg viewBox="0 0 %.0f %.0f" class="chart" role="img" aria-label="%s">`, boreWide, tall, template.HTMLEscapeString(b.Title))
	fmt.Fprintf(&w, `<rect x="%.0f" y="2" width="%.0f" height="%.0f" fill="#eee" stroke="#111" stroke-width="2"/>`, boreLeft, boreRight-boreLeft, tall-4)
	text((boreLeft+boreRight)/2, tall/2, "middle", "700", in)
	y := 4.0
	for i, l := range left {
		at := y + high(l)/2
		text(boreLeft-56, at, "end", map[bool]string{true: "700", false: "400"}[i == 0], l)
		if i == 0 {
			line(boreLeft-48, boreLeft-2, at, 3, "")
			arrow(boreLeft-2, at)
		} else {
			fmt.Fprintf(&w, `<rect x="%.0f" y="%.1f" width="8" height="14" fill="#111"/>`, boreLeft-40, at-7)
			line(boreLeft-32, boreLeft, at, 3, "")
		}
		y += high(l)
	}
	y = 4
	for i, l := range right {
		at := y + high(l)/2
		if i < len(b.Places) {
			line(boreRight, boreRight+8, at, 1.5, "")
			fmt.Fprintf(&w, `<circle cx="%.0f" cy="%.1f" r="6" stroke="#111" stroke-width="2" fill="#fff"/>`, boreRight+14, at)
			line(boreRight+20, boreRight+50, at, 1.5, "4 3")
		} else {
			line(boreRight, boreRight+50, at, 1.5, "2 4")
		}
		arrow(boreRight+52, at)
		text(boreRight+60, at, "start", "400", l)
		y += high(l)
	}
	w.WriteString("</svg>")
	return template.HTML(w.String())
}

// folded are the lines of a label.
func folded(says string, letters int) (lines []string) {
	line := ""
	for _, word := range strings.Fields(says) {
		if line != "" && len([]rune(line))+1+len([]rune(word)) > letters {
			lines, line = append(lines, line), ""
		}
		line = strings.TrimSpace(line + " " + word)
	}
	return append(lines, line)
}
