package desk

import (
	"errors"
	"fmt"
	"time"

	"idlehiss/logbook"
)

// Refusal is a request that cannot be done as asked; it says what would be right.
type Refusal struct {
	Field string // which input, "" for the whole
	Says  string
	Kind  RefusalKind
	After time.Duration // of too many: when to try again
}

// RefusalKind is why, for those who answer in codes.
type RefusalKind int

// Kinds of refusal.
const (
	BadInput RefusalKind = iota
	Missing
	Conflict
	TooMany
)

func (r *Refusal) Error() string { return r.Says }

// Refuse is an input that cannot be taken.
func Refuse(field, format string, a ...any) error {
	return &Refusal{Field: field, Says: fmt.Sprintf(format, a...)}
}

// Conflicts is a request that does not go with how things are.
func Conflicts(format string, a ...any) error {
	return &Refusal{Says: fmt.Sprintf(format, a...), Kind: Conflict}
}

// AtField refuses one input for what is wrong with it; nil stays nil.
func AtField(field string, err error) error {
	if err == nil {
		return nil
	}
	return Refuse(field, "%v", err)
}

// NotThere is an id that names nothing.
func NotThere(err error) error { return &Refusal{Says: err.Error(), Kind: Missing} }

// Sought turns what the book says of a thing that it has not into a refusal; others stay as they are.
func Sought(err error) error {
	if errors.Is(err, logbook.ErrNotFound) {
		return NotThere(err)
	}
	return err
}

// named is an error that knows which input it is of.
type named interface {
	error
	InputOf() string
}

// AtInput turns an error that names its input into a refusal; others stay as they are.
func AtInput(err error) error {
	var at named
	if errors.As(err, &at) {
		return &Refusal{Field: at.InputOf(), Says: err.Error()}
	}
	return err
}

// Unfit is an input that cannot be worked with: a refusal, at its input where it names
// one.
func Unfit(err error) error {
	if r := AtInput(err); r != err {
		return r
	}
	return Refuse("", "%v", err)
}
