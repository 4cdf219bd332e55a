package logbook

import (
	"context"
	"database/sql"
	"encoding/json"
	"fmt"
	"regexp"
	"strings"

	"github.com/pressly/goose/v3"

	"idlehiss/core/runsheet"
	"idlehiss/core/terms"
)

// carryFits is the migration that follows 00003: what an adapter goes on was read from
// the words of its name until then. They are read here once, for pieces from before,
// and kept as data.
var carryFits = goose.NewGoMigration(4, &goose.GoFunc{RunTx: func(ctx context.Context, tx *sql.Tx) error {
	rows, err := tx.QueryContext(ctx, "SELECT id, body FROM kit WHERE kind IN ('adapter', 'plug')")
	if err != nil {
		return err
	}
	bodies := map[string]string{}
	for rows.Next() {
		var id, body string
		if err := rows.Scan(&id, &body); err != nil {
			return err
		}
		bodies[id] = body
	}
	if err := rows.Err(); err != nil {
		return err
	}
	for id, body := range bodies {
		carried, err := carryFit([]byte(body))
		if err != nil {
			return fmt.Errorf("the piece of kit %s: %w", id, err)
		}
		if _, err := tx.ExecContext(ctx, "UPDATE kit SET body = ? WHERE id = ?", string(carried), id); err != nil {
			return err
		}
	}
	return nil
}}, nil)

// carryFit adds the data to a piece's body and leaves everything else as it is.
func carryFit(body []byte) ([]byte, error) {
	var piece map[string]any
	if err := json.Unmarshal(body, &piece); err != nil {
		return nil, err
	}
	name, _ := piece["name"].(string)
	fits, _ := piece["fits"].(string)
	about := strings.ToLower(name + " " + fits)
	var f runsheet.Fit
	for _, known := range terms.Fitting("").Values() {
		if strings.Contains(about, known) {
			f.Families = append(f.Families, terms.Fitting(known))
		}
	}
	for _, m := range []terms.Make{terms.Shallow, terms.Deep, terms.Fine, terms.Coarse} {
		if strings.Contains(about, string(m)) {
			f.Make = m
		}
	}
	f.OwnAir = strings.Contains(about, string(terms.Bladder))
	// A number without its unit was a name, such as "Plate 12".
	if width := oldWidth.FindString(strings.ToLower(fits + " " + name)); width != "" {
		if from, to, err := runsheet.Width(width); err == nil {
			f.FromM, f.ToM = from, to
		}
	}
	raw, err := json.Marshal(f)
	if err != nil {
		return nil, err
	}
	var data map[string]any
	if err := json.Unmarshal(raw, &data); err != nil {
		return nil, err
	}
	for k, v := range data {
		piece[k] = v
	}
	return json.Marshal(piece)
}

var oldWidth = regexp.MustCompile(`[0-9]+(?:[.,][0-9]+)?(?:\s*(?:to|-|–)\s*[0-9]+(?:[.,][0-9]+)?)?\s*(?:mm|cm|inch|in)\b`)
