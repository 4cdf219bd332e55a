package web

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"net/http"
	"net/http/httptest"
	"net/netip"
	"strconv"
	"strings"
	"testing"
	"time"

	"idlehiss/core/terms"
	"idlehiss/door"
	"idlehiss/logbook"
)

const (
	phone = "192.0.2.77:4000"
	here  = "127.0.0.1:4000"

	ownersPhrase = "gravel 52 lamp"
	handsPin     = "471138"
)

// from asks a handler as another computer would, or as this one by its own name.
func from(h http.Handler, addr, method, path, body string, header ...string) *httptest.ResponseRecorder {
	host := "192.0.2.1:8340"
	if addr == here {
		host = "127.0.0.1:8340"
	}
	r := httptest.NewRequest(method, path, strings.NewReader(body))
	r.Host, r.RemoteAddr = host, addr
	r.Header.Set("Content-Type", "application/json")
	for i := 0; i+1 < len(header); i += 2 {
		if r.Header.Set(header[i], header[i+1]); header[i] == "Host" {
			r.Host = header[i+1]
		}
	}
	w := httptest.NewRecorder()
	h.ServeHTTP(w, r)
	return w
}

// want asks and says what did not come back.
func want(t *testing.T, what string, w *httptest.ResponseRecorder, status int) *httptest.ResponseRecorder {
	t.Helper()
	if w.Code != status {
		t.Errorf("%s: %d, not %d: %s", what, w.Code, status, w.Body)
	}
	return w
}

// pins sets both.
func byOwner(pin string) string { return fmt.Sprintf(`{"pin": %q, "now": %q}`, pin, ownersPhrase) }

func pins(t *testing.T, h http.Handler) {
	t.Helper()
	want(t, "the hands' PIN before the owner's", from(h, here, "POST", "/api/pins/hand", `{"pin": "`+handsPin+`"}`), http.StatusUnprocessableEntity)
	want(t, "the owner's PIN", from(h, here, "POST", "/api/pins/owner", `{"pin": "`+ownersPhrase+`"}`), http.StatusOK)
	want(t, "the hands' PIN without the owner", from(h, here, "POST", "/api/pins/hand", `{"pin": "`+handsPin+`"}`), http.StatusForbidden)
	want(t, "the hands' PIN", from(h, here, "POST", "/api/pins/hand", byOwner(handsPin), enter(t, h, here, ownersPhrase)...), http.StatusOK)
}

// enter signs in and gives the header that a device then sends.
func enter(t *testing.T, h http.Handler, addr, pin string, header ...string) []string {
	t.Helper()
	w := want(t, "coming in from "+addr, from(h, addr, "POST", "/api/door", `{"pin": "`+pin+`", "name": "Ilse's phone", "person": "Ilse"}`, header...), http.StatusOK)
	cookie, rest, _ := strings.Cut(w.Header().Get("Set-Cookie"), ";")
	_, token, _ := strings.Cut(cookie, "=")
	if !strings.Contains(rest, "HttpOnly") || !strings.Contains(rest, "SameSite=Strict") || len(token) < 40 || strings.Contains(w.Body.String(), token) {
		t.Errorf("the cookie is %q, the answer %s", w.Header().Get("Set-Cookie"), w.Body)
	}
	return []string{"Cookie", cookie}
}

