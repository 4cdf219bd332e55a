package trace

import (
	"bytes"
	"encoding/csv"
	"errors"
	"fmt"
	"io"
	"math"
	"strconv"
	"strings"
	"time"
	"unicode/utf8"

	"idlehiss/core/quantity"
)

// MaxRows is the longest file that is taken; more says nothing more.
const MaxRows = 2_000_000

// mostPa is the highest pressure that a test of this trade meets, Pa.
const mostPa = 1e8

// Fault is what is wrong with a trace file, and where.
type Fault struct {
	Line, Column int // 1-based; Column counts bytes; 0 where the whole line or file is meant
	Problem      string
}

func (f *Fault) Error() string {
	switch {
	case f.Line == 0:
		return f.Problem
	case f.Column == 0:
		return fmt.Sprintf("line %d: %s", f.Line, f.Problem)
	}
	return fmt.Sprintf("line %d, column %d: %s", f.Line, f.Column, f.Problem)
}

// ReadCSV reads a trace file (CLI.md, "Trace files"). Ambient turns absolute
// columns into gauge pressure where the file has no ambient column. The file is
// taken whole or refused whole with a *Fault.
func ReadCSV(r io.Reader, ambientPa float64) (*Trace, error) {
	return ReadInTurns(r, ambientPa, func() {})
}

// atATime is how many rows are read before others get their turn.
const atATime = 1000

// ReadInTurns reads as ReadCSV does, for somebody who has others to serve meanwhile: it calls others every so many rows.
func ReadInTurns(r io.Reader, ambientPa float64, others func()) (*Trace, error) {
	var whole bytes.Buffer
	if l, ok := r.(interface{ Len() int }); ok {
		whole.Grow(l.Len() + bytes.MinRead)
	}
	if _, err := whole.ReadFrom(r); err != nil {
		return nil, err
	}
	raw := whole.Bytes()
	raw = commented(bytes.TrimPrefix(raw, []byte("\ufeff")))
	t := &Trace{Settings: settings(raw)}
	header, comma := firstLine(raw), ','
	for _, s := range []rune{';', '\t'} {
		if strings.ContainsRune(header, s) {
			comma = s
			break
		}
	}
	c := open(raw, comma)
	row, err := c.Read()
	if err == io.EOF {
		return nil, &Fault{Problem: "the file is empty; its first row names the columns, such as: time [s],pressure [psi]"}
	}
	if err != nil {
		return nil, csvFault(err)
	}
	cols, unused, err := columns(row, c)
	if err != nil {
		return nil, err
	}
	t.Unused = unused
	rd := reader{t: t, c: c, cols: cols, commas: commasOf(raw, comma, cols), ambient: ambientPa, last: math.Inf(-1)}
	t.Readings = make([]Reading, 0, bytes.Count(raw, []byte("\n")))
	for n := 1; ; n++ {
		if some := rd.pairs(min(atATime, MaxRows+1-n)); some > 0 {
			n += some - 1
			others()
			continue
		}
		row, err = c.Read()
		if err == io.EOF {
			break
		}
		if err != nil {
			return nil, csvFault(err)
		}
		if n > MaxRows {
			line, _ := c.FieldPos(0)
			return nil, &Fault{Line: line, Problem: fmt.Sprintf("more than %d rows; keep every tenth or so, the answer stays the same", MaxRows)}
		}
		if err := rd.row(row); err != nil {
			return nil, err
		}
		if n%atATime == 0 {
			others()
		}
	}
	if len(t.Readings) < 3 {
		return nil, &Fault{Problem: fmt.Sprintf("only %d usable readings; at least 3 are needed, better 6 spread over the hold", len(t.Readings))}
	}
	return t, nil
}

// commented undoes what a spreadsheet program does to comment lines that it saves: it puts
// quotes round one that has a comma or a quote in it. Every byte keeps its place.
func commented(raw []byte) []byte {
	if !bytes.HasPrefix(raw, []byte(`"#`)) && !bytes.Contains(raw, []byte("\n\"#")) {
		return raw
	}
	out := bytes.Clone(raw)
	for at := 0; at < len(out); {
		if bytes.HasPrefix(out[at:], []byte(`"#`)) {
			out[at] = '#'
		}
		next := bytes.IndexByte(out[at:], '\n')
		if next < 0 {
			break
		}
		at += next + 1
	}
	return out
}

// judgeWord begins the comment that has the settings.
const judgeWord = "judge:"

// settings are what the judge line says, without what pads it to the width of the table.
func settings(raw []byte) string {
	if !bytes.Contains(raw, []byte(judgeWord)) {
		return "" // most files have none: they are not read by lines
	}
	for line := range bytes.Lines(raw) {
		if rest, ok := bytes.CutPrefix(line, []byte("#")); ok {
			rest, quoted := bytes.CutPrefix(rest, []byte("#"))
			rest = bytes.TrimRight(rest, ",;\t \r\n")
			if quoted {
				rest = bytes.ReplaceAll(bytes.TrimSuffix(rest, []byte(`"`)), []byte(`""`), []byte(`"`))
			}
			if flags, ok := bytes.CutPrefix(bytes.TrimSpace(rest), []byte(judgeWord)); ok {
				return string(bytes.TrimSpace(flags))
			}
		}
	}
	return ""
}

func firstLine(raw []byte) string {
	for line := range bytes.Lines(raw) {
		if s := strings.TrimSpace(string(line)); s != "" && s[0] != '#' {
			return string(line)
		}
	}
	return ""
}

