package web

import (
	"bytes"
	"encoding/json"
	"fmt"
	"io"
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
	job := posted(tb, srv.URL+"/api/jobs", begin)
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
	var reads, writes []time.Duration
	var lost atomic.Int64
	for tb.Loop() {
		body, err := json.Marshal(map[string]any{"id": desk.NewID(), "by": "Maren", "device": "test", "name": "logger.csv", "text": text.String() + fmt.Sprintf("# %s\n", desk.NewID())})
		if err != nil {
			tb.Fatal(err)
		}
		var over atomic.Bool
		var all sync.WaitGroup
		beside := func(into *[]time.Duration, ready, once func()) {
			all.Go(func() {
				for !over.Load() {
					ready()
					at, from := time.Now(), stolen()
					once()
					if waited := time.Since(at); stolen() == from {
						*into = append(*into, waited)
					} else {
						lost.Add(1)
					}
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
					posted(tb, srv.URL+"/api/jobs/"+remarked+"/close", fmt.Sprintf(`{"id": %q, "by": "Maren", "device": "test", "abandon": true}`, desk.NewID()))
				}
				remarked = posted(tb, srv.URL+"/api/jobs", strings.Replace(begin, "first-write-1", desk.NewID(), 1))
			}
		}, func() {
			posted(tb, srv.URL+"/api/jobs/"+remarked+"/remarks", fmt.Sprintf(`{"id": %q, "by": "Maren", "device": "test", "stage": "hold", "text": "seen"}`, desk.NewID()))
		})
		if rows == 0 {
			time.Sleep(5 * time.Second)
			over.Store(true)
			all.Wait()
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
	}
	tb.ReportMetric(float64(lost.Load()), "left-out")
	for what, list := range map[string][]time.Duration{"read": reads, "write": writes} {
		slices.Sort(list)
		ms := func(share float64) float64 { return list[int(share*float64(len(list)-1))].Seconds() * 1e3 }
		tb.ReportMetric(ms(0.5), what+"-p50-ms")
		tb.ReportMetric(ms(0.99), what+"-p99-ms")
		tb.ReportMetric(ms(1), what+"-max-ms")
	}
}

// stolen is how long another machine on the same metal had this one's processors, hundredths of a second: a look
// meanwhile is left out. That drops long looks sooner than short ones: the longest that is left may be too low. 0 where the system does not tell.
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
