package trace

import (
	"encoding/csv"
	"fmt"
	"io"
	"strconv"
)

// WriteCSV writes the trace in the form ReadCSV reads, with full precision, so
// that a judge comes to the same answer. Settings become the "# judge:" line.
// Notes are written above as comments.
func (t *Trace) WriteCSV(w io.Writer, notes ...string) error {
	for _, n := range notes {
		if _, err := fmt.Fprintf(w, "# %s\n", n); err != nil {
			return err
		}
	}
	if t.Settings != "" {
		if _, err := fmt.Fprintf(w, "# judge: %s\n", t.Settings); err != nil {
			return err
		}
	}
	c := csv.NewWriter(w)
	if err := c.Write([]string{"time [s]", "pressure [" + t.Unit.Symbol + "]", "event", "how"}); err != nil {
		return err
	}
	seconds := func(s float64) string { return strconv.FormatFloat(s, 'f', -1, 64) }
	e := 0
	events := func(until float64, inclusive bool) error {
		for ; e < len(t.Events) && (t.Events[e].AtS < until || inclusive && t.Events[e].AtS == until); e++ {
			if err := c.Write([]string{seconds(t.Events[e].AtS), "", t.Events[e].Kind, ""}); err != nil {
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
		if err := c.Write([]string{seconds(r.AtS), value, "", string(r.How)}); err != nil {
			return err
		}
	}
	if err := events(0, false); err != nil {
		return err
	}
	for ; e < len(t.Events); e++ {
		if err := c.Write([]string{seconds(t.Events[e].AtS), "", t.Events[e].Kind, ""}); err != nil {
			return err
		}
	}
	c.Flush()
	return c.Error()
}
