package web

import (
	"context"
	"encoding/json"
	"flag"
	"fmt"
	"math/rand/v2"
	"net/http"
	"net/http/httptest"
	"net/url"
	"runtime"
	"slices"
	"strings"
	"testing"

	"github.com/danielgtaylor/huma/v2"

	"idlehiss/desk"
	"idlehiss/jobs"
)

// requests is how many are sent; make soak says a hundred thousand.
var requests = flag.Int("requests", 1500, "requests that nobody would send")

// bad are the classic bad values of each kind, as JSON.
var bad = map[string][]string{
	huma.TypeString: {`""`, `" "`, `"\u0000"`, `"\u202e\u0301"`, `"' OR 1=1 --"`, `"../../../etc/passwd"`, `"<script>alert(1)</script>"`, `"=1+1"`, `"NaN"`, `"-0"`, `"1e400 kPa"`, `"9999-12-31T23:59:59Z"`, `"1970-01-01T00:00:00Z"`, `"` + strings.Repeat("x", 5000) + `"`, `null`, `1`, `[]`},
	huma.TypeNumber: {`-1`, `0`, `-0.0`, `1e308`, `-1e308`, `1e-320`, `1e400`, `9007199254740993`, `"1"`, `null`, `true`, `{}`}, huma.TypeInteger: {`-1`, `0`, `2147483648`, `-9223372036854775808`, `1e30`, `1.5`, `"1"`, `null`},
	huma.TypeBoolean: {`"true"`, `1`, `null`, `[]`}, huma.TypeArray: {`null`, `{}`, `""`, `[[[[[[[[[[]]]]]]]]]]`, `[null]`}, huma.TypeObject: {`null`, `[]`, `""`, `{"": ""}`, `{"a": {"a": {"a": {"a": {}}}}}`},
}

const mostKnown = 60

// storm makes requests out of the described interface.
type storm struct {
	*rand.Rand
	schemas huma.Registry
	known   []string // ids that are there
	n       int
}

func (s *storm) one(list []string) string { return list[s.IntN(len(list))] }

// value is one for a schema: as a rule what it asks for, sometimes anything.
func (s *storm) value(x *huma.Schema, name string, depth int) string {
	if x.Ref != "" {
		x = s.schemas.SchemaFromRef(x.Ref)
	}
	if len(x.OneOf) > 0 {
		return s.value(x.OneOf[s.IntN(len(x.OneOf))], name, depth)
	}
	if list := bad[x.Type]; len(list) > 0 && s.IntN(12) == 0 {
		return s.one(list)
	}
	if len(x.Enum) > 0 {
		raw, err := json.Marshal(x.Enum[s.IntN(len(x.Enum))])
		if err != nil {
			return `""`
		}
		return string(raw)
	}
	switch x.Type {
	case huma.TypeString:
		switch {
		case name == "id":
			s.n++
			return fmt.Sprintf(`"storm-%08d"`, s.n)
		case x.Format == "date-time":
			return s.one([]string{`"2026-03-02T08:00:00Z"`, `"2026-03-02T07:59:00+02:00"`, `"1970-01-01T00:00:00Z"`})
		}
		return s.one([]string{`"16"`, `"110 kPa"`, `"hold"`, `"radiator"`, `"Maren"`, `"exactly"`, `"tester-two-rings"`, `"0.5 L"`, `"a drip at the neck"`, `"make-safe"`, fmt.Sprintf("%q", s.one(s.known))})
	case huma.TypeNumber, huma.TypeInteger:
		return s.one([]string{"0", "1", "2", "16", "110"})
	case huma.TypeBoolean:
		return s.one([]string{"true", "false"})
	case huma.TypeArray:
		var all []string
		for range s.IntN(3) {
			if depth < 6 {
				all = append(all, s.value(x.Items, "", depth+1))
			}
		}
		return "[" + strings.Join(all, ", ") + "]"
	case huma.TypeObject:
		var all []string
		for key := range slices.Values(sortedKeys(x.Properties)) {
			if depth > 6 || s.IntN(10) == 0 && !slices.Contains(x.Required, key) || s.IntN(40) == 0 {
				continue
			}
			all = append(all, fmt.Sprintf("%q: %s", key, s.value(x.Properties[key], key, depth+1)))
		}
		if more, ok := x.AdditionalProperties.(*huma.Schema); ok {
			all = append(all, fmt.Sprintf(`"radiator": %s`, s.value(more, "", depth+1)))
		}
		return "{" + strings.Join(all, ", ") + "}"
	}
	return "{}"
}

func sortedKeys[V any](m map[string]V) []string {
	var out []string
	for k := range m {
		out = append(out, k)
	}
	slices.Sort(out)
	return out
}

