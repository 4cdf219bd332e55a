// Package logbook keeps machines, jobs, holds and readings in SQLite. Whatever is
// acknowledged is committed first; nothing is deleted, later entries supersede.
package logbook

import (
	"bytes"
	"context"
	"crypto/sha256"
	"database/sql"
	"embed"
	"encoding/json"
	"errors"
	"fmt"
	"io/fs"
	"log/slog"
	"os"
	"path/filepath"
	"strings"
	"sync/atomic"
	"time"

	"github.com/gofrs/flock"
	"github.com/pressly/goose/v3"
	_ "modernc.org/sqlite" // the driver "sqlite"
)

//go:embed migrations/*.sql
var migrations embed.FS

// Book is one data folder, held by one process.
type Book struct {
	db     *sql.DB
	way    *way
	lock   *flock.Flock // nil where the disk can only be read
	folder string
	stuck  atomic.Pointer[Stuck]
	turn   chan struct{} // one writes at a time, in the order in which they came: the database lets others in by chance
}

// ErrInUse is wrapped when another process has the folder.
var ErrInUse = errors.New("data folder in use")

// Driver is the name of the database's driver; a benchmark may count through another.
var Driver = "sqlite"

// File is the database's name in its folder.
const File = "idlehiss.db"

// lockFile is what a process holds; with something in it, its folder has had a book.
const lockFile = "lock"

// Open takes the folder, makes it when it is absent, and brings the database up
// to date. Before a migration the database is copied beside itself.
func Open(ctx context.Context, folder string) (*Book, error) {
	steps, err := fs.Sub(migrations, "migrations")
	if err != nil {
		return nil, err
	}
	return openWith(ctx, folder, steps, carryFits)
}

func openWith(ctx context.Context, folder string, steps fs.FS, more ...*goose.Migration) (*Book, error) {
	lock, err := take(folder)
	if _, gone := os.Stat(filepath.Join(folder, File)); err != nil && (gone != nil || !cannotKeep(err)) {
		return nil, err
	}
	b := &Book{lock: lock, folder: folder, turn: make(chan struct{}, 1)}
	if err != nil {
		b.lock = nil // it is only read, as long as nothing can be written there
	}
	if err := b.open(ctx, steps, more); err != nil {
		b.Close()
		return nil, err
	}
	return b, nil
}

// take makes the folder where it is absent, and holds it.
func take(folder string) (*flock.Flock, error) {
	if err := os.MkdirAll(folder, 0o700); err != nil {
		return nil, fmt.Errorf("the data folder cannot be made: %w", err)
	}
	lock := flock.New(filepath.Join(folder, lockFile))
	held, err := lock.TryLock()
	if err != nil {
		return nil, fmt.Errorf("the data folder cannot be locked: %w", err)
	}
	if !held {
		return nil, fmt.Errorf("another idlehiss has %s open: stop it first, or choose another folder with --data (%w)", folder, ErrInUse)
	}
	return lock, nil
}

func (b *Book) open(ctx context.Context, steps fs.FS, more []*goose.Migration) error {
	if err := look(ctx, b.folder, newestOf(steps)); err != nil {
		return err
	}
	path := filepath.Join(b.folder, File)
	b.way = &way{path: path}
	b.db = sql.OpenDB(b.way)
	if err := b.db.PingContext(ctx); cannotKeep(err) {
		return b.onlyRead(ctx, newestOf(steps), err)
	}
	db := b.db
	provider, err := goose.NewProvider(goose.DialectSQLite3, db, steps, goose.WithGoMigrations(more...))
	if err != nil {
		return err
	}
	version, err := provider.GetDBVersion(ctx)
	if err != nil {
		return fmt.Errorf("%s is not a logbook of this program: %w", filepath.Join(b.folder, File), err)
	}
	pending, err := provider.HasPending(ctx)
	if err != nil {
		return err
	}
	if pending && version > 0 {
		slog.Info("The book is copied, then brought up to date; a book of years takes some minutes", "folder", b.folder)
		if err := b.Backup(ctx, filepath.Join(b.folder, fmt.Sprintf("before-migration-from-%d.db", version))); err != nil {
			return fmt.Errorf("the database could not be copied before its migration, so it was left alone: %w", err)
		}
	}
	if _, err := provider.Up(ctx); err != nil {
		return fmt.Errorf("the database could not be brought up to date: %w", err)
	}
	err = b.takeBackAll(ctx)
	if newestOf(steps) >= arrivingSince {
		err = errors.Join(err, b.Batch(ctx, func(tx *Tx) error { return tx.settle() }))
	}
	if err != nil && !errors.Is(err, ErrCannotKeep) {
		return err
	}
	if err := os.WriteFile(filepath.Join(b.folder, lockFile), []byte(marked), 0o644); err != nil && !cannotKeep(err) {
		return err
	}
	return nil
}

