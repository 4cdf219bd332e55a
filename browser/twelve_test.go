package browser

import (
	"bytes"
	"context"
	"encoding/json"
	"flag"
	"fmt"
	"io"
	"math"
	"net/http"
	"os"
	"regexp"
	"sort"
	"strconv"
	"strings"
	"sync"
	"testing"
	"time"

	"github.com/chromedp/chromedp"

	"idlehiss/core/runsheet"
	"idlehiss/desk"
	"idlehiss/gauges"
	"idlehiss/holds"
	"idlehiss/jobs"
)

// falling is a gauge whose every measurement shows another figure, so that each
// can be found again on the screen and in the book.
type falling struct {
	mu sync.Mutex
	at []time.Time // when each was measured
}

func (f *falling) measure() float64 {
	f.mu.Lock()
	defer f.mu.Unlock()
	f.at = append(f.at, time.Now())
	return 105e3 - float64(len(f.at))
}

func (f *falling) measured() []time.Time {
	f.mu.Lock()
	defer f.mu.Unlock()
	return f.at[:len(f.at):len(f.at)]
}

var (
	gaugesFor  = flag.Duration("gauges-for", 6*time.Second, "how long the gauges of TestTwelveGaugesAtOnce read")
	gaugesMany = flag.Int("gauges", 12, "how many there are")
	gaugesIn   = flag.String("gauges-in", "", "folder of a shop in which they read; without it in a new one")
)

// Twelve gauges at ten readings a second, with a page open and one more reader of a long sheet: none is
// lost, none comes twice. How long each took to the screen, and what it costs, is told.
func TestTwelveGaugesAtOnce(t *testing.T) {
	t.Parallel()
	for_, n := *gaugesFor, *gaugesMany
	folder := *gaugesIn
	if folder == "" {
		folder = t.TempDir()
	}
	s := serve(t, "serve", "--gauge-at", "127.0.0.1", "--keep", "0", "--data", folder)
	others := len(ask[[]holds.HoldView](t, s, "/api/holds"))
	maps, _, err := gauges.Maps(nil)
	if err != nil {
		t.Fatal(err)
	}
	fs, served, held := make([]*falling, n), make([]*gauges.Served, n), make([]string, n)
	for i := range n {
		fs[i] = &falling{}
		if served[i], err = gauges.Serve("127.0.0.1:0", maps[0], 250e3, fs[i].measure); err != nil {
			t.Fatal(err)
		}
		defer served[i].Close()
		g := tell[runsheet.Gauge](t, s, "/api/kit/gauges", with(wrote("Maren"), map[string]any{"name": fmt.Sprintf("gauge %d", i+1), "kind": "digital", "read": 0, "class": 0,
			"rings": []runsheet.Ring{{Unit: "kPa", To: 250, Division: 0.001, Numbered: 50}}, "address": served[i].Address(), "map": maps[0].ID}))
		j := safely(t, s, "Maren", map[string]any{"machine": fmt.Sprintf("Sprayer %d", i+1), "complaint": "routine", "mark": "16"})
		told(t, s, "/api/jobs/"+j.ID+"/plan", with(wrote("Maren"), map[string]any{"school": "exactly", "gauge": g.ID, "ring": 0, "allowance": "typed", "allowance_text": "0.6 kPa/min"}))
		h := tell[desk.Receipt](t, s, "/api/jobs/"+j.ID+"/holds", with(wrote("Maren"), map[string]any{"purpose": "test"}))
		tell[desk.Receipt](t, s, "/api/holds/"+h.Of+"/events", with(wrote("Maren"), map[string]any{"kind": "isolate"}))
		held[i] = h.Of
	}
	p := open(t, "about:blank", 1280, 800)
	if for_ > time.Minute {
		p.longer(for_ + 5*time.Minute)
	}
	p.do(chromedp.Navigate(s.url))
	p.until("the holds in the line-up", fmt.Sprintf(`document.querySelectorAll('nav[aria-label="Holds in progress"] a').length === %d`, n+others))
	// Every figure that the line-up shows, with the moment at which it was there to be
	// painted.
	p.do(chromedp.Evaluate[chromedp.Void](`{
		window.shown = []
		const note = () => {
			for (const a of document.querySelectorAll('nav[aria-label="Holds in progress"] a')) {
				const value = a.querySelector('.text-xl').textContent
				const which = a.innerText.match(/Sprayer (\d+)/)
				if (which && a.said !== value) shown.push([which[1] - 1, value, performance.timeOrigin + performance.now()])
				a.said = value
			}
			requestAnimationFrame(note)
		}
		note()
	}`))
	stop := readSheets(t, s)
	defer stop()
	begun, was := time.Now(), spent(t, s.cmd.Process.Pid)
	p.wait("readings to come for long enough", func() bool { return time.Since(begun) > for_ })
	p.until("five figures of each", fmt.Sprintf(`window.shown.length > %d`, n*5+n))

	raw, err := chromedp.Run(p.ctx, chromedp.Evaluate[string](`JSON.stringify(window.shown)`))
	if err != nil {
		t.Fatal(err)
	}
	var shown [][3]any
	if err := json.Unmarshal([]byte(raw), &shown); err != nil {
		t.Fatal(err)
	}
	took, cost := time.Since(begun), spent(t, s.cmd.Process.Pid)
	sheets := stop()
	var late []float64 // ms
	for _, x := range shown {
		i, at := int(x[0].(float64)), x[2].(float64)
		v, err := strconv.ParseFloat(x[1].(string), 64)
		if err != nil {
			continue // no reading yet
		}
		which := int(math.Round((105 - v) * 1000))
		if m := fs[i].measured(); which >= 1 && which <= len(m) && m[which-1].After(begun) {
			late = append(late, at-float64(m[which-1].UnixMicro())/1e3)
		}
	}
	if len(late) < n*5 {
		t.Fatalf("the screen showed %d figures", len(late))
	}
	sort.Float64s(late)
	total, meanwhile := 0, 0
	for i := range n {
		if err := served[i].Close(); err != nil { // no more measurements
			t.Fatal(err)
		}
		m := len(fs[i].measured())
		total += m
		for _, at := range fs[i].measured() {
			if at.After(begun) && at.Before(begun.Add(took)) {
				meanwhile++
			}
		}
		// The last answer may have been cut off by closing.
		p.wait("the last readings", func() bool { return ask[holds.HoldView](t, s, "/api/holds/"+held[i]).LastSeq >= m-1 })
		rows := kept.FindAllStringSubmatch(string(fetch(t, s, "/api/holds/"+held[i]+"/trace.csv")), -1)
		for k, row := range rows {
			v, err := strconv.ParseFloat(row[1], 64)
			if err != nil || math.Abs(v-(105-float64(k+1)/1000)) > 1e-6 {
				h := ask[holds.HoldView](t, s, "/api/holds/"+held[i])
				t.Fatalf("%+v %+v gauge %d: measurement %d is in the book as %s", h.Gaps, h.Points[k-2:k+4], i+1, k+1, row[1])
			}
		}
		if len(rows) < m-1 {
			t.Errorf("gauge %d measured %d times, %d are in the book", i+1, m, len(rows))
		}
	}
	share := func(q float64) float64 { return late[int(q*float64(len(late)-1))] }
	t.Logf("%d gauges, %d readings in %s, %d sheets read beside; %d figures seen; gauge to screen: median %.0f ms, 95 in 100 within %.0f ms, all within %.0f ms",
		n, total, took.Round(time.Second), sheets, len(late), share(0.5), share(0.95), share(1))
	t.Logf("the server: %.0f %% of a processor, %.0f bytes written a reading, memory %.0f MB at first, %.0f MB at last, %.0f MB at most",
		100*(cost.cpuS-was.cpuS)/took.Seconds(), (cost.written-was.written)/float64(meanwhile), was.rss, cost.rss, cost.peak)
}

