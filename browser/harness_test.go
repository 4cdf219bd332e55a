// Package browser drives the application as a person does: the built program in a
// process of its own, and a real browser in front of it.
package browser

import (
	"bufio"
	"context"
	"encoding/json"
	"fmt"
	"io"
	"net/http"
	"os"
	"os/exec"
	"path/filepath"
	"regexp"
	"strings"
	"syscall"
	"testing"
	"time"

	"github.com/chromedp/cdproto/cdp"
	"github.com/chromedp/cdproto/input"
	cdppage "github.com/chromedp/cdproto/page"
	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"

	"idlehiss/core/terms"
	"idlehiss/holds"
	"idlehiss/jobs"
	"idlehiss/web"
)

var (
	program string          // the built binary
	browser context.Context // one browser for the package
	options []chromedp.ExecAllocatorOption
)

func TestMain(m *testing.M) { os.Exit(testMain(m)) }

func testMain(m *testing.M) int {
	dir, err := os.MkdirTemp("", "idlehiss-browser-")
	if err != nil {
		fmt.Fprintln(os.Stderr, err)
		return 1
	}
	defer os.RemoveAll(dir)
	program = filepath.Join(dir, "idlehiss")
	build := exec.Command("go", "build", "-tags", "nomsgpack", "-o", program, "idlehiss/cmd/idlehiss")
	if out, err := build.CombinedOutput(); err != nil {
		fmt.Fprintf(os.Stderr, "the program does not build: %v\n%s", err, out)
		return 1
	}
	path, err := exec.LookPath("chromium-headless-shell")
	if err != nil {
		if path, err = exec.LookPath("chromium"); err != nil {
			fmt.Fprintln(os.Stderr, "no browser: run 'make browser'")
			return 1
		}
	}
	options = append(chromedp.DefaultExecAllocatorOptions[:], chromedp.ExecPath(path), chromedp.NoSandbox, chromedp.DisableGPU, chromedp.WindowSize(1280, 800),
		chromedp.Flag("disable-component-update", true), chromedp.Flag("no-proxy-server", true), chromedp.Flag("lang", "en-US"),
		chromedp.Flag("font-render-hinting", "none"), chromedp.Flag("force-prefers-reduced-motion", true), chromedp.Flag("mute-audio", true))
	alloc, endAlloc := chromedp.NewExecAllocator(context.Background(), options...)
	defer endAlloc()
	var end context.CancelFunc
	browser, end = chromedp.NewContext(alloc)
	defer end()
	if err := chromedp.Do(browser); err != nil {
		fmt.Fprintln(os.Stderr, "the browser does not start:", err)
		return 1
	}
	return m.Run()
}

// server is the program, serving a folder.
type server struct {
	t    *testing.T
	args []string
	zone string // where the shop is; "" where the test runs
	cmd  *exec.Cmd
	url  string
}

var address = regexp.MustCompile(`http://(\S+)`)

// serve starts the program; addr stays the same over a restart.
func serve(t *testing.T, args ...string) *server {
	t.Helper()
	s := &server{t: t, args: args}
	s.start("127.0.0.1:0")
	t.Cleanup(s.kill)
	return s
}

func (s *server) start(addr string) {
	s.t.Helper()
	s.cmd = exec.Command(program, append(append([]string{}, s.args...), "--addr", addr)...)
	s.cmd.Stderr = os.Stderr
	if s.zone != "" {
		s.cmd.Env = append(os.Environ(), "TZ="+s.zone)
	}
	out, err := s.cmd.StdoutPipe()
	if err != nil {
		s.t.Fatal(err)
	}
	if err := s.cmd.Start(); err != nil {
		s.t.Fatal(err)
	}
	line, err := bufio.NewReader(out).ReadString('\n')
	m := address.FindStringSubmatch(line)
	if err != nil || m == nil {
		s.kill()
		s.t.Fatalf("the program did not say where it is: %q %v", line, err)
	}
	s.url = m[0]
}

// kill ends the program as a power cut would.
func (s *server) kill() {
	if s.cmd.ProcessState == nil {
		_ = s.cmd.Process.Signal(syscall.SIGKILL)
		_ = s.cmd.Wait()
	}
}

