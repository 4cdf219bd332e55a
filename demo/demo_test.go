package demo

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"math"
	"os"
	"sync"
	"testing"
	"time"

	"idlehiss/core/circuit"
	"idlehiss/core/quantity"
	"idlehiss/logbook"
)

// now is when the story is told.
var now = time.Date(2026, 5, 4, 14, 30, 0, 0, time.UTC)

// fill tells the story into a folder.
func fill(folder string) error {
	book, err := logbook.Open(context.Background(), folder)
	if err != nil {
		return err
	}
	return errors.Join(Fill(context.Background(), book, &past{now: now}), book.Close())
}

// filled is the folder of a shop in which nobody but the story has written. The story is
// told once for all tests.
func filled(t *testing.T) string {
	t.Helper()
	if err := once(); err != nil {
		t.Fatal(err)
	}
	folder := t.TempDir()
	if err := os.CopyFS(folder, os.DirFS(told)); err != nil {
		t.Fatal(err)
	}
	return folder
}

var (
	told string
	once = sync.OnceValue(func() error { return fill(told) })
)

func TestMain(m *testing.M) { os.Exit(testMain(m)) }

func testMain(m *testing.M) int {
	var err error
	if told, err = os.MkdirTemp("", "idlehiss-demo-"); err != nil {
		fmt.Fprintln(os.Stderr, err)
		return 1
	}
	defer os.RemoveAll(told)
	return m.Run()
}

func TestTheStoryPlaysThrough(t *testing.T) {
	ctx := context.Background()
	book, err := logbook.Open(ctx, filled(t))
	if err != nil {
		t.Fatal(err)
	}
	defer book.Close()
	running, err := book.RunningHolds(ctx)
	if err != nil || len(running) != 2 {
		t.Fatalf("%d holds are running: %v", len(running), err)
	}
	for _, h := range running {
		if h.State != "holding" || !h.Simulated || now.Sub(*h.IsolatedAt) > 3*time.Minute {
			t.Errorf("%s since %v", h.State, h.IsolatedAt)
		}
	}
	jobs, err := book.Search(ctx, logbook.Wanted{}, logbook.Newest, 40)
	if err != nil || len(jobs) != 19 {
		t.Fatalf("%d jobs: %v", len(jobs), err)
	}
	// The crankcase that ran lean was mended and is right when it is held again.
	want := map[string]string{"wet carpet": "leaking", "drips on the shed floor overnight": "leaking", "loses coolant": "leaking", "routine": "tight", "after a repair": "tight",
		"runs lean": "right", "floods at idle": "right", "overheats": "right", "after a knock": "right", "down on power": "leaking", "overheated": "right",
		"frozen": "leaking", "one corner hangs": "leaking", "yearly check": "right", "before running": "leaking"}
	families := map[string]bool{}
	for _, j := range jobs {
		var sn struct{ Circuit struct{ Family string } }
		raw, err := book.Snapshot(ctx, j.ID)
		if err := errors.Join(err, json.Unmarshal(raw, &sn)); err != nil {
			t.Fatal(err)
		}
		families[sn.Circuit.Family] = true
		if held := sn.Circuit.Family; !j.Simulated && held != "cap" && held != "intake" && held != "hydraulic" && held != "accumulator" {
			t.Errorf("%s is not marked as simulated", j.Machine)
		}
		holds, err := book.HoldsOf(ctx, j.ID)
		if err != nil {
			t.Fatal(err)
		}
		for _, h := range holds { // nobody in the story pumps past a limit
			var rig struct {
				Limit struct {
					Pa        float64 `json:"pa"`
					CeilingPa float64 `json:"ceiling_pa"`
				}
			}
			if err := json.Unmarshal(h.Rig, &rig); err != nil {
				t.Fatal(err)
			}
			for r, err := range book.Readings(ctx, h.ID) {
				if err != nil {
					t.Fatal(err)
				}
				pa := quantity.MustNamed(r.Unit, quantity.Pressure).SI(r.Value)
				if math.Abs(pa) > math.Abs(rig.Limit.CeilingPa)*1.005 {
					t.Errorf("%s, %s: %.1f kPa, past %.1f", j.Machine, h.Purpose, pa/1e3, rig.Limit.CeilingPa/1e3)
					break
				}
			}
		}
		if j.State == "closed" && j.Call != want[j.Complaint] {
			t.Errorf("%s, %s: called %q, want %q", j.Machine, j.Complaint, j.Call, want[j.Complaint])
		}
	}
	if len(families) != len(circuit.Families) {
		t.Errorf("the demo shop has jobs of %d families of %d: %v", len(families), len(circuit.Families), families)
	}
}
