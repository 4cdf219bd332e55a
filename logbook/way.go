package logbook

import (
	"cmp"
	"context"
	"database/sql"
	"database/sql/driver"
	"errors"
	"fmt"
	"io/fs"
	"net/url"
	"os"
	"path/filepath"
	"sync/atomic"
	"syscall"
	"time"

	sqlite3 "modernc.org/sqlite/lib"
)

// way is how connections to a book are made: for writing, or for reading alone.
type way struct {
	path    string
	reading atomic.Bool
}

// Connect opens one. For reading it sees what others have committed meanwhile. A book that was closed in good order and
// lies on a disk that takes nothing has nobody else at it, and cannot be opened otherwise than as it lies.
func (w *way) Connect(context.Context) (driver.Conn, error) {
	at := "file:" + (&url.URL{Path: w.path}).EscapedPath()
	if !w.reading.Load() {
		return w.Driver().Open(at + "?_txlock=immediate" +
			"&_pragma=busy_timeout(5000)&_pragma=journal_mode(WAL)&_pragma=synchronous(FULL)&_pragma=foreign_keys(1)")
	}
	at += "?mode=ro&_pragma=busy_timeout(5000)"
	c, err := w.Driver().Open(at + "&_pragma=user_version") // which is read from the disk
	if !cannotKeep(err) {
		return c, err
	}
	if wal, bad := os.Stat(w.path + "-wal"); bad != nil || wal.Size() == 0 {
		return w.Driver().Open(at + "&immutable=1")
	}
	// After a power cut what is not yet in the book has lost its index, which is made again in memory.
	return w.Driver().Open(at + "&_pragma=locking_mode(EXCLUSIVE)&_pragma=user_version")
}

// Driver is the one that is registered under the name Driver.
func (w *way) Driver() driver.Driver {
	db, err := sql.Open(Driver, "")
	if err != nil {
		panic(err) // a name that nobody registered
	}
	defer db.Close()
	return db.Driver()
}

// readOnly opens a file for reading alone.
func readOnly(path string) *sql.DB {
	w := &way{path: path}
	w.reading.Store(true)
	return sql.OpenDB(w)
}

// Stuck is that nothing can be written to a book just now.
type Stuck struct {
	Since time.Time // of the computer's clock
	Why   error
}

// Stuck reports whether nothing can be written just now, as the last write found it.
func (b *Book) Stuck() (Stuck, bool) {
	if s := b.stuck.Load(); s != nil {
		return *s, true
	}
	return Stuck{}, false
}

// noted remembers of a write's outcome whether the disk took it.
func (b *Book) noted(err error) error {
	switch {
	case cannotKeep(err):
		b.stuck.CompareAndSwap(nil, &Stuck{time.Now(), err})
		return fmt.Errorf("%s (%w: %w)", Plain(err), ErrCannotKeep, err)
	case Damaged(err):
		return fmt.Errorf("%s (%w)", Plain(err), err)
	}
	return err
}

// commit ends a write; what is committed shows that the disk takes it. A write that was in the book already shows nothing.
func (b *Book) commit(t *Tx) error {
	err := t.tx.Commit()
	if err == nil && t.wrote {
		b.stuck.Store(nil)
	}
	return err
}

// Retry looks whether the disk takes writes again. A book that was opened for reading alone is written to from then on.
func (b *Book) Retry(ctx context.Context) error {
	if b.lock == nil {
		lock, err := take(b.folder)
		if err != nil {
			return err
		}
		b.lock = lock
	}
	// Those that rest are let go: one that was opened while the disk took nothing only reads for ever, and may hold a
	// lock against others.
	b.db.SetMaxIdleConns(0)
	defer b.db.SetMaxIdleConns(idle)
	if b.way.reading.Load() {
		// By a connection of its own: what is read meanwhile goes on as it was.
		probe := sql.OpenDB(&way{path: b.way.path})
		if err := errors.Join(probe.PingContext(ctx), probe.Close()); err != nil {
			return err
		}
		b.way.reading.Store(false)
	}
	return b.Batch(ctx, func(tx *Tx) error { return tx.SetSetting("kept", time.Now().UTC().Format(time.RFC3339)) })
}

// idle is how many connections wait for work.
const idle = 2

// OpenToRead opens a folder's book for reading alone, also while another process has it.
func OpenToRead(ctx context.Context, folder string) (*Book, error) {
	steps, err := fs.Sub(migrations, "migrations")
	if err != nil {
		return nil, err
	}
	path := filepath.Join(folder, File)
	if _, err := os.Stat(path); err != nil {
		return nil, err
	}
	if err := look(ctx, folder, newestOf(steps)); err != nil {
		return nil, err
	}
	b := &Book{way: &way{path: path}, folder: folder, turn: make(chan struct{}, 1)}
	b.db = sql.OpenDB(b.way)
	if err := b.onlyRead(ctx, newestOf(steps), ErrCannotKeep); err != nil {
		b.Close()
		return nil, err
	}
	return b, nil
}

// onlyRead opens a book for reading alone, since nothing can be written.
func (b *Book) onlyRead(ctx context.Context, newest int64, why error) error {
	version, err := versionOf(ctx, b.way.path)
	if err != nil {
		return err
	}
	if version != newest {
		return fmt.Errorf("%s has to be brought up to date first, and %s (%w)", b.way.path, cmp.Or(Plain(why), "it is only read"), ErrCannotKeep)
	}
	b.way.reading.Store(true)
	b.stuck.Store(&Stuck{time.Now(), why})
	return b.db.PingContext(ctx)
}

// cannotKeep reports whether an error is that the disk takes nothing.
func cannotKeep(err error) bool {
	switch code(err) {
	case sqlite3.SQLITE_FULL, sqlite3.SQLITE_READONLY, sqlite3.SQLITE_IOERR, sqlite3.SQLITE_CANTOPEN:
		return true
	}
	for _, e := range []error{ErrCannotKeep, fs.ErrPermission, syscall.EROFS, syscall.ENOSPC, syscall.EDQUOT, syscall.EIO} {
		if errors.Is(err, e) {
			return true
		}
	}
	return false
}

// Damaged reports whether an error is that a book's pages are not what they should be.
func Damaged(err error) bool {
	return errors.Is(err, ErrDamaged) || code(err) == sqlite3.SQLITE_CORRUPT || code(err) == sqlite3.SQLITE_NOTADB
}

// Plain says what a disk's or a database's error means, in a sentence without an end; "" for others.
func Plain(err error) string {
	switch c := code(err); {
	case Damaged(err):
		return "the book is damaged: 'idlehiss check' says what is wrong and what can be saved"
	case c == sqlite3.SQLITE_FULL || errors.Is(err, syscall.ENOSPC) || errors.Is(err, syscall.EDQUOT):
		return "the disk is full: make room on it"
	case c == sqlite3.SQLITE_READONLY || errors.Is(err, syscall.EROFS) || errors.Is(err, fs.ErrPermission):
		return "the disk or the folder can only be read: let this program write there"
	case cannotKeep(err):
		return "the disk does not take what is written: look whether it is full, read-only or failing"
	}
	return ""
}
