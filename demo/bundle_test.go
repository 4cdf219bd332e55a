package demo

import (
	"archive/zip"
	"bytes"
	"compress/flate"
	"context"
	"crypto/sha256"
	"encoding/hex"
	"encoding/json"
	"errors"
	"flag"
	"fmt"
	"image"
	"image/jpeg"
	"math/rand/v2"
	"net/http"
	"net/http/httptest"
	"path/filepath"
	"regexp"
	"slices"
	"strings"
	"sync"
	"testing"
	"time"

	"idlehiss/bundle"
	"idlehiss/core/terms"
	"idlehiss/core/trace"
	"idlehiss/desk"
	"idlehiss/holds"
	"idlehiss/jobs"
	"idlehiss/logbook"
	"idlehiss/record"
	"idlehiss/shop"
	"idlehiss/web"
)

// mutants is how many changed bundles are tried; make soak says two thousand.
var mutants = flag.Int("mutants", 60, "changed bundles that are taken over or refused")

// opened is a shop with its book and its pages, all at one moment.
type opened struct {
	*shop.Shop
	t     *testing.T
	book  *logbook.Book
	pages http.Handler
	shut  func()
	what  string // is wrong with its book, if anything
}

func opens(t *testing.T, folder string) *opened {
	t.Helper()
	ctx := context.Background()
	book, err := logbook.Open(ctx, folder)
	if err != nil {
		t.Fatal(err)
	}
	ambient, err := AmbientPa()
	if err != nil {
		t.Fatal(err)
	}
	s, err := shop.New(ctx, book, &past{now: now}, shop.Options{AmbientPa: ambient, Demo: true})
	if err != nil {
		t.Fatal(err)
	}
	h, _ := web.New(s, nil, web.Options{})
	o := &opened{Shop: s, t: t, book: book, pages: h, shut: sync.OnceFunc(func() {
		s.Close()
		book.Close()
	})}
	t.Cleanup(o.shut)
	return o
}

// get is what a page is given, as JSON where it is JSON.
func (o *opened) get(path string) string {
	o.t.Helper()
	r := httptest.NewRequest(http.MethodGet, path, nil)
	r.RemoteAddr, r.Host = "127.0.0.1:5000", "127.0.0.1:8340"
	w := httptest.NewRecorder()
	o.pages.ServeHTTP(w, r)
	if w.Code >= http.StatusInternalServerError {
		o.t.Errorf("%s %s: %d %s", o.what, path, w.Code, w.Body)
	}
	return toldSoFar.ReplaceAllString(strings.ReplaceAll(fmt.Sprintf("%d %s", w.Code, w.Body), o.book.Folder(), ""), "")
}

// toldSoFar matches how many events a shop has told so far.
var toldSoFar = regexp.MustCompile(`"listed":\d+`)

// screens are all that pages are given of a shop, by path.
func (o *opened) screens() map[string]string {
	o.t.Helper()
	out := map[string]string{}
	see := func(path string) { out[path] = o.get(path) }
	for _, path := range []string{"/api/bench", "/api/book", "/api/book?q=leak", "/api/machines?q=", "/api/kit", "/api/kit/items", "/api/kit/loans.ics", "/api/circuits", "/api/holds"} {
		see(path)
	}
	ctx := context.Background()
	all, err := o.book.JobIDs(ctx, "")
	if err != nil {
		o.t.Fatal(err)
	}
	for _, id := range all {
		for _, at := range []string{"", "/paper", "/passages"} {
			see("/api/jobs/" + id + at)
		}
		w, err := o.book.Whole(ctx, id)
		if err != nil {
			o.t.Fatal(err)
		}
		for _, h := range w.Holds {
			for _, at := range []string{"", "/trace.csv", "/why", "/comparable"} {
				see("/api/holds/" + h.ID + at)
			}
		}
		for _, p := range w.Photos {
			see("/api/photos/" + p.ID)
		}
		for _, o := range w.Observations {
			see("/api/jobs/" + id + "/why-suspect?part=" + o.Part)
		}
	}
	return out
}

func (o *opened) bundle(w bundle.What) []byte {
	o.t.Helper()
	f, err := o.Bundles.Find(context.Background(), w)
	if err != nil {
		o.t.Fatal(err)
	}
	var out bytes.Buffer
	if err := o.Bundles.Write(context.Background(), &out, f); err != nil {
		o.t.Fatal(err)
	}
	return out.Bytes()
}

func from(raw []byte) bundle.From {
	return bundle.From{ReaderAt: bytes.NewReader(raw), Size: int64(len(raw))}
}

