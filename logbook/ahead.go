package logbook

import (
	"context"
	"database/sql"
	"errors"
	"iter"
	"strings"
)

// Many readings at once are taken down ahead of their hold, some at a time, so that others write in between. They are
// nobody's until the hold is added; where that never comes they are taken out again, at the latest when the book is
// opened the next time.

// aheadOf names the setting that says that a hold's readings are ahead of it.
const aheadOf = "ahead of "

// aheadAtOnce are as many as are written while others wait: a few milliseconds.
const aheadAtOnce = 200

// AddAhead takes readings down ahead of their hold, which is added under the same id as its write. Between some and the
// next it waits as long as it is told to.
func (b *Book) AddAhead(ctx context.Context, holdID string, rs iter.Seq[Reading], wait func()) error {
	if has, err := b.Has(ctx, holdID); err != nil || has {
		return err // it is answered as it was
	}
	if err := b.Batch(ctx, func(tx *Tx) error {
		return tx.exec("INSERT INTO setting(name, value) VALUES (?, '')", aheadOf+holdID)
	}); err != nil {
		return err
	}
	if err := b.noted(b.addAhead(ctx, rs, wait)); err != nil {
		return errors.Join(err, b.TakeBack(context.WithoutCancel(ctx), holdID))
	}
	return nil
}

func (b *Book) addAhead(ctx context.Context, rs iter.Seq[Reading], wait func()) error {
	conn, err := b.db.Conn(ctx)
	if err != nil {
		return err
	}
	defer conn.Close()
	// Their hold is not there yet, and this connection alone does not ask for it.
	if _, err := conn.ExecContext(ctx, "PRAGMA foreign_keys=0"); err != nil {
		return err
	}
	defer conn.ExecContext(context.WithoutCancel(ctx), "PRAGMA foreign_keys=1")
	some := make([]Reading, 0, aheadAtOnce)
	for r := range rs {
		if some = append(some, r); len(some) < aheadAtOnce {
			continue
		}
		if err := b.addSome(ctx, conn, some); err != nil {
			return err
		}
		some = some[:0]
		wait()
	}
	return b.addSome(ctx, conn, some)
}

func (b *Book) addSome(ctx context.Context, conn *sql.Conn, rs []Reading) error {
	tx, done, err := b.beginOn(ctx, conn)
	if err != nil {
		return err
	}
	defer done()
	t := &Tx{ctx: ctx, tx: tx}
	if err := t.addReadings(rs...); err != nil {
		return err
	}
	return b.commit(t)
}

// Arrived ends that a hold's readings are ahead of it, in the write that adds it.
func (t *Tx) Arrived(holdID string) error {
	return t.exec("DELETE FROM setting WHERE name = ?", aheadOf+holdID)
}

// TakeBack takes readings out that are ahead of a hold that is not there.
func (b *Book) TakeBack(ctx context.Context, holdID string) error {
	return b.Batch(ctx, func(tx *Tx) error {
		return errors.Join(tx.Arrived(holdID), tx.exec("DELETE FROM reading WHERE hold_id = ?1 AND NOT EXISTS (SELECT 1 FROM hold WHERE id = ?1)", holdID))
	})
}

// takeBackAll takes out what a program that broke off left ahead of holds.
func (b *Book) takeBackAll(ctx context.Context) error {
	all, err := aheadIn(ctx, b.db)
	for _, id := range all {
		err = errors.Join(err, b.TakeBack(ctx, id))
	}
	return err
}

// aheadIn lists the holds that readings are ahead of.
func aheadIn(ctx context.Context, from queryer) ([]string, error) {
	rows, err := from.QueryContext(ctx, "SELECT name FROM setting WHERE name LIKE ?", aheadOf+"%")
	var out []string
	var name string
	err = eachRow(rows, err, func() error {
		err := rows.Scan(&name)
		out = append(out, strings.TrimPrefix(name, aheadOf))
		return err
	})
	return out, err
}
