package logbook

import (
	"context"
	"database/sql"
	"errors"
	"fmt"
	"io/fs"
	"os"
	"path/filepath"
	"strconv"
	"strings"

	"modernc.org/sqlite"
	sqlite3 "modernc.org/sqlite/lib"
)

// Why a folder is not opened. A book that is not what it should be is never written to, and none is begun in its place.
var (
	ErrNoBook     = errors.New("no book where there was one")
	ErrNotABook   = errors.New("not a logbook of this program")
	ErrDamaged    = errors.New("a damaged book")
	ErrNewer      = errors.New("a book of a newer program")
	ErrCannotKeep = errors.New("nothing can be written")
)

// marked is what a lock file holds once its folder has had a book.
const marked = "this folder has a book\n"

// magic begins every database of SQLite.
const magic = "SQLite format 3\x00"

// look says whether the folder's book may be opened: nil where there is a sound one or never was any.
func look(ctx context.Context, folder string, newest int64) error {
	path := filepath.Join(folder, File)
	help := fmt.Sprintf("'idlehiss restore FILE --data %s' puts a backup in its place", folder)
	mark, _ := os.ReadFile(filepath.Join(folder, lockFile))
	had := len(mark) > 0
	info, err := os.Stat(path)
	switch {
	case errors.Is(err, fs.ErrNotExist):
		if old := backupsNear(folder); had || len(old) > 0 {
			found := ""
			if len(old) > 0 {
				found = "; the latest backup is " + old[len(old)-1]
			}
			return fmt.Errorf("%s held a book, and %s is gone: put the file back, or %s%s; an empty shop is begun in another folder only (%w)", folder, File, help, found, ErrNoBook)
		}
		return nil
	case err != nil:
		return err
	case !info.Mode().IsRegular():
		return fmt.Errorf("%s is not a file (%w)", path, ErrNotABook)
	case info.Size() == 0 && had:
		return fmt.Errorf("%s is empty, and held a book: %s (%w)", path, help, ErrDamaged)
	}
	version, err := versionOf(ctx, path)
	switch {
	case errors.Is(err, ErrDamaged):
		return fmt.Errorf("%w; 'idlehiss check --data %s' says what is wrong and what can be saved, %s", err, folder, help)
	case err != nil:
		return err
	case version > newest:
		return newer(path, version, newest)
	}
	return nil
}

func newer(path string, version, newest int64) error {
	return fmt.Errorf("%s was written by a newer idlehiss (its schema is %d, this one knows %d): it is left alone. Start it with that program, or restore an older backup with 'idlehiss restore' (%w)", path, version, newest, ErrNewer)
}

// versionOf reads a file's schema version without writing to it: 0 where there is nothing in it yet.
func versionOf(ctx context.Context, path string) (int64, error) {
	f, err := os.Open(path)
	if err != nil {
		return 0, err
	}
	head := make([]byte, len(magic))
	n, _ := f.Read(head)
	f.Close()
	switch {
	case n == 0:
		return 0, nil
	case string(head) != magic && strings.Trim(string(head), "\x00") == "":
		return 0, fmt.Errorf("%s begins with nothing but zeros (%w)", path, ErrDamaged)
	case string(head) != magic:
		return 0, fmt.Errorf("%s is %w", path, ErrNotABook)
	}
	db := readOnly(path)
	defer db.Close()
	var tables, known int
	err = db.QueryRowContext(ctx, "SELECT count(*), count(*) FILTER (WHERE name = 'goose_db_version') FROM sqlite_schema WHERE type = 'table'").Scan(&tables, &known)
	if err != nil || tables == 0 {
		return 0, plainly(path, err)
	}
	if known == 0 {
		return 0, fmt.Errorf("%s is %w", path, ErrNotABook)
	}
	var version sql.NullInt64
	err = db.QueryRowContext(ctx, "SELECT max(version_id) FROM goose_db_version WHERE is_applied").Scan(&version)
	return version.Int64, plainly(path, err)
}

// plainly says what a database's error means for the book; nil and others stay as they are.
func plainly(path string, err error) error {
	switch code(err) {
	case sqlite3.SQLITE_CORRUPT, sqlite3.SQLITE_NOTADB:
		return fmt.Errorf("%s is damaged: %v (%w)", path, err, ErrDamaged)
	}
	return err
}

// code is the database's own code of an error, 0 for others.
func code(err error) int {
	var e *sqlite.Error
	if errors.As(err, &e) {
		return e.Code() & 0xff
	}
	return 0
}

// newestOf is the version of the last of the migrations that ship.
func newestOf(steps fs.FS) int64 {
	var newest int64
	names, _ := fs.Glob(steps, "*.sql")
	for _, name := range names {
		number, _, _ := strings.Cut(name, "_")
		if n, err := strconv.ParseInt(number, 10, 64); err == nil {
			newest = max(newest, n)
		}
	}
	return newest
}