// request is one of an operation.
func (s *storm) request(method, path string, op *huma.Operation) *http.Request {
	query := url.Values{}
	for _, p := range op.Parameters {
		text := strings.Trim(s.value(p.Schema, "", 0), `"`)
		switch {
		case p.In == "path":
			if s.IntN(5) > 0 {
				text = s.one(s.known)
			}
			path = strings.ReplaceAll(path, "{"+p.Name+"}", url.PathEscape(text))
		case p.In == "query":
			query.Set(p.Name, text)
		}
	}
	body := ""
	if op.RequestBody != nil {
		if in := op.RequestBody.Content["application/json"]; in != nil {
			body = s.value(in.Schema, "", 0)
		} else {
			body = s.one([]string{"PK\x03\x04 no more", "PK\x05\x06" + strings.Repeat("\x00", 18), "{}"})
		}
		switch s.IntN(60) {
		case 0:
			body = body[:len(body)/2]
		case 1:
			body = strings.Repeat("[", 20_000)
		case 2:
			body = "\xff\xfe" + body
		}
	}
	r := httptest.NewRequest(method, "/", strings.NewReader(body))
	r.URL = &url.URL{Path: path, RawQuery: query.Encode()}
	if plain, err := url.PathUnescape(path); err == nil {
		r.URL.Path, r.URL.RawPath = plain, path
	}
	r.Host, r.RemoteAddr = "127.0.0.1:8340", here
	r.Header.Set("Content-Type", "application/json")
	return r
}

// Whatever is sent, with a fixed seed out of the described interface, is answered or refused: nothing breaks, nothing
// panics, and memory stays.
func TestNoRequestBreaksTheServer(t *testing.T) {
	_, h := serving(t, Options{})
	_, api := New(nil, nil, Options{})
	s := &storm{Rand: rand.New(rand.NewPCG(2026, 16)), schemas: api.OpenAPI().Components.Schemas, known: []string{"first-write-1", "tester-two-rings", "cooling-header-tank", "wear", "hole"}}
	for i := range 6 { // jobs and a hold to do it to
		id := fmt.Sprintf("storm-job-%d", i)
		want(t, "a job", from(h, here, "POST", "/api/jobs", strings.Replace(begin, "first-write-1", id, 1)), http.StatusOK)
		s.known = append(s.known, id)
	}
	var sheet jobs.JobView
	_ = json.Unmarshal(from(h, here, "GET", "/api/jobs/storm-job-0", "").Body.Bytes(), &sheet)
	for i, x := range sheet.Stages[1].Ticks {
		want(t, "made safe", from(h, here, "POST", "/api/jobs/storm-job-0/ticks", fmt.Sprintf(`{"id": "storm-tick-%d", "by": "", "device": "", "item": %q, "on": true}`, i, x.ID)), http.StatusOK)
	}
	want(t, "a gauge", from(h, here, "POST", "/api/jobs/storm-job-0/plan", `{"id": "storm-plan-1", "by": "", "device": "", "school": "exactly", "gauge": "tester-two-rings", "ring": 0, "allowance": "house"}`), http.StatusOK)
	var hold desk.Receipt
	_ = json.Unmarshal(want(t, "a hold", from(h, here, "POST", "/api/jobs/storm-job-0/holds", `{"id": "storm-hold-1", "by": "", "device": "", "purpose": "test"}`), http.StatusOK).Body.Bytes(), &hold)
	s.known = append(s.known, hold.Of, hold.Of)
	type op struct {
		method, path string
		*huma.Operation
	}
	var ops []op
	for _, path := range sortedKeys(api.OpenAPI().Paths) {
		item := api.OpenAPI().Paths[path]
		// PINs have tests of their own; here one that was taken would shut the rest out.
		if item.Get != nil {
			ops = append(ops, op{http.MethodGet, path, item.Get})
		}
		if item.Post != nil && !strings.HasPrefix(path, "/api/pins/") {
			ops = append(ops, op{http.MethodPost, path, item.Post})
		}
	}
	panics := Panics.Load()
	status := map[int]int{}
	var settled uint64
	for i := range *requests {
		o := ops[s.IntN(len(ops))]
		r := s.request(o.method, o.path, o.Operation)
		ctx, stop := context.WithCancel(t.Context())
		w := httptest.NewRecorder()
		h.ServeHTTP(w, r.WithContext(ctx))
		stop()
		status[w.Code]++
		if w.Code == http.StatusOK && o.method == http.MethodPost { // what it made is there to be used
			var made struct{ ID, Of string }
			if json.Unmarshal(w.Body.Bytes(), &made) == nil && len(s.known) < mostKnown {
				s.known = append(s.known, slices.DeleteFunc([]string{made.ID, made.Of}, func(id string) bool { return id == "" || slices.Contains(s.known, id) })...)
			}
		}
		if w.Code >= 500 {
			t.Errorf("request %d, %s %s: %d %.300s", i, o.method, r.URL, w.Code, w.Body)
		}
		if text := w.Body.String(); w.Code >= 400 && (strings.Contains(text, "SQL") || strings.Contains(text, "constraint failed")) {
			t.Errorf("request %d, %s %s tells %.300s", i, o.method, r.URL, text)
		}
		if i == *requests/5 {
			settled = heap()
		}
	}
	grown := int64(heap()) - int64(settled)
	t.Logf("%d requests to %d operations: answers %v, memory grew by %.1f MB after the first fifth", *requests, len(ops), status, float64(grown)/1e6)
	if Panics.Load() != panics {
		t.Errorf("%d panics", Panics.Load()-panics)
	}
	if grown > 20e6 {
		t.Errorf("memory grew by %d bytes", grown)
	}
	if status[http.StatusOK] < *requests/5 || status[http.StatusUnprocessableEntity] < *requests/20 {
		t.Errorf("it hardly gets in: %v", status)
	}
}

// heap is what is in use.
func heap() uint64 {
	runtime.GC()
	runtime.GC()
	var m runtime.MemStats
	runtime.ReadMemStats(&m)
	return m.HeapInuse
}
