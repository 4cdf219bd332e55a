package shop

import (
	"fmt"
	"sync"
	"testing"

	"idlehiss/core/steps"
)

// Many hands fill one table in at once, each a cell, some of them sent twice: every
// cell stands as it was sent, and the clock that one of them started.
func TestManyHandsFillOneTable(t *testing.T) {
	b := open(t)
	var wagons []string
	for n := range 12 {
		wagons = append(wagons, fmt.Sprintf("Wagon %d", n+1))
	}
	j := must[JobView](b)(b.Begin(b.ctx, StartJob{Write: b.write(), Machine: "Fruit train", Circuit: "train-brake", Things: wagons}))
	for _, st := range j.Stages {
		for _, x := range st.Ticks {
			must[JobView](b)(b.Tick(b.ctx, j.ID, Tick{Write: b.write(), Item: x.ID, On: true}))
		}
	}
	want := map[string]string{}
	var hands sync.WaitGroup
	failed := make(chan error, 100)
	send := func(in Found) {
		for range 2 { // as a page does whose answer was lost
			if _, err := b.Found(b.ctx, j.ID, "continuity", in); err != nil {
				failed <- err
			}
		}
	}
	for n := range wagons {
		for col, text := range map[string]string{"on": fmt.Sprintf("%d s", 20+n), "off": "yes"} {
			row := fmt.Sprintf("continuity-%d", n+1)
			want[row+"."+col] = text
			in := Found{Write: b.write(), Rows: []steps.EntryRow{{ID: row, Cells: map[string]string{col: text}}}}
			hands.Go(func() { send(in) })
		}
	}
	clock := Found{Write: b.write(), Clock: "start"}
	hands.Go(func() { send(clock) })
	hands.Wait()
	close(failed)
	for err := range failed {
		t.Error(err)
	}
	b.shut()
	b.open()
	s := b.step(must[JobView](b)(b.Job(b.ctx, j.ID)), "continuity")
	got := 0
	for _, r := range s.Entry.Rows {
		for col, text := range r.Cells {
			if want[r.ID+"."+col] != text {
				t.Errorf("%s.%s is %q, sent %q", r.ID, col, text, want[r.ID+"."+col])
			}
			got++
		}
	}
	if got != len(want) || s.Outcome.Verdict != steps.Good || s.Entry.Started == nil {
		t.Errorf("%d cells of %d, %s, clock %v", got, len(want), s.Outcome.Sentence, s.Entry.Started)
	}
}