// Folder is where it lies.
func (b *Book) Folder() string { return b.folder }

// Close lets the folder go.
func (b *Book) Close() error {
	var err error
	if b.db != nil {
		err = b.db.Close()
	}
	if b.lock != nil {
		err = errors.Join(err, b.lock.Unlock())
	}
	return err
}

// Stamp is what every entry carries.
type Stamp struct {
	ID     string    `json:"id"`
	At     time.Time `json:"at"`
	By     string    `json:"by"`
	Device string    `json:"device"`
}

// Tx is a write in the making. All of it lands or none.
type Tx struct {
	ctx   context.Context
	tx    *sql.Tx
	wrote bool // something is to be kept
}

// ErrChanged is wrapped when an id comes again with another content.
var ErrChanged = errors.New("this id was used for something else")

// Write runs fn in one transaction and keeps its answer under the client's id:
// the same id with the same content is answered the same without running fn
// again; with another content it is refused. The answer is committed on return.
func (b *Book) Write(ctx context.Context, s Stamp, content []byte, fn func(*Tx) (any, error)) (raw json.RawMessage, err error) {
	err = b.Batch(ctx, func(t *Tx) (err error) {
		raw, err = t.Entry(s, content, fn)
		return err
	})
	return raw, err
}

// Entry is Write as part of a transaction.
func (t *Tx) Entry(s Stamp, content []byte, fn func(*Tx) (any, error)) (json.RawMessage, error) {
	digest := sha256.Sum256(content)
	var had []byte
	var answer string
	switch err := t.tx.QueryRowContext(t.ctx, "SELECT digest, answer FROM entry WHERE id = ?", s.ID).Scan(&had, &answer); {
	case err == nil:
		if !bytes.Equal(had, digest[:]) {
			return nil, fmt.Errorf("the entry %s is already in the book with another content: make a new id for a new entry (%w)", s.ID, ErrChanged)
		}
		return json.RawMessage(answer), nil
	case !errors.Is(err, sql.ErrNoRows):
		return nil, err
	}
	value, err := fn(t)
	if err != nil {
		return nil, err
	}
	raw, err := json.Marshal(value)
	if err != nil {
		return nil, err
	}
	return raw, t.exec("INSERT INTO entry(id, digest, at, by, device, answer) VALUES (?,?,?,?,?,?)", s.ID, digest[:], micro(s.At), s.By, s.Device, string(raw))
}

// begin waits for its turn and begins a transaction; done ends it, undone where it was not committed.
func (b *Book) begin(ctx context.Context) (tx *sql.Tx, done func(), err error) {
	return b.beginOn(ctx, b.db)
}

// beginOn does so on the book, or on one connection to it.
func (b *Book) beginOn(ctx context.Context, on interface {
	BeginTx(context.Context, *sql.TxOptions) (*sql.Tx, error)
}) (tx *sql.Tx, done func(), err error) {
	select {
	case b.turn <- struct{}{}:
	case <-ctx.Done():
		return nil, nil, ctx.Err()
	}
	if tx, err = on.BeginTx(ctx, nil); err != nil {
		<-b.turn
		return nil, nil, err
	}
	return tx, func() {
		_ = tx.Rollback() // after a commit there is nothing to undo
		<-b.turn
	}, nil
}

// Has reports whether an entry of this id is in the book.
func (b *Book) Has(ctx context.Context, id string) (bool, error) {
	var n int
	err := b.db.QueryRowContext(ctx, "SELECT count(*) FROM entry WHERE id = ?", id).Scan(&n)
	return n > 0, err
}

// Latest is the moment of the latest of what was last taken down of each kind; the zero time for an empty book.
func (b *Book) Latest(ctx context.Context) (time.Time, error) {
	var us sql.NullInt64
	err := b.db.QueryRowContext(ctx, `SELECT max(at) FROM (
		SELECT at FROM job WHERE place = (SELECT max(place) FROM job)
		UNION ALL SELECT at FROM fact WHERE rowid = (SELECT max(rowid) FROM fact)
		UNION ALL SELECT at FROM observation WHERE rowid = (SELECT max(rowid) FROM observation)
		UNION ALL SELECT at FROM hold WHERE rowid = (SELECT max(rowid) FROM hold)
		UNION ALL SELECT at FROM event WHERE rowid = (SELECT max(rowid) FROM event)
		UNION ALL SELECT at FROM call WHERE rowid = (SELECT max(rowid) FROM call)
		UNION ALL SELECT at FROM arriving WHERE n = (SELECT max(n) FROM arriving)
		UNION ALL SELECT (SELECT at FROM reading WHERE hold_id = h.id AND gauge = g.value ORDER BY seq DESC LIMIT 1)
			FROM hold h, json_each('[1, 2, 100]') g WHERE h.state <> 'ended')`).Scan(&us)
	if err != nil || !us.Valid {
		return time.Time{}, err
	}
	return moment(us.Int64), nil
}

