package logbook

import (
	"context"
	"database/sql"
	"errors"
	"fmt"
	"io/fs"
	"math/rand/v2"
	"os"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"idlehiss/backups"
)

// contents is every row of a book, table by table, but for who is signed in.
func contents(t *testing.T, path string) map[string][]string {
	t.Helper()
	db := readOnly(path)
	defer db.Close()
	tables, err := tablesOf(context.Background(), db)
	if err != nil {
		t.Fatal(err)
	}
	out := map[string][]string{}
	for _, name := range tables {
		if name == "device" {
			continue
		}
		err := readThrough(context.Background(), db, "SELECT * FROM "+quoted(name), func(row []any) {
			out[name] = append(out[name], fmt.Sprintf("%v", row))
		})
		if err != nil {
			t.Fatal(err)
		}
	}
	return out
}

func same(t *testing.T, a, b map[string][]string) {
	t.Helper()
	if len(a) != len(b) {
		t.Fatalf("%d tables and %d", len(a), len(b))
	}
	for name := range a {
		if strings.Join(a[name], "\n") != strings.Join(b[name], "\n") {
			t.Errorf("%s: %d rows and %d, or they differ", name, len(a[name]), len(b[name]))
		}
	}
}

// A book with readings enough for many pages.
func long(t *testing.T, folder string) *Book {
	t.Helper()
	b := open(t, folder)
	filled(t, b)
	for k := range 20 {
		err := b.Batch(context.Background(), func(tx *Tx) error {
			var rs []Reading
			for i := range 200 {
				rs = append(rs, Reading{HoldID: "h1", Seq: k*200 + i + 1, At: start.Add(time.Duration(i) * time.Second), Value: 110.25, Unit: "kPa", How: "read", By: "gauge", Device: "wire"})
			}
			return tx.AddReadings(rs...)
		})
		if err != nil {
			t.Fatal(err)
		}
	}
	return b
}

// A backup that is made while others write is the book at one moment, reads back sound, and is the same book elsewhere.
func TestABackupIsTheBookAtOneMoment(t *testing.T) {
	ctx := context.Background()
	b := long(t, t.TempDir())
	stop, done := make(chan bool), make(chan error)
	go func() { // pairs that land together
		for i := 0; ; i++ {
			select {
			case <-stop:
				done <- nil
				return
			default:
			}
			err := b.Batch(ctx, func(tx *Tx) error {
				v := fmt.Sprint(i)
				return errors.Join(tx.SetSetting("one", v), tx.AddReadings(Reading{HoldID: "h1", Gauge: 1, Seq: i + 1, At: start, Unit: "kPa", How: "read"}), tx.SetSetting("other", v))
			})
			if err != nil {
				done <- err
				return
			}
		}
	}()
	file := filepath.Join(t.TempDir(), "kept.db")
	for range 3 {
		if err := Backup(ctx, b.Folder(), file); err != nil { // as another process does
			t.Fatal(err)
		}
		if r, err := Check(ctx, file); err != nil || !r.Sound() || r.Jobs != 1 || r.Holds != 1 {
			t.Fatalf("%+v %v", r, err)
		}
		elsewhere := t.TempDir()
		if _, err := Restore(ctx, file, elsewhere, false); err != nil {
			t.Fatal(err)
		}
		same(t, contents(t, file), contents(t, filepath.Join(elsewhere, File)))
		c := open(t, elsewhere)
		got, err := c.Settings(ctx, "one", "other")
		if err != nil || got["one"] != got["other"] {
			t.Errorf("not one moment: %v %v", got, err)
		}
	}
	close(stop)
	if err := <-done; err != nil {
		t.Fatal(err)
	}
	if err := b.Backup(ctx, filepath.Join(b.Folder(), "lock")); !errors.Is(err, ErrNotABook) {
		t.Errorf("a file that is no backup was replaced: %v", err)
	}
}

func TestARestoreKeepsWhatItReplaces(t *testing.T) {
	ctx := context.Background()
	b := long(t, t.TempDir())
	file := filepath.Join(t.TempDir(), "kept.db")
	if err := b.Backup(ctx, file); err != nil {
		t.Fatal(err)
	}
	if err := b.Batch(ctx, func(tx *Tx) error { return tx.SetSetting("later", "yes") }); err != nil {
		t.Fatal(err)
	}
	if _, err := Restore(ctx, file, b.Folder(), true); !errors.Is(err, ErrInUse) {
		t.Fatalf("restored under a running process: %v", err)
	}
	closeAll(t)
	if _, err := Restore(ctx, file, b.Folder(), false); !errors.Is(err, fs.ErrExist) {
		t.Fatalf("restored over a book: %v", err)
	}
	kept, err := Restore(ctx, file, b.Folder(), true)
	if err != nil || kept == "" {
		t.Fatal(kept, err)
	}
	if v, err := open(t, b.Folder()).Setting(ctx, "later"); err != nil || v != "" {
		t.Errorf("later than the backup: %q %v", v, err)
	}
	old := readOnly(kept)
	defer old.Close()
	var v string
	if err := old.QueryRow("SELECT value FROM setting WHERE name = 'later'").Scan(&v); err != nil || v != "yes" {
		t.Errorf("what was replaced: %q %v", v, err)
	}
}

