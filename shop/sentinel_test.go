package shop

import (
	"fmt"
	"strings"
	"testing"

	"idlehiss/core/judge"
	"idlehiss/desk"
	"idlehiss/jobs"
)

// warmTrace is a sound hold as a logger writes it, with one temperature of its own.
func warmTrace(celsius string) string {
	var out strings.Builder
	out.WriteString("time [s],pressure [kPa],temperature [°C]\n")
	for n := range 40 {
		warm := "20.0"
		if n == 20 {
			warm = celsius
		}
		fmt.Fprintf(&out, "%d,%.1f,%s\n", 10*n, 110-0.1*float64(n%2), warm)
	}
	return out.String()
}

// Loggers write a figure of their own where a sensor is missing. It is refused with
// its place, and nothing of the file comes into the book.
func TestATemperatureThatCannotBeIsRefused(t *testing.T) {
	b := open(t)
	j := b.job("16")
	for _, sentinel := range []string{"-999.0", "-273.2", "-1e30", "32767", "1e300"} {
		_, err := b.Jobs.Drop(b.ctx, j.ID, jobs.Dropped{Write: b.write(), Name: "logger.csv", Text: warmTrace(sentinel)})
		refused(t, sentinel, err, desk.BadInput, "text", "line 22, column", sentinel, "Leave the cell empty")
	}
	if v := must[JobView](b)(b.Job(j.ID)); len(v.Holds) != 0 {
		t.Fatalf("%d holds of refused files", len(v.Holds))
	}
	d := must[jobs.DroppedView](b)(b.Jobs.Drop(b.ctx, j.ID, jobs.Dropped{Write: b.write(), Name: "logger.csv", Text: warmTrace("")}))
	if h := must[HoldView](b)(b.Hold(d.HoldID)); h.Report == nil || h.Report.Call != judge.Tight {
		t.Errorf("without the figure: %+v", h.Report)
	}
}
