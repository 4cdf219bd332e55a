package web

import (
	"encoding/base64"
	"encoding/json"
	"fmt"
	"net/http"
	"slices"
	"strings"
	"testing"
)

// impossible are figures that no instrument shows, as they may stand in a body.
var impossible = []string{"NaN", "Infinity", "-Infinity", "1e999", "-1e999", "1e308", "-1e308", "-1e9"}

// writesWithFigures are the writes that carry figures: a body that is taken as it stands,
// in which % is where one of the figures goes, in turn. JOB and HOLD are those of the test.
var writesWithFigures = map[string][]struct{ field, body string }{
	"/api/jobs/{id}/mark":       {{"reading", `"text": "16", "reading": %`}},
	"/api/jobs/{id}/plan":       {{"ring", `"school": "exactly", "gauge": "tester-two-rings", "allowance": "house", "ring": %`}},
	"/api/jobs/{id}/reminders":  {{"minutes", `"text": "the seam", "minutes": %`}, {"every", `"text": "the seam", "minutes": 60, "until": 600, "every": %`}, {"until", `"text": "the seam", "minutes": 60, "every": 60, "until": %`}, {"from", `"text": "the seam", "minutes": 60, "from": %`}, {"to", `"text": "the seam", "minutes": 60, "to": %`}},
	"/api/jobs/{id}/reminded":   {{"later", `"reminder": "r", "later": %`}},
	"/api/jobs/{id}/topped-up":  {{"hours", `"added": "1 L", "within": "14 d", "hours": %`}},
	"/api/jobs/{id}/air":        {{"m3", `"says": "By a vessel.", "se_m3": 0, "m3": %`}, {"se_m3", `"says": "By a vessel.", "m3": 0.001, "se_m3": %`}},
	"/api/holds/{id}/readings":  {{"value", `"how": "read", "value": %`}, {"gauge", `"how": "read", "value": 8, "gauge": %`}},
	"/api/holds/{id}/undo":      {{"seq", `"seq": %`}, {"gauge", `"seq": 0, "gauge": %`}},
	"/api/gauges/{id}/readings": {{"readings[].value", `"readings": [{"value": %}]`}},
	"/api/kit/{id}/notes":       {{"days", `"kind": "check due", "of": "service", "days": %`}, {"uses", `"kind": "check due", "of": "service", "uses": %`}},
	"/api/kit/gauges": {
		{"class", `"name": "odd", "kind": "needle", "read": 0, "rings": [{"unit": "kPa", "from": 0, "to": 250, "division": 5, "numbered": 50}], "class": %`},
		{"read", `"name": "odd", "kind": "needle", "class": 0, "rings": [{"unit": "kPa", "from": 0, "to": 250, "division": 5, "numbered": 50}], "read": %`},
		{"rings[].from", `"name": "odd", "kind": "needle", "read": 0, "class": 0, "rings": [{"unit": "kPa", "from": %, "to": 250, "division": 5, "numbered": 50}]`},
		{"rings[].to", `"name": "odd", "kind": "needle", "read": 0, "class": 0, "rings": [{"unit": "kPa", "from": 0, "to": %, "division": 5, "numbered": 50}]`},
		{"rings[].division", `"name": "odd", "kind": "needle", "read": 0, "class": 0, "rings": [{"unit": "kPa", "from": 0, "to": 250, "division": %, "numbered": 50}]`},
		{"rings[].numbered", `"name": "odd", "kind": "needle", "read": 0, "class": 0, "rings": [{"unit": "kPa", "from": 0, "to": 250, "division": 5, "numbered": %}]`},
	},
}

// The figures of the pictures that the eye is sent: each ring's, and the marks'.
func init() {
	ring := func(bad string) string {
		figures := map[string]string{"columns": "180", "rows": "8", "inner": "0.2", "outer": "0.7"}
		if bad != "" {
			figures[bad] = "%"
		}
		return fmt.Sprintf(`{"columns": %s, "rows": %s, "inner": %s, "outer": %s, "grey": "%s"}`, figures["columns"], figures["rows"], figures["inner"], figures["outer"], base64.StdEncoding.EncodeToString(make([]byte, 180*8)))
	}
	type row = struct{ field, body string }
	picture := func(face, marks, shown, scale, rest string) string {
		return fmt.Sprintf(`"keep": true, "face": %s, "marks": %s, "shown": %s, "scale": [%s, {"angle": 135, "value": 2, "radius": 1}]%s`, ring(face), ring(marks), ring(shown), scale, rest)
	}
	const zero = `{"angle": 225, "value": 0, "radius": 1}`
	var looks, search []row
	for _, f := range []string{"columns", "rows", "inner", "outer"} {
		looks = append(looks, row{"face." + f, picture(f, "", "", zero, "")}, row{"marks." + f, picture("", f, "", zero, "")}, row{"shown." + f, picture("", "", f, zero, "")})
		search = append(search, row{"shown." + f, fmt.Sprintf(`"shown": %s, "tries": [%s]`, ring(f), ring(""))}, row{"tries[]." + f, fmt.Sprintf(`"shown": %s, "tries": [%s]`, ring(""), ring(f))})
	}
	looks = append(looks, row{"scale[].angle", picture("", "", "", strings.Replace(zero, "225", "%", 1), "")}, row{"scale[].value", picture("", "", "", strings.Replace(zero, `"value": 0`, `"value": %`, 1), "")},
		row{"scale[].radius", picture("", "", "", strings.Replace(zero, `"radius": 1`, `"radius": %`, 1), "")}, row{"near", picture("", "", "", zero, `, "near": %`)})
	writesWithFigures["/api/holds/{id}/faces"], writesWithFigures["/api/holds/{id}/face"] = looks, search
}

