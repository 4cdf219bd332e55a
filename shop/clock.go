package shop

import (
	"context"
	"encoding/json"
	"errors"
	"time"

	"idlehiss/desk"
	"idlehiss/logbook"
)

// anchored runs from a moment at a speed.
type anchored struct {
	Shop  int64   `json:"shop"` // µs
	Wall  int64   `json:"wall"` // µs
	Rate  float64 `json:"speed"`
	begun time.Time
}

func (a anchored) Now() time.Time {
	gone := time.Since(a.begun)
	return time.UnixMicro(a.Shop).UTC().Add(time.Duration(float64(gone) * a.Rate)).Truncate(time.Microsecond)
}

func (a anchored) Speed() float64 { return a.Rate }

// clockSetting is where the book keeps how the clock stood.
const clockSetting = "clock"

// NewClock goes on from where the folder's clock stood, so that a restart never
// runs backwards: wall time, ahead of it by what faster running has gained.
func NewClock(ctx context.Context, book *logbook.Book, speed float64) (desk.Clock, error) {
	now := time.Now()
	a := anchored{Shop: now.UnixMicro(), Wall: now.UnixMicro(), Rate: speed, begun: now}
	raw, err := book.Setting(ctx, clockSetting)
	if err != nil {
		return nil, err
	}
	if raw != "" {
		var was anchored
		if err := json.Unmarshal([]byte(raw), &was); err != nil {
			return nil, err
		}
		then := was.Shop + int64(float64(now.UnixMicro()-was.Wall)*was.Rate)
		a.Shop = max(a.Shop, then)
	}
	kept, err := json.Marshal(a)
	if err != nil {
		return nil, err
	}
	err = book.Batch(ctx, func(tx *logbook.Tx) error { return tx.SetSetting(clockSetting, string(kept)) })
	if errors.Is(err, logbook.ErrCannotKeep) {
		err = nil // it is kept when the disk takes it
	}
	return a, err
}
