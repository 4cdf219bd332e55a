package browser

import (
	"encoding/json"
	"fmt"
	"io"
	"net/http"
	"net/http/httptest"
	"slices"
	"strings"
	"sync"
	"testing"

	"github.com/chromedp/chromedp"
)

// shopless stands in for the server: it answers each write as a test has told it, and
// keeps what was sent.
type shopless struct {
	*httptest.Server
	mu     sync.Mutex
	came   []string                                   // path and id of each write, in order
	answer func(path, id string, n int) (int, string) // n is how often this id has come
	often  map[string]int
}

func standIn(t *testing.T) *shopless {
	s := &shopless{often: map[string]int{}, answer: taken}
	mux := http.NewServeMux()
	mux.Handle("GET /", http.FileServer(http.Dir("../ui/dist-pages")))
	mux.HandleFunc("POST /api/", func(w http.ResponseWriter, r *http.Request) {
		raw, _ := io.ReadAll(r.Body)
		var body struct{ ID string }
		_ = json.Unmarshal(raw, &body)
		s.mu.Lock()
		s.came = append(s.came, r.URL.Path+" "+body.ID)
		s.often[body.ID]++
		status, answer := s.answer(r.URL.Path, body.ID, s.often[body.ID])
		s.mu.Unlock()
		w.Header().Set("Content-Type", "application/json")
		w.WriteHeader(status)
		_, _ = io.WriteString(w, answer)
	})
	s.Server = httptest.NewServer(mux)
	t.Cleanup(s.Close)
	return s
}

func taken(path, id string, n int) (int, string) {
	return 200, fmt.Sprintf(`{"id": %q, "of": "job", "changed": [], "seq": 0}`, id)
}

func (s *shopless) tell(answer func(path, id string, n int) (int, string)) {
	s.mu.Lock()
	defer s.mu.Unlock()
	s.answer = answer
}

// sent are the writes that came, each id once, in the order in which it was first sent.
func (s *shopless) sent() []string {
	s.mu.Lock()
	defer s.mu.Unlock()
	var out []string
	for _, c := range s.came {
		if id := strings.Fields(c)[1]; !slices.Contains(out, id) {
			out = append(out, id)
		}
	}
	return out
}

// logic opens the page of the modules alone.
func logic(t *testing.T, s *shopless) *page {
	t.Helper()
	p := open(t, s.URL+"/logic.html", 800, 600)
	p.until("the modules", `document.documentElement.dataset.ready === 'true'`)
	return p
}

// made stands for the thing that the write before makes.
const made = "{made}"

// send queues writes at one moment, each a path and the id of what it is done to, and
// gives their own ids.
func (p *page) send(writes ...[2]string) []string {
	p.t.Helper()
	list, _ := json.Marshal(writes)
	got, err := chromedp.Run(p.ctx, chromedp.Evaluate[[]string](fmt.Sprintf(
		`%s.reduce((ids, [path, id]) => [...ids, logic.send(path, id === %q ? ids.at(-1) : id, {})], [])`, list, made)))
	if err != nil {
		p.t.Fatal(err)
	}
	return got
}

func (p *page) empty() {
	p.t.Helper()
	p.until("an empty outbox", `logic.waiting() === 0`)
}

const (
	ticks  = "/api/jobs/{id}/ticks"
	starts = "/api/jobs/{id}/holds"
	events = "/api/holds/{id}/events"
)

// A fault of the server at one write holds up no other job, and what follows it on its
// own job no longer than some tries; it is sent again under its id until it is taken.
func TestAFaultAtOneWriteHoldsUpNoOther(t *testing.T) {
	t.Parallel()
	s := standIn(t)
	p := logic(t, s)
	bad := ""
	s.tell(func(path, id string, n int) (int, string) {
		if path == "/api/jobs/one/ticks" && (bad == "" || bad == id) && n < 8 {
			bad = id
			return 500, `{"status": 500, "detail": "the disk is full"}`
		}
		return taken(path, id, n)
	})
	sent := p.send([2]string{ticks, "one"}, [2]string{ticks, "one"}, [2]string{starts, "two"}, [2]string{events, made})
	first, second, begun, stroke := sent[0], sent[1], sent[2], sent[3]
	p.until("the other job's writes, then what follows on its own", `logic.delivered.length === 3`)
	p.empty()
	if got := s.sent(); len(got) != 4 || got[0] != first {
		t.Errorf("sent %v", got)
	}
	delivered, err := chromedp.Run(p.ctx, chromedp.Evaluate[string](`logic.delivered.join(' ')`))
	if want := strings.Join([]string{begun, stroke, second, first}, " "); err != nil || delivered != want {
		t.Errorf("delivered %s, want %s: %v", delivered, want, err)
	}
	s.mu.Lock()
	defer s.mu.Unlock()
	if n := s.often[first]; n != 8 {
		t.Errorf("the bad one was sent %d times under its id", n)
	}
}

