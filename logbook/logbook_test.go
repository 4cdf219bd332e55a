package logbook

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"io/fs"
	"os"
	"path/filepath"
	"strings"
	"testing"
	"testing/fstest"
	"time"

	"idlehiss/core/terms"
)

var start = time.Date(2026, 5, 4, 8, 0, 0, 0, time.UTC)

func open(t *testing.T, folder string) *Book {
	t.Helper()
	b, err := Open(context.Background(), folder)
	if err != nil {
		t.Fatal(err)
	}
	t.Cleanup(func() { b.Close() })
	opened = append(opened, b)
	return b
}

// opened is what this test binary has open, so that a test can let go early.
var opened []*Book

func closeAll(t *testing.T) {
	t.Helper()
	for _, b := range opened {
		b.Close()
	}
	opened = nil
}

func stamp(id string) Stamp { return Stamp{ID: id, At: start, By: "Maren", Device: "bench"} }

// filled makes a job with a running hold.
func filled(t *testing.T, b *Book) {
	t.Helper()
	err := b.Batch(context.Background(), func(tx *Tx) error {
		m, err := tx.MachineNamed(stamp("m1"), "Bin carrier 4")
		if err != nil {
			return err
		}
		return errors.Join(
			tx.AddJob(Job{Stamp: stamp("j1"), MachineID: m.ID, Complaint: "loses coolant", Snapshot: json.RawMessage(`{}`)}),
			tx.Index("j1", "Bin carrier 4", "loses coolant", "radiator"),
			tx.AddHold(Hold{Stamp: stamp("h1"), JobID: "j1", Purpose: "test", Chamber: "loop", Rig: json.RawMessage(`{}`), State: "pumping"}))
	})
	if err != nil {
		t.Fatal(err)
	}
}

func TestTheSameWriteTwiceIsAnsweredTheSame(t *testing.T) {
	b := open(t, t.TempDir())
	runs := 0
	write := func(content string) (json.RawMessage, error) {
		return b.Write(context.Background(), stamp("w1"), []byte(content), func(tx *Tx) (any, error) {
			runs++
			return map[string]int{"run": runs}, nil
		})
	}
	first, err := write("a")
	if err != nil {
		t.Fatal(err)
	}
	second, err := write("a")
	if err != nil || string(first) != string(second) || runs != 1 {
		t.Errorf("%s, then %s; ran %d times; %v", first, second, runs, err)
	}
	if _, err := write("b"); !errors.Is(err, ErrChanged) || runs != 1 {
		t.Errorf("another content under the same id: %v", err)
	}
}

func TestAFailedWriteLeavesNothing(t *testing.T) {
	b := open(t, t.TempDir())
	filled(t, b)
	ctx := context.Background()
	_, err := b.Write(ctx, stamp("w2"), nil, func(tx *Tx) (any, error) {
		if err := tx.AddReadings(Reading{HoldID: "h1", Gauge: 1, Seq: 1, At: start, Unit: "psi", How: "read"}); err != nil {
			return nil, err
		}
		return nil, tx.AddReadings(Reading{HoldID: "h1", Gauge: 1, Seq: 1, At: start, Unit: "psi", How: "read"})
	})
	if err == nil {
		t.Fatal("the same key was taken twice")
	}
	if rs := read(t, b, "h1"); len(rs) != 0 {
		t.Errorf("%d readings of a failed write", len(rs))
	}
}

func read(t *testing.T, b *Book, hold string) (out []Reading) {
	t.Helper()
	for r, err := range b.Readings(context.Background(), hold) {
		if err != nil {
			t.Fatal(err)
		}
		out = append(out, r)
	}
	return out
}

