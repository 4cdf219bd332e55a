package shop

import (
	"encoding/json"
	"fmt"
	"math"
	"strings"
	"sync/atomic"
	"testing"
	"time"

	"idlehiss/core/runsheet"
	"idlehiss/core/steps"
	"idlehiss/core/terms"
	"idlehiss/core/trace"
	"idlehiss/desk"
	"idlehiss/holds"
	"idlehiss/jobs"
	"idlehiss/kit"
	"idlehiss/logbook"
)

// The shop of these benchmarks: 12 open jobs, in each three holds of an hour at 1 Hz, two
// from files and one in progress.
const (
	jobsOpen = 12
	hour     = 3600 // readings
)

// hourOf is a sound hold of an hour as a logger writes it; n tells files apart.
func hourOf(n int) string {
	var out strings.Builder
	out.WriteString("# judge: --limit '1kPa in 1min' --gas '0.6L ± 0.03L' --digital 0.1kPa\ntime [s],pressure [kPa]\n")
	for i := range hour {
		fmt.Fprintf(&out, "%d,%.1f\n", i, 110-float64(n)/10-0.4*(1-math.Exp(-float64(i)/300))+0.05*math.Sin(float64(i)))
	}
	return out.String()
}

// busy fills a shop so, and gives its first job and that job's hold in progress.
func busy(b *bench) (job, hold, gauge string) {
	b.Helper()
	face := runsheet.Gauge{Kind: terms.Digital, Rings: []runsheet.Ring{{Unit: "kPa", To: 250, Division: 0.1, Numbered: 50}}}
	for n := range jobsOpen {
		face.Name = fmt.Sprintf("logger %d", n)
		g := must[kit.Gauge](b)(b.Kit.AddGauge(b.ctx, b.write(), NewGauge{Gauge: face, Posted: true}))
		j := b.begin(StartJob{Machine: fmt.Sprintf("Bin carrier %d", n), Mark: "110 kPa"})
		for k := range 2 {
			must[jobs.DroppedView](b)(b.Jobs.Drop(b.ctx, j.ID, jobs.Dropped{Write: b.write(), Name: "hour.csv", Text: hourOf(2*n + k)}))
		}
		must[JobView](b)(b.SetPlan(j.ID, Plan{Write: b.write(), School: "exactly", Gauge: g.ID, Allowance: "house"}))
		h := must[HoldView](b)(b.Start(j.ID, StartHold{Write: b.write(), Purpose: terms.Test}))
		begun := b.clock.Now()
		must[desk.Receipt](b)(b.post(g.ID, readings(b, begun, 0, 3)))
		b.event(h.ID, trace.Isolate)
		for from := 3; from < hour; from += 500 {
			must[desk.Receipt](b)(b.post(g.ID, readings(b, begun, from, min(500, hour-from))))
		}
		if n == 0 {
			job, hold, gauge = j.ID, h.ID, g.ID
		}
	}
	return job, hold, gauge
}

// readings are so many of a logger, one a second from a moment.
func readings(b *bench, begun time.Time, from, n int) holds.Posted {
	p := holds.Posted{Write: b.write()}
	for i := from; i < from+n; i++ {
		at := begun.Add(time.Duration(i+1) * time.Second)
		p.Readings = append(p.Readings, holds.PostedReading{Value: 110 - 0.4*(1-math.Exp(-float64(i)/300)), At: &at})
	}
	b.clock.set(begun.Add(time.Duration(from+n) * time.Second))
	return p
}

// answered reports the size of an answer.
func answered(tb *testing.B, v any) {
	raw, err := json.Marshal(v)
	if err != nil {
		tb.Fatal(err)
	}
	tb.ReportMetric(float64(len(raw)), "B/answer")
}

func BenchmarkTick(tb *testing.B) {
	b := open(tb)
	job, _, _ := busy(b)
	var r desk.Receipt
	for tb.Loop() {
		b.n++
		r = must[desk.Receipt](b)(b.Jobs.Tick(b.ctx, job, Tick{Write: b.write(), Item: "filled", On: b.n%2 == 0}))
	}
	answered(tb, r)
}

func BenchmarkPress(tb *testing.B) {
	b := open(tb)
	_, hold, _ := busy(b)
	var r desk.Receipt
	for tb.Loop() {
		b.clock.set(b.clock.Now().Add(time.Second))
		r = must[desk.Receipt](b)(b.Holds.Event(b.ctx, hold, HoldEvent{Write: b.write(), Kind: trace.Moved}))
	}
	answered(tb, r)
}

func BenchmarkPostedReading(tb *testing.B) {
	b := open(tb)
	_, _, gauge := busy(b)
	var r desk.Receipt
	for tb.Loop() {
		b.clock.set(b.clock.Now().Add(time.Second))
		r = must[desk.Receipt](b)(b.post(gauge, holds.Posted{Write: b.write(), Readings: []holds.PostedReading{{Value: 109.6}}}))
	}
	answered(tb, r)
}

func BenchmarkFinding(tb *testing.B) {
	b := open(tb)
	busy(b)
	j := b.train("Wagon 1", "Wagon 2", "Wagon 3")
	b.tickAll(j, true)
	var r desk.Receipt
	for tb.Loop() {
		b.n++
		r = must[desk.Receipt](b)(b.Jobs.Found(b.ctx, j.ID, "continuity", Found{Write: b.write(), Rows: []steps.EntryRow{{ID: "continuity-1", Cells: map[string]string{"on": fmt.Sprintf("%d s", 20+b.n%9)}}}}))
	}
	answered(tb, r)
}

func BenchmarkSheet(tb *testing.B) {
	b := open(tb)
	job, _, _ := busy(b)
	var v jobs.JobView
	for tb.Loop() {
		v = must[jobs.JobView](b)(b.Jobs.Job(b.ctx, job))
	}
	answered(tb, v)
}

func BenchmarkBench(tb *testing.B) {
	asked := counted(tb)
	b := open(tb)
	busy(b)
	must[BenchView](b)(b.Bench(b.ctx))
	var v BenchView
	before, n := asked.Load(), 0
	for tb.Loop() {
		v = must[BenchView](b)(b.Bench(b.ctx))
		n++
	}
	tb.ReportMetric(float64(asked.Load()-before)/float64(n), "queries/op")
	answered(tb, v)
}

// counted has the book count what it asks of the database.
func counted(tb *testing.B) *atomic.Int64 {
	was := logbook.Driver
	logbook.Driver = countingDriver
	tb.Cleanup(func() { logbook.Driver = was })
	return &statements
}
