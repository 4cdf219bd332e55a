package door

import (
	"context"
	"errors"
	"net/netip"
	"time"

	"idlehiss/desk"
	"idlehiss/logbook"
)

// Wrong PINs are answered at once so often, and then ever later. They are counted by address, and over all addresses
// together, since addresses are easily had: after the first few, one an hour, at which ten thousand take longer than a
// year. The count outlives a restart. This computer itself waits for nobody else's, and never long.
const (
	FreeTries     = 5  // of one address
	FreeTriesAll  = 20 // of all together
	firstWait     = time.Minute
	longWait      = time.Hour
	hereWait      = 5 * time.Second
	mostDoublings = 10
	forgotten     = 7 * 24 * time.Hour // after so long without a wrong one the count starts over
	recent        = 24 * time.Hour     // what the bench tells of
)

// Here is the address of this computer.
const Here = "here"

// everywhere is the count over all addresses.
const everywhere = ""

// WrongView is what the bench tells of wrong PINs.
type WrongView struct {
	N     int       `json:"n"`
	From  int       `json:"from"` // so many addresses
	Since time.Time `json:"since"`
}

// tally counts wrong PINs, in the book.
type tally struct {
	desk *desk.Desk
	wall func() time.Time
}

// source is what tries of an address are counted under: a network of the newer kind has more addresses than can be
// counted, and one who has one has all of them.
func source(from string) string {
	ip, err := netip.ParseAddr(from)
	if err != nil {
		return from
	}
	if ip = ip.Unmap().WithZone(""); ip.Is6() {
		if net, err := ip.Prefix(64); err == nil {
			return net.String()
		}
	}
	return ip.String()
}

// reserve counts a try before it is looked at, so that many at once gain nothing. Right gives it back.
func (y *tally) reserve(ctx context.Context, from string) (right func() error, err error) {
	now := y.wall()
	from = source(from)
	var was []logbook.WrongPins
	err = y.desk.Book.Batch(ctx, func(tx *logbook.Tx) error {
		was = nil
		if err := tx.ForgetWrongPins(now.Add(-forgotten)); err != nil {
			return err
		}
		for _, at := range counted(from) {
			w, err := tx.WrongPins(at)
			if err != nil {
				return err
			}
			if left := w.Until.Sub(now); left > 0 && w.N > 0 {
				return &desk.Refusal{Field: "pin", Kind: desk.TooMany, Says: tooMany(at, left), After: left}
			}
			was = append(was, w)
		}
		for _, w := range was {
			if err := tx.SetWrongPins(oneMore(w, now)); err != nil {
				return err
			}
		}
		return nil
	})
	return func() error {
		return y.desk.Book.Batch(ctx, func(tx *logbook.Tx) error {
			// Those of this address are its own; of all together only this one was right.
			err := tx.SetWrongPins(logbook.WrongPins{Source: from})
			if from != Here {
				w, e := tx.WrongPins(everywhere)
				w.N--
				w.Until = was[1].Until
				err = errors.Join(err, e, tx.SetWrongPins(w))
			}
			return err
		})
	}, err
}

// counted are the counts that a try from an address is in.
func counted(from string) []string {
	if from == Here {
		return []string{Here}
	}
	return []string{from, everywhere}
}

func oneMore(w logbook.WrongPins, now time.Time) logbook.WrongPins {
	if w.N == 0 {
		w.First = now
	}
	w.N++
	w.Last = now
	free, longest := FreeTries, longWait
	switch w.Source {
	case everywhere:
		free = FreeTriesAll
	case Here:
		longest = hereWait
	}
	w.Until = now
	if over := w.N - free; over >= 0 {
		w.Until = now.Add(min(longest, firstWait<<min(over, mostDoublings)))
	}
	return w
}

func tooMany(at string, left time.Duration) string {
	says := "too many wrong PINs from here: try again in " + left.Round(time.Second).String()
	if at == everywhere {
		says = "somebody is guessing PINs, and every device waits for it: try again in " + left.Round(time.Second).String() + ", or let this device in on the shop's own computer, under Devices"
	}
	return says
}

// lately is what the bench tells of wrong PINs; nil where there were none lately.
func (y *tally) lately(ctx context.Context) (*WrongView, error) {
	all, err := y.desk.Book.WrongPins(ctx)
	if err != nil {
		return nil, err
	}
	var v WrongView
	for _, w := range all {
		if w.Source == everywhere || y.wall().Sub(w.Last) > recent {
			continue
		}
		if v.N == 0 || w.First.Before(v.Since) {
			v.Since = w.First
		}
		v.N += w.N
		v.From++
	}
	if v.N < FreeTries { // somebody mistyped
		return nil, nil
	}
	return &v, nil
}

// forget lets everybody try again at once.
func (y *tally) forget(ctx context.Context) error {
	return y.desk.Book.Batch(ctx, func(tx *logbook.Tx) error { return tx.ForgetWrongPins(y.wall().Add(forgotten)) })
}