// An answer that cannot be read tells nothing: the write goes again. A refusal is for
// good, and takes with it what was to be done to the thing it would have made.
func TestWhatIsSentAgainAndWhatIsNot(t *testing.T) {
	t.Parallel()
	s := standIn(t)
	p := logic(t, s)
	s.tell(func(path, id string, n int) (int, string) {
		if n < 3 {
			return 200, `{"id": "cut off he`
		}
		return taken(path, id, n)
	})
	cut := p.send([2]string{ticks, "one"})[0]
	p.until("it taken", `logic.delivered.length === 1`)
	s.tell(func(path, id string, n int) (int, string) {
		if path == "/api/jobs/one/holds" {
			return 409, `{"status": 409, "detail": "make safe first", "errors": [{"message": "make safe first", "location": "body.step"}]}`
		}
		return taken(path, id, n)
	})
	sent := p.send([2]string{starts, "one"}, [2]string{events, made})
	begun, stroke := sent[0], sent[1]
	p.empty()
	p.until("the refusal at its field", `logic.field() === 'step'`)
	after := p.send([2]string{ticks, "one"})[0]
	p.until("what came after", `logic.delivered.length === 2`)
	s.mu.Lock()
	defer s.mu.Unlock()
	if s.often[cut] != 3 || s.often[begun] != 1 || s.often[stroke] != 0 || s.often[after] != 1 {
		t.Errorf("sent %d, %d, %d and %d times", s.often[cut], s.often[begun], s.often[stroke], s.often[after])
	}
}

// Two pages of one browser share what waits: either delivers it, in order, and nothing
// that one wrote is lost by the other.
func TestTwoPagesShareOneOutbox(t *testing.T) {
	t.Parallel()
	s := standIn(t)
	s.tell(func(path, id string, n int) (int, string) { return 429, `{"status": 429, "detail": "wait"}` })
	a := logic(t, s)
	other, end := chromedp.NewContext(a.tab)
	t.Cleanup(end)
	b := &page{t: t, tab: other, ctx: other}
	b.do(chromedp.Navigate(s.URL + "/logic.html"))
	b.until("the modules", `document.documentElement.dataset.ready === 'true'`)
	var want []string
	for range 3 {
		want = append(want, a.send([2]string{ticks, "one"})[0], b.send([2]string{ticks, "one"})[0])
	}
	a.until("all of both", `logic.waiting() === 6`)
	b.until("all of both", `logic.waiting() === 6`)
	a.do(chromedp.Navigate("about:blank")) // its page is closed; the other delivers for it
	s.mu.Lock()
	s.came = nil
	s.answer = taken
	s.mu.Unlock()
	b.do(chromedp.Evaluate[chromedp.Void](`void logic.deliver()`))
	b.empty()
	if got := s.sent(); !slices.Equal(got, want) {
		t.Errorf("sent %v\nwant %v", got, want)
	}
}

