package logbook

import (
	"context"
	"database/sql"
	"errors"
	"fmt"
	"io/fs"
	"net/url"
	"os"
	"strings"

	"github.com/pressly/goose/v3"
)

// Saved is what was read of a damaged table.
type Saved struct {
	Name string `json:"name"`
	Rows int    `json:"rows"`
	Cut  string `json:"cut,omitempty"`  // why there may have been more
	Left int    `json:"left,omitempty"` // rows left out, since what they belong to could not be read
}

// Save writes what can be read of a damaged book into a new file, which is a sound book. The damaged one is not touched.
// A table whose pages are cut through is read from both its ends.
func Save(ctx context.Context, path, file string) ([]Saved, error) {
	steps, err := fs.Sub(migrations, "migrations")
	if err != nil {
		return nil, err
	}
	version, err := versionOf(ctx, path)
	if newest := newestOf(steps); err == nil && version != newest && version > 0 {
		return nil, fmt.Errorf("%s has schema %d and this program %d: save it with the idlehiss that wrote it (%w)", path, version, newest, ErrNewer)
	}
	if err != nil && !errors.Is(err, ErrDamaged) {
		return nil, err
	}
	if _, err := os.Stat(file); err == nil {
		return nil, fmt.Errorf("%s is there already: choose another name (%w)", file, fs.ErrExist)
	}
	aside := file + ".part"
	if err := remove(aside); err != nil {
		return nil, err
	}
	defer os.Remove(aside)
	into, err := sql.Open(Driver, "file:"+(&url.URL{Path: aside}).EscapedPath())
	if err != nil {
		return nil, err
	}
	defer into.Close()
	provider, err := goose.NewProvider(goose.DialectSQLite3, into, steps, goose.WithGoMigrations(carryFits))
	if err != nil {
		return nil, err
	}
	if _, err := provider.Up(ctx); err != nil {
		return nil, err
	}
	from := readOnly(path)
	defer from.Close()
	tables, err := tablesOf(ctx, into)
	if err != nil {
		return nil, err
	}
	out, err := pour(ctx, from, into, tables)
	if err != nil {
		return nil, err
	}
	if err := into.Close(); err != nil {
		return nil, err
	}
	return out, settle(aside, file)
}

// pour copies tables row by row, in one transaction.
func pour(ctx context.Context, from, into *sql.DB, tables []string) ([]Saved, error) {
	tx, err := into.BeginTx(ctx, nil)
	if err != nil {
		return nil, err
	}
	defer tx.Rollback()
	var out []Saved
	for _, name := range tables {
		columns, key, err := columnsOf(ctx, tx, name)
		if err != nil {
			return nil, err
		}
		s := Saved{Name: name}
		insert := fmt.Sprintf("INSERT OR IGNORE INTO %s(%s) VALUES (%s)", quoted(name), strings.Join(columns, ", "), places(columns))
		row, err := tx.PrepareContext(ctx, insert)
		if err != nil {
			return nil, err
		}
		add := func(values []any) {
			if err == nil {
				_, err = row.ExecContext(ctx, values...)
			}
		}
		read := "SELECT " + strings.Join(columns, ", ") + " FROM " + quoted(name) + " ORDER BY "
		if cut := readThrough(ctx, from, read+strings.Join(key, ", "), add); cut != nil {
			s.Cut = cut.Error()
			_ = readThrough(ctx, from, read+strings.Join(key, " DESC, ")+" DESC", add) // it breaks off at the same place
		}
		if err := errors.Join(err, row.Close()); err != nil {
			return nil, err
		}
		out = append(out, s)
	}
	// What belongs to a row that is not there goes, and what belonged to that in turn.
	for again := true; again; {
		again = false
		for i, name := range tables {
			n, err := dropOrphans(ctx, tx, name)
			if err != nil {
				return nil, err
			}
			out[i].Left += n
			again = again || n > 0
		}
	}
	for i, name := range tables {
		if err := tx.QueryRowContext(ctx, "SELECT count(*) FROM "+quoted(name)).Scan(&out[i].Rows); err != nil {
			return nil, err
		}
	}
	return out, tx.Commit()
}

// columnsOf are a table's columns, and what it is sorted by on the disk.
func columnsOf(ctx context.Context, tx *sql.Tx, table string) (columns, key []string, err error) {
	rows, err := tx.QueryContext(ctx, "SELECT name, pk FROM pragma_table_info(?)", table)
	keys := map[int]string{}
	var name string
	var pk int
	if err := eachRow(rows, err, func() error {
		err := rows.Scan(&name, &pk)
		columns, keys[pk] = append(columns, quoted(name)), quoted(name)
		return err
	}); err != nil {
		return nil, nil, err
	}
	var bare bool
	if err := tx.QueryRowContext(ctx, "SELECT wr FROM pragma_table_list(?) WHERE schema = 'main'", table).Scan(&bare); err != nil {
		return nil, nil, err
	}
	if !bare {
		return columns, []string{"rowid"}, nil
	}
	for i := 1; keys[i] != ""; i++ {
		key = append(key, keys[i])
	}
	return columns, key, nil
}

// dropOrphans takes out a table's rows that belong to a row that is not there; what only pointed there points nowhere.
func dropOrphans(ctx context.Context, tx *sql.Tx, table string) (int, error) {
	rows, err := tx.QueryContext(ctx, `SELECT k."from", k."table", coalesce(k."to", 'id'), c."notnull"
		FROM pragma_foreign_key_list(?1) k JOIN pragma_table_info(?1) c ON c.name = k."from"`, table)
	type link struct {
		from, parent, to string
		must             bool
	}
	var links []link
	if err := eachRow(rows, err, func() error {
		var l link
		err := rows.Scan(&l.from, &l.parent, &l.to, &l.must)
		links = append(links, l)
		return err
	}); err != nil {
		return 0, err
	}
	dropped := 0
	for _, l := range links {
		lost := fmt.Sprintf("WHERE %s IS NOT NULL AND %s NOT IN (SELECT %s FROM %s)", quoted(l.from), quoted(l.from), quoted(l.to), quoted(l.parent))
		if !l.must {
			if _, err := tx.ExecContext(ctx, fmt.Sprintf("UPDATE %s SET %s = NULL %s", quoted(table), quoted(l.from), lost)); err != nil {
				return 0, err
			}
			continue
		}
		res, err := tx.ExecContext(ctx, "DELETE FROM "+quoted(table)+" "+lost)
		if err != nil {
			return 0, err
		}
		n, err := res.RowsAffected()
		if err != nil {
			return 0, err
		}
		dropped += int(n)
	}
	return dropped, nil
}