func TestEachIsLetInToWhatIsItsOwn(t *testing.T) {
	h := serve(t).Config.Handler
	for _, path := range []string{"/api/book", "/api/events", "/api/kit/loans.ics", "/api/holds/x/trace.csv", "/api/devices", "/api/keep", "/api/bundle", "/api/bundle?job=first-write-1", "/openapi.json", "/schemas/JobView.json"} {
		w := want(t, path+" to a stranger", from(h, phone, "GET", path, ""), http.StatusUnauthorized)
		if w.Header().Get("Cache-Control") != "no-store" {
			t.Errorf("%s may be kept on the way: %v", path, w.Header())
		}
	}
	want(t, "a stranger's write", from(h, phone, "POST", "/api/jobs", begin), http.StatusUnauthorized)
	want(t, "the page that asks for the PIN", from(h, phone, "GET", "/", ""), http.StatusOK)
	want(t, "coming in without any PIN", from(h, phone, "POST", "/api/door", `{"pin": "", "name": "phone"}`), http.StatusConflict)
	want(t, "this computer, while there is no PIN", from(h, here, "POST", "/api/keep/backup", "{}"), http.StatusConflict) // it was started without
	pins(t, h)
	for _, pin := range []string{"", "471139", ownersPhrase + " ", strings.Repeat("4", 100)} {
		want(t, "the PIN "+pin, from(h, phone, "POST", "/api/door", `{"pin": "`+pin+`", "name": "phone"}`), http.StatusUnprocessableEntity)
	}
	hand, owner := enter(t, h, "192.0.2.78:1", handsPin), enter(t, h, "192.0.2.79:1", ownersPhrase)
	gauge := `{"id": "gauge-write-1", "by": "", "device": "", "name": "Posted gauge", "kind": "digital", "read": 0, "class": 1, "posted": true, "rings": [{"unit": "kPa", "from": 0, "to": 250, "division": 0.1, "numbered": 50}]}`
	for path, body := range map[string]string{"/api/pins/hand": `{"pin": "582249"}`, "/api/pins/owner": `{"pin": ""}`, "/api/devices/x/out": "{}", "/api/loggers": `{"name": "l", "gauges": ["g"]}`, "/api/wrong-pins/forget": "{}", "/api/keep/backup": "{}", "/api/shop/head": `{"id": "head-write-1", "by": "", "device": "", "name": "x", "lines": [], "standing": ""}`, "/api/kit/gauges": gauge, "/api/bundle": "x", "/api/bundle/look": "x"} {
		want(t, "a hand at "+path, from(h, phone, "POST", path, body, hand...), http.StatusForbidden)
		want(t, "this computer without the owner at "+path, from(h, here, "POST", path, body), http.StatusForbidden)
		want(t, "nobody at "+path, from(h, phone, "POST", path, body), http.StatusUnauthorized)
	}
	for left, now := range map[string]string{"192.0.2.81:1": "", "192.0.2.82:1": "gravel 53 lamp", "192.0.2.83:1": handsPin} {
		body := fmt.Sprintf(`{"pin": "gravel 54 lamp", "now": %q}`, now)
		want(t, "on a device that the owner left, with the PIN "+now, from(h, left, "POST", "/api/pins/owner", body, owner...), http.StatusUnprocessableEntity)
	}
	want(t, "a hand's job", from(h, phone, "POST", "/api/jobs", begin, hand...), http.StatusOK)
	want(t, "a hand's bundle of a job", from(h, phone, "GET", "/api/bundle?job=first-write-1", "", hand...), http.StatusOK)
	want(t, "a hand's bundle of a machine", from(h, phone, "GET", "/api/bundle?machine=Bin+carrier+4", "", hand...), http.StatusOK)
	want(t, "the whole book to a hand", from(h, phone, "GET", "/api/bundle", "", hand...), http.StatusForbidden)
	want(t, "the whole book to the owner", from(h, phone, "GET", "/api/bundle", "", owner...), http.StatusOK)
	want(t, "no bundle, from the owner", from(h, phone, "POST", "/api/bundle", "x", owner...), http.StatusUnprocessableEntity)
	want(t, "a bundle of nobody", from(h, phone, "GET", "/api/bundle?job=nobody", "", hand...), http.StatusNotFound)
	want(t, "this computer's bench", from(h, here, "GET", "/api/bench", ""), http.StatusOK)

	// A logger posts to its own gauge and does nothing else.
	var g struct{ ID string }
	_ = json.Unmarshal(want(t, "a gauge", from(h, phone, "POST", "/api/kit/gauges", gauge, owner...), http.StatusOK).Body.Bytes(), &g)
	var l struct {
		Token  string
		Logger struct{ ID string }
	}
	_ = json.Unmarshal(want(t, "a logger", from(h, phone, "POST", "/api/loggers", `{"name": "shed logger", "gauges": ["`+g.ID+`"]}`, owner...), http.StatusOK).Body.Bytes(), &l)
	bearer := []string{"Authorization", "Bearer " + l.Token}
	want(t, "a logger's clock", from(h, phone, "GET", "/api/clock", "", bearer...), http.StatusOK)
	reading := `{"id": "logger-write-1", "by": "", "device": "", "value": 110}`
	if w := from(h, phone, "POST", "/api/gauges/"+g.ID+"/readings", reading, bearer...); w.Code == http.StatusForbidden || w.Code == http.StatusUnauthorized {
		t.Errorf("a logger's own gauge: %d %s", w.Code, w.Body) // it is on no hold: that is refused otherwise
	}
	for _, at := range [][2]string{{"POST", "/api/gauges/tester-two-rings/readings"}, {"GET", "/api/book"}, {"GET", "/api/events"}, {"POST", "/api/jobs"}, {"POST", "/api/gauges/" + g.ID + "/readings/../../../jobs"}, {"POST", "/api/loggers"}} {
		want(t, "a logger at "+at[1], from(h, phone, at[0], at[1], reading, bearer...), http.StatusForbidden)
	}
	want(t, "the logger out", from(h, phone, "POST", "/api/devices/"+l.Logger.ID+"/out", "{}", owner...), http.StatusOK)
	want(t, "a logger that is out", from(h, phone, "GET", "/api/clock", "", bearer...), http.StatusUnauthorized)
}

