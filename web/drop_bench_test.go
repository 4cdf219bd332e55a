package web

import (
	"bytes"
	"encoding/json"
	"fmt"
	"io"
	"math"
	"net/http"
	"net/http/httptest"
	"os"
	"slices"
	"strconv"
	"strings"
	"sync"
	"sync/atomic"
	"testing"
	"time"

	"idlehiss/desk"
	"idlehiss/holds"
)

// BenchmarkBesideADroppedTrace: while a trace of 32 MB becomes a hold, or is refused for a row too many, or nothing comes, one page asks
// for the bench and one writes remarks, each 5 ms after it was answered. What they wait is told: the median, 99 in 100, and the longest.
func BenchmarkBesideADroppedTrace(tb *testing.B) {
	for name, rows := range map[string]int{"alone": 0, "taken": holds.MostInFile, "refused": 2 * holds.MostInFile} {
		tb.Run(name, func(tb *testing.B) { besideTrace(tb, rows) })
	}
}

const fewRemarks = 20

func besideTrace(tb *testing.B, rows int) {
	_, h := serving(tb, Options{})
	srv := httptest.NewServer(h)
	defer srv.Close()
	abandon := func(job string) {
		posted(tb, srv.URL+"/api/jobs/"+job+"/close", fmt.Sprintf(`{"id": %q, "by": "Maren", "device": "test", "abandon": true}`, desk.NewID()))
	}
	fresh := func() (job string) {
		return posted(tb, srv.URL+"/api/jobs", strings.Replace(begin, "first-write-1", desk.NewID(), 1))
	}
	// Remarks go to a job that is closed after a few: every one makes its job longer to read, and it is not that which is measured.
	remarked, remarks := "", 0
	// Its rows are as long as they have to be for 32 MB.
	var text strings.Builder
	text.WriteString("time [s],pressure [kPa],logger\n")
	pad := ""
	if rows > 0 {
		pad = strings.Repeat("x", (largestTrace-4096)/rows-24)
	}
	for i := range rows {
		fmt.Fprintf(&text, "%d,%.3f,%s\n", i, 110-float64(i)*1e-5, pad)
	}
	var reads, writes []look
	machine := watchStolen()
	for tb.Loop() {
		body, err := json.Marshal(map[string]any{"id": desk.NewID(), "by": "Maren", "device": "test", "name": "logger.csv", "text": text.String() + fmt.Sprintf("# %s\n", desk.NewID())})
		if err != nil {
			tb.Fatal(err)
		}
		job := fresh() // the bench is no longer for the traces before
		var over atomic.Bool
		var all sync.WaitGroup
		beside := func(into *[]look, ready, once func()) {
			all.Go(func() {
				for !over.Load() {
					ready()
					at := time.Now()
					once()
					*into = append(*into, look{at, time.Since(at)})
					time.Sleep(5 * time.Millisecond)
				}
			})
		}
		beside(&reads, func() {}, func() {
			r, err := http.Get(srv.URL + "/api/bench")
			if err == nil {
				_, err = io.Copy(io.Discard, r.Body)
				r.Body.Close()
			}
			if err != nil {
				tb.Error(err)
			}
		})
		beside(&writes, func() {
			if remarks++; remarks%fewRemarks == 1 {
				if remarked != "" {
					abandon(remarked)
				}
				remarked = fresh()
			}
		}, func() {
			posted(tb, srv.URL+"/api/jobs/"+remarked+"/remarks", fmt.Sprintf(`{"id": %q, "by": "Maren", "device": "test", "stage": "hold", "text": "seen"}`, desk.NewID()))
		})
		if rows == 0 {
			time.Sleep(5 * time.Second)
			over.Store(true)
			all.Wait()
			abandon(job)
			continue
		}
		r, err := http.Post(srv.URL+"/api/jobs/"+job+"/traces", "application/json", bytes.NewReader(body))
		if err != nil {
			tb.Fatal(err)
		}
		says, _ := io.ReadAll(r.Body)
		r.Body.Close()
		if taken := r.StatusCode == http.StatusOK; taken != (rows <= holds.MostInFile) {
			tb.Fatalf("%d %s", r.StatusCode, says)
		}
		over.Store(true)
		all.Wait()
		abandon(job)
	}
	ended := machine.end()
	for what, list := range map[string][]look{"read": reads, "write": writes} {
		all, kept := waits(list, func(time.Time) bool { return true }), waits(list, ended)
		tb.ReportMetric(ms(all, 0.5), what+"-p50-ms")
		tb.ReportMetric(ms(all, 0.99), what+"-p99-ms")
		tb.ReportMetric(ms(all, 1), what+"-max-ms")
		tb.ReportMetric(ms(kept, 1), what+"-quiet-max-ms")
		tb.ReportMetric(float64(len(kept))/float64(len(all)), what+"-quiet-share")
	}
}

// look is when one of the two asked, and how long it waited.
type look struct {
	at     time.Time
	waited time.Duration
}

// waits are those of the looks that a rule takes by when they began, shortest first.
func waits(list []look, takes func(at time.Time) bool) (out []time.Duration) {
	for _, l := range list {
		if takes(l.at) {
			out = append(out, l.waited)
		}
	}
	slices.Sort(out)
	return out
}

// ms is the wait that a share of them stays within, milliseconds.
func ms(sorted []time.Duration, share float64) float64 {
	if len(sorted) == 0 {
		return math.NaN()
	}
	return sorted[int(share*float64(len(sorted)-1))].Seconds() * 1e3
}

// machine notes, window by window, whether another machine on the same metal had this one's processors. A look counts
// as taken on a quiet machine by the window that it began in and the one after, whatever it waited itself, so that long ones are
// dropped no sooner than short ones.
type machine struct {
	over chan struct{}
	told chan []window
}

type window struct {
	to    time.Time
	quiet bool
}

const aWindow = 300 * time.Millisecond

func watchStolen() machine {
	m := machine{make(chan struct{}), make(chan []window)}
	go func() {
		var list []window
		over, left := m.over, -1
		tick := time.NewTicker(aWindow)
		defer tick.Stop()
		for was := stolen(); ; {
			select {
			case <-over:
				over, left = nil, 2 // the looks of the last window need the one after it
			case <-tick.C:
				now := stolen()
				list = append(list, window{time.Now(), now == was})
				was = now
				if left--; left == 0 {
					m.told <- list
					return
				}
			}
		}
	}()
	return m
}

func (m machine) end() (quiet func(at time.Time) bool) {
	close(m.over)
	list := <-m.told
	return func(at time.Time) bool {
		i, _ := slices.BinarySearchFunc(list, at, func(w window, at time.Time) int { return w.to.Compare(at) })
		return i+1 < len(list) && list[i].quiet && list[i+1].quiet
	}
}

// stolen is how long another machine on the same metal has had this one's processors, hundredths of a second; 0 where
// the system does not tell.
func stolen() (n int) {
	raw, err := os.ReadFile("/proc/stat")
	if f := strings.Fields(string(raw[:min(len(raw), 200)])); err == nil && len(f) > 8 {
		n, _ = strconv.Atoi(f[8])
	}
	return n
}

func posted(tb testing.TB, url, body string) string {
	r, err := http.Post(url, "application/json", strings.NewReader(body))
	if err != nil {
		tb.Fatal(err)
	}
	defer r.Body.Close()
	var got desk.Receipt
	if err := json.NewDecoder(r.Body).Decode(&got); err != nil || r.StatusCode != http.StatusOK {
		tb.Fatalf("%s: %d %v", url, r.StatusCode, err)
	}
	return got.Of
}
