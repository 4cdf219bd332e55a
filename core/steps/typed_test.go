package steps

import (
	"errors"
	"math"
	"math/rand/v2"
	"strings"
	"testing"

	"idlehiss/core/quantity"
)

// words that people might put into any cell, right or not.
var words = []string{"", " ", "yes", "no", "12", "0", "-4", "1e9", "44 kPa", "6,5 psi", "7 bar", "3.1 s", "1:30", "90", "nothing", "crack", "leaks", "scrap", "5 5", "10 10; 90 10; 50 40", "15 N·m, 30 N·m",
	"0 L", "100 L ± 3 L", "1/0", "∞", "16 psi abs", "-7 inHg", "30 bar", "4 °C", "-300 °C", "100 %", "25 L/min", "a very long answer that nobody wanted to read at all", "\x00", "12 apples"}

// entry fills some of what is asked, and now and then what is not.
func entry(r *rand.Rand, ask Ask) Entry {
	word := func() string { return words[r.IntN(len(words))] }
	e := Entry{Fields: map[string]string{}}
	for _, f := range ask.Fields {
		if r.IntN(3) > 0 {
			e.Fields[f.ID] = word()
		}
	}
	rows := append([]Row{}, ask.Rows...)
	if r.IntN(3) == 0 {
		rows = append(rows, Row{ID: "more", Title: word()})
	}
	for _, row := range rows {
		if r.IntN(4) == 0 {
			continue
		}
		x := EntryRow{ID: row.ID, Title: row.Title, Cells: map[string]string{}}
		for _, f := range ask.Columns {
			x.Cells[f.ID] = word()
			if len(f.Choices) > 0 && r.IntN(2) == 0 {
				x.Cells[f.ID] = f.Choices[r.IntN(len(f.Choices))]
			}
		}
		e.Rows = append(e.Rows, x)
	}
	return e
}

// Whatever is typed into a step is refused at a cell or judged: never a verdict from
// what is not there, never a figure that is none, never a different answer the second
// time or cell by cell.
func TestWhateverIsTypedIsJudgedOrRefused(t *testing.T) {
	mark, err := quantity.DecodeMark("1.1", quantity.CapMarks)
	if err != nil {
		t.Fatal(err)
	}
	given := Given{AmbientPa: 101325, Mark: &mark.Readings[0], TargetPa: 110e3, StepPa: 500, Things: []string{"Wagon 1", "Wagon 2", "Wagon 3"}, Ticked: map[string]bool{"level": true}}
	judged, refused := 0, 0
	for _, kind := range []string{"feed", "floor", "presses", "emergency", "one-way", "round", "values", "lost", "charge", "cracks", "tighten", "list"} {
		c, s := named(kind)
		ask, _ := AskOf(s, &c, given)
		if out, err := Judge(s, &c, given, Entry{}); err != nil || out.Verdict == Good || out.Sentence == "" {
			t.Errorf("%s: of nothing: %s (%s) %v", kind, out.Verdict, out.Sentence, err)
		}
		r := rand.New(rand.NewPCG(7, uint64(len(kind))))
		for range 1500 {
			e := entry(r, ask)
			out, err := Judge(s, &c, given, e)
			if err != nil {
				refused++
				var at CellError
				if !errors.As(err, &at) || strings.TrimSpace(err.Error()) == "" {
					t.Fatalf("%s: %v is refused without a cell: %v", kind, e, err)
				}
				continue
			}
			judged++
			if out.Sentence == "" || (out.Verdict != Good && out.Verdict != Bad && out.Verdict != Unknown) {
				t.Fatalf("%s: %v gives %+v", kind, e, out)
			}
			for _, f := range out.Figures {
				if math.IsNaN(f.Value) || math.IsInf(f.Value, 0) || strings.Contains(f.Text, "NaN") {
					t.Fatalf("%s: %v gives the figure %s", kind, e, f.Text)
				}
			}
			if strings.Contains(out.Sentence, "NaN") || strings.Contains(out.Sentence, "Inf") {
				t.Fatalf("%s: %v says %s", kind, e, out.Sentence)
			}
			// Laid down cell by cell it means the same.
			var grown Entry
			for id, text := range e.Fields {
				grown = grown.With(Entry{Fields: map[string]string{id: text}})
			}
			for _, row := range e.Rows {
				grown = grown.With(Entry{Rows: []EntryRow{{ID: row.ID, Title: row.Title}}})
				for id, text := range row.Cells {
					grown = grown.With(Entry{Rows: []EntryRow{{ID: row.ID, Cells: map[string]string{id: text}}}})
				}
			}
			again, err := Judge(s, &c, given, grown)
			if err != nil || again.Verdict != out.Verdict || again.Sentence != out.Sentence {
				t.Fatalf("%s: %v is %s (%s); cell by cell %s (%s) %v", kind, e, out.Verdict, out.Sentence, again.Verdict, again.Sentence, err)
			}
			// With its units written out it means the same.
			if again, err = Judge(s, &c, given, ask.Written(e)); err != nil || again.Verdict != out.Verdict || again.Sentence != out.Sentence {
				t.Fatalf("%s: %v is %s (%s); with units %s (%s) %v", kind, e, out.Verdict, out.Sentence, again.Verdict, again.Sentence, err)
			}
		}
	}
	if judged < 1500 || refused < 1500 {
		t.Errorf("%d were judged and %d refused: the check looks at too little", judged, refused)
	}
}
