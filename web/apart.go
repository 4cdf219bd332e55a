package web

import (
	"bytes"
	"encoding/json"
	"strings"

	"idlehiss/desk"
)

// apartAtOnce is how much of a text is taken out of its JSON before others get their turn, bytes.
const apartAtOnce = 128 << 10

// apart takes the text of a trace file out of a body, which without it is checked like every other: a text of 32 MB
// would be read and copied several times, and everybody waits for memory. A body with a fault, or without a
// text, or with two, stays as it is: its fault is found where every body's is.
func apart(body []byte, others *desk.Others) (small []byte, text string) {
	from, to := textIn(body)
	if from < 0 {
		return body, ""
	}
	var whole strings.Builder
	whole.Grow(to - from)
	for raw := body[from:to]; len(raw) > 0; others.GiveWay() {
		n := pieceOf(raw)
		var s string
		if json.Unmarshal(append(append([]byte{'"'}, raw[:n]...), '"'), &s) != nil {
			return body, ""
		}
		whole.WriteString(s)
		raw = raw[n:]
	}
	return append(append(bytes.Clone(body[:from]), "apart"...), body[to:]...), whole.String()
}

// pieceOf is how much of a JSON text can be read by itself: up to an end of line past what is read at once.
func pieceOf(raw []byte) int {
	for n := apartAtOnce; n < len(raw); {
		i := bytes.Index(raw[n:], []byte(`\n`))
		if i < 0 {
			break
		}
		if n += i; !escaped(raw, n) {
			return n
		}
		n += 2
	}
	return len(raw)
}

// textIn is where in a body the text lies, without its quotes; -1 where there is none or more than one.
func textIn(body []byte) (from, to int) {
	from, to = -1, -1
	depth, key, named := 0, true, false
	for i := 0; i < len(body); i++ {
		switch body[i] {
		case '{', '[':
			depth++
		case '}', ']':
			depth--
		case ',':
			key = true
		case ':':
			key = false
		case '"':
			end := i + 1
			for {
				n := bytes.IndexByte(body[end:], '"')
				if n < 0 {
					return -1, -1
				}
				if end += n; !escaped(body, end) {
					break
				}
				end++
			}
			switch in := body[i+1 : end]; {
			case depth == 1 && key:
				named = string(in) == "text"
			case depth == 1 && named && from >= 0:
				return -1, -1
			case depth == 1 && named && len(in) > 0:
				from, to = i+1, end
			}
			i = end
		}
	}
	return from, to
}

// escaped reports whether what stands there has an odd number of backslashes before it.
func escaped(b []byte, at int) bool {
	n := 0
	for n < at && b[at-1-n] == '\\' {
		n++
	}
	return n%2 == 1
}
