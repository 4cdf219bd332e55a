package main

import (
	"context"
	"encoding/json"
	"fmt"
	"math"
	"os"
	"path/filepath"
	"strings"
	"sync"
	"testing"
	"time"

	"idlehiss/core/judge"
	"idlehiss/core/terms"
	"idlehiss/core/trace"
	"idlehiss/desk"
	"idlehiss/holds"
	"idlehiss/jobs"
	"idlehiss/logbook"
	"idlehiss/shop"
)

type wound struct {
	mu  sync.Mutex
	now time.Time
}

func (w *wound) Now() time.Time {
	w.mu.Lock()
	defer w.mu.Unlock()
	return w.now
}

func (w *wound) set(now time.Time) {
	w.mu.Lock()
	defer w.mu.Unlock()
	w.now = now
}

func (w *wound) Speed() float64 { return 0.001 }

// kept makes a book with one needle hold that leaks, and gives the ids of its job and
// hold and what was called. The book stays open until the test closes it.
func kept(t *testing.T, folder string) (job, hold string, called judge.Report, shut func()) {
	t.Helper()
	ctx := context.Background()
	book, err := logbook.Open(ctx, folder)
	if err != nil {
		t.Fatal(err)
	}
	clock := &wound{now: time.Date(2026, 3, 2, 8, 0, 0, 0, time.UTC)}
	s, err := shop.New(ctx, book, clock, shop.Options{})
	if err != nil {
		t.Fatal(err)
	}
	n := 0
	write := func() desk.Write {
		n++
		clock.set(clock.Now().Add(1500 * time.Millisecond))
		return desk.Write{ID: fmt.Sprintf("write-%05d", n), By: "Tomas", Device: "test"}
	}
	j, err := s.Jobs.Begin(ctx, jobs.StartJob{Write: write(), Machine: "Sprayer tractor", Mark: "16"})
	if err != nil {
		t.Fatal(err)
	}
	for _, item := range []string{"cold", "still", "eyes-on"} {
		if _, err := s.Jobs.Tick(ctx, j.Of, jobs.Tick{Write: write(), Item: item, On: true}); err != nil {
			t.Fatal(err)
		}
	}
	begun, err := s.Jobs.Start(ctx, j.Of, jobs.StartHold{Write: write(), Purpose: terms.Test})
	if err != nil {
		t.Fatal(err)
	}
	event := func(kind string) {
		if _, err := s.Holds.Event(ctx, begun.Of, holds.HoldEvent{Write: write(), Kind: kind}); err != nil {
			t.Fatal(err)
		}
	}
	read := func(psi float64, how trace.How) {
		if _, err := s.Holds.Reading(ctx, begun.Of, holds.TypedReading{Write: write(), Value: new(psi), How: how}); err != nil {
			t.Fatal(err)
		}
	}
	for v := 2.0; v <= 16; v += 2 {
		event(trace.Stroke)
		read(v, trace.Read)
	}
	event(trace.Isolate)
	for v := 15.5; v > 11; v -= 0.5 {
		clock.set(clock.Now().Add(20 * time.Second))
		read(v, trace.Mark)
	}
	event(trace.Moved)
	event(trace.Release)
	s.Holds.Quiet(ctx)
	h, err := s.Holds.Hold(ctx, begun.Of)
	if err != nil || len(h.Calls) == 0 {
		t.Fatalf("no call: %s, %v", h.Sentence, err)
	}
	return j.Of, h.ID, *h.Report, func() {
		s.Close()
		if err := book.Close(); err != nil {
			t.Error(err)
		}
	}
}

// apart tells intervals that differ by more than the figures of a file's flags.
func apart(a, b *judge.Interval) bool {
	differ := func(x, y float64) bool { return math.Abs(x-y) > 1e-8*math.Abs(y) }
	return differ(a.Value, b.Value) || differ(a.Low, b.Low) || differ(a.High, b.High)
}