// Who wrote an entry and from which device is what the session says, whatever the body says.
func TestNobodyWritesAsSomebodyElse(t *testing.T) {
	srv := serve(t)
	h := srv.Config.Handler
	pins(t, h)
	hand := enter(t, h, phone, handsPin)
	forged := strings.NewReplacer(`"Maren"`, `"The owner"`, `"test"`, `"bench"`).Replace(begin)
	want(t, "a forged job", from(h, phone, "POST", "/api/jobs", forged, hand...), http.StatusOK)
	want(t, "a forged remark", from(h, phone, "POST", "/api/jobs/first-write-1/remarks", `{"id": "second-write", "by": "The owner", "device": "bench", "stage": "first-look", "text": "all is well"}`, hand...), http.StatusOK)
	w := want(t, "the sheet", from(h, here, "GET", "/api/jobs/first-write-1", ""), http.StatusOK)
	if s := w.Body.String(); strings.Contains(s, "The owner") || !strings.Contains(s, `"Ilse"`) {
		t.Errorf("the sheet says %.200s", s)
	}
	want(t, "who uses it", from(h, phone, "POST", "/api/me", `{"person": "Tomas"}`, hand...), http.StatusOK)
	want(t, "another remark", from(h, phone, "POST", "/api/jobs/first-write-1/remarks", `{"id": "third-write", "by": "The owner", "device": "bench", "stage": "first-look", "text": "a drip"}`, hand...), http.StatusOK)
	if s := from(h, here, "GET", "/api/jobs/first-write-1", "").Body.String(); !strings.Contains(s, `"Tomas"`) {
		t.Errorf("the sheet says %.200s", s)
	}
}

// At the shop's own computer several people write, whoever signed in there as the owner.
func TestTheOwnersSessionSignsNobodyElsesEntries(t *testing.T) {
	_, h := serving(t, Options{})
	want(t, "the owner's PIN", from(h, here, "POST", "/api/pins/owner", `{"pin": "`+ownersPhrase+`"}`), http.StatusOK)
	want(t, "Maren's job", from(h, here, "POST", "/api/jobs", begin, enter(t, h, here, ownersPhrase)...), http.StatusOK)
	if s := from(h, here, "GET", "/api/jobs/first-write-1", "").Body.String(); !strings.Contains(s, `"by":"Maren"`) {
		t.Errorf("the sheet says %.200s", s)
	}
}

