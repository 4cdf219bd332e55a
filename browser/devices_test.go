package browser

import (
	"bytes"
	"encoding/json"
	"fmt"
	"io"
	"net"
	"net/http"
	"net/http/httptest"
	"os/exec"
	"slices"
	"strings"
	"sync"
	"sync/atomic"
	"testing"
	"time"

	"github.com/chromedp/chromedp"

	"idlehiss/core/runsheet"
	"idlehiss/core/terms"
	"idlehiss/desk"
	"idlehiss/holds"
	"idlehiss/jobs"
	"idlehiss/record"
)

// cable is the network between one page and the server, which can be cut.
type cable struct {
	net.Listener
	to  string
	mu  sync.Mutex
	cut bool
	all []net.Conn
}

func plug(t *testing.T, s *server) *cable {
	t.Helper()
	l, err := net.Listen("tcp", "127.0.0.1:0")
	if err != nil {
		t.Fatal(err)
	}
	c := &cable{Listener: l, to: strings.TrimPrefix(s.url, "http://")}
	t.Cleanup(func() { l.Close(); c.set(true) })
	go func() {
		for {
			in, err := l.Accept()
			if err != nil {
				return
			}
			c.join(in)
		}
	}()
	return c
}

func (c *cable) url() string { return "http://" + c.Addr().String() }

func (c *cable) join(in net.Conn) {
	c.mu.Lock()
	defer c.mu.Unlock()
	out, err := net.Dial("tcp", c.to)
	if c.cut || err != nil {
		in.Close()
		return
	}
	c.all = append(c.all, in, out)
	for _, way := range [][2]net.Conn{{in, out}, {out, in}} {
		go func() {
			_, _ = io.Copy(way[0], way[1]) // ends when either end does
			way[0].Close()
			way[1].Close()
		}()
	}
}

// set cuts the cable, or mends it.
func (c *cable) set(cut bool) {
	c.mu.Lock()
	defer c.mu.Unlock()
	c.cut = cut
	for _, x := range c.all {
		x.Close()
	}
	c.all = nil
}

// tell posts JSON to the server, beside the browser.
func tell[T any](t *testing.T, s *server, path string, body any) T {
	t.Helper()
	raw, err := json.Marshal(body)
	if err != nil {
		t.Fatal(err)
	}
	r, err := http.Post(s.url+path, "application/json", bytes.NewReader(raw))
	if err != nil {
		t.Fatal(err)
	}
	defer r.Body.Close()
	answer, err := io.ReadAll(r.Body)
	if err != nil || r.StatusCode != http.StatusOK {
		t.Fatalf("%s: %s %v\n%s", path, r.Status, err, answer)
	}
	var v T
	if err := json.Unmarshal(answer, &v); err != nil {
		t.Fatal(err)
	}
	return v
}

// told posts a write to a job, beside the browser, and gives its sheet as it is then.
func told(t *testing.T, s *server, path string, body any) jobs.JobView {
	t.Helper()
	r := tell[desk.Receipt](t, s, path, body)
	return ask[jobs.JobView](t, s, "/api/jobs/"+r.Of)
}

var writes atomic.Int64

// wrote is what every write carries.
func wrote(by string) map[string]any {
	return map[string]any{"id": fmt.Sprintf("beside-%06d", writes.Add(1)), "by": by, "device": "test"}
}

// with adds to a write.
func with(w map[string]any, more map[string]any) map[string]any {
	for k, v := range more {
		w[k] = v
	}
	return w
}

// safely is a job begun beside the browser, made safe.
func safely(t *testing.T, s *server, by string, job map[string]any) jobs.JobView {
	t.Helper()
	return ticked(t, s, by, told(t, s, "/api/jobs", with(wrote(by), job)), terms.MakeSafe)
}

