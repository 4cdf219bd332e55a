package demo

import (
	"context"
	"testing"
	"time"

	"idlehiss/logbook"
)

func TestTheStoryPlaysThrough(t *testing.T) {
	ctx := context.Background()
	book, err := logbook.Open(ctx, t.TempDir())
	if err != nil {
		t.Fatal(err)
	}
	defer book.Close()
	now := time.Date(2026, 5, 4, 14, 30, 0, 0, time.UTC)
	if err := Fill(ctx, book, &past{now}); err != nil {
		t.Fatal(err)
	}
	running, err := book.RunningHolds(ctx)
	if err != nil || len(running) != 2 {
		t.Fatalf("%d holds are running: %v", len(running), err)
	}
	for _, h := range running {
		if h.State != "holding" || !h.Simulated || now.Sub(*h.IsolatedAt) > 3*time.Minute {
			t.Errorf("%s since %v", h.State, h.IsolatedAt)
		}
	}
	jobs, err := book.Search(ctx, "", 20)
	if err != nil || len(jobs) != 6 {
		t.Fatalf("%d jobs: %v", len(jobs), err)
	}
	want := map[string]string{"wet carpet": "leaking", "loses coolant": "leaking", "routine": "tight", "after a repair": "tight"}
	for _, j := range jobs {
		if !j.Simulated {
			t.Errorf("%s is not marked as simulated", j.Machine)
		}
		if j.State == "closed" && j.Call != want[j.Complaint] {
			t.Errorf("%s, %s: called %q, want %q", j.Machine, j.Complaint, j.Call, want[j.Complaint])
		}
	}
}