func csvFault(err error) error {
	var p *csv.ParseError
	if errors.As(err, &p) {
		problem := p.Err.Error()
		if errors.Is(p.Err, csv.ErrFieldCount) {
			problem = "this row has another number of fields than the first row names columns"
		}
		return &Fault{Line: p.Line, Column: p.Column, Problem: problem}
	}
	return err
}

type reader struct {
	t       *Trace
	c       table
	cols    []column
	commas  []commas // of each
	ambient float64
	last    float64
	origin  time.Time
}

func (rd *reader) fault(i int, format string, a ...any) error {
	line, at := rd.c.FieldPos(i)
	return &Fault{Line: line, Column: at, Problem: fmt.Sprintf(format, a...)}
}

// trimmed is a cell without white space round it, which few have.
func trimmed(s string) string {
	n := len(s)
	if n == 0 || s[0] > ' ' && s[0] < utf8.RuneSelf && s[n-1] > ' ' && s[n-1] < utf8.RuneSelf {
		return s
	}
	return strings.TrimSpace(s)
}

func (rd *reader) row(row []string) error {
	var at float64
	how, event := Read, ""
	var err error
	for i, col := range rd.cols {
		text := trimmed(row[i])
		switch col.role {
		case timeCol:
			if at, err = rd.time(i, col, text); err != nil {
				return err
			}
			if !quantity.PossibleSeconds(at) {
				return rd.fault(i, "%s is no time of a test: a trace spans thirty years at most", text)
			}
			if at < rd.last {
				return rd.fault(i, "time runs backwards: %s comes after %s s; rows stand in order of time", text, strconv.FormatFloat(rd.last, 'f', -1, 64))
			}
			rd.last = at
		case ambientCol:
			if text == "" {
				continue
			}
			v, _, err := rd.number(i, text)
			if err != nil {
				return err
			}
			if rd.ambient = col.unit.SI(v); !quantity.PossibleAmbient(rd.ambient) {
				return rd.fault(i, "an ambient of %s %s is not of this earth; 50 to 110 kPa is", text, col.unit.Symbol)
			}
		case howCol:
			switch How(strings.ToLower(text)) {
			case "", Read:
			case Mark:
				how = Mark
			case Camera:
				how = Camera
			default:
				return rd.fault(i, "%q is no way of reading; write read, mark or camera", text)
			}
		case eventCol:
			event = Uncell(text)
		}
	}
	for i, col := range rd.cols {
		text := trimmed(row[i])
		switch col.role {
		case pressureCol, secondCol:
			if text == "" {
				continue
			}
			pa, digit, err := rd.pressure(i, col, text)
			if err != nil {
				return err
			}
			r := Reading{AtS: at, GaugePa: pa, How: how}
			if col.role == secondCol {
				rd.t.Second = append(rd.t.Second, r)
				continue
			}
			rd.took(r, col, digit)
		case temperatureCol:
			if text != "" {
				v, _, err := rd.number(i, text)
				if err != nil {
					return err
				}
				if v = celsius(v, col.unit); !quantity.PossibleCelsius(v) {
					return rd.fault(i, "%s is no temperature: loggers write such figures where a sensor is missing. Leave the cell empty; %g to %g °C is taken", text+" "+col.unit.Symbol, quantity.AbsoluteZero, quantity.MostCelsius)
				}
				rd.t.Temperature = append(rd.t.Temperature, Sample{at, v})
			}
		case ambientCol:
			if text != "" {
				rd.t.Ambient = append(rd.t.Ambient, Sample{at, rd.ambient})
			}
		}
	}
	if event != "" {
		rd.t.Events = append(rd.t.Events, Event{at, event})
	}
	return nil
}

func (rd *reader) pressure(i int, col column, text string) (pa, digit float64, err error) {
	v, d, err := rd.number(i, text)
	if err != nil {
		return 0, 0, err
	}
	if (col.vacuum || col.absolute) && v < 0 {
		return 0, 0, rd.fault(i, "%s in a column of vacuum or absolute pressure has a minus sign; these are counted without one", text)
	}
	pa = col.unit.SI(v)
	if col.vacuum {
		pa = -pa
	}
	if col.absolute {
		pa -= rd.ambient
	}
	if pa < -rd.ambient*(1+1e-6) {
		return 0, 0, rd.fault(i, "%s %s lies below absolute zero pressure", text, col.unit.Symbol)
	}
	if pa > mostPa {
		return 0, 0, rd.fault(i, "%s %s is beyond any test; at most 100 MPa is taken", text, col.unit.Symbol)
	}
	return pa, col.unit.SI(d), nil
}

func (rd *reader) time(i int, col column, text string) (float64, error) {
	if !col.clock {
		v, _, err := rd.number(i, text)
		if err != nil {
			return 0, err
		}
		return col.unit.SI(v), nil
	}
	if strings.ContainsAny(text, "T") {
		at, err := time.Parse(time.RFC3339Nano, text)
		if err != nil {
			return 0, rd.fault(i, "%q is no moment; write it as 2026-05-04T10:20:30Z", text)
		}
		if rd.origin.IsZero() {
			rd.origin, rd.t.Start = at, at
		}
		return at.Sub(rd.origin).Seconds(), nil
	}
	parts := strings.Split(text, ":")
	if len(parts) < 2 || len(parts) > 3 {
		return 0, rd.fault(i, "%q is no time; write mm:ss or hh:mm:ss, or name the unit in the first row: time [s]", text)
	}
	total := 0.0
	for k, p := range parts {
		v, _, err := rd.number(i, p)
		if err != nil || v < 0 || (k > 0 && v >= 60) {
			return 0, rd.fault(i, "%q is no time; write mm:ss or hh:mm:ss", text)
		}
		total = total*60 + v
	}
	return total, nil
}
