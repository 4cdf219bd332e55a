package sheets

import (
	"encoding/xml"
	"io"
	"strings"
	"testing"
	"time"

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

// Whatever people call their machines, the sheet says it and stays a sheet.
func TestWhatIsTypedStaysText(t *testing.T) {
	var b strings.Builder
	nasty := `<script>alert("1")</script> & Söhne`
	ended := time.Date(2026, 3, 2, 9, 40, 0, 0, time.UTC)
	err := Write(&b, Sheet{Shop: "Idle Hiss", Machine: nasty, Complaint: nasty, By: nasty, At: ended.Add(-time.Hour), Ended: &ended, State: "closed", Ring: "cut", Verdict: "Leaking.",
		Facts: []Fact{{Sentence: nasty, Source: "eyes"}, {Sentence: "The cap says 16.", Source: "mark", Superseded: true}}, Override: "Pump to 131 kPa, ABOVE the cap's 110 kPa.",
		Looks: []Look{{Part: "Radiator", Seen: nasty, By: "Ilse"}}, Ticks: []Tick{{"Cap back on", true}, {"Level right", false}}, Cautions: []string{"Hot."},
		NotTested: []string{"Not tested: the cap."}, Standing: "The manual outranks this.", Simulated: true, Holds: []Hold{{Title: "Test", Sentence: "Leaking.", How: nasty, Chart: drawn()}}})
	if err != nil {
		t.Fatal(err)
	}
	page := b.String()
	if strings.Contains(page, "<script>") {
		t.Error("what was typed has become part of the page")
	}
	for _, words := range []string{"&amp; Söhne", "<s>The cap says 16.</s>", "ABOVE", "☑ Cap back on", "☐ Level right", "simulated readings", "2 March 2026, 08:40", "Not tested: the cap.", "outranks"} {
		if !strings.Contains(page, words) {
			t.Errorf("the sheet lacks %q", words)
		}
	}
	// In the order of reading: the verdict, what was not tested, the hold, and at the foot the cautions.
	at := -1
	for _, words := range []string{`class="verdict"`, "Not tested: the cap.", "since the supply was shut", "Where it was looked", "Hot."} {
		next := strings.Index(page, words)
		if next < at {
			t.Errorf("%q stands too early", words)
		}
		at = next
	}
}

func TestTheChartIsDrawnInInkAndBreaksAtItsGap(t *testing.T) {
	svg := drawn().SVG()
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
		if svg := c.SVG(); strings.Contains(svg, "NaN") || strings.Contains(svg, "Inf") {
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
