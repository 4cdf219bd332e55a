package trace

import (
	"encoding/csv"
	"fmt"
	"io"
	"math"
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
	warm := len(t.Temperature) > 0
	row := func(at float64, pressure, event, how, degrees string) error {
		cells := []string{strconv.FormatFloat(at, 'f', -1, 64), pressure, event, how}
		if warm {
			cells = append(cells, degrees)
		}
		return c.Write(cells)
	}
	head := []string{"time [s]", "pressure [" + t.Unit.Symbol + "]", "event", "how"}
	if warm {
		head = append(head, "temperature [°C]")
	}
	if err := c.Write(head); err != nil {
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
			if err := row(t.Events[e].AtS, "", t.Events[e].Kind, "", ""); err != nil {
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
	if err := temperatures(math.Inf(1)); err != nil {
		return err
	}
	c.Flush()
	return c.Error()
}
