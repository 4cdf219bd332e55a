package passages_test

import (
	"idlehiss/core/passages"
	"idlehiss/library"
)

func init() { passages.Housings = library.Circuits }
