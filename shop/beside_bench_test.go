package shop

import (
	"encoding/json"
	"fmt"
	"math"
	"slices"
	"strings"
	"sync"
	"testing"
	"time"

	"idlehiss/core/runsheet"
	"idlehiss/core/terms"
	"idlehiss/core/trace"
	"idlehiss/desk"
	"idlehiss/holds"
	"idlehiss/jobs"
	"idlehiss/kit"
)

// wall is the clock of a running shop.
type wall struct{}

func (wall) Now() time.Time { return time.Now().UTC().Truncate(time.Microsecond) }
func (wall) Speed() float64 { return 1 }

// BenchmarkFourGaugesBesideALongHold: while a page asks for a hold of 86,400 readings over
// and over, four gauges post ten readings a second each. One operation is one second of
// it. Reported: how late 95 in 100 readings are on the event stream, and how many were lost.
func BenchmarkFourGaugesBesideALongHold(tb *testing.B) {
	b := open(tb)
	var file strings.Builder
	file.WriteString("# judge: --limit '1kPa in 1min' --gas 0.6L --digital 0.1kPa\ntime [s],pressure [kPa]\n")
	for i := range 86_400 {
		fmt.Fprintf(&file, "%d,%.1f\n", i, 110-0.4*(1-math.Exp(-float64(i)/300)))
	}
	long := must[jobs.DroppedView](b)(b.Jobs.Drop(b.ctx, b.job("110 kPa").ID, jobs.Dropped{Write: b.write(), Name: "day.csv", Text: file.String()}))
	b.shut()
	book := b.folder
	w := &bench{TB: tb, ctx: b.ctx, clock: b.clock, folder: book, n: b.n}
	w.openWith(wall{})
	b.Shop, b.book = w.Shop, w.book

	const gauges = 4
	var on [gauges]string
	var held [gauges]string
	for i := range gauges {
		g := must[kit.Gauge](w)(w.Kit.AddGauge(w.ctx, w.write(), NewGauge{Posted: true, Gauge: runsheet.Gauge{Name: fmt.Sprintf("logger %d", i), Kind: terms.Digital, Rings: []runsheet.Ring{{Unit: "kPa", To: 250, Division: 0.1, Numbered: 50}}}}))
		j := w.begin(StartJob{Machine: fmt.Sprintf("Bin carrier %d", i), Mark: "110 kPa"})
		must[JobView](w)(w.SetPlan(j.ID, Plan{Write: w.write(), School: "exactly", Gauge: g.ID, Allowance: "house"}))
		h := must[HoldView](w)(w.Start(j.ID, StartHold{Write: w.write(), Purpose: terms.Test}))
		w.event(h.ID, trace.Isolate)
		on[i], held[i] = g.ID, h.ID
	}
	var mu sync.Mutex
	sent, late := map[string]time.Time{}, []time.Duration{}
	_, page, leave := w.Stream("")
	defer leave()
	go func() {
		for m := range page {
			if m.Kind != desk.HoldNews {
				continue
			}
			at := time.Now()
			var h HoldView
			if json.Unmarshal(m.Body, &h) != nil {
				continue
			}
			mu.Lock()
			for _, p := range h.Points {
				key := fmt.Sprint(h.ID, p.Seq)
				if began, ok := sent[key]; ok {
					late = append(late, at.Sub(began))
					delete(sent, key)
				}
			}
			mu.Unlock()
		}
	}()
	stop := make(chan struct{})
	var reading sync.WaitGroup
	reading.Go(func() {
		for {
			select {
			case <-stop:
				return
			default:
				_, _ = w.Holds.Hold(w.ctx, long.HoldID) // only the load it is
			}
		}
	})
	seq := 0
	for tb.Loop() {
		var all sync.WaitGroup
		for i := range gauges {
			all.Go(func() {
				tick := time.NewTicker(100 * time.Millisecond)
				defer tick.Stop()
				for n := range 10 {
					<-tick.C
					mu.Lock()
					sent[fmt.Sprint(held[i], seq+n+1)] = time.Now()
					mu.Unlock()
					in := holds.Posted{Write: Write{ID: fmt.Sprintf("logger-%d-%06d", i, seq+n), By: "logger", Device: "logger"}, Readings: []holds.PostedReading{{Value: 110 - float64(seq+n)/1e3}}}
					if _, err := w.Holds.Post(w.ctx, on[i], nil, in); err != nil {
						tb.Error(err)
					}
				}
			})
		}
		all.Wait()
		seq += 10
	}
	close(stop)
	reading.Wait()
	w.Holds.Quiet(w.ctx)
	time.Sleep(200 * time.Millisecond) // the last messages are on their way
	mu.Lock()
	defer mu.Unlock()
	slices.Sort(late)
	lost := 0
	for i := range gauges {
		if h := must[HoldView](w)(w.Hold(held[i])); h.LastSeq != seq {
			lost += seq - h.LastSeq
		}
	}
	tb.ReportMetric(float64(late[len(late)*95/100].Microseconds())/1e3, "ms/p95")
	tb.ReportMetric(float64(late[len(late)/2].Microseconds())/1e3, "ms/median")
	tb.ReportMetric(float64(lost), "lost")
}
