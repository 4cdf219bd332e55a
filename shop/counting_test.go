package shop

import (
	"context"
	"database/sql"
	"database/sql/driver"
	"sync/atomic"

	"idlehiss/logbook"
)

// countingDriver is the book's own driver with what is asked of it counted.
const countingDriver = "sqlite-counted"

var statements atomic.Int64

func init() {
	db, err := sql.Open(logbook.Driver, "")
	if err != nil {
		panic(err)
	}
	sql.Register(countingDriver, counting{db.Driver()})
	_ = db.Close() // it was never connected
}

type counting struct{ driver.Driver }

func (c counting) Open(name string) (driver.Conn, error) {
	conn, err := c.Driver.Open(name)
	return counter{conn}, err
}

type counter struct{ driver.Conn }

func (c counter) QueryContext(ctx context.Context, query string, args []driver.NamedValue) (driver.Rows, error) {
	statements.Add(1)
	return c.Conn.(driver.QueryerContext).QueryContext(ctx, query, args)
}

func (c counter) ExecContext(ctx context.Context, query string, args []driver.NamedValue) (driver.Result, error) {
	statements.Add(1)
	return c.Conn.(driver.ExecerContext).ExecContext(ctx, query, args)
}

func (c counter) BeginTx(ctx context.Context, opts driver.TxOptions) (driver.Tx, error) {
	return c.Conn.(driver.ConnBeginTx).BeginTx(ctx, opts)
}
