package library

import (
	"bytes"
	"fmt"
	"io/fs"
)

// What a shop's own file may be at most. Circuits are some kilobytes and six levels deep; a reader of more would only
// be kept busy.
const (
	mostBytes  = 1 << 20
	mostDepth  = 100 // brackets that are open at once
	mostDashes = 16  // items that begin in one line
	mostIndent = 400
)

// ReadOwn reads a shop's own file, or says why it is none: a folder, a pipe or a disk is never opened, and nothing is
// read that no person has written.
func ReadOwn(folder fs.FS, name string) ([]byte, error) {
	info, err := fs.Stat(folder, name)
	if err != nil {
		return nil, fmt.Errorf("it cannot be read: %w", err)
	}
	if !info.Mode().IsRegular() {
		return nil, fmt.Errorf("it is no file of text")
	}
	if info.Size() > mostBytes {
		return nil, fmt.Errorf("it is larger than a mebibyte: such a file is some kilobytes")
	}
	raw, err := fs.ReadFile(folder, name)
	if err != nil {
		return nil, fmt.Errorf("it cannot be read: %w", err)
	}
	return raw, Shallow(raw)
}

// Shallow refuses a text that is nested deeper than anybody writes: a reader of it would only be kept busy.
func Shallow(raw []byte) error {
	depth := 0
	for i, line := range bytes.Split(raw, []byte("\n")) {
		rest := bytes.TrimLeft(line, " \t")
		indent, dashes := len(line)-len(rest), 0
		for bytes.HasPrefix(rest, []byte("- ")) {
			rest, dashes = bytes.TrimLeft(rest[2:], " "), dashes+1
		}
		for _, c := range rest {
			switch c {
			case '[', '{':
				depth++
			case ']', '}':
				depth = max(0, depth-1)
			}
			if depth > mostDepth {
				break
			}
		}
		if depth > mostDepth || dashes > mostDashes || indent > mostIndent {
			return fmt.Errorf("line %d: it is nested deeper than anybody writes", i+1)
		}
	}
	return nil
}
