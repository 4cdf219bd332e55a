package shop

import (
	"fmt"
	"reflect"
	"sync"
	"testing"
	"time"

	"idlehiss/core/steps"
	"idlehiss/core/terms"
	"idlehiss/core/trace"
	"idlehiss/desk"
)

// Many hands fill one table in at once, each a cell, some of them sent twice: every
// cell stands as it was sent, and the clock that one of them started. A hold that goes
// on beside it takes its entries all the while: neither waits for the other for ever.
func TestManyHandsFillOneTable(t *testing.T) {
	b := open(t)
	var wagons []string
	for n := range 12 {
		wagons = append(wagons, fmt.Sprintf("Wagon %d", n+1))
	}
	j := b.train(wagons...)
	b.tickAll(j, true)
	beside := b.held(b.job("16").ID)
	want := map[string]string{}
	var hands sync.WaitGroup
	failed := make(chan error, 200)
	send := func(in Found) {
		for range 2 { // as a page does whose answer was lost
			if _, err := b.Found(j.ID, "continuity", in); err != nil {
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
	clock := Found{Write: b.write(), Clock: steps.StartClock}
	hands.Go(func() { send(clock) })
	for range 40 {
		in := HoldEvent{Write: b.write(), Kind: trace.Moved}
		hands.Go(func() {
			if _, err := b.Event(beside.ID, in); err != nil {
				failed <- err
			}
		})
	}
	hands.Wait()
	close(failed)
	for err := range failed {
		t.Error(err)
	}
	b.shut()
	b.open()
	s := b.step(must[JobView](b)(b.Job(j.ID)), "continuity")
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

// What stands in the book is answered when it is sent again, though its hold has
// ended, its step waits anew and its job is closed; nothing is taken down twice.
func TestWhatIsSentAgainLaterIsAnswered(t *testing.T) {
	b := open(t)
	var sent []func() error
	keep := func(send func() error) {
		t.Helper()
		if err := send(); err != nil {
			t.Fatal(err)
		}
		sent = append(sent, send)
		b.clock.set(b.clock.Now().Add(2 * time.Second))
	}
	j := b.job("16")
	begun := StartHold{Write: b.write(), Purpose: terms.Test}
	keep(func() error { _, err := b.Start(j.ID, begun); return err })
	event := func(kind string) {
		in := HoldEvent{Write: b.write(), Kind: kind}
		keep(func() error { _, err := b.Event(begun.ID, in); return err })
	}
	read := func(v float64) {
		in := TypedReading{Write: b.write(), Value: new(v), How: "read"}
		keep(func() error { _, err := b.Reading(begun.ID, in); return err })
	}
	event(trace.Stroke)
	read(8)
	event(trace.Stroke)
	read(16)
	read(15)
	struck := Undo{Write: b.write()}
	keep(func() error { _, err := b.hold(b.Holds.Undo(b.ctx, begun.ID, struck)); return err })
	event(trace.Isolate)
	by := Leave{Write: b.write(), LaidBy: true}
	keep(func() error { _, err := b.Holds.Leave(b.ctx, begun.ID, by); return err })
	read(16)
	event(trace.Release)
	must[JobView](b)(b.sheet(b.Jobs.End(b.ctx, j.ID, CloseJob{Write: b.write(), Abandon: true})))

	train := b.train("Wagon 1")
	b.tickAll(train, true)
	found := Found{Write: b.write(), Rows: []steps.EntryRow{{ID: "continuity-1", Cells: map[string]string{"on": "20 s"}}}}
	keep(func() error { _, err := b.Found(train.ID, "continuity", found); return err })
	b.tickAll(train, false)
	found2 := found
	found2.Write = b.write()
	_, err := b.Found(train.ID, "continuity", found2)
	refused(t, "a new finding at a step that waits", err, desk.Conflict, "", "make safe first", "is not ticked")

	before := must[HoldView](b)(b.Hold(begun.ID))
	for i, again := range sent {
		if err := again(); err != nil {
			t.Errorf("write %d sent again: %v", i+1, err)
		}
	}
	after := must[HoldView](b)(b.Hold(begun.ID))
	if !reflect.DeepEqual(before, after) {
		t.Errorf("sent again it changed:\n%+v\n%+v", before, after)
	}
	_, err = b.Reading(begun.ID, TypedReading{Write: Write{ID: by.ID, By: "Maren", Device: "bench"}, Value: new(3.0), How: "read"})
	refused(t, "another content under an id that stands", err, desk.Conflict, "", "make a new id")
}
