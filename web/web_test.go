package web

import (
	"bufio"
	"context"
	"encoding/json"
	"math"
	"net/http"
	"net/http/httptest"
	"strings"
	"sync"
	"testing"
	"testing/fstest"
	"time"

	"github.com/gin-gonic/gin"

	"idlehiss/logbook"
	"idlehiss/shop"
)

type slow struct{ now time.Time }

func (s slow) Now() time.Time { return s.now }
func (s slow) Speed() float64 { return 0.001 }

// books are those of the shops that were opened here.
var books sync.Map

func book(t *testing.T, s *shop.Shop) *logbook.Book {
	t.Helper()
	b, ok := books.Load(s)
	if !ok {
		t.Fatal("a shop without a book")
	}
	return b.(*logbook.Book)
}

// serving opens a shop behind a handler.
func serving(t testing.TB, o Options) (*shop.Shop, http.Handler) {
	t.Helper()
	b, err := logbook.Open(context.Background(), t.TempDir())
	if err != nil {
		t.Fatal(err)
	}
	s, err := shop.New(context.Background(), b, slow{time.Date(2026, 3, 2, 8, 0, 0, 0, time.UTC)}, shop.Options{})
	if err != nil {
		t.Fatal(err)
	}
	books.Store(s, b)
	h, _ := New(s, fstest.MapFS{"index.html": {Data: []byte("<p>the page")}, "assets/a.js": {Data: []byte("1")}}, o)
	t.Cleanup(func() {
		s.Close()
		if err := b.Close(); err != nil {
			t.Error(err)
		}
	})
	return s, h
}

func serve(t *testing.T) *httptest.Server {
	t.Helper()
	_, h := serving(t, Options{})
	srv := httptest.NewServer(h)
	t.Cleanup(func() {
		srv.CloseClientConnections()
		srv.Close()
	})
	return srv
}

// recovering is a handler that does something behind what answers a panic.
func recovering(do func()) http.Handler {
	r := gin.New()
	r.Use(recovered)
	r.GET("/", func(*gin.Context) { do() })
	return r
}

func send(t *testing.T, url, body string, header ...string) (int, map[string]any) {
	t.Helper()
	r, err := http.NewRequest(http.MethodPost, url, strings.NewReader(body))
	if err != nil {
		t.Fatal(err)
	}
	r.Header.Set("Content-Type", "application/json")
	if len(header) == 2 {
		r.Header.Set(header[0], header[1])
	}
	answer, err := http.DefaultClient.Do(r)
	if err != nil {
		t.Fatal(err)
	}
	defer answer.Body.Close()
	var v map[string]any
	_ = json.NewDecoder(answer.Body).Decode(&v) // a bare refusal has no body
	return answer.StatusCode, v
}

const begin = `{"id": "first-write-1", "by": "Maren", "device": "test", "machine": "Bin carrier 4", "complaint": "routine", "mark": "16"}`

func TestRefusalsAreProblemAnswersThatNameTheField(t *testing.T) {
	srv := serve(t)
	status, v := send(t, srv.URL+"/api/jobs", strings.Replace(begin, `"16"`, `"banana"`, 1))
	where, _ := json.Marshal(v["errors"])
	if status != http.StatusUnprocessableEntity || !strings.Contains(v["detail"].(string), "banana") || !strings.Contains(string(where), "body.mark") {
		t.Errorf("%d %v", status, v)
	}
	if status, v := send(t, srv.URL+"/api/jobs", `{"machine": 7}`); status != http.StatusUnprocessableEntity || v["errors"] == nil {
		t.Errorf("a body of another shape: %d %v", status, v)
	}
	if status, v := send(t, srv.URL+"/api/holds/nowhere/readings", `{"id": "write-000001", "by": "", "device": "", "value": 1, "how": "read"}`); status != http.StatusNotFound {
		t.Errorf("a hold that is not there: %d %v", status, v)
	}
	if status, _ := send(t, srv.URL+"/api/jobs", begin, "Origin", "http://elsewhere.example"); status != http.StatusForbidden {
		t.Errorf("a page of another origin was answered %d", status)
	}
	if status, _ := send(t, srv.URL+"/api/jobs", begin); status != http.StatusOK {
		t.Errorf("a good beginning: %d", status)
	}
	if status, v := send(t, srv.URL+"/api/jobs", strings.Replace(begin, "routine", "overheats", 1)); status != http.StatusConflict {
		t.Errorf("the same id with other content: %d %v", status, v)
	}
}