func (o *opened) take(raw []byte) (bundle.Takeover, error) {
	return o.Bundles.Take(context.Background(), desk.Write{ID: desk.NewID(), By: "Ines", Device: "bench"}, from(raw))
}

// differing lists the screens that show something else; a name that each shop gives by itself is the same to them.
func differing(a, b map[string]string) (out []string) {
	for path, was := range a {
		if is := b[path]; is != was {
			n := 0
			for n < min(len(is), len(was)) && is[n] == was[n] {
				n++
			}
			out = append(out, fmt.Sprintf("%s: …%.300s\n--- and ---\n…%.300s", path, was[max(0, n-80):], is[min(len(is), max(0, n-80)):]))
		}
	}
	for path := range b {
		if _, ok := a[path]; !ok {
			out = append(out, path+": only in the second")
		}
	}
	return out
}

// atRest is the demo shop with nothing under pressure, a photo and a struck-out reading.
func atRest(t *testing.T) *opened {
	o := opens(t, filled(t))
	ctx := context.Background()
	running, err := o.book.RunningHolds(ctx)
	if err != nil || len(running) == 0 {
		t.Fatal(len(running), err)
	}
	for i, h := range running {
		if _, err := o.Holds.Event(ctx, h.ID, holds.HoldEvent{Write: desk.Write{ID: fmt.Sprint("released-", i), By: "Ines", Device: "bench"}, Kind: trace.Release}); err != nil {
			t.Fatal(err)
		}
	}
	var photo bytes.Buffer
	if err := jpeg.Encode(&photo, image.NewGray(image.Rect(0, 0, 64, 48)), nil); err != nil {
		t.Fatal(err)
	}
	if _, err := o.Jobs.Photo(ctx, running[0].JobID, jobs.TakePhoto{Write: desk.Write{ID: "photo-of-it", By: "Ines", Device: "phone"}, Part: "radiator", Note: "=a seam, wet", JPEG: photo.Bytes()}); err != nil {
		t.Fatal(err)
	}
	return o
}

// The demo shop's whole book, taken over by an empty shop, shows the same on every screen; taken over again it changes
// nothing, and bundled again it is the same to the last byte of every member.
func TestAnotherShopShowsTheSame(t *testing.T) {
	first := atRest(t)
	raw := first.bundle(bundle.What{Of: bundle.OfBook})
	second := opens(t, t.TempDir())
	plan, err := second.Bundles.Look(context.Background(), from(raw))
	if err != nil || plan.Taken || plan.Jobs.New != 19 || plan.Conflicts+plan.More+plan.Jobs.Here != 0 || !plan.Adds {
		t.Fatalf("%+v, %v", plan, err)
	}
	if n := strings.Count(second.get("/api/book"), `"complaint"`); n != 0 {
		t.Fatalf("a look wrote %d jobs", n)
	}
	if plan, err = second.take(raw); err != nil || !plan.Taken {
		t.Fatalf("%+v, %v", plan, err)
	}
	// What stands at the head of a paper is the shop's, and in no bundle; so is the note for its next shift.
	if _, err := first.Record.SetNote(context.Background(), record.NewShiftNote{Write: desk.Write{ID: "first-note", By: "shop", Device: "bench"}}); err != nil {
		t.Fatal(err)
	}
	head, err := first.Head(context.Background())
	if err == nil {
		_, err = second.SetHead(context.Background(), shop.SetHead{Write: desk.Write{ID: "second-head", By: "shop", Device: "bench"}, Head: head})
	}
	if err != nil {
		t.Fatal(err)
	}
	want := first.screens()
	if len(want) < 150 {
		t.Errorf("only %d screens were looked at", len(want))
	}
	for _, d := range differing(want, second.screens()) {
		t.Error(d)
	}
	if again := members(t, second.bundle(bundle.What{Of: bundle.OfBook})); !same(t, members(t, raw), again) {
		t.Error("bundled again it is another one")
	}
	before := rows(t, second.book)
	if plan, err = second.take(raw); err != nil || plan.Adds || plan.Jobs.Here != 19 {
		t.Errorf("%+v, %v", plan, err)
	}
	if after := rows(t, second.book); after != before {
		t.Errorf("taken over twice: %s, then %s", before, after)
	}
	if r, err := logbook.Check(context.Background(), filepath.Join(second.book.Folder(), logbook.File)); err != nil || !r.Sound() {
		t.Errorf("%+v, %v", r, err)
	}
}

