package shop

import (
	"context"
	"fmt"
	"log/slog"
	"path/filepath"
	"sync"
	"time"

	"idlehiss/backups"
	"idlehiss/desk"
	"idlehiss/logbook"
)

// KeepView is whether what is entered is kept, and what copies there are.
type KeepView struct {
	Stuck   bool       `json:"stuck"` // nothing is being kept just now
	Since   *time.Time `json:"since"`
	Why     string     `json:"why"`
	Folder  string     `json:"folder"`  // of the backups that are made by themselves; empty: none are
	Keep    int        `json:"keep"`    // so many stay
	Backups int        `json:"backups"` // so many there are
	Last    *time.Time `json:"last"`    // when the last good one was made
	Late    bool       `json:"late"`    // it is older than two days, or there is none of a shop that is older
	Failed  string     `json:"failed"`  // why the last try made none; empty: it did
}

// When backups are made by themselves: at night, or as soon as the computer is on again.
const (
	nightFrom    = 2 // o'clock, of the computer
	nightTo      = 5
	backupAge    = 20 * time.Hour // at night one that is younger will do
	backupOldest = 26 * time.Hour // by day too one is made where the last is older
	backupLate   = 48 * time.Hour
	nightLook    = 5 * time.Minute
	retryEvery   = 2 * time.Second
)

// Keeping makes backups and watches whether the disk takes what is written.
type Keeping struct {
	desk   *desk.Desk
	folder string
	keep   int
	begun  time.Time

	mu     sync.Mutex // guards failed
	failed string
	making sync.Mutex // one backup at a time

	// of the goroutine that watches
	was   bool
	tried time.Time
	night time.Time
}

// Backups is where backups are made by themselves, and how many of them stay.
type Backups struct {
	Folder string // empty: in the book's own folder
	Keep   int    // none are made for 0
}

func newKeeping(d *desk.Desk, o Backups) *Keeping {
	k := &Keeping{desk: d, keep: o.Keep, begun: time.Now()}
	if o.Keep > 0 {
		if k.folder = o.Folder; k.folder == "" {
			k.folder = filepath.Join(d.Book.Folder(), backups.Folder)
		}
	}
	return k
}

// Kept is whether what is entered is kept, and what copies there are.
func (k *Keeping) Kept() (KeepView, error) {
	v := KeepView{Folder: k.folder, Keep: k.keep}
	if st, stuck := k.desk.Book.Stuck(); stuck {
		since := st.Since.UTC()
		v.Stuck, v.Since, v.Why = true, &since, logbook.Plain(st.Why)
	}
	k.mu.Lock()
	v.Failed = k.failed
	k.mu.Unlock()
	if k.folder == "" {
		return v, nil
	}
	all, err := backups.In(k.folder)
	if err != nil {
		v.Failed = fmt.Sprintf("the folder of the backups cannot be read: %s", logbook.Plain(err))
		return v, nil
	}
	v.Backups = len(all)
	since := k.begun
	if len(all) > 0 {
		at := all[len(all)-1].At.UTC()
		v.Last, since = &at, at
	}
	v.Late = time.Since(since) > backupLate
	return v, nil
}

// Backup makes one now.
func (k *Keeping) Backup(ctx context.Context) (KeepView, error) {
	if k.folder == "" {
		return KeepView{}, desk.Conflicts("this shop was started without backups: --keep says how many stay")
	}
	if err := k.backup(ctx, time.Now()); err != nil {
		return KeepView{}, desk.Conflicts("no backup was made: %s", k.why())
	}
	return k.Kept()
}

func (k *Keeping) why() string {
	k.mu.Lock()
	defer k.mu.Unlock()
	return k.failed
}

func (k *Keeping) backup(ctx context.Context, at time.Time) error {
	k.making.Lock()
	err := k.desk.Book.BackupInto(ctx, k.folder, at, k.keep)
	k.making.Unlock()
	says := ""
	if err != nil {
		if says = logbook.Plain(err); says == "" {
			says = "the folder or the book could not be read or written"
		}
		slog.Error("no backup was made", "folder", k.folder, "error", err)
	}
	k.mu.Lock()
	k.failed = says
	k.mu.Unlock()
	k.tell()
	return err
}

// due reports whether a backup is to be made by itself at a moment of the computer's clock, the last one being of then;
// the zero time where there is none.
func due(now, last time.Time) bool {
	age := now.Sub(last)
	hour := now.Hour()
	return age > backupOldest || age > backupAge && hour >= nightFrom && hour < nightTo
}

// nightly makes a backup when it is time for one.
func (k *Keeping) nightly(ctx context.Context) {
	if now := time.Now(); k.folder != "" && now.Sub(k.night) >= nightLook {
		k.night = now
		var last time.Time
		if all, err := backups.In(k.folder); err == nil && len(all) > 0 {
			last = all[len(all)-1].At
		}
		if due(now, last) {
			_ = k.backup(ctx, now) // it says itself why not
		}
	}
}

// watch tells the pages and the log when nothing is being kept, and tries until it is again.
func (k *Keeping) watch(ctx context.Context) {
	st, stuck := k.desk.Book.Stuck()
	if stuck && time.Since(k.tried) >= retryEvery {
		k.tried = time.Now()
		if k.desk.Book.Retry(ctx) == nil {
			stuck = false
		}
	}
	if stuck == k.was {
		return
	}
	k.was = stuck
	if stuck {
		slog.Error("NOTHING IS BEING KEPT. What is on the pages can be read; whatever is entered is refused, and gauges wait", "why", logbook.Plain(st.Why), "error", st.Why)
	} else {
		slog.Info("What is entered is kept again")
	}
	k.tell()
}

func (k *Keeping) tell() {
	if v, err := k.Kept(); err == nil {
		k.desk.Tell(desk.KeepNews, v)
	}
}