func TestEverythingComesBackAfterReopening(t *testing.T) {
	folder := t.TempDir()
	b := open(t, folder)
	filled(t, b)
	ctx := context.Background()
	later := start.Add(90*time.Second + 123456*time.Microsecond)
	pa := 55000.0
	err := b.Batch(ctx, func(tx *Tx) error {
		h, err := b.hold(tx, "h1")
		if err != nil {
			return err
		}
		h.State, h.IsolatedAt = "holding", &later
		return errors.Join(tx.SaveHold(h),
			tx.AddReadings(Reading{HoldID: "h1", Gauge: 1, Seq: 1, At: later, Value: 15.875, Unit: "psi", How: "mark", By: "Maren"}, Reading{HoldID: "h1", Gauge: 1, Seq: 2, At: later, Value: 3, Unit: "psi", How: "read"}),
			tx.Strike("h1", 1, 2, "wrong press"),
			tx.AddEvent(Event{Stamp: stamp("e1"), HoldID: "h1", Kind: "first hiss", PressurePa: &pa}),
			tx.AddGap(Gap{"h1", start, later, "the server was off"}),
			tx.AddCall(Call{Stamp: stamp("c1"), HoldID: "h1", Judge: "x", Call: "tight", LastSeq: 1, Report: json.RawMessage(`{"call":"tight"}`)}),
			tx.AddFact(Fact{Stamp: stamp("f1"), JobID: "j1", Subject: "mark", Stage: terms.KnowLimit, Sentence: "Cap says 16.", Source: "mark", Value: json.RawMessage(`16`)}),
			tx.AddFact(Fact{Stamp: stamp("f2"), JobID: "j1", Subject: "mark", Stage: terms.KnowLimit, Sentence: "Cap says 1.1.", Source: "mark", Value: json.RawMessage(`1.1`)}),
			tx.AddObservation(Observation{Stamp: stamp("o1"), JobID: "j1", Part: "radiator", Method: "soap", Seen: true, Class: "fault", PressurePa: &pa}))
	})
	if err != nil {
		t.Fatal(err)
	}
	b.Close()
	b = open(t, folder)
	rs := read(t, b, "h1")
	if len(rs) != 2 || !rs[0].At.Equal(later) || rs[0].Value != 15.875 || rs[0].How != "mark" || rs[1].Struck != "wrong press" {
		t.Errorf("readings %+v", rs)
	}
	hs, _ := b.RunningHolds(ctx)
	if len(hs) != 1 || hs[0].State != "holding" || !hs[0].IsolatedAt.Equal(later) {
		t.Errorf("holds %+v", hs)
	}
	fs, _ := b.Facts(ctx, "j1")
	if len(fs) != 2 || fs[0].SupersededBy != "f2" || fs[1].SupersededBy != "" {
		t.Errorf("facts %+v", fs)
	}
	es, _ := b.Events(ctx, "h1")
	cs, _ := b.Calls(ctx, "h1")
	gs, _ := b.Gaps(ctx, "h1")
	os_, _ := b.Observations(ctx, "j1")
	if len(es) != 1 || *es[0].PressurePa != pa || len(cs) != 1 || cs[0].LastSeq != 1 || len(gs) != 1 || len(os_) != 1 || os_[0].Class != "fault" {
		t.Errorf("%+v %+v %+v %+v", es, cs, gs, os_)
	}
}

// hold reads within a batch, where the single writer already holds the lock.
func (b *Book) hold(tx *Tx, id string) (Hold, error) { return b.Hold(tx.ctx, id) }

func TestSearchTakesPlainWords(t *testing.T) {
	b := open(t, t.TempDir())
	filled(t, b)
	for words, want := range map[string]int{"": 1, "carrier": 1, "RADIA": 1, "loses bin": 1, "press": 0, `"; DROP TABLE job`: 0, "*": 0} {
		jobs, err := b.Search(context.Background(), Wanted{Words: words}, Newest, 10)
		if err != nil || len(jobs) != want {
			t.Errorf("%q found %d, want %d: %v", words, len(jobs), want, err)
		}
	}
	if ms, err := b.Machines(context.Background(), "carr", 5); err != nil || len(ms) != 1 || ms[0].Name != "Bin carrier 4" {
		t.Errorf("%+v %v", ms, err)
	}
}

func TestASecondProcessIsRefused(t *testing.T) {
	folder := t.TempDir()
	open(t, folder)
	if _, err := Open(context.Background(), folder); !errors.Is(err, ErrInUse) || !strings.Contains(err.Error(), "--data") {
		t.Errorf("%v", err)
	}
}

func TestTheDatabaseIsCopiedBeforeAMigration(t *testing.T) {
	folder := t.TempDir()
	filled(t, open(t, folder))
	ctx := context.Background()
	newer := fstest.MapFS{"99999_later.sql": {Data: []byte("-- +goose Up\nUPDATE job SET words = ''; ALTER TABLE job ADD COLUMN later TEXT;\n")}}
	for _, file := range steps(t) {
		newer[filepath.Base(file.name)] = &fstest.MapFile{Data: file.raw}
	}
	if _, err := openWith(ctx, folder, newer, carryFits); !errors.Is(err, ErrInUse) {
		t.Fatalf("migrated under a running process: %v", err)
	}
	closeAll(t)
	b, err := openWith(ctx, folder, newer, carryFits)
	if err != nil {
		t.Fatal(err)
	}
	b.Close()
	raw, err := os.ReadFile(filepath.Join(folder, fmt.Sprintf("before-migration-from-%d.db", latest)))
	if err != nil || !strings.HasPrefix(string(raw), "SQLite format 3") {
		t.Fatal(err)
	}
	aside := t.TempDir()
	if err := os.WriteFile(filepath.Join(aside, File), raw, 0o644); err != nil {
		t.Fatal(err)
	}
	if j, err := open(t, aside).Job(ctx, "j1"); err != nil || j.Machine != "Bin carrier 4" {
		t.Errorf("%+v %v", j, err)
	}
}

