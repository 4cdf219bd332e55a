package main

import (
	"io"
	"os"
	"path/filepath"
)

// writeAside writes a file beside its place and renames it there, so that nobody
// ever sees half of it.
func writeAside(path string, content []byte) error {
	return putAside(path, func(w io.Writer) error {
		_, err := w.Write(content)
		return err
	})
}

func putAside(path string, write func(io.Writer) error) error {
	f, err := os.CreateTemp(filepath.Dir(path), ".idlehiss-*")
	if err != nil {
		return err
	}
	defer os.Remove(f.Name())
	if err := write(f); err != nil {
		f.Close()
		return err
	}
	if err := f.Close(); err != nil {
		return err
	}
	return os.Rename(f.Name(), path)
}

// writeOut writes to a file, or to the standard output where none is named.
func writeOut(o outside, path string, write func(io.Writer) error) error {
	if path == "" {
		return write(o.out)
	}
	return putAside(path, write)
}
