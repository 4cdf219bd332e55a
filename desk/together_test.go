package desk

import (
	"context"
	"errors"
	"fmt"
	"runtime"
	"sync"
	"testing"
	"time"

	"idlehiss/logbook"
)

// noon is a clock that stands still.
type noon struct{}

func (noon) Now() time.Time { return time.Date(2026, 3, 2, 12, 0, 0, 0, time.UTC) }
func (noon) Speed() float64 { return 1 }

func atDesk(t *testing.T) *Desk {
	t.Helper()
	book, err := logbook.Open(context.Background(), t.TempDir())
	if err != nil {
		t.Fatal(err)
	}
	t.Cleanup(func() { book.Close() })
	return &Desk{Book: book, Clock: noon{}}
}

// What many write at the same moment lands together, each by itself or not at all, and each once: a refusal, a fault and
// a second sending among them take nothing with them.
func TestWritesOfTheSameMomentLandByThemselves(t *testing.T) {
	ctx, d := context.Background(), atDesk(t)
	const many = 60
	put := func(n int) (Receipt, error) {
		w := Write{ID: fmt.Sprintf("write-%04d", n), By: "Maren", Device: "bench"}
		r, _, err := Put(ctx, d, w, n, func(tx *logbook.Tx, _ logbook.Stamp) (Receipt, error) {
			if err := tx.SetSetting(fmt.Sprint("set ", n), "x"); err != nil {
				return Receipt{}, err
			}
			switch n % 5 {
			case 1:
				return Receipt{}, Refuse("text", "that is no figure")
			case 2:
				panic("a fault of the program")
			}
			return Received(w, fmt.Sprint(n)), nil
		})
		return r, err
	}
	var all sync.WaitGroup
	var errs [2 * many]error
	// The first is held up until the others wait, so that they go together.
	hold, held := make(chan struct{}), make(chan struct{})
	all.Go(func() {
		if err := d.Take(ctx, func(*logbook.Tx) error { close(held); <-hold; return nil }); err != nil {
			t.Error(err)
		}
	})
	<-held
	for n := range many {
		for again := range 2 {
			all.Go(func() { _, errs[2*n+again] = put(n) })
		}
	}
	for d.waiting() < 2*many {
		runtime.Gosched()
	}
	close(hold)
	all.Wait()
	for n := range many {
		kept, err := d.Book.Setting(ctx, fmt.Sprint("set ", n))
		if err != nil {
			t.Fatal(err)
		}
		lands := n%5 != 1 && n%5 != 2
		for _, err := range errs[2*n : 2*n+2] {
			var r *Refusal
			if (err == nil) != lands || n%5 == 1 && !errors.As(err, &r) {
				t.Errorf("%d: %v", n, err)
			}
		}
		if (kept == "x") != lands {
			t.Errorf("%d: kept %q", n, kept)
		}
		if has, err := d.Book.Has(ctx, fmt.Sprintf("write-%04d", n)); err != nil || has != lands {
			t.Errorf("%d: in the book %v, %v", n, has, err)
		}
	}
}

// Who leads a commit is answered after it, however many write meanwhile.
func TestWhoLeadsIsNotKeptByThoseWhoFollow(t *testing.T) {
	ctx, d := context.Background(), atDesk(t)
	var follower sync.WaitGroup
	answered := make(chan struct{})
	err := d.Take(ctx, func(*logbook.Tx) error {
		follower.Go(func() {
			if err := d.Take(ctx, func(*logbook.Tx) error {
				select {
				case <-answered:
				case <-time.After(10 * time.Second):
					t.Error("the first is still waiting while the second is written")
				}
				return nil
			}); err != nil {
				t.Error(err)
			}
		})
		for d.waiting() == 0 {
			runtime.Gosched()
		}
		return nil
	})
	close(answered)
	if err != nil {
		t.Error(err)
	}
	follower.Wait()
}

// waiting is how many have something to write that nobody writes yet.
func (d *Desk) waiting() int {
	d.pen.mu.Lock()
	defer d.pen.mu.Unlock()
	return len(d.pen.waiting)
}
