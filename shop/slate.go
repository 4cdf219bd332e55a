package shop

import (
	"errors"

	"idlehiss/core/slate"
)

// Slate lists the calculators.
func (s *Shop) Slate() []slate.Calculator { return slate.All() }

// Calculate answers for what was typed, by field; a bare number takes the field's unit.
func (s *Shop) Calculate(name string, typed map[string]string) (slate.Answer, error) {
	c, err := slate.Named(name)
	if err != nil {
		return slate.Answer{}, &Refusal{Says: err.Error(), Kind: Missing}
	}
	a, err := c.Work(typed, true)
	var f slate.FieldError
	switch {
	case errors.As(err, &f):
		return a, refuse(f.Field, "%v", err)
	case err != nil:
		return a, refuse("", "%v", err)
	}
	return a, nil
}
