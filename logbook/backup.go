package logbook

import (
	"context"
	"crypto/sha256"
	"database/sql"
	"encoding/hex"
	"errors"
	"fmt"
	"io/fs"
	"os"
	"path/filepath"
	"strings"
	"time"

	"github.com/pressly/goose/v3"

	"idlehiss/backups"
	"idlehiss/core/trace"
)

// Backup writes the book as it is at this moment into a file of its own, while others write. It lands whole or not at
// all. A backup that is there already is replaced, anything else is left alone.
func (b *Book) Backup(ctx context.Context, file string) error {
	return backup(ctx, filepath.Join(b.folder, File), file)
}

// Backup is Backup of a folder that may be served by another process.
func Backup(ctx context.Context, folder, file string) error {
	path := filepath.Join(folder, File)
	if info, err := os.Stat(path); err != nil || info.Size() == 0 {
		return fmt.Errorf("there is no book in %s (%w)", folder, ErrNoBook)
	}
	return backup(ctx, path, file)
}

func backup(ctx context.Context, path, file string) error {
	version, err := versionOf(ctx, path)
	if err != nil {
		return err
	}
	if info, err := os.Stat(file); err == nil {
		if _, err := versionOf(ctx, file); err != nil || info.Size() == 0 {
			return fmt.Errorf("%s is there already and is no backup: choose another name (%w)", file, ErrNotABook)
		}
	}
	aside := file + ".part"
	if err := remove(aside); err != nil {
		return err
	}
	defer os.Remove(aside)
	db := readOnly(path)
	defer db.Close()
	if _, err := db.ExecContext(ctx, "VACUUM INTO ?", aside); err != nil {
		return plainly(path, err)
	}
	copied := readOnly(aside)
	defer copied.Close()
	var says string
	if err := copied.QueryRowContext(ctx, "PRAGMA quick_check(1)").Scan(&says); err != nil || says != "ok" {
		return errors.Join(fmt.Errorf("the backup reads back wrong, and is not kept: %s (%w)", says, ErrDamaged), err)
	}
	if version >= packedSince {
		if what, err := unsound(ctx, copied); err != nil || what != "" {
			return errors.Join(fmt.Errorf("%s is damaged: %s (%w)", path, what, ErrDamaged), err)
		}
	}
	return settle(aside, file)
}

// unsound finds what carries a sum of its own and is not as it was written, which a look at the pages does not show; ""
// where all is as it was.
func unsound(ctx context.Context, db *sql.DB) (what string, err error) {
	for _, x := range []struct {
		query, says string
		sound       func(sum string, body []byte) bool
	}{
		{"SELECT hash, body FROM snapshot", "a snapshot of circuit and schools", func(sum string, body []byte) bool { return sum == "" || sum == hashOf(body) }},
		{"SELECT hold_id, body FROM packed", "packed readings", func(_ string, body []byte) bool { return trace.SoundPack(body) }},
	} {
		rows, err := db.QueryContext(ctx, x.query)
		var key string
		var body sql.RawBytes
		if err := eachRow(rows, err, func() error {
			err := rows.Scan(&key, &body)
			if err == nil && what == "" && !x.sound(key, body) {
				what = x.says + ", " + key
			}
			return err
		}); err != nil || what != "" {
			return what, err
		}
	}
	return "", nil
}

func hashOf(body []byte) string {
	sum := sha256.Sum256(body)
	return hex.EncodeToString(sum[:])
}

// settle puts a finished file in its place, and both on the disk.
func settle(aside, file string) error {
	f, err := os.OpenFile(aside, os.O_RDWR, 0)
	if err != nil {
		return err
	}
	if err := errors.Join(f.Sync(), f.Close()); err != nil {
		return err
	}
	if err := os.Rename(aside, file); err != nil {
		return err
	}
	d, err := os.Open(filepath.Dir(file))
	if err != nil {
		return err
	}
	return errors.Join(d.Sync(), d.Close())
}

