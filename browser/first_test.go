package browser

import (
	"context"
	"flag"
	"io"
	"net"
	"path/filepath"
	"strings"
	"sync/atomic"
	"testing"

	"github.com/chromedp/cdproto/cdp"
	"github.com/chromedp/cdproto/emulation"
	"github.com/chromedp/cdproto/network"
	"github.com/chromedp/chromedp"
)

// What the first page may bring over the wire, bytes with all headers and the event stream.
const (
	firstEmpty = 160_000
	firstDemo  = 250_000
	firstAgain = 20_000
)

// How often the first page is timed on a slow line and a slow phone; docs/speed.md has 20.
var slowVisits = flag.Int("slow", 0, "visits on a slow line and a slow phone that are timed")

// wire passes on what goes between a browser and a server, and counts what comes down.
type wire struct {
	url  string
	down atomic.Int64
}

func (w *wire) Write(p []byte) (int, error) {
	w.down.Add(int64(len(p)))
	return len(p), nil
}

func wired(t *testing.T, url string) *wire {
	l, err := net.Listen("tcp", "127.0.0.1:0")
	if err != nil {
		t.Fatal(err)
	}
	t.Cleanup(func() { l.Close() })
	w := &wire{url: "http://" + l.Addr().String()}
	go func() {
		for {
			near, err := l.Accept()
			if err != nil {
				return
			}
			far, err := net.Dial("tcp", strings.TrimPrefix(url, "http://"))
			if err != nil {
				near.Close()
				return
			}
			go func() {
				_, _ = io.Copy(far, near)
				far.Close()
			}()
			go func() {
				_, _ = io.Copy(io.MultiWriter(near, w), far)
				near.Close()
			}()
		}
	}()
	return w
}

// The first page is light, on a second visit next to nothing comes, and then every screen is there without the server.
func TestTheFirstPageIsLight(t *testing.T) {
	t.Parallel()
	for name, most := range map[string]int64{"serve": firstEmpty, "demo": firstDemo} {
		args := []string{name, "--data", filepath.Join(t.TempDir(), "book")}
		s := serve(t, args...)
		w := wired(t, s.url)
		p := open(t, w.url+"/", 390, 844)
		bench := `[data-view=bench][data-ready=true]`
		p.at2(bench)
		if first := w.down.Load(); first > most || first < 50_000 {
			t.Errorf("%s: %d bytes come with the first page, and %d may", name, first, most)
		} else {
			t.Logf("%s: %d bytes with the first page", name, first)
		}
		p.at2(`[data-ahead=done]`)
		whole := w.down.Load()
		t.Logf("%s: %d bytes with what is fetched ahead", name, whole)
		p.do(chromedp.Navigate(w.url + "/"))
		p.at2(bench)
		p.at2(`[data-ahead=done]`)
		if again := w.down.Load() - whole; name == "serve" && again > firstAgain {
			t.Errorf("%s: %d bytes come on a second visit, and %d may", name, again, firstAgain)
		} else {
			t.Logf("%s: %d bytes on a second visit", name, again)
		}
		for n := range *slowVisits {
			slow := open(t, "about:blank", 390, 844)
			slow.do(chromedp.Func(func(ctx context.Context, t *chromedp.Target) error {
				line := &network.Conditions{Latency: 150, DownloadThroughput: 1.6e6 / 8, UploadThroughput: 0.75e6 / 8}
				if _, err := cdp.Call(ctx, t, network.EmulateNetworkConditionsByRule, network.EmulateNetworkConditionsByRuleParams{MatchedNetworkConditions: []*network.Conditions{line}}); err != nil {
					return err
				}
				_, err := cdp.Call(ctx, t, emulation.SetCPUThrottlingRate, emulation.SetCPUThrottlingRateParams{Rate: 4})
				return err
			}))
			slow.before(`new MutationObserver((_, o) => { if (document.querySelector('` + bench + `')) { window.__ready = performance.now(); o.disconnect() } }).observe(document, {subtree: true, childList: true, attributes: true})`)
			slow.do(chromedp.Navigate(w.url + "/"))
			slow.at2(bench)
			slow.at2(`[data-ahead=done]`)
			ms, err := chromedp.Run(slow.ctx, chromedp.Evaluate[[]float64](`[performance.getEntriesByName('first-contentful-paint')[0]?.startTime ?? -1, window.__ready]`))
			if err != nil {
				t.Fatal(err)
			}
			t.Logf("%s, visit %d: first paint %.0f ms, bench %.0f ms", name, n+1, ms[0], ms[1])
		}
	}
}

// at2 waits for what a selector names.
func (p *page) at2(selector string) {
	p.t.Helper()
	p.until(selector, `document.querySelector('`+selector+`')`)
}
