package browser

import (
	"bytes"
	"maps"
	"net/http"
	"net/http/httptest"
	"net/http/httputil"
	"net/url"
	"os"
	"path/filepath"
	"sync"
	"sync/atomic"
	"testing"

	"github.com/chromedp/chromedp"

	"idlehiss/core/terms"
	"idlehiss/jobs"
	"idlehiss/record"
)

// A job leaves one shop as a bundle and is opened in another: first what would come of it, then all of it, and a second
// time nothing.
func TestABundleIsOpenedAndTakenOver(t *testing.T) {
	t.Parallel()
	there, here := serve(t, "serve", "--data", t.TempDir()), serve(t, "serve", "--data", t.TempDir())
	job := safely(t, there, "Maren", map[string]any{"machine": "Bin carrier 4", "complaint": "loses coolant", "mark": "16"}).ID
	sheet := open(t, there.url+"/jobs/"+job+"/write-down", 390, 844)
	sheet.stage("write-down")
	sheet.until("the two ways out", `document.querySelector('a[href="/api/bundle?job=`+job+`"]') && document.querySelector('a[href="/api/bundle?machine=Bin%20carrier%204"]')`)
	sheet.fits("what leaves, on the phone")
	folder := t.TempDir()
	sent, noise := filepath.Join(folder, "sent.zip"), filepath.Join(folder, "noise.zip")
	for file, raw := range map[string][]byte{sent: fetch(t, there, "/api/bundle?job="+job), noise: []byte("noise")} {
		if err := os.WriteFile(file, raw, 0o600); err != nil {
			t.Fatal(err)
		}
	}
	p := open(t, here.url+"/devices", 1280, 800)
	p.at("devices")
	choose := func(file, mark string) {
		t.Helper()
		p.do(chromedp.SetUploadFiles(`[data-bundle] input[type=file]`, []string{file}))
		p.until(mark, `document.querySelector('[data-bundle=`+mark+`]')`)
	}
	choose(noise, "refused")
	choose(sent, "looked")
	if rows := ask[record.BookView](t, here, "/api/book").Rows; len(rows) != 0 {
		t.Errorf("a look wrote %d jobs", len(rows))
	}
	p.scan("a bundle that was opened")
	p.do(chromedp.Evaluate[chromedp.Void](`document.querySelector('[data-bundle=looked] [data-take]').click()`))
	p.until("taken over", `document.querySelector('[data-bundle=taken]')`)
	p.do(chromedp.Evaluate[chromedp.Void](`document.querySelector('[data-bundle=taken] a[href="/book"]').click()`))
	p.at("book")
	p.until("the job in the book", `document.querySelector('[data-rows="1"] a[href="/jobs/`+job+`"]')`)
	p.do(chromedp.Navigate(here.url + "/devices"))
	p.at("devices")
	choose(sent, "looked")
	p.until("nothing to take", `!document.querySelector('[data-take]')`)
}

// inFront puts something between the page and the server, which stands behind it, and gives its address.
func inFront(t *testing.T, s *server, answer func(w http.ResponseWriter, r *http.Request, behind http.Handler)) string {
	t.Helper()
	to, err := url.Parse(s.url)
	if err != nil {
		t.Fatal(err)
	}
	behind := &httputil.ReverseProxy{FlushInterval: -1, Rewrite: func(r *httputil.ProxyRequest) {
		r.Out.URL.Scheme, r.Out.URL.Host = to.Scheme, to.Host
	}}
	front := httptest.NewServer(http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) { answer(w, r, behind) }))
	t.Cleanup(func() {
		front.CloseClientConnections()
		front.Close()
	})
	return front.URL
}

// stream tells of each piece of the event stream that is sent on to the page.
type stream struct {
	http.ResponseWriter
	sent func(piece []byte)
}

func (e stream) Write(b []byte) (int, error) {
	n, err := e.ResponseWriter.Write(b)
	e.Flush()
	e.sent(b)
	return n, err
}

func (e stream) Flush() { _ = http.NewResponseController(e.ResponseWriter).Flush() }