// A session ends from either side, by itself after a time, and its stream with it.
func TestSessionsEnd(t *testing.T) {
	s, h := serving(t, Options{})
	pins(t, h)
	now := time.Now()
	s.Door.Wall = func() time.Time { return now }
	in := func(who []string) int { return from(h, phone, "GET", "/api/clock", "", who...).Code }
	own := enter(t, h, phone, handsPin)
	want(t, "out by itself", from(h, phone, "POST", "/api/door/out", "{}", own...), http.StatusOK)
	other := enter(t, h, phone, handsPin)
	var d struct{ Devices []struct{ ID string } }
	_ = json.Unmarshal(from(h, phone, "GET", "/api/devices", "", other...).Body.Bytes(), &d)
	ended := make(chan struct{})
	go func() {
		from(h, phone, "GET", "/api/events", "", other...)
		close(ended)
	}()
	owner := enter(t, h, here, ownersPhrase)
	for _, x := range d.Devices {
		from(h, here, "POST", "/api/devices/"+x.ID+"/out", "{}", owner...)
	}
	select {
	case <-ended:
	case <-time.After(20 * time.Second):
		t.Error("the stream of a device that was signed out goes on")
	}
	if in(own) != http.StatusUnauthorized || in(other) != http.StatusUnauthorized {
		t.Error("let in after it was signed out")
	}
	used := enter(t, h, phone, handsPin)
	w := from(h, phone, "POST", "/api/door", `{"pin": "`+handsPin+`", "name": "borrowed", "borrowed": true}`)
	borrowed := []string{"Cookie", strings.Split(w.Header().Get("Set-Cookie"), ";")[0]}
	for _, c := range []struct {
		after          time.Duration
		used, borrowed int
	}{{11 * time.Hour, 200, 200}, {2 * time.Hour, 200, 401}, {29 * 24 * time.Hour, 200, 401}, {29 * 24 * time.Hour, 200, 401}, {31 * 24 * time.Hour, 401, 401}} {
		if now = now.Add(c.after); in(used) != c.used || in(borrowed) != c.borrowed {
			t.Errorf("%v later: used %d, borrowed %d", c.after, in(used), in(borrowed))
		}
	}
	daily := enter(t, h, phone, handsPin)
	for day := range 180 {
		if now = now.Add(24 * time.Hour); (in(daily) == http.StatusOK) != (day < 179) {
			t.Fatalf("used every day, on the %dth: %d", day+1, in(daily))
		}
	}
	before := enter(t, h, phone, handsPin)
	owner = enter(t, h, here, ownersPhrase)
	want(t, "a new PIN", from(h, here, "POST", "/api/pins/hand", byOwner("914702"), owner...), http.StatusOK)
	if in(before) != http.StatusUnauthorized {
		t.Error("let in by the old PIN")
	}
}

// Ten thousand guesses take longer than a year, from however many addresses, over restarts, and many at once; the shop's
// own computer is never locked out.
func TestGuessingTakesAYear(t *testing.T) {
	s, h := serving(t, Options{})
	pins(t, h)
	now := time.Now()
	s.Door.Wall = func() time.Time { return now }
	n := 0
	guess := func(times int) (took time.Duration) { // each from an address of its own, as soon as it is let
		for start := now; times > 0; took = now.Sub(start) {
			n++
			addr := netip.AddrFrom4([4]byte{10, byte(n >> 16), byte(n >> 8), byte(n)}).String() + ":9"
			switch w := from(h, addr, "POST", "/api/door", `{"pin": "000000", "name": "x"}`); w.Code {
			case http.StatusUnprocessableEntity:
				times--
			case http.StatusTooManyRequests:
				now = now.Add(retryAfter(t, w))
			default:
				t.Fatalf("%d %s", w.Code, w.Body)
			}
		}
		return took
	}
	if took := guess(22); took < 2*time.Minute {
		t.Errorf("22 guesses took %v", took)
	}
	// After forty, of which most would only make this test longer.
	err := book(t, s).Batch(t.Context(), func(tx *logbook.Tx) error {
		w, err := tx.WrongPins("")
		w.N = 40
		return errors.Join(err, tx.SetWrongPins(w))
	})
	if err != nil {
		t.Fatal(err)
	}
	guess(1)
	if took := guess(3); took*10_000/3 < 365*24*time.Hour {
		t.Errorf("three guesses took %v: ten thousand do not take a year", took)
	}
	w := want(t, "the right one, while others are waited for", from(h, phone, "POST", "/api/door", `{"pin": "`+handsPin+`", "name": "x"}`), http.StatusTooManyRequests)
	retryAfter(t, w)
	owner := enter(t, h, here, ownersPhrase) // the shop's own computer
	bench := want(t, "the bench", from(h, here, "GET", "/api/bench", ""), http.StatusOK).Body.String()
	if !strings.Contains(bench, `"wrong_pins":{"n":`) {
		t.Errorf("the bench does not tell: %.300s", bench)
	}
	want(t, "let all try again", from(h, here, "POST", "/api/wrong-pins/forget", "{}", owner...), http.StatusOK)
	enter(t, h, phone, handsPin)

	// Many at once gain nothing.
	at := make(chan int, 24)
	for range cap(at) {
		go func() {
			at <- from(h, "10.9.9.9:9", "POST", "/api/door", `{"pin": "000002", "name": "x"}`).Code
		}()
	}
	looked := 0
	for range cap(at) {
		if <-at == http.StatusUnprocessableEntity {
			looked++
		}
	}
	if looked > 6 {
		t.Errorf("of 24 guesses at once %d were looked at", looked)
	}
}

