package browser

import (
	"encoding/json"
	"fmt"
	"math"
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

// Twelve gauges at ten readings a second: none is lost, none comes twice. How long
// each took to the screen and what memory that needs is told; for longer than
// some seconds say so in TWELVE, such as TWELVE=10m.
func TestTwelveGaugesAtOnce(t *testing.T) {
	t.Parallel()
	for_, err := time.ParseDuration(os.Getenv("TWELVE"))
	if err != nil {
		for_ = 6 * time.Second
	}
	s := serve(t, "serve", "--gauge-at", "127.0.0.1", "--data", t.TempDir())
	maps, _, err := gauges.Maps(nil)
	if err != nil {
		t.Fatal(err)
	}
	const n = 12
	var fs [n]*falling
	var served [n]*gauges.Served
	var held [n]string
	for i := range n {
		fs[i] = &falling{}
		if served[i], err = gauges.Serve("127.0.0.1:0", maps[0], 250e3, fs[i].measure); err != nil {
			t.Fatal(err)
		}
		defer served[i].Close()
		g := tell[runsheet.Gauge](t, s, "/api/kit/gauges", with(wrote("Maren"), map[string]any{"name": fmt.Sprintf("gauge %d", i+1), "kind": "digital", "read": 0, "class": 0,
			"rings": []runsheet.Ring{{Unit: "kPa", To: 250, Division: 0.001, Numbered: 50}}, "address": served[i].Address(), "map": maps[0].ID}))
		j := safely(t, s, "Maren", map[string]any{"machine": fmt.Sprintf("Bin carrier %d", i+1), "complaint": "routine", "mark": "16"})
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
	p.until("twelve holds in the line-up", fmt.Sprintf(`document.querySelectorAll('nav[aria-label="Holds in progress"] a').length === %d`, n))
	// Every figure that the line-up shows, with the moment at which it was there to be
	// painted.
	p.do(chromedp.Evaluate[chromedp.Void](`{
		window.shown = []
		const note = () => {
			for (const a of document.querySelectorAll('nav[aria-label="Holds in progress"] a')) {
				const value = a.querySelector('.text-xl').textContent
				if (a.said !== value) shown.push([a.innerText.match(/carrier (\d+)/)[1] - 1, value, performance.timeOrigin + performance.now()])
				a.said = value
			}
			requestAnimationFrame(note)
		}
		note()
	}`))
	begun := time.Now()
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
	memory := peak(t, s.cmd.Process.Pid)
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
	total := 0
	for i := range n {
		if err := served[i].Close(); err != nil { // no more measurements
			t.Fatal(err)
		}
		m := len(fs[i].measured())
		total += m
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
	t.Logf("%d readings in %s; %d figures seen; gauge to screen: median %.0f ms, 95 in 100 within %.0f ms, all within %.0f ms; the server's memory at most %s",
		total, time.Since(begun).Round(time.Second), len(late), share(0.5), share(0.95), share(1), memory)
}

var kept = regexp.MustCompile(`(?m)^[0-9.]+,([0-9.]+)`)

// peak is the most memory a process has had, as the system tells it.
func peak(t *testing.T, pid int) string {
	raw, err := os.ReadFile(fmt.Sprintf("/proc/%d/status", pid))
	if err != nil {
		t.Fatal(err)
	}
	for _, line := range strings.Split(string(raw), "\n") {
		if v, ok := strings.CutPrefix(line, "VmHWM:"); ok {
			return strings.TrimSpace(v)
		}
	}
	return "not told"
}
