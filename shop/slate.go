package shop

import (
	"idlehiss/core/slate"
	"idlehiss/desk"
)

// Calculate answers for what was typed, by field; a bare number takes the field's unit.
func (s *Shop) Calculate(name string, typed map[string]string) (slate.Answer, error) {
	c, err := slate.Named(name)
	if err != nil {
		return slate.Answer{}, desk.NotThere(err)
	}
	a, err := c.Work(typed, true)
	if err != nil {
		return a, desk.Unfit(err)
	}
	return a, nil
}