// One process writes to the book; another is told so, and may read. A hold leaves as a
// file on which judge says what the book says.
func TestExportAndTheOneLockOnAFolder(t *testing.T) {
	data := t.TempDir()
	job, hold, called, shut := kept(t, data)
	_, beside, _ := idlehiss("", "export", hold, "--data", data) // which only reads
	for _, args := range [][]string{{"import", "book_test.go", "--data", data}, {"serve", "--data", data, "--addr", "127.0.0.1:0"}} {
		if code, out, errs := idlehiss("", args...); code != 1 || out != "" || !strings.Contains(errs, "another idlehiss has") || !strings.Contains(errs, "stop it first") {
			t.Errorf("%v beside a running shop: exit %d, %q, %q", args, code, out, errs)
		}
	}
	shut()
	code, csv, errs := idlehiss("", "export", hold, "--data", data)
	if code != 0 || csv != beside {
		t.Fatalf("%s; beside the running shop it was %q", errs, beside)
	}
	for _, words := range []string{"# Sprayer tractor, test", "--division 3.447378647kPa", "pressure [psi]", ",mark", "moved"} {
		if !strings.Contains(csv, words) {
			t.Errorf("the exported file lacks %q", words)
		}
	}
	code, out, errs := idlehiss(csv, "judge", "-", "--json")
	if code != 0 {
		t.Fatal(errs)
	}
	var again judge.Report
	if err := json.Unmarshal([]byte(out), &again); err != nil {
		t.Fatal(err)
	}
	if again.Call != called.Call || again.Call != judge.Leaking || again.Called == nil || *again.Called != judge.Leaking || again.Shape != called.Shape || apart(again.RateKPaPerMin, called.RateKPaPerMin) || apart(again.FlowCm3PerMin, called.FlowCm3PerMin) {
		t.Errorf("the file is judged %s, %s, %+v; the book says %s, %s, %+v", again.Call, again.Shape, *again.RateKPaPerMin, called.Call, called.Shape, *called.RateKPaPerMin)
	}
	// By its job, as a document, and to a file, it is the same.
	code, doc, errs := idlehiss("", "export", job, "--data", data, "--json")
	if code != 0 {
		t.Fatal(errs)
	}
	conforms(t, "export", doc)
	var e exported
	if err := json.Unmarshal([]byte(doc), &e); err != nil || e.CSV != csv || e.Hold != hold {
		t.Errorf("the last test of the job is %s, %d readings: %v", e.Hold, e.Readings, err)
	}
	file := filepath.Join(t.TempDir(), "hold.csv")
	if code, _, errs := idlehiss("", "export", hold, "--data", data, "--out", file); code != 0 {
		t.Fatal(errs)
	}
	if raw, err := os.ReadFile(file); err != nil || string(raw) != csv {
		t.Errorf("the file differs: %v", err)
	}
	if code, _, errs := idlehiss("", "export", "nothing", "--data", data); code != 2 || !strings.Contains(errs, "nothing") {
		t.Errorf("an unknown hold: exit %d, %q", code, errs)
	}
}

// --fresh empties a demo folder, one whose making was cut short too, and nothing else.
func TestOnlyADemoFolderIsMadeAnew(t *testing.T) {
	other := t.TempDir()
	if err := os.WriteFile(filepath.Join(other, "accounts.txt"), []byte("mine"), 0o644); err != nil {
		t.Fatal(err)
	}
	shop := t.TempDir()
	_, _, _, shut := kept(t, shop)
	shut()
	for folder, says := range map[string]string{other: "accounts.txt", shop: "is not a demo shop"} {
		if err := clear(folder); err == nil || !strings.Contains(err.Error(), says) {
			t.Errorf("%s: %v", says, err)
		}
	}
	if _, err := os.Stat(filepath.Join(other, "accounts.txt")); err != nil {
		t.Error(err)
	}
	if err := os.WriteFile(filepath.Join(shop, "demo"), []byte(storyBegun), 0o644); err != nil {
		t.Fatal(err)
	}
	if err := clear(shop); err != nil {
		t.Error(err)
	}
	if _, err := os.Stat(shop); !os.IsNotExist(err) {
		t.Errorf("a half-made demo folder is still there: %v", err)
	}
	if err := clear(filepath.Join(shop, "never-was")); err != nil {
		t.Error(err)
	}
	for _, args := range [][]string{{"demo", "--speed", "0"}, {"serve", "--speed", "7201"}} {
		if code, _, errs := idlehiss("", args...); code != 2 || !strings.Contains(errs, "1 to 7200") {
			t.Errorf("%v: exit %d, %q", args, code, errs)
		}
	}
}