// readSheets reads the sheet of a job with two long holds again and again, until it is stopped; then it tells how often.
func readSheets(t *testing.T, s *server) (stop func() int) {
	t.Helper()
	j := safely(t, s, "Ilse", map[string]any{"machine": "Cider press", "complaint": "routine", "mark": "16"})
	for k := range 2 {
		var long strings.Builder
		long.WriteString("time [s],pressure [kPa]\n")
		for i := range 20000 {
			fmt.Fprintf(&long, "%d,%.1f\n", i, 110-float64(i)/4000-float64(k))
		}
		tell[map[string]any](t, s, "/api/jobs/"+j.ID+"/traces", with(wrote("Ilse"), map[string]any{"name": "night.csv", "text": long.String()}))
	}
	held := ask[jobs.JobView](t, s, "/api/jobs/"+j.ID).Holds
	ctx, cancel := context.WithCancel(context.Background())
	read, done := 0, make(chan struct{})
	go func() {
		defer close(done)
		pause := time.NewTicker(time.Second)
		defer pause.Stop()
		for {
			for _, path := range []string{"/api/jobs/" + j.ID, "/api/holds/" + held[0].ID, "/api/holds/" + held[1].ID} {
				r, err := http.Get(s.url + path)
				if err != nil {
					return
				}
				_, _ = io.Copy(io.Discard, r.Body)
				r.Body.Close()
			}
			read++
			select {
			case <-pause.C:
			case <-ctx.Done():
				return
			}
		}
	}()
	return func() int { cancel(); <-done; return read }
}

// costs are what a process has used so far.
type costs struct {
	cpuS, written float64 // s, bytes
	rss, peak     float64 // MB
}

// ticksPerS is the unit of the system's processor times.
const ticksPerS = 100

// spent reads them, as the system tells it.
func spent(t *testing.T, pid int) (c costs) {
	t.Helper()
	figure := func(file, name string) float64 {
		raw, err := os.ReadFile(fmt.Sprintf("/proc/%d/%s", pid, file))
		if err != nil {
			t.Fatal(err)
		}
		for _, line := range strings.Split(string(raw), "\n") {
			if v, ok := strings.CutPrefix(line, name+":"); ok {
				x, err := strconv.ParseFloat(strings.Fields(v)[0], 64)
				if err != nil {
					t.Fatal(err)
				}
				return x
			}
		}
		t.Fatalf("%s has no %s", file, name)
		return 0
	}
	raw, err := os.ReadFile(fmt.Sprintf("/proc/%d/stat", pid))
	if err != nil {
		t.Fatal(err)
	}
	after := strings.Fields(string(raw[bytes.LastIndexByte(raw, ')')+1:]))
	for _, x := range after[11:13] { // time of its own and of the system for it
		ticks, err := strconv.ParseFloat(x, 64)
		if err != nil {
			t.Fatal(err)
		}
		c.cpuS += ticks / ticksPerS
	}
	c.written, c.rss, c.peak = figure("io", "write_bytes"), figure("status", "VmRSS")/1024, figure("status", "VmHWM")/1024
	return c
}

var kept = regexp.MustCompile(`(?m)^[0-9.]+,([0-9.]+)`)