// ticked ticks everything at some stages of a job, or at all where none is named.
func ticked(t *testing.T, s *server, by string, j jobs.JobView, stages ...terms.Stage) jobs.JobView {
	t.Helper()
	for _, st := range j.Stages {
		for _, x := range st.Ticks {
			if len(stages) == 0 || slices.Contains(stages, st.ID) {
				j = told(t, s, "/api/jobs/"+j.ID+"/ticks", with(wrote(by), map[string]any{"item": x.ID, "on": true}))
			}
		}
	}
	return j
}

// Two people at two ends, each with a page of their own. The phone's clock is an
// hour wrong and its network goes away in the middle.
func TestTwoPeopleAtTwoEndsOfOneHold(t *testing.T) {
	t.Parallel()
	s := serve(t, "serve", "--data", t.TempDir(), "--speed", "10")
	needle := func(name string) runsheet.Gauge {
		return tell[runsheet.Gauge](t, s, "/api/kit/gauges", with(wrote("Maren"), map[string]any{"name": name, "kind": "needle", "read": 0, "class": 1.6,
			"rings": []runsheet.Ring{{Unit: "psi", To: 30, Division: 0.5, Numbered: 5}}}))
	}
	needle("Gauge at the filler")
	needle("Gauge at the far end")
	bench := open(t, s.url, 1280, 800)
	bench.begin("Bin carrier 7", "routine", "16")
	bench.choose("Read on", "Gauge at the filler")
	bench.until("it read on that", `document.querySelector('[aria-label="Read on: Gauge at the filler"]')`)
	bench.choose("Far gauge", "Gauge at the far end")
	bench.until("the far gauge", `[...document.querySelectorAll('[aria-haspopup=listbox]')].some((e) => e.getAttribute('aria-label').includes('far end'))`)
	bench.rigUp()
	bench.press("s")
	bench.stage("pressurise")
	job := bench.job()
	hold := testOf(t, s, job)
	bench.press(space)
	bench.until("the first stroke", `document.querySelector('[data-strokes="1"]')`)
	bench.press("i")
	bench.stage("hold")
	bench.until("the far gauge", `document.querySelector('[data-far]')`)

	wire := plug(t, s)
	phone := open(t, "about:blank", 390, 844)
	phone.before(`{ const now = Date.now; Date.now = () => now() + 3600e3 }`)
	phone.do(chromedp.Navigate(wire.url() + "/jobs/" + job + "/hold"))
	phone.stage("hold")
	phone.tap("I am at the far gauge")
	phone.fits("hold at the far gauge")
	phone.tap("Crosses 15.5")
	bench.until("the far gauge alone", `document.querySelector('[data-far^="15.5"][data-near=""]')`)
	bench.press(space) // the near one crosses its own mark meanwhile
	bench.until("a crossing of the near one", `document.querySelectorAll('main svg path[stroke="var(--brass)"]').length >= 1`)
	bench.until("both gauges", `document.querySelector('[data-far^="15.5"][data-near^="15.5"]')`)

	// The phone is cut off for two minutes of the shop's clock and goes on.
	phone.kept(0)
	wire.set(true)
	phone.alone()
	bench.pass(s, 5)
	pressed := []span{s.during(func() { phone.tap("Crosses 15.0") })}
	bench.pass(s, 60)
	pressed = append(pressed, s.during(func() { phone.tap("Crosses 14.5") })) // the next mark, though no answer has come
	phone.kept(2)
	bench.pass(s, 60)
	if h := hold(); len(h.Far.Points) != 1 {
		t.Fatalf("%d readings of the far gauge came over a cut cable", len(h.Far.Points))
	}
	wire.set(false)
	bench.wait("what the phone kept", func() bool { return len(hold().Far.Points) == 3 })
	phone.until("nothing left to send", `document.querySelector('header').dataset.waiting === '0' && !Object.keys(localStorage).some((k) => k.startsWith('hiss.outbox'))`)
	var h holds.HoldView
	asked := s.during(func() { h = hold() })
	far := h.Far.Points
	if apart, least, most := far[2].AtS-far[1].AtS, pressed[0].least(pressed[1]), pressed[0].most(pressed[1]); apart < least || apart > most {
		t.Errorf("pressed %.1f to %.1f s apart, they stand %.1f s apart", least, most, apart)
	}
	const unlikeItsOwn = 300 // s: far less than the hour by which the phone's clock is wrong
	if late := h.NowS - far[2].AtS; far[0].AtS < *h.IsolatedS || late < pressed[1].least(asked)-unlikeItsOwn || late > pressed[1].most(asked)+unlikeItsOwn {
		t.Errorf("the far gauge's readings stand at %+v of %.0f s: by the phone's own clock", far, h.NowS)
	}
	if far[0].Seq >= far[1].Seq || far[1].Seq >= far[2].Seq || len(h.Points) != 1 {
		t.Errorf("far %+v, near %+v", far, h.Points)
	}
	// What was delivered late is the same as what is there after a restart.
	before := hold()
	s.kill()
	s.restart()
	after := hold()
	was, _ := json.Marshal([]any{before.Far.Points, before.Points, before.Events})
	is, _ := json.Marshal([]any{after.Far.Points, after.Points, after.Events})
	if !bytes.Equal(was, is) {
		t.Errorf("before the restart\n%s\nafter it\n%s", was, is)
	}
}