// rows counts what is in a book.
func rows(t *testing.T, b *logbook.Book) string {
	t.Helper()
	r, err := logbook.Check(context.Background(), filepath.Join(b.Folder(), logbook.File))
	if err != nil {
		t.Fatal(err)
	}
	return fmt.Sprint(r.Tables)
}

func members(t *testing.T, raw []byte) map[string]string {
	t.Helper()
	z, err := zip.NewReader(bytes.NewReader(raw), int64(len(raw)))
	if err != nil {
		t.Fatal(err)
	}
	out := map[string]string{}
	for _, f := range z.File {
		r, err := f.Open()
		if err != nil {
			t.Fatal(err)
		}
		var b bytes.Buffer
		if _, err := b.ReadFrom(r); err != nil {
			t.Fatal(err)
		}
		out[f.Name] = b.String()
	}
	return out
}

// same compares all but the manifest, whose moment differs.
func same(t *testing.T, a, b map[string]string) bool {
	t.Helper()
	ok := len(a) == len(b)
	for name, was := range a {
		if name != "manifest.json" && b[name] != was {
			t.Errorf("%s differs", name)
			ok = false
		}
	}
	return ok
}

// A job sent for a second opinion comes back with what was added to it; one that went on in both places is refused, and
// nothing of its bundle is taken over.
func TestASecondOpinionComesBack(t *testing.T) {
	ctx := context.Background()
	here := opens(t, filled(t))
	open, err := here.book.Search(ctx, logbook.Wanted{Open: true}, logbook.Newest, 10)
	if err != nil || len(open) == 0 {
		t.Fatal(len(open), err)
	}
	running, err := here.book.RunningHolds(ctx)
	if err != nil {
		t.Fatal(err)
	}
	id := running[0].JobID
	there := opens(t, t.TempDir())
	sent := here.bundle(bundle.What{Of: bundle.OfJob, ID: id})
	if plan, err := there.take(sent); err != nil || plan.Jobs.New != 1 || plan.Machines.New != 1 || plan.Kit.New != 0 {
		t.Fatalf("%+v, %v", plan, err)
	}
	// What was running is not under pressure there.
	cut, err := there.book.Hold(ctx, running[0].ID)
	if err != nil || cut.State != terms.Ended || !cut.EndedAt.Before(now.Add(time.Second)) {
		t.Errorf("%s at %v, %v", cut.State, cut.EndedAt, err)
	}
	there.get("/api/bench")
	remark := func(o *opened, n string) {
		t.Helper()
		if _, err := o.Jobs.Remark(ctx, id, jobs.Remark{Write: desk.Write{ID: "opinion-" + n, By: "Ottilie", Device: "elsewhere"}, Stage: terms.CallStage, Text: "Look at the seam " + n}); err != nil {
			t.Fatal(err)
		}
	}
	remark(there, "first")
	back := there.bundle(bundle.What{Of: bundle.OfJob, ID: id})
	// Here it is still under pressure, and has gone on: each has what the other has not.
	if plan, err := here.take(back); err == nil || plan.Conflicts != 1 || len(plan.Listed) != 1 || plan.Listed[0].Is != bundle.Against {
		t.Errorf("%+v, %v", plan, err)
	}
	// A third shop that has only what was sent goes on from it.
	third := opens(t, t.TempDir())
	for i, want := range []bundle.Beside{bundle.Fresh, bundle.Grown, bundle.Here, bundle.Here} {
		plan, err := third.take([][]byte{sent, back, back, sent}[i])
		if err != nil || len(plan.Listed) != 1 || plan.Listed[0].Is != want {
			t.Errorf("%d: %+v, %v", i, plan, err)
		}
	}
	if !strings.Contains(third.get("/api/jobs/"+id), "Look at the seam first") {
		t.Error("the opinion is not on the sheet")
	}
	for _, d := range differing(there.screens(), third.screens()) {
		t.Error(d)
	}
	remark(third, "second")
	remark(there, "third")
	before := rows(t, third.book)
	if _, err := third.take(there.bundle(bundle.What{Of: bundle.OfBook})); err == nil {
		t.Error("two that went on were made one")
	}
	if rows(t, third.book) != before {
		t.Error("something of a refused bundle was taken over")
	}
}

