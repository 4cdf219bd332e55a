package sheets

import (
	"encoding/xml"
	"io"
	"strings"
	"testing"

	"idlehiss/core/quantity"
)

func drawn() Chart {
	c := Chart{Unit: quantity.MustNamed("kPa", quantity.Pressure), TargetPa: 110e3, Gaps: [][2]float64{{40, 60}}}
	shut := 10.0
	c.ShutS = &shut
	for s := range 120 {
		if s < 40 || s >= 60 {
			c.T, c.Pa = append(c.T, float64(s)), append(c.Pa, 110e3-20*float64(s))
		}
	}
	return c
}

// whole is a paper on which everything is said in the same words.
func whole(says string) Sheet {
	fall := Fall(drawn(), drawn())
	return Sheet{Head: Head{Name: says, Lines: []string{says}, Standing: says, Always: "The manual outranks this."}, Size: "A4", Number: says, Rows: []Row{{"Customer", says}}, Machine: says, Ring: "cut", Verdict: says,
		Simulated: true, Figures: []Figure{{"Loss", says, says}}, Did: []Row{{"Gauge", says}}, Tests: []Step{{Title: says, Verdict: says, Sentence: says, Read: []Read{{says, says, says}}}},
		NotTested: []string{"Not tested: the cap."}, Overrides: []string{"Pump to 131 kPa, ABOVE the cap's 110 kPa."}, Part: says, Seen: []string{says}, Photo: &Photo{says, []byte{0xff}}, Next: []string{says},
		Mend: &Mend{Done: []string{says}, Says: says, Lost: says, Loses: says, Sure: says, Unlike: []string{says}, Chart: fall},
		Rest: Rest{Facts: []Fact{{Sentence: says, Source: "eyes"}, {Sentence: "The cap says 16.", Source: "mark", Superseded: true}}, Holds: []Hold{{Title: says, Sentence: says, How: says, Why: []string{says}, Schools: []string{says}, Chart: drawn().SVG()}},
			Steps: []Step{{Title: says, Read: []Read{{says, says, says}}}}, Looks: []Look{{says, says, says}}, Photos: []Photo{{says, []byte{0xff}}}, Ticks: []Tick{{"Cap back on", true}, {"Level right", false}}, Cautions: []string{"Hot."},
			Bores: &Bores{Minutes: says, Tests: []Bore{{N: 1, Title: says, At: says, Changes: []string{says}, Feed: says, Plugs: []string{says}, Places: []BorePlace{{Title: says, Seals: says}}, Result: says}}, Last: []string{says}}}}
}

func written(t *testing.T, s Sheet) string {
	t.Helper()
	var b strings.Builder
	if err := Write(&b, s); err != nil {
		t.Fatal(err)
	}
	return b.String()
}

// Whatever people call their machines, the paper says it and stays a paper.
func TestWhatIsTypedStaysText(t *testing.T) {
	for _, nasty := range []string{`<script>alert("1")</script> & Söhne`, `</style></table><table>`, `"><img src=x onerror=alert(1)>`, `{{.Machine}}`, "javascript:alert(1)", strings.Repeat("W", 5000), "\x00\u202e\ufeff"} {
		plain, typed := written(t, whole("x")), written(t, whole(nasty))
		for _, tag := range []string{"<script", "<img", "<table", "</table", "<td", "<svg", "<li", "</div", "<style", "onerror=alert(1)>"} {
			if a, b := strings.Count(plain, tag), strings.Count(typed, tag); a != b {
				t.Errorf("%.30q: %q comes %d times, in a plain paper %d times", nasty, tag, b, a)
			}
		}
	}
	page := written(t, whole(`<script>alert("1")</script> & Söhne`))
	for _, words := range []string{"&amp; Söhne", "<s>The cap says 16.</s>", "ABOVE", "☑ Cap back on", "☐ Level right", "Simulated readings", "Not tested: the cap.", "outranks", "size: A4"} {
		if !strings.Contains(page, words) {
			t.Errorf("the paper lacks %q", words)
		}
	}
	// In the order of reading: the verdict, what was not tested, the mend, what always stands at the foot, then the rest.
	at := -1
	for _, words := range []string{`class="verdict"`, "Not tested: the cap.", "before the repair", "outranks", `class="rest"`, "Hot."} {
		next := strings.Index(page, words)
		if next < at {
			t.Errorf("%q stands too early", words)
		}
		at = next
	}
}

// The paper opens from a disk with nothing beside it: it names no other file and runs no script.
func TestThePaperNeedsNothingBesideIt(t *testing.T) {
	page := written(t, whole("x"))
	for _, bad := range []string{"<script", "<link", "@import", "url(", "http:", "https:", "src=\"/", "href="} {
		if strings.Contains(page, bad) {
			t.Errorf("the paper has %q", bad)
		}
	}
	if n := strings.Count(page, `src="`); n == 0 || n != strings.Count(page, `src="data:`) {
		t.Error("a picture is not within the page")
	}
	s := whole("x")
	s.Slip = true
	if slip := written(t, s); strings.Contains(slip, `class="rest"`) || !strings.Contains(slip, "For the customer") {
		t.Error("the slip has the appendix")
	}
}

func TestTheChartIsDrawnInInkAndBreaksAtItsGap(t *testing.T) {
	svg := string(drawn().SVG())
	d := xml.NewDecoder(strings.NewReader(svg))
	for {
		if _, err := d.Token(); err == io.EOF {
			break
		} else if err != nil {
			t.Fatalf("the chart is no drawing: %v\n%s", err, svg)
		}
	}
	if !strings.Contains(svg, "kPa") || !strings.Contains(svg, "since the supply was shut") {
		t.Error("an axis without its unit")
	}
	if fall := string(Fall(drawn(), drawn())); strings.Count(fall, `stroke-dasharray="7 4"`) != 1 || !strings.Contains(fall, "change, kPa") {
		t.Error("before and after are not two lines on one scale")
	}
	trace := svg[strings.LastIndex(svg, "<path"):]
	if n := strings.Count(trace, "M"); n != 2 || !strings.Contains(trace, `stroke-width="1.4"`) {
		t.Errorf("the trace is drawn in %d strokes, want one on either side of the gap", n)
	}
	for _, bad := range []string{"NaN", "Inf", "e+"} {
		if strings.Contains(svg, bad) {
			t.Errorf("%s in the drawing", bad)
		}
	}
	// A hold of one reading, and one that never moved, are drawn too.
	for name, c := range map[string]Chart{
		"one":   {Unit: drawn().Unit, T: []float64{3}, Pa: []float64{1e5}, TargetPa: 1e5},
		"still": {Unit: drawn().Unit, T: []float64{0, 60}, Pa: []float64{1e5, 1e5}, TargetPa: 1e5},
		"none":  {Unit: drawn().Unit, TargetPa: 1e5},
	} {
		if svg := string(c.SVG()); strings.Contains(svg, "NaN") || strings.Contains(svg, "Inf") {
			t.Errorf("%s: %s", name, svg)
		}
	}
}

func TestEveryRingHasItsOwnShape(t *testing.T) {
	seen := map[string]string{}
	for _, r := range []string{"whole", "dotted", "nicked", "cut"} {
		svg := ringSVG(r)
		if was, ok := seen[svg]; ok {
			t.Errorf("%s is drawn as %s is", r, was)
		}
		seen[svg] = r
	}
}