// Marks pressed on a page that is cut off in the midst of a hold make the same
// hold, and the same call, as marks that came at once.
func TestAPageCutOffDeliversTheSameHold(t *testing.T) {
	t.Parallel()
	s := serve(t, "serve", "--data", t.TempDir(), "--speed", "20")
	wire := plug(t, s)
	p := open(t, wire.url(), 1280, 800)
	p.begin("Mist-blower 2", "loses coolant", "16")
	p.rigUp()
	p.press("s")
	p.stage("pressurise")
	p.kept(0)
	hold := testOf(t, s, p.job())
	// Begun and shut before the page has heard that there is a hold.
	wire.set(true)
	p.alone()
	p.press(space, space, "i")
	p.kept(4)
	p.stage("hold")
	wire.set(false)
	p.wait("all of it", func() bool { return hold().IsolatedS != nil })
	p.reads(`main [data-hold=holding]`)
	if h := hold(); h.Strokes != 2 || h.IsolatedS == nil {
		t.Fatalf("%d strokes of two, shut at %v", h.Strokes, h.IsolatedS)
	}
	p.kept(0)
	wire.set(true)
	p.alone()
	var pressed []span
	for n := range 5 { // the needle crosses a mark about every half minute: a plain leak
		p.pass(s, 30)
		pressed = append(pressed, s.during(func() { p.press(space) }))
		p.kept(n + 1)
	}
	p.press("w")
	p.kept(6)
	if h := hold(); len(h.Points) != 0 {
		t.Fatalf("%d readings came over a cut cable", len(h.Points))
	}
	wire.set(false)
	p.wait("all of it", func() bool { h := hold(); return len(h.Points) == 5 && len(h.Events) == 4 })
	h := hold()
	for i := 1; i < len(h.Points); i++ {
		if h.Points[i].Pa >= h.Points[i-1].Pa {
			t.Errorf("reading %d stands at %.0f Pa, as that before it: the next mark was not offered", i+1, h.Points[i].Pa)
		}
		least, most := pressed[i-1].least(pressed[i]), pressed[i-1].most(pressed[i])
		if d := h.Points[i].AtS - h.Points[i-1].AtS; d < least || d > most || h.Points[i].Seq != h.Points[i-1].Seq+1 {
			t.Errorf("reading %d was pressed %.1f to %.1f s after the one before, and stands %.1f s after it", i+1, least, most, d)
		}
	}
	if last := h.Events[3]; last.Kind != "moved" || last.AtS < h.Points[4].AtS {
		t.Errorf("out of order: %+v after %+v", last, h.Points[4])
	}
	p.until("nothing left to send", `document.querySelector('header').dataset.waiting === '0'`)
	s.kill() // judged anew from the book it is the same
	s.restart()
	again := hold()
	if h.Report == nil || again.Report == nil || h.Report.Call != again.Report.Call || h.Report.RateKPaPerMin.Value != again.Report.RateKPaPerMin.Value {
		t.Errorf("delivered late %+v, from the book %+v", h.Report, again.Report)
	}
}