// What is told while a page's first answer is on its way is on the page, though that answer does not hold it.
func TestWhatIsToldBeforeTheFirstAnswerIsShown(t *testing.T) {
	t.Parallel()
	s := serve(t, "serve", "--data", t.TempDir())
	job := told(t, s, "/api/jobs", with(wrote("Maren"), map[string]any{"machine": "Bin carrier 4", "complaint": "loses coolant", "mark": "16"})).ID
	var asked, made atomic.Bool
	heard := make(chan struct{})
	hear := sync.OnceFunc(func() { close(heard) })
	front := inFront(t, s, func(w http.ResponseWriter, r *http.Request, behind http.Handler) {
		switch {
		case r.URL.Path == "/api/jobs/"+job && asked.CompareAndSwap(false, true):
			old := httptest.NewRecorder()
			behind.ServeHTTP(old, r)
			made.Store(true)
			select {
			case <-heard:
			case <-r.Context().Done():
			}
			maps.Copy(w.Header(), old.Header())
			w.WriteHeader(old.Code)
			_, _ = w.Write(old.Body.Bytes())
		case r.URL.Path == "/api/events":
			behind.ServeHTTP(stream{w, func(piece []byte) {
				if bytes.Contains(piece, []byte(job)) {
					hear()
				}
			}}, r)
		default:
			behind.ServeHTTP(w, r)
		}
	})
	p := open(t, front+"/jobs/"+job+"/make-safe", 1280, 800)
	p.wait("the first answer", made.Load)
	for _, st := range ask[jobs.JobView](t, s, "/api/jobs/"+job).Stages {
		if st.ID == terms.MakeSafe {
			told(t, s, "/api/jobs/"+job+"/ticks", with(wrote("Ilse"), map[string]any{"item": st.Ticks[0].ID, "on": true}))
		}
	}
	p.stage("make-safe")
	p.until("what Ilse ticked", `document.querySelectorAll('[role=checkbox][aria-checked=true]').length === 1`)
}

// While the disk takes nothing every screen says so; what is pressed waits on the page and is kept once when it does.
func TestThePageSaysThatNothingIsKept(t *testing.T) {
	t.Parallel()
	s := serve(t, "serve", "--data", t.TempDir())
	job := told(t, s, "/api/jobs", with(wrote("Maren"), map[string]any{"machine": "Bin carrier 4", "complaint": "loses coolant", "mark": "16"})).ID
	ticks := func(j jobs.JobView) (n int) {
		for _, st := range j.Stages {
			for _, x := range st.Ticks {
				if x.Ticked {
					n++
				}
			}
		}
		return n
	}
	before := ticks(ask[jobs.JobView](t, s, "/api/jobs/"+job))
	// What the page is told on a full disk stands in front of the server.
	var full atomic.Bool
	full.Store(true)
	front := inFront(t, s, func(w http.ResponseWriter, r *http.Request, behind http.Handler) {
		switch {
		case full.Load() && r.Method == http.MethodPost:
			w.Header().Set("Content-Type", "application/problem+json")
			w.WriteHeader(http.StatusServiceUnavailable)
			_, _ = w.Write([]byte(`{"status": 503, "detail": "this was not kept: the disk is full"}`))
		case full.Load() && r.URL.Path == "/api/keep":
			w.Header().Set("Content-Type", "application/json")
			_, _ = w.Write([]byte(`{"stuck": true, "since": "2026-11-30T08:00:00Z", "why": "the disk is full: make room on it", "folder": "", "keep": 0, "backups": 0, "last": null, "late": false, "failed": ""}`))
		default:
			behind.ServeHTTP(w, r)
		}
	})
	p := open(t, front+"/jobs/"+job+"/make-safe", 390, 844)
	p.stage("make-safe")
	p.until("the banner", `document.querySelector('[data-kept=stuck]')`)
	p.fits("the banner on the phone")
	p.scan("the banner")
	p.ticks(1)
	p.kept(1)
	for _, at := range []string{"/wall", "/", "/book", "/devices"} {
		p.do(chromedp.Navigate(front + at))
		p.until("the banner at "+at, `document.querySelector('[data-view][data-ready=true]') && document.querySelector('[data-kept=stuck]')`)
	}
	p.kept(1)
	full.Store(false)
	p.kept(0)
	p.do(chromedp.Navigate(front + "/book"))
	p.at("book")
	if p.is(`document.querySelector('[data-kept]')`) {
		t.Error("the banner stays")
	}
	if after := ticks(ask[jobs.JobView](t, s, "/api/jobs/"+job)); after != before+1 {
		t.Errorf("%d ticks in the book before, %d after one more was pressed", before, after)
	}
}