// latest is the version of the last migration that ships.
const latest = 17

type step struct {
	name string
	raw  []byte
}

// steps are the migrations that ship, in their order.
func steps(t *testing.T) []step {
	names, err := fs.Glob(migrations, "migrations/*.sql")
	if err != nil {
		t.Fatal(err)
	}
	var out []step
	for _, name := range names {
		raw, err := fs.ReadFile(migrations, name)
		if err != nil {
			t.Fatal(err)
		}
		out = append(out, step{name, raw})
	}
	return out
}

// A shop of the first days keeps its kit and may then add what it could not.
func TestKitIsCarriedOver(t *testing.T) {
	folder := t.TempDir()
	ctx := context.Background()
	old, err := openWith(ctx, folder, fstest.MapFS{"00001_first.sql": {Data: steps(t)[0].raw}})
	if err != nil {
		t.Fatal(err)
	}
	add := func(b *Book, id string, kind terms.KitKind) error {
		return b.Batch(ctx, func(tx *Tx) error {
			return tx.AddKit(Kit{Stamp: Stamp{ID: id}, Kind: kind, Body: []byte("{}")})
		})
	}
	then := func(id string, kind terms.KitKind) error { // as that program wrote it
		return old.Batch(ctx, func(tx *Tx) error {
			return tx.exec("INSERT INTO kit(id, at, by, device, kind, body) VALUES (?, ?, '', '', ?, '{}')", id, micro(time.Time{}), kind)
		})
	}
	if err := errors.Join(then("g1", "gauge"), then("p1", "pump")); err != nil {
		t.Fatal(err)
	}
	if then("a1", "adapter") == nil {
		t.Fatal("the first days knew no adapters")
	}
	if err := old.Close(); err != nil {
		t.Fatal(err)
	}
	b := open(t, folder)
	if err := add(b, "a1", "adapter"); err != nil {
		t.Error(err)
	}
	note := KitNote{Stamp: Stamp{ID: "n1"}, KitID: "g1", Kind: "service", Sentence: "New glass.", Value: []byte("{}")}
	if err := b.Batch(ctx, func(tx *Tx) error { return tx.AddKitNote(note) }); err != nil {
		t.Error(err)
	}
	all, err := b.Kit(ctx, "")
	notes, err2 := b.KitNotes(ctx, "")
	if len(all) != 3 || all[0].ID != "g1" || len(notes) != 1 || notes[0].Sentence != "New glass." {
		t.Errorf("%v %v %v %v", all, err, notes, err2)
	}
}

func TestADeviceIsKnownUntilItIsSignedOut(t *testing.T) {
	b := open(t, t.TempDir())
	ctx := context.Background()
	at := time.Date(2026, 3, 2, 8, 0, 0, 0, time.UTC)
	d := Device{ID: "d1", Name: "Ilse's phone", Role: terms.Hand, Since: at, Seen: at}
	if err := b.Batch(ctx, func(tx *Tx) error { return tx.AddDevice(d, []byte("hash")) }); err != nil {
		t.Fatal(err)
	}
	if got, err := b.DeviceOf(ctx, []byte("hash")); err != nil || got.Name != d.Name {
		t.Errorf("%v %v", got, err)
	}
	if err := b.Batch(ctx, func(tx *Tx) error { return tx.SignOut("d1", at.Add(time.Hour)) }); err != nil {
		t.Fatal(err)
	}
	if _, err := b.DeviceOf(ctx, []byte("hash")); !errors.Is(err, ErrNotFound) {
		t.Errorf("signed out and let in: %v", err)
	}
	if err := b.Batch(ctx, func(tx *Tx) error { return tx.SignOut("d1", at) }); !errors.Is(err, ErrNotFound) {
		t.Errorf("signed out twice: %v", err)
	}
}

func TestAFolderThatIsNoLogbookIsLeftAlone(t *testing.T) {
	folder := t.TempDir()
	if err := os.WriteFile(filepath.Join(folder, File), []byte("this is somebody's shopping list, long enough to look like a file"), 0o644); err != nil {
		t.Fatal(err)
	}
	if _, err := Open(context.Background(), folder); err == nil || !strings.Contains(err.Error(), "not a logbook") {
		t.Errorf("%v", err)
	}
}