func remove(path string) error {
	if err := os.Remove(path); err != nil && !errors.Is(err, fs.ErrNotExist) {
		return err
	}
	return nil
}

// BackupInto makes a backup in a folder and then lets the oldest go, so that as many stay as are to be kept.
func (b *Book) BackupInto(ctx context.Context, folder string, at time.Time, keep int) error {
	if err := os.MkdirAll(folder, 0o700); err != nil {
		return err
	}
	if err := b.Backup(ctx, filepath.Join(folder, backups.Name(at))); err != nil {
		return err
	}
	all, err := backups.In(folder)
	for len(all) > max(1, keep) && err == nil {
		err = os.Remove(filepath.Join(folder, all[0].Name))
		all = all[1:]
	}
	return err
}

// backupsNear are the paths of copies beside a book, the latest last.
func backupsNear(folder string) []string {
	out, _ := filepath.Glob(filepath.Join(folder, "before-migration-from-*.db"))
	all, _ := backups.In(filepath.Join(folder, backups.Folder))
	for _, k := range all {
		out = append(out, filepath.Join(folder, backups.Folder, k.Name))
	}
	return out
}

// Restore puts a backup in the place of a folder's book, brought up to date, with every device signed out. A book that
// is there is replaced only where that is said, and kept beside it: kept is its path.
func Restore(ctx context.Context, file, folder string, replace bool) (kept string, err error) {
	steps, err := fs.Sub(migrations, "migrations")
	if err != nil {
		return "", err
	}
	r, err := Check(ctx, file)
	if err != nil {
		return "", err
	}
	switch newest := newestOf(steps); {
	case r.Version > newest:
		return "", newer(file, r.Version, newest)
	case len(r.Pages) > 0:
		return "", fmt.Errorf("%s is damaged itself: 'idlehiss check --file %s --save NEW.db' saves what can be read of it (%w)", file, file, ErrDamaged)
	case r.Version == 0:
		return "", fmt.Errorf("%s has nothing in it (%w)", file, ErrNotABook)
	}
	lock, err := take(folder)
	if err != nil {
		return "", err
	}
	defer func() { err = errors.Join(err, lock.Unlock()) }()
	path := filepath.Join(folder, File)
	if _, gone := os.Stat(path); gone == nil && !replace {
		return "", fmt.Errorf("%s has a book already: --replace puts this one in its place and keeps the other beside it (%w)", folder, fs.ErrExist)
	}
	aside := path + ".part"
	if err := remove(aside); err != nil {
		return "", err
	}
	defer os.Remove(aside)
	from := readOnly(file)
	defer from.Close()
	if _, err := from.ExecContext(ctx, "VACUUM INTO ?", aside); err != nil {
		return "", plainly(file, err)
	}
	if _, gone := os.Stat(path); gone == nil {
		kept = filepath.Join(folder, "replaced-"+strings.TrimPrefix(backups.Name(time.Now()), "idlehiss-"))
	}
	for _, tail := range []string{"-shm", "-wal", ""} { // what is not yet in the book is of the book
		if err := os.Rename(path+tail, kept+tail); kept != "" && err != nil && !errors.Is(err, fs.ErrNotExist) {
			return "", err
		}
	}
	for _, tail := range []string{"-shm", "-wal"} { // of a book that is gone: it would be read into this one
		if err := remove(path + tail); err != nil {
			return kept, err
		}
	}
	if err := settle(aside, path); err != nil {
		return kept, err
	}
	b := &Book{folder: folder, turn: make(chan struct{}, 1)}
	if err := b.open(ctx, steps, []*goose.Migration{carryFits}); err != nil {
		return kept, err
	}
	defer func() { err = errors.Join(err, b.db.Close()) }()
	return kept, b.Batch(ctx, func(tx *Tx) error { return tx.SignOut("", time.Now()) })
}