func (s *server) restart() {
	s.t.Helper()
	s.start(strings.TrimPrefix(s.url, "http://"))
}

// ask reads JSON from the server, beside the browser.
func ask[T any](t *testing.T, s *server, path string) T {
	t.Helper()
	var v T
	if err := json.Unmarshal(fetch(t, s, path), &v); err != nil {
		t.Fatalf("%s: %v", path, err)
	}
	return v
}

func fetch(t *testing.T, s *server, path string) []byte {
	t.Helper()
	r, err := http.Get(s.url + path)
	if err != nil {
		t.Fatal(err)
	}
	defer r.Body.Close()
	raw, err := io.ReadAll(r.Body)
	if err != nil || r.StatusCode != http.StatusOK {
		t.Fatalf("%s: %s %v\n%s", path, r.Status, err, raw)
	}
	return raw
}

// page is one tab, with its inputs counted.
type page struct {
	t      *testing.T
	tab    context.Context
	ctx    context.Context
	inputs int
	close  func()
}

// mostOpen is how long a page may be worked on; what it waits for has a limit of its own.
const mostOpen = 15 * time.Minute

// another starts a browser of a test's own, with flags.
func another(t *testing.T, flags map[string]any) context.Context {
	t.Helper()
	with := options[:len(options):len(options)]
	for name, value := range flags {
		with = append(with, chromedp.Flag(name, value))
	}
	alloc, endAlloc := chromedp.NewExecAllocator(context.Background(), with...)
	t.Cleanup(endAlloc)
	own, end := chromedp.NewContext(alloc)
	t.Cleanup(end)
	if err := chromedp.Do(own); err != nil {
		t.Fatal(err)
	}
	return own
}

// open gives a fresh tab of a size.
func open(t *testing.T, url string, width, height int64) *page {
	t.Helper()
	return openIn(t, browser, url, width, height)
}

func openIn(t *testing.T, browser context.Context, url string, width, height int64) *page {
	t.Helper()
	tab, end := chromedp.NewContext(browser, chromedp.WithNewBrowserContext())
	t.Cleanup(end)
	if err := chromedp.Do(tab); err != nil {
		t.Fatal(err)
	}
	ctx, cancel := context.WithTimeout(tab, mostOpen)
	t.Cleanup(cancel)
	p := &page{t: t, tab: tab, ctx: ctx, close: end}
	p.do(chromedp.EmulateViewport(width, height), chromedp.Navigate(url))
	return p
}

// longer gives a page more time than a test usually takes.
func (p *page) longer(most time.Duration) {
	var cancel context.CancelFunc
	p.ctx, cancel = context.WithTimeout(p.tab, most)
	p.t.Cleanup(cancel)
}

func (p *page) do(steps ...chromedp.Action[chromedp.Void]) {
	p.t.Helper()
	if err := chromedp.Do(p.ctx, steps...); err != nil {
		p.t.Fatalf("%v\n%s", err, p.text())
	}
}

// before has every document of the tab run a script ahead of its own.
func (p *page) before(script string) {
	p.t.Helper()
	p.do(chromedp.Func(func(ctx context.Context, t *chromedp.Target) error {
		_, err := cdp.Call(ctx, t, cdppage.AddScriptToEvaluateOnNewDocument, cdppage.AddScriptToEvaluateOnNewDocumentParams{Source: script})
		return err
	}))
}

// text is what the page shows.
func (p *page) text() string {
	s, err := chromedp.Run(p.ctx, chromedp.Evaluate[string](`document.body.innerText`))
	if err != nil {
		return err.Error()
	}
	return s
}

// until waits for a condition in the page; what names it where it does not come.
func (p *page) until(what, js string) {
	p.t.Helper()
	look := time.NewTicker(25 * time.Millisecond)
	defer look.Stop()
	patience, cancel := context.WithTimeout(p.ctx, 60*time.Second)
	defer cancel()
	for {
		if ok, err := chromedp.Run(p.ctx, chromedp.Evaluate[bool](`!!(`+js+`)`)); err == nil && ok {
			return
		}
		select {
		case <-patience.Done():
			p.t.Fatalf("waited in vain for %s; the page shows\n%s", what, p.text())
		case <-look.C:
		}
	}
}