func retryAfter(t *testing.T, w *httptest.ResponseRecorder) time.Duration {
	t.Helper()
	after, err := strconv.Atoi(w.Header().Get("Retry-After"))
	if err != nil || after <= 0 {
		t.Fatalf("when to try again: %q", w.Header().Get("Retry-After"))
	}
	return time.Duration(after) * time.Second
}

// Whoever passes a request on is a stranger, though the packets come from this computer.
func TestAForwardedRequestIsAStrangers(t *testing.T) {
	_, h := serving(t, Options{})
	for _, header := range [][]string{{"X-Forwarded-For", "127.0.0.1"}, {"Forwarded", "for=127.0.0.1"}, {"Via", "1.1 proxy"}, {"X-Real-IP", "127.0.0.1"}, {"X-Forwarded-Host", "localhost"},
		{"Host", "192.0.2.1:8340"}, {"Host", "shop.example"}, {"Host", "localhost.example:8340"}, {"Host", "127.0.0.1.example"}, {"Host", ""}} {
		want(t, strings.Join(header, ": "), from(h, here, "GET", "/api/book", "", header...), http.StatusUnauthorized)
	}
	for _, host := range []string{"localhost:8340", "127.0.0.1", "[::1]:8340", "127.0.0.1:8340"} {
		want(t, "by "+host, from(h, here, "GET", "/api/book", "", "Host", host), http.StatusOK)
	}
	// As a proxy sends it, with the whole address.
	r := httptest.NewRequest("GET", "http://127.0.0.1:8340/api/book", nil)
	r.RemoteAddr = here
	w := httptest.NewRecorder()
	h.ServeHTTP(w, r)
	want(t, "in absolute form", w, http.StatusUnauthorized)

	// Under --local-pin a raw forward on this computer gets no further either.
	_, strict := serving(t, Options{LocalPin: true})
	want(t, "this computer under --local-pin", from(strict, here, "GET", "/api/book", ""), http.StatusUnauthorized)

	// A proxy that is named is taken at its word on the address, and is never this computer.
	_, proxied := serving(t, Options{Proxies: []netip.Prefix{netip.MustParsePrefix("127.0.0.1/32")}})
	want(t, "this computer behind a proxy", from(proxied, here, "GET", "/api/book", ""), http.StatusUnauthorized)
}

