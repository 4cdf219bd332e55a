package logbook

import (
	"context"
	"database/sql"
	"fmt"

	"github.com/pressly/goose/v3"

	"idlehiss/core/runsheet"
)

// carryFits is the migration that follows 00003: what an adapter goes on was read from
// the words of its name until then. They are read here once, for pieces from before,
// and kept as data.
var carryFits = goose.NewGoMigration(4, &goose.GoFunc{RunTx: func(ctx context.Context, tx *sql.Tx) error {
	rows, err := tx.QueryContext(ctx, "SELECT id, body FROM kit WHERE kind IN ('adapter', 'plug')")
	bodies := map[string]string{}
	var id, body string
	if err := eachRow(rows, err, func() error {
		err := rows.Scan(&id, &body)
		bodies[id] = body
		return err
	}); err != nil {
		return err
	}
	for id, body := range bodies {
		carried, err := runsheet.AddFit([]byte(body))
		if err != nil {
			return fmt.Errorf("the piece of kit %s: %w", id, err)
		}
		if _, err := tx.ExecContext(ctx, "UPDATE kit SET body = ? WHERE id = ?", string(carried), id); err != nil {
			return err
		}
	}
	return nil
}}, nil)