// Each figure of each write, impossible: it is refused, nothing of it is kept, and every
// view of the shop can be read after it.
func TestNoImpossibleFigureIsTaken(t *testing.T) {
	srv := serve(t)
	n := 0
	id := func() string { n++; return fmt.Sprintf("impossible-%06d", n) }
	write := func(path, body string) (int, map[string]any) {
		return send(t, srv.URL+path, fmt.Sprintf(`{"id": %q, "by": "Maren", "device": "test", %s}`, id(), body))
	}
	must := func(path, body string) string {
		t.Helper()
		status, v := write(path, body)
		if status != http.StatusOK {
			t.Fatalf("%s: %d %v", path, status, v)
		}
		of, _ := v["of"].(string)
		return of
	}
	job := must("/api/jobs", `"machine": "Bin carrier 4", "complaint": "routine", "mark": "16"`)
	must("/api/jobs/"+job+"/ticks", `"item": "cold", "on": true`)
	must("/api/jobs/"+job+"/ticks", `"item": "still", "on": true`)
	must("/api/jobs/"+job+"/ticks", `"item": "eyes-on", "on": true`)
	hold := must("/api/jobs/"+job+"/holds", `"purpose": "test"`)
	must("/api/holds/"+hold+"/events", `"kind": "stroke"`)
	must("/api/holds/"+hold+"/readings", `"how": "read", "value": 8`)
	_, gauge := write("/api/kit/gauges", `"name": "logger", "kind": "digital", "class": 0, "read": 0, "posted": true, "rings": [{"unit": "kPa", "from": 0, "to": 250, "division": 0.1, "numbered": 50}]`)
	logger := gauge["id"].(string)
	other := must("/api/jobs", `"machine": "Cider press", "complaint": "routine", "mark": "16"`)
	must("/api/jobs/"+other+"/ticks", `"item": "cold", "on": true`)
	must("/api/jobs/"+other+"/ticks", `"item": "still", "on": true`)
	must("/api/jobs/"+other+"/ticks", `"item": "eyes-on", "on": true`)
	must("/api/jobs/"+other+"/plan", `"school": "exactly", "gauge": "`+logger+`", "allowance": "house", "ring": 0`)
	posted := must("/api/jobs/"+other+"/holds", `"purpose": "test"`)
	of := map[string]string{"/api/jobs/": job, "/api/holds/": hold, "/api/gauges/": logger, "/api/kit/{id}": logger}
	views := []string{"/api/bench", "/api/holds", "/api/jobs/" + job, "/api/jobs/" + other, "/api/holds/" + hold, "/api/holds/" + posted, "/api/kit", "/api/kit/items", "/api/book"}
	before := map[string]string{}
	look := func(what string) {
		t.Helper()
		for _, v := range views {
			r, err := http.Get(srv.URL + v)
			if err != nil {
				t.Fatal(err)
			}
			var body any
			err = json.NewDecoder(r.Body).Decode(&body)
			r.Body.Close()
			if err != nil || r.StatusCode != http.StatusOK {
				t.Fatalf("after %s, %s: %s, %v", what, v, r.Status, err)
			}
			text, _ := json.Marshal(body)
			if was, ok := before[v]; ok && was != string(text) {
				t.Fatalf("after %s, %s has changed:\n%s\n%s", what, v, was, text)
			}
			before[v] = string(text)
		}
	}
	look("nothing")
	for path, fields := range writesWithFigures {
		to := path
		for prefix, id := range of {
			if strings.HasPrefix(path, prefix) {
				to = strings.Replace(path, "{id}", id, 1)
			}
		}
		for _, f := range fields {
			for _, figure := range impossible {
				status, v := write(to, strings.Replace(f.body, "%", figure, 1))
				if status < 400 || status >= 500 {
					t.Errorf("%s, %s of %s: answered %d %v", path, f.field, figure, status, v)
				}
			}
		}
		look(path)
	}
}

// Every figure of every write stands in the table above: a new one cannot be forgotten.
func TestEveryFigureIsTriedImpossible(t *testing.T) {
	_, api := New(nil, nil, Options{})
	raw, err := api.OpenAPI().MarshalJSON()
	if err != nil {
		t.Fatal(err)
	}
	var doc struct {
		Paths map[string]struct {
			Post *struct {
				RequestBody struct {
					Content map[string]struct{ Schema map[string]any }
				}
			}
		}
		Components struct{ Schemas map[string]map[string]any }
	}
	if err := json.Unmarshal(raw, &doc); err != nil {
		t.Fatal(err)
	}
	var figures func(schema map[string]any, at string) []string
	figures = func(schema map[string]any, at string) []string {
		if ref, ok := schema["$ref"].(string); ok {
			return figures(doc.Components.Schemas[ref[strings.LastIndex(ref, "/")+1:]], at)
		}
		switch kind := schema["type"]; {
		case kind == "number" || kind == "integer":
			return []string{at}
		case schema["items"] != nil:
			return figures(schema["items"].(map[string]any), at+"[]")
		}
		var out []string
		properties, _ := schema["properties"].(map[string]any)
		for name, p := range properties {
			out = append(out, figures(p.(map[string]any), strings.TrimPrefix(at+"."+name, "."))...)
		}
		return out
	}
	seen := 0
	for path, item := range doc.Paths {
		if item.Post == nil {
			continue
		}
		for _, field := range figures(item.Post.RequestBody.Content["application/json"].Schema, "") {
			seen++
			if !slices.ContainsFunc(writesWithFigures[path], func(f struct{ field, body string }) bool { return f.field == field }) {
				t.Errorf("%s: %s is not tried", path, field)
			}
		}
	}
	if seen < 14 {
		t.Errorf("only %d figures were found", seen)
	}
}
