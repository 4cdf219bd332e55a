package browser

import (
	"context"
	"flag"
	"path/filepath"
	"testing"

	"github.com/chromedp/cdproto/cdp"
	"github.com/chromedp/cdproto/emulation"
	"github.com/chromedp/cdproto/network"
	"github.com/chromedp/chromedp"
)

// What the page may bring until the bench stands, bytes with headers and without the event stream.
const (
	firstEmpty = 160_000
	firstDemo  = 250_000
	firstAgain = 20_000
)

// A slow line and a slow phone, on which the first page is timed; docs/speed.md has 10 visits.
var (
	slowVisits = flag.Int("slow", 0, "visits on a slow line and a slow phone that are timed")
	slowLine   = network.Conditions{Latency: 150, DownloadThroughput: 1.6e6 / 8, UploadThroughput: 0.75e6 / 8}
)

const slowPhone = 4 // times as slow as this machine

const benchStands = `document.querySelector('[data-view=bench][data-ready=true]')`

// firstPage opens the bench as a phone would. It tells when there was something to see and when the bench stood, milliseconds, and
// what had been asked for until then, bytes.
func firstPage(p *page, url string) (painted, stood, bytes float64) {
	p.t.Helper()
	p.do(chromedp.Navigate(url + "/"))
	p.until("the bench", benchStands)
	p.until("the other screens", `document.documentElement.dataset.fetched === 'all'`)
	seen, err := chromedp.Run(p.ctx, chromedp.Evaluate[[]float64](`(() => {
		const all = [...performance.getEntriesByType('navigation'), ...performance.getEntriesByType('resource')];
		return [performance.getEntriesByName('first-contentful-paint')[0]?.startTime ?? 0, window.stood,
			all.filter((e) => e.startTime < window.stood).reduce((n, e) => n + e.transferSize, 0)];
	})()`))
	if err != nil || len(seen) != 3 {
		p.t.Fatal(seen, err)
	}
	return seen[0], seen[1], seen[2]
}

// The first page is light, and on a second visit next to nothing comes.
func TestTheFirstPageIsLight(t *testing.T) {
	t.Parallel()
	for shop, most := range map[string]float64{"serve": firstEmpty, "demo": firstDemo} {
		s := serve(t, shop, "--data", filepath.Join(t.TempDir(), "book"))
		noting := func() *page {
			p := open(t, "about:blank", 390, 844)
			p.before(`new MutationObserver((_, o) => {
				if (!` + benchStands + `) return;
				window.stood = performance.now();
				o.disconnect();
			}).observe(document, { subtree: true, childList: true, attributes: true })`)
			return p
		}
		p := noting()
		_, _, first := firstPage(p, s.url)
		_, _, again := firstPage(p, s.url)
		t.Logf("%s: %.0f bytes come with the first page, %.0f on a second visit", shop, first, again)
		if first > most || first < most/4 {
			t.Errorf("%s: %.0f bytes come with the first page; it may be %.0f", shop, first, most)
		}
		if again > firstAgain {
			t.Errorf("%s: %.0f bytes come on a second visit; it may be %d", shop, again, firstAgain)
		}
		for n := range *slowVisits {
			p := noting()
			p.do(chromedp.Func(func(ctx context.Context, t *chromedp.Target) error {
				if _, err := cdp.Call(ctx, t, network.EmulateNetworkConditionsByRule, network.EmulateNetworkConditionsByRuleParams{MatchedNetworkConditions: []*network.Conditions{&slowLine}}); err != nil {
					return err
				}
				_, err := cdp.Call(ctx, t, emulation.SetCPUThrottlingRate, emulation.SetCPUThrottlingRateParams{Rate: slowPhone})
				return err
			}))
			painted, stood, _ := firstPage(p, s.url)
			t.Logf("%s, slow visit %d: something to see after %.0f ms, the bench after %.0f ms", shop, n+1, painted, stood)
			p.close()
		}
	}
}
