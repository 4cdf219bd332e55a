package web

import (
	"net/http"
	"net/http/httptest"
	"strings"
	"testing"
	"time"
)

// from asks a handler as another computer would.
func from(h http.Handler, addr, method, path, body string, header ...string) *httptest.ResponseRecorder {
	r := httptest.NewRequest(method, "http://192.0.2.1:8340"+path, strings.NewReader(body))
	r.RemoteAddr = addr
	r.Header.Set("Content-Type", "application/json")
	for i := 0; i+1 < len(header); i += 2 {
		r.Header.Set(header[i], header[i+1])
	}
	w := httptest.NewRecorder()
	h.ServeHTTP(w, r)
	return w
}

func TestOnlyThisComputerAndKnownDevicesComeIn(t *testing.T) {
	srv := serve(t)
	h := srv.Config.Handler
	const phone, here = "192.0.2.77:4000", "127.0.0.1:4000"
	for _, path := range []string{"/api/book", "/api/events", "/api/kit/loans.ics", "/api/holds/x/trace.csv", "/api/devices"} {
		if w := from(h, phone, "GET", path, ""); w.Code != http.StatusUnauthorized || !strings.Contains(w.Body.String(), "PIN") {
			t.Errorf("%s to a stranger: %d %s", path, w.Code, w.Body)
		}
	}
	if w := from(h, phone, "POST", "/api/jobs", begin); w.Code != http.StatusUnauthorized {
		t.Errorf("a stranger's write: %d", w.Code)
	}
	if w := from(h, phone, "GET", "/", ""); w.Code != http.StatusOK {
		t.Errorf("the page that asks for the PIN: %d", w.Code)
	}
	if w := from(h, here, "POST", "/api/pin", `{"pin": "471123"}`); w.Code != http.StatusOK {
		t.Fatalf("setting the PIN here: %d %s", w.Code, w.Body)
	}
	if w := from(h, phone, "POST", "/api/door", `{"pin": "000000", "name": "phone"}`); w.Code != http.StatusUnprocessableEntity {
		t.Errorf("a wrong PIN: %d %s", w.Code, w.Body)
	}
	w := from(h, phone, "POST", "/api/door", `{"pin": "471123", "name": "Ilse's phone"}`)
	cookie, _, _ := strings.Cut(w.Header().Get("Set-Cookie"), ";")
	if w.Code != http.StatusOK || !strings.Contains(w.Header().Get("Set-Cookie"), "HttpOnly; SameSite=Strict") {
		t.Fatalf("the right PIN: %d %s %s", w.Code, w.Body, w.Header())
	}
	_, token, _ := strings.Cut(cookie, "=")
	for _, header := range [][]string{{"Cookie", cookie}, {"Authorization", "Bearer " + token}} {
		if w := from(h, phone, "GET", "/api/book", "", header...); w.Code != http.StatusOK {
			t.Errorf("let in by %s: %d", header[0], w.Code)
		}
	}
	if w := from(h, phone, "POST", "/api/pin", `{"pin": "0000"}`, "Cookie", cookie); w.Code != http.StatusForbidden {
		t.Errorf("a phone sets the PIN: %d", w.Code)
	}
	// Signed out, its stream ends and it is a stranger again.
	out := from(h, here, "GET", "/api/devices", "")
	_, id, _ := strings.Cut(out.Body.String(), `"id":"`)
	id, _, _ = strings.Cut(id, `"`)
	ended := make(chan struct{})
	go func() {
		from(h, phone, "GET", "/api/events", "", "Cookie", cookie)
		close(ended)
	}()
	if w := from(h, phone, "POST", "/api/devices/"+id+"/out", "{}", "Cookie", cookie); w.Code != http.StatusForbidden {
		t.Errorf("a phone signs devices out: %d", w.Code)
	}
	// Signing out twice is refused; the first must find the stream open or shut.
	if w := from(h, here, "POST", "/api/devices/"+id+"/out", "{}"); w.Code != http.StatusOK {
		t.Errorf("signed out here: %d %s", w.Code, w.Body)
	}
	select {
	case <-ended:
	case <-time.After(20 * time.Second):
		t.Error("the stream of a device that was signed out goes on")
	}
	if w := from(h, phone, "GET", "/api/book", "", "Cookie", cookie); w.Code != http.StatusUnauthorized {
		t.Errorf("signed out and let in: %d", w.Code)
	}
}

func TestForeignPagesAreRefused(t *testing.T) {
	h := serve(t).Config.Handler
	const here = "127.0.0.1:4000"
	for _, header := range [][]string{{"Origin", "http://evil.example"}, {"Origin", "null"}, {"Origin", "http://192.0.2.1:9999"}, {"Sec-Fetch-Site", "cross-site"}} {
		if w := from(h, here, "POST", "/api/jobs", begin, header...); w.Code != http.StatusForbidden {
			t.Errorf("%v: %d %s", header, w.Code, w.Body)
		}
	}
	// A name that was made to point here is not the shop's own.
	r := httptest.NewRequest("GET", "http://rebound.example/api/book", nil)
	r.RemoteAddr = here
	w := httptest.NewRecorder()
	h.ServeHTTP(w, r)
	if w.Code != http.StatusForbidden {
		t.Errorf("by a foreign name: %d", w.Code)
	}
	if w := from(h, here, "POST", "/api/jobs", begin, "Origin", "http://192.0.2.1:8340"); w.Code != http.StatusOK {
		t.Errorf("its own page: %d %s", w.Code, w.Body)
	}
	if w := from(h, here, "GET", "/api/book", ""); !strings.Contains(w.Body.String(), "Bin carrier 4") || strings.Count(w.Body.String(), `"machine"`) != 1 {
		t.Errorf("the book has %s", w.Body)
	}
}
