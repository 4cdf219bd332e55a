package bundle

import (
	"bytes"
	"cmp"
	"encoding/csv"
	"errors"
	"fmt"
	"io"
	"math"
	"slices"
	"strconv"
	"strings"
	"time"

	"idlehiss/core/quantity"
	"idlehiss/core/trace"
	"idlehiss/holds"
	"idlehiss/logbook"
)

// Columns of a trace in a bundle. The last two are for taking it over: which reading of its gauge a row is, and how it
// was read where the row's pressure does not say it (another unit) or must not count (struck out).
const (
	timeColumn  = "time [s]"
	warmth      = "temperature [°C]"
	seqColumn   = "number"
	readColumn  = "as read"
	degrees     = "°C"
	thermometer = int(holds.Thermometer)
)

// traceOf writes the readings of one end of a hold as a trace file: the near one with temperatures and events. above
// are the lines over it.
func traceOf(h logbook.WholeHold, gauge int, above []string) ([]byte, error) {
	var rows []logbook.Reading
	unit := ""
	for _, r := range h.Readings {
		if r.Gauge == gauge || gauge == int(holds.Near) && r.Gauge == thermometer {
			rows = append(rows, r)
			if unit == "" && r.Gauge == gauge {
				unit = r.Unit
			}
		}
	}
	slices.SortStableFunc(rows, func(a, b logbook.Reading) int { return a.At.Compare(b.At) })
	u, err := quantity.Named(cmp.Or(unit, "kPa"), quantity.Pressure)
	if err != nil {
		return nil, err
	}
	var out bytes.Buffer
	for _, line := range above {
		fmt.Fprintln(&out, line)
	}
	w := csv.NewWriter(&out)
	put := func(at time.Time, pressure, event, how, warm, seq, read string) error {
		s := strconv.FormatFloat(float64(at.UnixMicro()-h.At.UnixMicro())/1e6, 'f', -1, 64)
		return w.Write([]string{s, pressure, trace.Cell(event), how, warm, seq, trace.Cell(read)})
	}
	errs := []error{w.Write([]string{timeColumn, "pressure [" + u.Symbol + "]", "event", "how", warmth, seqColumn, readColumn})}
	e := 0
	events := func(until time.Time, all bool) {
		for ; gauge == int(holds.Near) && e < len(h.Events) && (all || !h.Events[e].At.After(until)); e++ {
			errs = append(errs, put(h.Events[e].At, "", h.Events[e].Kind, "", "", "", ""))
		}
	}
	for _, r := range rows {
		events(r.At, false)
		text := strconv.FormatFloat(r.Value, 'g', -1, 64)
		pressure, warm, read := "", "", ""
		switch {
		case r.Struck != "":
			read = text + " " + r.Unit
		case r.Gauge == thermometer:
			warm = text
		case r.Unit == u.Symbol:
			pressure = text
		default:
			read = text + " " + r.Unit
			if own, err := quantity.Named(r.Unit, quantity.Pressure); err == nil {
				pressure = strconv.FormatFloat(quantity.TenDigits(u.Of(own.SI(r.Value))), 'g', -1, 64)
			}
		}
		errs = append(errs, put(r.At, pressure, "", r.How, warm, strconv.Itoa(r.Seq), read))
	}
	events(time.Time{}, true)
	w.Flush()
	return out.Bytes(), errors.Join(append(errs, w.Error())...)
}

// sides are the readings of a hold but for what its traces say.
func sides(all []logbook.Reading) []Side {
	out := []Side{}
	for _, r := range all {
		if n := len(out); n == 0 || out[n-1].Gauge != r.Gauge {
			out = append(out, Side{Gauge: r.Gauge, Runs: []Run{}, Struck: map[int]string{}})
		}
		s := &out[len(out)-1]
		if n := len(s.Runs); n > 0 && s.Runs[n-1].By == r.By && s.Runs[n-1].Device == r.Device {
			s.Runs[n-1].N++
		} else {
			s.Runs = append(s.Runs, Run{1, r.By, r.Device})
		}
		if r.Struck != "" {
			s.Struck[r.Seq] = r.Struck
		}
	}
	return out
}

// readTrace reads back what traceOf wrote, in no order.
func readTrace(raw []byte, begun time.Time, gauge int) ([]logbook.Reading, error) {
	c := csv.NewReader(bytes.NewReader(raw))
	c.Comment, c.ReuseRecord, c.FieldsPerRecord = '#', true, -1
	head, err := c.Read()
	for err == nil && strings.HasPrefix(head[0], "#") { // a comment with a comma, in quotes
		head, err = c.Read()
	}
	if err != nil {
		return nil, fmt.Errorf("it has no row that names its columns: %w", err)
	}
	wide := len(head)
	at := map[string]int{}
	unit := ""
	for i, name := range head {
		if u, ok := strings.CutPrefix(name, "pressure ["); ok {
			unit, name = strings.TrimSuffix(u, "]"), "pressure"
		}
		at[name] = i
	}
	for _, name := range []string{timeColumn, "pressure", "how", warmth, seqColumn, readColumn} {
		if _, ok := at[name]; !ok {
			return nil, fmt.Errorf("it has no column %q", name)
		}
	}
	var out []logbook.Reading
	for n := 0; ; n++ {
		row, err := c.Read()
		if errors.Is(err, io.EOF) {
			return out, nil
		}
		if err != nil {
			return nil, err
		}
		if len(row) != wide {
			return nil, errors.New("a row of it has another number of cells than it has columns")
		}
		if n > trace.MaxRows {
			return nil, fmt.Errorf("it has more than %d rows", trace.MaxRows)
		}
		if row[at[seqColumn]] == "" {
			continue // an event, which the hold keeps with its own id
		}
		line, _ := c.FieldPos(0)
		r := logbook.Reading{Gauge: gauge, How: row[at["how"]]}
		s, errS := strconv.ParseFloat(row[at[timeColumn]], 64)
		seq, errN := strconv.Atoi(row[at[seqColumn]])
		if errors.Join(errS, errN) != nil || !quantity.PossibleSeconds(s) || seq < 1 {
			return nil, fmt.Errorf("line %d: a reading has a time in seconds and a number from 1", line)
		}
		r.Seq, r.At = seq, begun.Add(time.Duration(math.Round(s*1e6))*time.Microsecond)
		text, u := row[at["pressure"]], unit
		if row[at[warmth]] != "" {
			text, u = row[at[warmth]], degrees
		}
		if read := trace.Uncell(row[at[readColumn]]); read != "" {
			text, u, _ = strings.Cut(read, " ")
		}
		if r.Unit = strings.Clone(u); u == degrees {
			r.Gauge = thermometer
		}
		r.How = strings.Clone(r.How)
		if r.Value, err = strconv.ParseFloat(text, 64); err != nil || !possible(r) {
			return nil, fmt.Errorf("line %d: %s %s is no reading of a test", line, text, u)
		}
		out = append(out, r)
	}
}

// possible reports whether a reading may be one.
func possible(r logbook.Reading) bool {
	if !slices.Contains(trace.How("").Values(), r.How) {
		return false
	}
	if r.Gauge == thermometer {
		return quantity.PossibleCelsius(r.Value)
	}
	u, err := quantity.Named(r.Unit, quantity.Pressure)
	return err == nil && u.Symbol == r.Unit && quantity.PossiblePa(u.SI(r.Value))
}