// A phone must know the shop's PIN, is listed, and can be signed out while it is in.
func TestThePinAtTheDoor(t *testing.T) {
	t.Parallel()
	data := t.TempDir()
	addrs, err := net.InterfaceAddrs()
	if err != nil {
		t.Fatal(err)
	}
	other := ""
	for _, a := range addrs {
		if ip, ok := a.(*net.IPNet); ok && !ip.IP.IsLoopback() && ip.IP.To4() != nil {
			other = ip.IP.String()
		}
	}
	if other == "" {
		t.Skip("this machine has no address but its own: TestOnlyThisComputerAndKnownDevicesComeIn shows the door without a browser")
	}
	refused := exec.Command(program, "serve", "--data", data, "--addr", "0.0.0.0:0")
	if out, err := refused.CombinedOutput(); err == nil || !strings.Contains(string(out), "idlehiss pin") {
		t.Fatalf("served others without a PIN: %v %s", err, out)
	}
	for _, x := range [][2]string{{"owner", "gravel 52 lamp\n"}, {"hand", "471138\n"}} { // the owner's comes first
		set := exec.Command(program, "pin", "--data", data, "--role", x[0])
		set.Stdin = strings.NewReader(x[1])
		if out, err := set.CombinedOutput(); err != nil {
			t.Fatalf("%v %s", err, out)
		}
	}
	s := &server{t: t, args: []string{"serve", "--data", data}}
	s.start("0.0.0.0:0")
	t.Cleanup(s.kill)
	_, port, err := net.SplitHostPort(strings.TrimPrefix(s.url, "http://"))
	if err != nil {
		t.Fatal(err)
	}
	s.url = "http://127.0.0.1:" + port
	phone := open(t, "http://"+other+":"+port+"/book", 390, 844)
	phone.at("door")
	phone.fits("the door")
	phone.scan("the door")
	knock := func(pin string) {
		phone.do(chromedp.Evaluate[chromedp.Void](`document.getElementById('pin').value = ''; document.getElementById('pin').focus()`))
		phone.write(pin)
		if phone.value("name") == "" {
			phone.press(tab)
			phone.write("Ilse phone")
			phone.press(tab)
			phone.write("Ilse")
		}
		phone.press(enter)
	}
	knock("000000")
	phone.refused()
	knock("471138")
	phone.reads(`[data-view=book][data-ready=true][data-rows="0"]`, "The book is empty")

	own := open(t, s.url+"/devices", 1280, 800)
	own.reads(`[data-view=devices][data-ready=true][data-devices="1"]`, "Ilse phone")
	own.scan("devices")
	own.do(chromedp.Evaluate[chromedp.Void](`document.getElementById('owner').focus()`))
	own.write("gravel 52 lamp")
	own.press(enter)
	own.until("the owner's page", `document.querySelector('[data-owner=true] [data-pin=hand][data-set=true]')`)
	own.scan("devices of the owner")
	own.do(chromedp.Evaluate[chromedp.Void](`[...document.querySelectorAll('[data-device]')].find((e) => e.dataset.device === 'Ilse phone').querySelector('button').click()`))
	own.until("no other device", `document.querySelector('[data-devices="1"]')`) // but the owner here
	phone.at("door")                                                             // at once, without a touch
}