func TestThePageAndWhatIsNotThere(t *testing.T) {
	srv := serve(t)
	for path, want := range map[string]string{"/": "the page", "/jobs/some-job/hold": "the page", "/assets/a.js": "1", "/api/nothing": "there is nothing at"} {
		r, err := http.Get(srv.URL + path)
		if err != nil {
			t.Fatal(err)
		}
		line, _ := bufio.NewReader(r.Body).ReadString('\n')
		r.Body.Close()
		if !strings.Contains(line, want) || (r.StatusCode == http.StatusNotFound) != strings.HasPrefix(path, "/api") {
			t.Errorf("%s: %d %q", path, r.StatusCode, line)
		}
		if !strings.Contains(r.Header.Get("Content-Security-Policy"), "default-src 'self'") {
			t.Errorf("%s may load from elsewhere", path)
		}
	}
}

// events opens a stream after an id and gives its lines.
func events(t *testing.T, url, last string) (next func(prefix string) string, leave func()) {
	t.Helper()
	ctx, cancel := context.WithTimeout(context.Background(), 20*time.Second)
	r, err := http.NewRequestWithContext(ctx, http.MethodGet, url+"/api/events", nil)
	if err != nil {
		t.Fatal(err)
	}
	if last != "" {
		r.Header.Set("Last-Event-ID", last)
	}
	answer, err := http.DefaultClient.Do(r)
	if err != nil {
		t.Fatal(err)
	}
	lines := bufio.NewScanner(answer.Body)
	return func(prefix string) string {
			t.Helper()
			for lines.Scan() {
				if v, ok := strings.CutPrefix(lines.Text(), prefix); ok {
					return v
				}
			}
			t.Fatalf("the stream ended without %q: %v", prefix, lines.Err())
			return ""
		}, func() {
			cancel()
			answer.Body.Close()
		}
}

// A page that was away is sent what it missed, once; one from another life of the
// server is told to start over.
func TestTheStreamResumes(t *testing.T) {
	srv := serve(t)
	next, leave := events(t, srv.URL, "")
	next("retry: ")
	send(t, srv.URL+"/api/jobs", begin)
	seen := next("id: ")
	if kind := next("event: "); kind != "bench" {
		t.Errorf("a new job is told as %q", kind)
	}
	leave()
	send(t, srv.URL+"/api/jobs/first-write-1/ticks", `{"id": "tick-write-1", "by": "Maren", "device": "test", "item": "cold", "on": true}`)
	send(t, srv.URL+"/api/jobs/first-write-1/ticks", `{"id": "tick-write-2", "by": "Maren", "device": "test", "item": "still", "on": true}`)
	send(t, srv.URL+"/api/jobs/first-write-1/ticks", `{"id": "tick-write-3", "by": "Maren", "device": "test", "item": "eyes-on", "on": true}`)
	next, leave = events(t, srv.URL, seen)
	if kind := next("event: "); kind != "job" {
		t.Errorf("missed was a job's change, not %q", kind)
	}
	leave()
	next, leave = events(t, srv.URL, "otherlife-3")
	if kind := next("event: "); kind != "reset" {
		t.Errorf("a page from another life is told %q", kind)
	}
	leave()
}

// A view whose figures are no numbers is a problem answer, never a 200 with half a body.
func TestAViewThatIsNoJSONIsAProblem(t *testing.T) {
	r := httptest.NewRecorder()
	if err := wholeJSON.Marshal(r, map[string]float64{"pressure": math.Inf(1)}); err != nil {
		t.Fatal(err)
	}
	var problem struct {
		Status int
		Detail string
	}
	if err := json.Unmarshal(r.Body.Bytes(), &problem); err != nil || r.Code != http.StatusInternalServerError || problem.Status != r.Code || !strings.Contains(problem.Detail, "no number") {
		t.Errorf("%d %s: %v", r.Code, r.Body, err)
	}
}