// wait waits for a condition outside the page.
func (p *page) wait(what string, ok func() bool) {
	p.t.Helper()
	look := time.NewTicker(20 * time.Millisecond)
	defer look.Stop()
	for !ok() {
		select {
		case <-p.ctx.Done():
			p.t.Fatalf("waited in vain for %s; the page shows\n%s", what, p.text())
		case <-look.C:
		}
	}
}

// pass waits until the server's clock has gone on by some seconds.
func (p *page) pass(s *server, seconds float64) {
	p.t.Helper()
	from := s.now()
	p.wait("the server's clock", func() bool { return s.now().Sub(from).Seconds() >= seconds })
}

func (s *server) now() time.Time { return ask[web.ClockView](s.t, s, "/api/clock").Now }

// span is when something was done, by the server's clock: at some moment between two.
type span struct{ from, to time.Time }

func (s *server) during(do func()) span {
	from := s.now()
	do()
	return span{from, s.now()}
}

// least and most are the bounds of the time between two moments, s.
func (x span) least(y span) float64 { return y.from.Sub(x.to).Seconds() }
func (x span) most(y span) float64  { return y.to.Sub(x.from).Seconds() }

// at waits until a screen is open and has what it shows.
func (p *page) at(view string) {
	p.t.Helper()
	p.until("the "+view, fmt.Sprintf(`document.querySelector('[data-view=%s][data-ready=true]')`, view))
	if view != "door" {
		p.whole()
	}
}

// whole waits until the page has its dialogs and menus, which come after what it shows at first.
func (p *page) whole() {
	p.t.Helper()
	p.until("its dialogs and menus", `document.documentElement.dataset.later === 'here'`)
}

// reads waits until the page has a mark, and looks whether it shows some words then.
func (p *page) reads(mark string, words ...string) {
	p.t.Helper()
	p.until(mark, fmt.Sprintf(`document.querySelector(%q)`, mark))
	text := p.text()
	for _, w := range words {
		if !strings.Contains(text, w) {
			p.t.Errorf("at %s the page does not show %q:\n%s", mark, w, text)
		}
	}
}

// called waits until the page shows a call of the hold it is about: tight, leaking,
// not-yet, never-reached, or none.
func (p *page) called(call string) {
	p.t.Helper()
	p.until("the call "+call, fmt.Sprintf(`document.querySelector('main [data-call=%q]')`, call))
}

// refused waits until the page shows that something was refused.
func (p *page) refused() {
	p.t.Helper()
	p.until("a refusal", `document.querySelector('[role=alert]')`)
}

// shows waits until the page knows as much of the hold it is about as the server does.
func (p *page) shows(h holds.HoldView) {
	p.t.Helper()
	p.until("the hold as it is", fmt.Sprintf(`[...document.querySelectorAll('main [data-seq]')].some(({ dataset: d }) => d.strokes === '%d' && Number(d.seq) >= %d && d.struck === '%d')`, h.Strokes, h.LastSeq, struck(h)))
}

// alone waits until the page has lost its server, and kept until it keeps so many writes.
func (p *page) alone() {
	p.t.Helper()
	p.until("the server lost", `document.querySelector('header[data-connected=false]')`)
}

func (p *page) kept(writes int) {
	p.t.Helper()
	p.until(fmt.Sprint(writes, " writes kept"), fmt.Sprintf(`document.querySelector('header[data-waiting="%d"]')`, writes))
}

// is asks the page once.
func (p *page) is(js string) bool {
	p.t.Helper()
	ok, err := chromedp.Run(p.ctx, chromedp.Evaluate[bool](`!!(`+js+`)`))
	if err != nil {
		p.t.Fatal(err)
	}
	return ok
}

// number reads a figure from the page.
func (p *page) number(js string) float64 {
	p.t.Helper()
	v, err := chromedp.Run(p.ctx, chromedp.Evaluate[float64](`Number(`+js+`)`))
	if err != nil {
		p.t.Fatal(err)
	}
	return v
}

// tabTo presses Tab until the focus is on the element el that is wanted.
func (p *page) tabTo(js string) {
	p.t.Helper()
	for range 60 {
		if p.is(`((el) => ` + js + `)(document.activeElement)`) {
			return
		}
		p.press(tab)
	}
	p.t.Fatalf("Tab does not come to %s", js)
}