// spoilt is a bundle with members changed, a nil taking one out; sums are made anew where the manifest is kept true.
func spoilt(t *testing.T, all map[string]string, truly bool, change map[string]*string) []byte {
	t.Helper()
	var m bundle.Manifest
	if err := json.Unmarshal([]byte(all["manifest.json"]), &m); err != nil {
		t.Fatal(err)
	}
	out := map[string]string{}
	for name, text := range all {
		out[name] = text
	}
	for name, text := range change {
		if delete(out, name); text != nil {
			out[name] = *text
		}
	}
	if _, own := change["manifest.json"]; truly && !own {
		out["manifest.json"] = manifestOf(t, m, out)
	}
	var b bytes.Buffer
	z := zip.NewWriter(&b)
	for name, text := range out {
		f, err := z.Create(name)
		if err == nil {
			_, err = f.Write([]byte(text))
		}
		if err != nil {
			t.Fatal(err)
		}
	}
	if err := z.Close(); err != nil {
		t.Fatal(err)
	}
	return b.Bytes()
}

// No bundle that somebody made to harm is taken over, and none that is merely damaged: whatever is taken over shows on
// every screen without breaking one.
func TestNoHostileBundleIsTaken(t *testing.T) {
	source := atRest(t)
	all := members(t, source.bundle(bundle.What{Of: bundle.OfBook}))
	target := opens(t, t.TempDir())
	empty := rows(t, target.book)
	var job, csv string
	for name := range all {
		if strings.HasPrefix(name, "jobs/") && strings.Contains(all[name], `"purpose"`) {
			job = name
		}
		if strings.HasPrefix(name, "traces/") {
			csv = name
		}
	}
	text := func(s string) *string { return &s }
	in := func(name, was, is string) map[string]*string {
		if !strings.Contains(all[name], was) {
			t.Fatalf("%s has no %s", name, was)
		}
		return map[string]*string{name: text(strings.Replace(all[name], was, is, 1))}
	}
	refuse := func(what string, raw []byte) {
		t.Helper()
		_, err := target.take(raw)
		var r *desk.Refusal
		if !errors.As(err, &r) || r.Kind != desk.BadInput {
			t.Errorf("%s: %v", what, err)
		}
		if got := rows(t, target.book); got != empty {
			t.Fatalf("%s left something behind", what)
		}
	}
	for what, change := range map[string]map[string]*string{
		"out of its folder": {"../../evil.db": text("x")}, "an absolute name": {"/etc/passwd": text("x")}, "a backslash": {`jobs\..\x.json`: text("{}")}, "dots": {"jobs/...json": text("{}")},
		"a program": {"jobs/x.exe": text("x")}, "a job of nobody": {"photos/of-nobody.jpg": text("x")}, "no machines": {"machines.json": nil}, "no kit": {"kit.json": nil}, "no job's trace": {csv: nil},
		"deep brackets": {job: text(strings.Repeat("[", 1_000_000))}, "a job of nothing": {job: text("{}")}, "null": {job: text("null")}, "two documents": {job: text(all[job] + all[job])}, "another field": in(job, `{"id"`, `{"admin":true,"id"`),
		"another id": in(job, `{"id":"`, `{"id":"x`), "another snapshot": in(job, `"snapshot":{`, `"snapshot":{"x":1,`), "a clock of 2099": in(job, `"at":"20`, `"at":"2099-01-01T00:00:00Z","device":"`), "a clock of 1970": in(job, `"at":"2026`, `"at":"1970`),
		"an unknown subject": in(job, `"subject":"`, `"subject":"x`), "an unknown purpose": in(job, `"purpose":"`, `"purpose":"x`), "a kit of nothing": in("kit.json", `"rings":[{`, `"rings":[],"other":[{`),
		"a reading too many": {csv: text(all[csv] + "9999999,1,,read,,9999999,\n")}, "a pressure of the sun": {csv: text(strings.Replace(all[csv], ",read,", ",read,,1,1e300 kPa\n#", 1))}, "a trace of words": {csv: text("time [s],pressure [kPa]\nx,y\n")},
	} {
		refuse(what, spoilt(t, all, true, change))
	}
	for what, manifest := range map[string]string{
		"no manifest": "", "a manifest of words": "x", "a newer format": strings.Replace(all["manifest.json"], `"format":1`, `"format":2`, 1), "a manifest that lies": strings.Replace(all["manifest.json"], `"sha256":"`, `"sha256":"0`, 1), "a kind nobody knows": strings.Replace(all["manifest.json"], `"of":"book"`, `"of":"all"`, 1),
	} {
		refuse(what, spoilt(t, all, true, map[string]*string{"manifest.json": text(manifest)}))
	}
	whole := spoilt(t, all, true, nil)
	refuse("changed without its sum", spoilt(t, all, false, in(job, `"complaint":"`, `"complaint":"x`)))
	refuse("cut short", whole[:len(whole)/2])
	refuse("no zip", []byte("PK\x03\x04"))
	refuse("a bomb", bomb(t, 200<<20))
	refuse("a bomb that hides", bomb(t, 10))
}