func TestForeignPagesAreRefused(t *testing.T) {
	h := serve(t).Config.Handler
	for _, header := range [][]string{{"Origin", "http://evil.example"}, {"Origin", "null"}, {"Origin", "http://127.0.0.1:9999"}, {"Origin", "https://127.0.0.1:8340"}, {"Origin", "x//127.0.0.1:8340"},
		{"Origin", "http://evil.example//127.0.0.1:8340"}, {"Origin", "http://127.0.0.1:8340/"}, {"Sec-Fetch-Site", "cross-site"}} {
		want(t, strings.Join(header, ": "), from(h, here, "POST", "/api/jobs", begin, header...), http.StatusForbidden)
	}
	want(t, "its own page", from(h, here, "POST", "/api/jobs", begin, "Origin", "http://127.0.0.1:8340"), http.StatusOK)
	if w := from(h, here, "GET", "/api/book", ""); !strings.Contains(w.Body.String(), "Bin carrier 4") || strings.Count(w.Body.String(), `"machine"`) != 1 {
		t.Errorf("the book has %s", w.Body)
	}
}

// Under TLS the cookie is bound to this host and to TLS, and browsers are told to come no other way.
func TestUnderTLSTheCookieIsBound(t *testing.T) {
	_, h := serving(t, Options{Secure: true, Certificate: []byte("as it is sent")})
	want(t, "the owner's PIN", from(h, here, "POST", "/api/pins/owner", `{"pin": "`+ownersPhrase+`"}`), http.StatusOK)
	w := from(h, phone, "POST", "/api/door", `{"pin": "`+ownersPhrase+`", "name": "x"}`)
	if c := w.Header().Get("Set-Cookie"); !strings.HasPrefix(c, "__Host-") || !strings.Contains(c, "Secure") || !strings.Contains(c, "Path=/;") || strings.Contains(c, "Domain") {
		t.Errorf("the cookie is %q", c)
	}
	if w.Header().Get("Strict-Transport-Security") == "" {
		t.Error("browsers are not told")
	}
	var v CertificateView
	if err := json.Unmarshal(from(h, here, "GET", "/api/certificate", "").Body.Bytes(), &v); err != nil || len(v.Words) != 24 || len(v.SHA256) != 95 || v.Size == 0 {
		t.Errorf("%+v %v", v, err)
	}
}

// What a driver or the program itself did wrong goes to the log, with a reference on the page.
func TestNoDriverSpeaksToThePage(t *testing.T) {
	s, h := serving(t, Options{})
	s.Close()
	if err := book(t, s).Close(); err != nil {
		t.Fatal(err)
	}
	w := want(t, "a book that is shut", from(h, here, "GET", "/api/book", ""), http.StatusInternalServerError)
	if s := strings.ToLower(w.Body.String()); strings.Contains(s, "sql") || strings.Contains(s, "database is closed") || strings.Contains(s, "select") {
		t.Errorf("the page is told %s", s)
	}
	before := Panics.Load()
	broken := recovering(func() { panic("the program's own fault") })
	if w := want(t, "a panic", from(broken, here, "GET", "/", ""), http.StatusInternalServerError); Panics.Load() != before+1 || strings.Contains(w.Body.String(), "own fault") {
		t.Errorf("%d counted, the page is told %s", Panics.Load()-before, w.Body)
	}
}

func TestPinsThatAreGuessedFirst(t *testing.T) {
	s, _ := serving(t, Options{})
	for _, pin := range []string{"4711", "12345", "123456", "654321", "111111", "121212", "123123", "112233", "246810", "24061987", "19870624", "147258", "password", "short one", "idle hiss idle hiss", strings.Repeat("long ", 20)} {
		if _, err := s.Door.SetPin(context.Background(), terms.Owner, door.PinWish{Pin: pin}); err == nil {
			t.Errorf("%q was taken", pin)
		}
	}
	now := ""
	for _, pin := range []string{"471138", "90210773", "gravel 52 lamp", "obstwiese im nebel"} {
		_, err := s.Door.SetPin(context.Background(), terms.Owner, door.PinWish{Pin: pin, Now: now, From: door.Here})
		if now = pin; err != nil {
			t.Errorf("%q: %v", pin, err)
		}
	}
	kept, err := book(t, s).Settings(context.Background(), "pin", "owner-pin")
	if err != nil || strings.Contains(kept["owner-pin"], "nebel") || len(kept["owner-pin"]) < 50 {
		t.Errorf("kept as %v %v", kept, err)
	}
}