// A summary never hides a trace, what was overtaken tells nothing new, points come
// together once, and thinning keeps every peak.
func TestHoldsAreMergedOnThePage(t *testing.T) {
	t.Parallel()
	p := logic(t, standIn(t))
	const base = `{id: 'h', job_id: 'j', started_at: '2026-01-01', calls: [], events: [], gaps: [], trail: [], fork: [], far: null, report: {call: 'tight'}, alarm: '', sentence: 's', state: 'holding'}`
	for _, x := range []struct{ what, js string }{
		{"new points once", `(() => { const b = ` + base + `;
			logic.take({...b, whole: true, now_s: 1, last_seq: 2, points: [{seq: 1, t: 0, pa: 1}, {seq: 2, t: 1, pa: 2}]});
			logic.take({...b, whole: false, brief: true, report: null, calls: null, now_s: 2, last_seq: 3, calls: [], points: [{seq: 2, t: 1, pa: 2}, {seq: 3, t: 2, pa: 3}]});
			const h = logic.hold('h'); return h.points.length === 3 && h.report.call === 'tight'; })()`},
		{"a summary hides nothing", `(() => { const b = ` + base + `;
			logic.take({...b, summary: true, now_s: 3, last_seq: 3, points: []});
			return logic.hold('h').points.length === 3; })()`},
		{"what was overtaken", `(() => { const b = ` + base + `;
			logic.take({...b, whole: false, now_s: 1, last_seq: 2, points: [], sentence: 'old'});
			return logic.hold('h').sentence === 's'; })()`},
		{"every peak", `(() => {
			const all = Array.from({length: 5000}, (_, i) => ({seq: i + 1, t: i, pa: 100 + (i % 7) / 10, how: 'read'}));
			all[1000].pa = 250; all[2003].pa = -50; all[3001].struck = 'wrong press'; all[3333].how = 'mark';
			const kept = logic.thinned(all);
			return kept.length < 3000 && [1000, 2003, 3001, 3333, 0, 4999].every((i) => kept.includes(all[i])) && kept.every((x, i) => i === 0 || x.t > kept[i - 1].t);
		})()`},
	} {
		if !p.is(x.js) {
			t.Errorf("%s: not so", x.what)
		}
	}
}

// A trace that was asked for and is answered late does not set back what came meanwhile.
func TestAnAnswerThatWasOvertakenIsLeft(t *testing.T) {
	t.Parallel()
	s := standIn(t)
	p := open(t, "about:blank", 800, 600)
	p.before(`window.fetch = () => new Promise((answer) => { window.answer = (h) => answer(new Response(JSON.stringify(h), { headers: { 'Content-Type': 'application/json' } })) })`)
	p.do(chromedp.Navigate(s.URL + "/logic.html"))
	p.until("the modules", `document.documentElement.dataset.ready === 'true'`)
	const base = `{id: 'h', job_id: 'j', started_at: '2026-01-01', calls: [], events: [], gaps: [], trail: [], fork: [], far: null, report: null, alarm: '', sentence: '', state: 'pumping', points: [], last_seq: 0, brief: false}`
	if !p.is(`(() => { const b = ` + base + `;
		logic.take({...b, summary: true, whole: false, now_s: 0.1, strokes: 0});
		logic.whole('h');
		logic.take({...b, whole: true, now_s: 0.5, strokes: 1});
		return logic.hold('h').strokes === 1 })()`) {
		t.Fatal("the stroke of the stream is not there")
	}
	p.until("the question", `window.answer`)
	p.do(chromedp.Evaluate[chromedp.Void](`(() => { const b = ` + base + `; window.answer({...b, whole: true, now_s: 0.2, strokes: 0}) })()`))
	p.until("the answer taken", `logic.asking() === 0`)
	if !p.is(`logic.hold('h').strokes === 1`) {
		t.Error("a late answer took the stroke away")
	}
}

// The innermost binding takes the key; none fires while one types, and letters can be
// turned off.
func TestKeysGoToWhomTheyAreMeant(t *testing.T) {
	t.Parallel()
	p := logic(t, standIn(t))
	fired := func(want string) {
		t.Helper()
		if !p.is(fmt.Sprintf(`logic.fired.join(' ') === %q`, want)) {
			t.Errorf("not %q", want)
		}
	}
	p.press(space, "x")
	fired("outer x")
	p.do(chromedp.Evaluate[chromedp.Void](`void (window.leave = logic.inner())`))
	p.press(space)
	fired("outer x inner")
	p.do(chromedp.Evaluate[chromedp.Void](`void window.leave()`), chromedp.Evaluate[chromedp.Void](`document.getElementById('typed').focus()`))
	p.write("x x")
	fired("outer x inner")
	if v := p.value("typed"); v != "x x" {
		t.Errorf("typed %q", v)
	}
	p.blur()
	p.do(chromedp.Evaluate[chromedp.Void](`void logic.letters(false)`))
	p.press("x", space)
	fired("outer x inner outer")
}
