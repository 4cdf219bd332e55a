package hunt

import (
	"fmt"

	"idlehiss/core/terms"
)

// LookSays is a look at a part as a fact of a job.
func LookSays(part string, seen bool, class terms.Class, note string) string {
	says := part + ": nothing seen."
	switch {
	case seen && class.Faulty():
		says = part + ": leak seen."
	case seen:
		says = fmt.Sprintf("%s: escape seen, %s.", part, class)
	}
	if note != "" {
		says += " " + note
	}
	return says
}

// Observed is a look in words, beside its part.
func Observed(seen bool, class terms.Class, note string) string {
	words := "nothing seen"
	if seen {
		words = "seen"
		if class != terms.NotClassed {
			words += ", " + string(class)
		}
	}
	if note != "" {
		words += ": " + note
	}
	return words
}