// A page of another origin that this browser has open writes nothing.
func TestAForeignPageWritesNothing(t *testing.T) {
	t.Parallel()
	s := serve(t, "serve", "--data", t.TempDir())
	body, err := json.Marshal(with(wrote("stranger"), map[string]any{"machine": "Cider press", "complaint": "", "mark": "16"}))
	if err != nil {
		t.Fatal(err)
	}
	foreign := httptest.NewServer(http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		w.Header().Set("Content-Type", "text/html")
		fmt.Fprintf(w, `<p>foreign</p><script>
			fetch('%s/api/jobs', { method: 'POST', mode: 'no-cors', headers: { 'Content-Type': 'text/plain' }, body: %q })
				.finally(() => fetch('%s/api/book').then(() => 'read', () => 'kept out').then((x) => { document.body.append('done: ' + x); document.body.dataset.done = x }))</script>`, s.url, body, s.url)
	}))
	defer foreign.Close()
	p := open(t, foreign.URL, 800, 600)
	p.reads(`body[data-done]`, "done: kept out")
	if rows := ask[record.BookView](t, s, "/api/book").Rows; len(rows) != 0 {
		t.Errorf("a foreign page wrote %+v", rows)
	}
}

// A phone that is opened where the shop's computer does not answer shows what it knew last, and since when; what is pressed
// on it then is in the book later, at the moment of pressing.
func TestAPhoneOpensWithoutTheServer(t *testing.T) {
	t.Parallel()
	s := serve(t, "serve", "--data", t.TempDir())
	var out atomic.Bool // signed out by somebody
	wire := plug(t, &server{url: inFront(t, s, func(w http.ResponseWriter, r *http.Request, behind http.Handler) {
		if out.Load() && r.URL.Path == "/api/door" {
			_, _ = w.Write([]byte(`{"this_computer": false, "signed_in": false, "pin_set": true}`))
			return
		}
		behind.ServeHTTP(w, r)
	})})
	job := safely(t, s, "Maren", map[string]any{"machine": "Bin carrier 4", "complaint": "loses coolant", "mark": "16"}).ID
	hold, post := begunBy(t, s, job, "15")
	post("/events", map[string]any{"kind": "isolate"})
	p := open(t, wire.url()+"/jobs/"+job+"/hold", 390, 844)
	p.reads(`main [data-hold=holding]`)
	p.until("the page kept", `document.documentElement.dataset.remembered`)
	post("/readings", map[string]any{"how": "read", "text": "14.5"})
	p.until("the reading", `document.querySelector('main [data-value^="14.5"]')`)
	p.do(chromedp.Evaluate[chromedp.Void](`delete document.documentElement.dataset.remembered`))
	wire.set(true)
	p.alone()
	p.until("what is known kept", `document.documentElement.dataset.remembered`)
	p.do(chromedp.Navigate(wire.url() + "/"))
	p.at("bench")
	p.until("how old it is", `Date.now() - Number(document.querySelector('[data-away]').dataset.away) < 600_000`)
	p.until("the hold", `document.querySelector('nav a[href^="/jobs/`+job+`"]').innerText.includes('14.5')`)
	p.fits("the bench without the server")
	p.scan("the bench without the server")
	p.do(chromedp.Navigate(wire.url() + "/jobs/" + job + "/hold"))
	p.until("the hold as it was", `document.querySelector('main [data-hold=holding]') && document.querySelector('main [data-value^="14.5"]') && document.querySelector('[data-away]')`)
	before := time.Now()
	p.press(space)
	p.kept(1)
	after := time.Now()
	wire.set(false)
	p.kept(0)
	p.until("all as it is", `document.querySelector('header[data-connected=true]') && !document.querySelector('[data-away]')`)
	h := ask[holds.HoldView](t, s, "/api/holds/"+hold)
	last := h.Points[len(h.Points)-1]
	at := h.StartedAt.Add(time.Duration(last.AtS * float64(time.Second)))
	const apart = 2 * time.Second // of two clocks of one computer, one of them by way of a page
	if len(h.Points) != 3 || at.Before(before.Add(-apart)) || at.After(after.Add(apart)) {
		t.Errorf("%d readings of 3; the one that was pressed from %v to %v stands at %v", len(h.Points), before, after, at)
	}
	// Who is signed out finds nothing of it on the device.
	out.Store(true)
	p.do(chromedp.Navigate(wire.url() + "/"))
	p.at("door")
	p.until("all forgotten", `(caches.has('hiss.known').then((x) => (window.has = x)), window.has === false)`)
}