// Whatever is changed in a job, with true sums: it is refused, or it is taken over and breaks no screen.
func TestAChangedBundleBreaksNoScreen(t *testing.T) {
	source := opens(t, filled(t))
	ids, err := source.book.JobIDs(context.Background(), "")
	if err != nil {
		t.Fatal(err)
	}
	rnd := rand.New(rand.NewPCG(16, 1))
	taken := 0
	for i := range *mutants {
		id := ids[i%len(ids)]
		all := members(t, source.bundle(bundle.What{Of: bundle.OfJob, ID: id}))
		name := "jobs/" + id + ".json"
		changed, where := mutated(rnd, all[name])
		o := opens(t, t.TempDir())
		o.what = where
		plan, err := o.take(spoilt(t, all, true, map[string]*string{name: &changed}))
		if err == nil && plan.Taken {
			taken++
			o.screens()
		} else if r := new(desk.Refusal); !errors.As(err, &r) {
			t.Errorf("%s: %v", name, err)
		}
		o.shut()
	}
	if t.Logf("%d of %d changed bundles were sound enough to be taken over", taken, *mutants); taken < *mutants/10 || web.Panics.Load() > 0 {
		t.Errorf("%d taken over, %d panics", taken, web.Panics.Load())
	}
}

// mutated changes one value of a JSON document to another of its kind, or of another.
func mutated(rnd *rand.Rand, text string) (changed, where string) {
	var doc any
	d := json.NewDecoder(strings.NewReader(text))
	d.UseNumber()
	if err := d.Decode(&doc); err != nil {
		return text, ""
	}
	values := []any{nil, "", "x", json.Number("-1"), json.Number("0"), json.Number("1e300"), true, []any{}, map[string]any{}, "2026-05-04T10:00:00Z", strings.Repeat("long ", 50)}
	var walk func(v any, depth int) any
	walk = func(v any, depth int) any {
		switch x := v.(type) {
		case map[string]any:
			keys := []string{}
			for k := range x {
				keys = append(keys, k)
			}
			if len(keys) == 0 {
				return values[rnd.IntN(len(values))]
			}
			slices.Sort(keys)
			k := keys[rnd.IntN(len(keys))]
			where += "/" + k
			x[k] = walk(x[k], depth+1)
			return x
		case []any:
			if len(x) == 0 {
				return values[rnd.IntN(len(values))]
			}
			i := rnd.IntN(len(x))
			where += fmt.Sprint("/", i)
			x[i] = walk(x[i], depth+1)
			return x
		}
		is := values[rnd.IntN(len(values))]
		where += fmt.Sprintf(": %v is %v", v, is)
		return is
	}
	out, _ := walk(doc, 0).(map[string]any)
	snapshot, err := json.Marshal(out["snapshot"])
	if err != nil {
		return text, ""
	}
	sum := sha256.Sum256(snapshot)
	out["snapshot_hash"] = hex.EncodeToString(sum[:])
	raw, err := json.Marshal(out)
	if err != nil {
		return text, ""
	}
	return string(raw), where
}

func manifestOf(t *testing.T, m bundle.Manifest, all map[string]string) string {
	t.Helper()
	m.Members = nil
	for name, text := range all {
		if name != "manifest.json" {
			sum := sha256.Sum256([]byte(text))
			m.Members = append(m.Members, bundle.Member{Name: name, Bytes: int64(len(text)), SHA256: hex.EncodeToString(sum[:])})
		}
	}
	raw, err := json.Marshal(m)
	if err != nil {
		t.Fatal(err)
	}
	return string(raw)
}

// bomb is a zip whose one member says ten bytes of itself and unpacks to more than is taken.
func bomb(t *testing.T, says uint64) []byte {
	t.Helper()
	var packed, b bytes.Buffer
	d, err := flate.NewWriter(&packed, flate.BestSpeed)
	if err != nil {
		t.Fatal(err)
	}
	for range 200 {
		if _, err := d.Write(make([]byte, 1<<20)); err != nil {
			t.Fatal(err)
		}
	}
	z := zip.NewWriter(&b)
	f, err := z.CreateRaw(&zip.FileHeader{Name: "manifest.json", Method: zip.Deflate, CompressedSize64: uint64(packed.Len()), UncompressedSize64: says})
	if err == nil {
		_, err = f.Write(packed.Bytes())
	}
	if err := errors.Join(err, d.Close(), z.Close()); err != nil {
		t.Fatal(err)
	}
	return b.Bytes()
}