// value is what a field holds.
func (p *page) value(id string) string {
	p.t.Helper()
	v, err := chromedp.Run(p.ctx, chromedp.Evaluate[string](fmt.Sprintf(`document.getElementById(%q).value`, id)))
	if err != nil {
		p.t.Fatal(err)
	}
	return v
}

// opened waits for a sheet and gives its job's id.
func (p *page) opened() string {
	p.t.Helper()
	p.until("a sheet", `location.pathname.startsWith('/jobs/')`)
	return p.job()
}

// blur takes the focus from the control that has it, as a click beside it does.
func (p *page) blur() {
	p.t.Helper()
	p.do(chromedp.Evaluate[chromedp.Void](`document.activeElement?.blur()`))
}

// stage waits until a stage of the sheet is open.
func (p *page) stage(id terms.Stage) {
	p.t.Helper()
	p.until("the stage "+string(id), fmt.Sprintf(`document.querySelector('[data-stage="%s"]')`, id))
}

// press is one key, counted as an input. It goes to the page as a keyboard sends it,
// one event down whose text the page may refuse, so that a shortcut types nothing.
func (p *page) press(keys ...string) {
	p.t.Helper()
	for _, name := range keys {
		p.inputs++
		k, ok := kb.Keys[[]rune(name)[0]]
		if !ok {
			p.t.Fatalf("there is no key %q", name)
		}
		e := input.DispatchKeyEventParams{Type: input.DispatchKeyEventTypeKeyDown, Key: k.Key, Code: k.Code, WindowsVirtualKeyCode: k.Windows, NativeVirtualKeyCode: k.Native}
		if k.Shift {
			e.Modifiers = int64(chromedp.ModifierShift)
		}
		if k.Print {
			e.Text, e.UnmodifiedText = k.Text, k.Unmodified
		}
		p.do(chromedp.Func(func(ctx context.Context, t *chromedp.Target) error {
			if _, err := cdp.Call(ctx, t, input.DispatchKeyEvent, e); err != nil {
				return err
			}
			e.Type, e.Text, e.UnmodifiedText = input.DispatchKeyEventTypeKeyUp, "", ""
			_, err := cdp.Call(ctx, t, input.DispatchKeyEvent, e)
			return err
		}))
	}
}

// write types text into what has the focus, a key an input.
func (p *page) write(text string) {
	p.t.Helper()
	for _, r := range text {
		p.press(string(r))
	}
}

// focused waits until an element has the focus.
func (p *page) focused(id string) {
	p.t.Helper()
	p.until("the focus on "+id, fmt.Sprintf(`document.activeElement?.id === %q`, id))
}

func (p *page) picture(path string) {
	p.t.Helper()
	p.until("the fonts", `document.fonts.status === 'loaded'`)
	png, err := chromedp.Run(p.ctx, chromedp.CaptureScreenshot())
	if err != nil {
		p.t.Fatal(err)
	}
	if err := os.WriteFile(path, png, 0o644); err != nil {
		p.t.Fatal(err)
	}
}

// job is the id of the sheet that is open.
func (p *page) job() string {
	p.t.Helper()
	path, err := chromedp.Run(p.ctx, chromedp.Evaluate[string](`location.pathname`))
	if err != nil {
		p.t.Fatal(err)
	}
	parts := strings.Split(path, "/")
	if len(parts) < 3 || parts[1] != "jobs" {
		p.t.Fatalf("no sheet is open at %s", path)
	}
	return parts[2]
}

// heldAt is a job's last hold that is not its rig proof, with its trace.
func heldAt(t *testing.T, s *server, job string) (holds.HoldView, bool) {
	t.Helper()
	j := ask[jobs.JobView](t, s, "/api/jobs/"+job)
	for i := len(j.Holds) - 1; i >= 0; i-- {
		if j.Holds[i].Purpose != terms.RigProof {
			return ask[holds.HoldView](t, s, "/api/holds/"+j.Holds[i].ID), true
		}
	}
	return holds.HoldView{}, false
}

const (
	enter = kb.Enter
	space = " "
	tab   = kb.Tab
	back  = kb.Backspace
	up    = kb.ArrowUp
	down  = kb.ArrowDown
	home  = kb.Home
	esc   = kb.Escape
)
