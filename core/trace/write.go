package trace

import (
	"fmt"
	"io"
	"math"
	"regexp"
	"strconv"
	"strings"
	"unicode"
)

// WriteCSV writes the trace in the form ReadCSV reads, with full precision, so
// that a judge comes to the same answer. Settings become the "# judge:" line.
// Notes are written above as comments.
func (t *Trace) WriteCSV(w io.Writer, notes ...string) error {
	for _, line := range t.Above(notes...) {
		if _, err := fmt.Fprintln(w, line); err != nil {
			return err
		}
	}
	warm := len(t.Temperature) > 0
	row := func(at float64, pressure, event, how, degrees string) error {
		cells := []string{strconv.FormatFloat(at, 'f', -1, 64), pressure, event, how}
		if warm {
			cells = append(cells, degrees)
		}
		return line(w, cells)
	}
	head := []string{"time [s]", "pressure [" + t.Unit.Symbol + "]", "event", "how"}
	if warm {
		head = append(head, "temperature [°C]")
	}
	if err := line(w, head); err != nil {
		return err
	}
	e, k := 0, 0
	// temperatures of other moments than a reading's stand on rows of their own.
	temperatures := func(until float64) error {
		for ; k < len(t.Temperature) && t.Temperature[k].AtS < until; k++ {
			if err := row(t.Temperature[k].AtS, "", "", "", strconv.FormatFloat(t.Temperature[k].Value, 'f', -1, 64)); err != nil {
				return err
			}
		}
		return nil
	}
	events := func(until float64, inclusive bool) error {
		for ; e < len(t.Events) && (t.Events[e].AtS < until || inclusive && t.Events[e].AtS == until); e++ {
			if err := temperatures(t.Events[e].AtS); err != nil {
				return err
			}
			if err := row(t.Events[e].AtS, "", Cell(t.Events[e].Kind), "", ""); err != nil {
				return err
			}
		}
		return nil
	}
	for _, r := range t.Readings {
		// Events of the same instant come first: they stand before the first
		// reading taken after them.
		if err := events(r.AtS, true); err != nil {
			return err
		}
		// Ten digits: all that was read, without the dust of conversion.
		value := strconv.FormatFloat(t.Unit.Of(r.GaugePa), 'g', 10, 64)
		if err := temperatures(r.AtS); err != nil {
			return err
		}
		degrees := ""
		if k < len(t.Temperature) && t.Temperature[k].AtS == r.AtS {
			degrees = strconv.FormatFloat(t.Temperature[k].Value, 'f', -1, 64)
			k++
		}
		if err := row(r.AtS, value, "", string(r.How), degrees); err != nil {
			return err
		}
	}
	if err := events(math.Inf(1), false); err != nil {
		return err
	}
	return temperatures(math.Inf(1))
}

// Above are the comment lines over a trace: what is to be noted, and its settings.
func (t *Trace) Above(notes ...string) []string {
	var out []string
	for _, n := range notes {
		out = append(out, comment(n))
	}
	if t.Settings != "" {
		out = append(out, "# judge: "+t.Settings)
	}
	return out
}

// line writes cells, none of which is cut in two by a program that cuts elsewhere than at commas.
func line(w io.Writer, cells []string) error {
	for i, c := range cells {
		if strings.ContainsAny(c, `,;"`) {
			cells[i] = `"` + strings.ReplaceAll(c, `"`, `""`) + `"`
		}
	}
	_, err := fmt.Fprintln(w, strings.Join(cells, ","))
	return err
}

// A spreadsheet takes what begins with one of these signs for a formula: at the beginning of a cell, or after what a
// program of another country cuts cells at.
var (
	runs   = regexp.MustCompile(`(^|[;,]\s*)('*[=+\-@])`)
	ran    = regexp.MustCompile(`(^|[;,]\s*)'('*[=+\-@])`)
	before = "$1'$2"
)

// Cell is a text that a spreadsheet shows and does not run: behind an apostrophe where it would.
func Cell(text string) string { return runs.ReplaceAllString(strings.TrimSpace(oneLine(text)), before) }

// Uncell is the text of a cell.
func Uncell(text string) string { return ran.ReplaceAllString(text, "$1$2") }

// comment is a line that is only read by people: one cell, whatever names stand in it, and never settings.
func comment(note string) string {
	note = Cell(note)
	if strings.HasPrefix(note, judgeWord) {
		note = "about " + note
	}
	if strings.ContainsAny(note, `,;"`) {
		return `"# ` + strings.ReplaceAll(note, `"`, `""`) + `"`
	}
	return "# " + note
}

// oneLine is a text without what would break its line, or what stands for nothing on paper.
func oneLine(text string) string {
	return strings.Map(func(r rune) rune {
		if unicode.IsControl(r) || r == '\u2028' || r == '\u2029' {
			return ' '
		}
		return r
	}, text)
}