// As many backups stay as are to be kept, and nothing else in their folder is touched.
func TestOldBackupsGo(t *testing.T) {
	b := open(t, t.TempDir())
	folder := filepath.Join(t.TempDir(), "on another disk")
	for day := range 5 {
		if err := b.BackupInto(context.Background(), folder, start.AddDate(0, 0, day), 3); err != nil {
			t.Fatal(err)
		}
		if err := os.WriteFile(filepath.Join(folder, "notes.txt"), []byte("mine"), 0o600); err != nil {
			t.Fatal(err)
		}
	}
	all, err := backups.In(folder)
	if err != nil || len(all) != 3 || all[0].Name != backups.Name(start.AddDate(0, 0, 2)) {
		t.Errorf("%v %v", all, err)
	}
	if _, err := os.Stat(filepath.Join(folder, "notes.txt")); err != nil {
		t.Error(err)
	}
}

// No shop is begun in the place of a book that is gone, empty, of another kind or newer, and none of these is written to.
func TestNothingIsBegunInTheirPlace(t *testing.T) {
	ctx := context.Background()
	sound := t.TempDir()
	filled(t, open(t, sound))
	closeAll(t)
	raw, err := os.ReadFile(filepath.Join(sound, File))
	if err != nil {
		t.Fatal(err)
	}
	newerBook := func(path string) error {
		db := sql.OpenDB(&way{path: path})
		_, err := db.Exec("INSERT INTO goose_db_version(version_id, is_applied) VALUES (999, 1)")
		return errors.Join(err, db.Close())
	}
	for name, c := range map[string]struct {
		spoil func(folder, path string) error
		want  error
	}{
		"gone": {func(_, path string) error { return os.Remove(path) }, ErrNoBook},
		"gone, no lock": {func(f, path string) error {
			return errors.Join(os.Remove(path), os.Remove(filepath.Join(f, lockFile)), copyBackup(f, raw))
		}, ErrNoBook},
		"empty": {func(_, path string) error { return os.Truncate(path, 0) }, ErrDamaged},
		"zeros": {func(_, path string) error { return os.WriteFile(path, make([]byte, 8192), 0o644) }, ErrDamaged},
		"cut":   {func(_, path string) error { return os.Truncate(path, 6000) }, ErrDamaged},
		"somebody's notes": {func(_, path string) error {
			return os.WriteFile(path, []byte("two crates of Hollow Reds, one of quinces"), 0o644)
		}, ErrNotABook},
		"a folder": {func(_, path string) error { return errors.Join(os.Remove(path), os.Mkdir(path, 0o755)) }, ErrNotABook},
		"newer":    {func(_, path string) error { return newerBook(path) }, ErrNewer},
	} {
		folder := t.TempDir()
		path := filepath.Join(folder, File)
		if err := errors.Join(os.WriteFile(path, raw, 0o644), os.WriteFile(filepath.Join(folder, lockFile), []byte(marked), 0o600), c.spoil(folder, path)); err != nil {
			t.Fatal(name, err)
		}
		before, _ := os.ReadFile(path)
		_, err := Open(ctx, folder)
		if !errors.Is(err, c.want) {
			t.Errorf("%s: %v", name, err)
		}
		if after, _ := os.ReadFile(path); string(after) != string(before) {
			t.Errorf("%s: it was written to", name)
		}
	}
	// A folder whose first start was cut short never had a book.
	cut := t.TempDir()
	if err := errors.Join(os.WriteFile(filepath.Join(cut, File), nil, 0o644), os.WriteFile(filepath.Join(cut, lockFile), nil, 0o600)); err != nil {
		t.Fatal(err)
	}
	open(t, cut)
}

func copyBackup(folder string, raw []byte) error {
	return errors.Join(os.Mkdir(filepath.Join(folder, backups.Folder), 0o755), os.WriteFile(filepath.Join(folder, backups.Folder, backups.Name(start)), raw, 0o644))
}