// Batch runs fn in one transaction without a client's id: for what the server
// itself takes down, such as a gauge's stream.
func (b *Book) Batch(ctx context.Context, fn func(*Tx) error) error { return b.noted(b.batch(ctx, fn)) }

// Together runs several in one transaction, each of which lands or not by itself; it gives what became of each. Where the
// transaction cannot be kept none lands.
func (b *Book) Together(ctx context.Context, fns []func(*Tx) error) []error {
	errs := make([]error, len(fns))
	err := b.Batch(ctx, func(tx *Tx) error {
		for i, fn := range fns {
			if err := tx.mark("SAVEPOINT"); err != nil {
				return err
			}
			if errs[i] = fn(tx); errs[i] != nil {
				if cannotKeep(errs[i]) {
					return errs[i]
				}
				if err := tx.mark("ROLLBACK TO"); err != nil {
					return err
				}
			}
			if err := tx.mark("RELEASE"); err != nil {
				return err
			}
		}
		return nil
	})
	for i := range errs {
		if err != nil {
			errs[i] = err
		}
	}
	return errs
}

func (b *Book) batch(ctx context.Context, fn func(*Tx) error) error {
	tx, done, err := b.begin(ctx)
	if err != nil {
		return err
	}
	defer done()
	t := &Tx{ctx: ctx, tx: tx}
	if err := fn(t); err != nil {
		return err
	}
	return b.commit(t)
}

// queryer reads: the book as it is, or as it is in a write.
type queryer interface {
	QueryContext(ctx context.Context, query string, args ...any) (*sql.Rows, error)
	QueryRowContext(ctx context.Context, query string, args ...any) *sql.Row
}

// places are the placeholders of a list, texts its values.
func places(list []string) string { return strings.TrimSuffix(strings.Repeat("?,", len(list)), ",") }

func texts(list []string) (out []any) {
	for _, s := range list {
		out = append(out, s)
	}
	return out
}

func (t *Tx) exec(query string, args ...any) error {
	_, err := t.changed(query, args...)
	return err
}

// changed is exec with how many rows it changed.
func (t *Tx) changed(query string, args ...any) (int64, error) {
	t.wrote = true
	res, err := t.tx.ExecContext(t.ctx, query, args...)
	if err != nil {
		return 0, err
	}
	return res.RowsAffected()
}

// mark marks a place in a transaction, to which it goes back or not.
func (t *Tx) mark(how string) error {
	_, err := t.tx.ExecContext(t.ctx, how+" one")
	return err
}

// Setting reads a named value; "" when there is none.
func (b *Book) Setting(ctx context.Context, name string) (string, error) {
	all, err := b.Settings(ctx, name)
	return all[name], err
}

// Settings reads several named values at once; one that is not there is "".
func (b *Book) Settings(ctx context.Context, names ...string) (map[string]string, error) {
	rows, err := b.db.QueryContext(ctx, "SELECT name, value FROM setting WHERE name IN ("+places(names)+")", texts(names)...)
	out := map[string]string{}
	var name, value string
	err = eachRow(rows, err, func() error {
		err := rows.Scan(&name, &value)
		out[name] = value
		return err
	})
	return out, err
}

// SetSetting keeps a named value.
func (t *Tx) SetSetting(name, value string) error {
	return t.exec("INSERT INTO setting(name, value) VALUES (?,?) ON CONFLICT(name) DO UPDATE SET value = excluded.value", name, value)
}

func micro(t time.Time) int64 { return t.UnixMicro() }

func moment(us int64) time.Time { return time.UnixMicro(us).UTC() }

func microOrNull(t *time.Time) any {
	if t == nil {
		return nil
	}
	return micro(*t)
}

// ErrNotFound is wrapped when an id names nothing.
var ErrNotFound = errors.New("not in the book")

func missing(what, id string, err error) error {
	if errors.Is(err, sql.ErrNoRows) {
		return fmt.Errorf("there is no %s %s (%w)", what, id, ErrNotFound)
	}
	return err
}