// Pages that are spoilt are found by a check, whatever they hold; a backup of such a book is refused, and what can be
// read of it is saved into one that is sound.
func TestSpoiltPagesAreFoundAndTheRestIsSaved(t *testing.T) {
	ctx := context.Background()
	b := long(t, t.TempDir())
	closeAll(t)
	whole, err := os.ReadFile(filepath.Join(b.Folder(), File))
	if err != nil {
		t.Fatal(err)
	}
	if r, err := Check(ctx, filepath.Join(b.Folder(), File)); err != nil || !r.Sound() {
		t.Fatalf("%+v %v", r, err)
	}
	const page, schema = 4096, 24 // pages; the first hold what tables there are
	r := rand.New(rand.NewPCG(1, 16))
	saved := 0
	for try := range 5 {
		folder := t.TempDir()
		path, file := filepath.Join(folder, File), filepath.Join(folder, "saved.db")
		raw := append([]byte(nil), whole...)
		at := schema + r.IntN(len(raw)/page-schema)
		for i := range page {
			raw[at*page+i] = byte(r.Uint32())
		}
		if err := os.WriteFile(path, raw, 0o644); err != nil {
			t.Fatal(err)
		}
		c, err := Check(ctx, path)
		if err != nil || c.Sound() {
			t.Fatalf("page %d is spoilt, and the check says %+v %v", at, c, err)
		}
		if _, err := Restore(ctx, path, t.TempDir(), false); !errors.Is(err, ErrDamaged) {
			t.Errorf("page %d: a damaged book was restored: %v", at, err)
		}
		if _, err := Save(ctx, path, file); err != nil {
			t.Fatalf("page %d: %v", at, err)
		}
		if c, err = Check(ctx, file); err != nil || len(c.Pages)+len(c.Orphans) > 0 {
			t.Errorf("page %d: what was saved is not sound: %+v %v", at, c, err)
		}
		for _, x := range c.Tables {
			if x.Name == "reading" {
				saved += x.Rows
			}
		}
		if try == 0 {
			if _, err := Save(ctx, path, file); !errors.Is(err, fs.ErrExist) {
				t.Errorf("saved over a file: %v", err)
			}
		}
	}
	if saved < 5*4000/2 {
		t.Errorf("of five times 4,000 readings, a page of each book spoilt, %d were saved", saved)
	}
}

// Entries that are sound pages and yet not what was written are found.
func TestACheckReadsEntriesBack(t *testing.T) {
	ctx := context.Background()
	for name, spoil := range map[string]string{
		"a reading":  "DELETE FROM reading WHERE seq = 77",
		"a rig":      "UPDATE hold SET rig = '{'",
		"a snapshot": "UPDATE snapshot SET hash = 'ab'",
		"a job":      "PRAGMA foreign_keys = 0; DELETE FROM job",
	} {
		b := long(t, t.TempDir())
		if _, err := b.db.Exec(spoil); err != nil {
			t.Fatal(err)
		}
		if r, err := Check(ctx, filepath.Join(b.Folder(), File)); err != nil || len(r.Entries)+len(r.Orphans) == 0 || len(r.Pages) > 0 {
			t.Errorf("%s: %+v %v", name, r, err)
		}
	}
}

// On a full disk a write is refused in plain words and leaves nothing; the book says so until it takes writes again.
func TestAFullDiskIsSaidAndTakenUpAgain(t *testing.T) {
	ctx := context.Background()
	b := long(t, t.TempDir())
	b.db.SetMaxOpenConns(1)
	var pages int
	if err := b.db.QueryRow("PRAGMA page_count").Scan(&pages); err != nil {
		t.Fatal(err)
	}
	if _, err := b.db.Exec(fmt.Sprintf("PRAGMA max_page_count = %d", pages)); err != nil {
		t.Fatal(err)
	}
	large := strings.Repeat("x", 100_000)
	small := func() error {
		_, err := b.Write(ctx, stamp("w8"), nil, func(*Tx) (any, error) { return 1, nil })
		return err
	}
	if err := small(); err != nil {
		t.Fatal(err)
	}
	err := b.Batch(ctx, func(tx *Tx) error { return tx.SetSetting("large", large) })
	if !errors.Is(err, ErrCannotKeep) || Plain(err) == "" {
		t.Fatalf("%v", err)
	}
	if _, err := b.Write(ctx, stamp("w9"), nil, func(tx *Tx) (any, error) { return 1, tx.SetSetting("large", large) }); !errors.Is(err, ErrCannotKeep) {
		t.Errorf("%v", err)
	}
	if s, stuck := b.Stuck(); !stuck || s.Why == nil {
		t.Error("it is not said")
	}
	if err := small(); err != nil { // answered out of the book
		t.Error(err)
	}
	if _, stuck := b.Stuck(); !stuck {
		t.Error("an answer out of the book is taken for a write")
	}
	if has, err := b.Has(ctx, "w9"); err != nil || has {
		t.Error("a refused write is in the book", err)
	}
	if _, err := b.db.Exec("PRAGMA max_page_count = 1000000"); err != nil {
		t.Fatal(err)
	}
	if err := b.Retry(ctx); err != nil {
		t.Fatal(err)
	}
	if _, stuck := b.Stuck(); stuck {
		t.Error("still said to be full")
	}
}
