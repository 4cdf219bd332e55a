package main

import (
	"os"
	"path/filepath"
)

// writeAside writes a file beside its place and renames it there, so that nobody
// ever sees half of it.
func writeAside(path string, content []byte) error {
	f, err := os.CreateTemp(filepath.Dir(path), ".idlehiss-*")
	if err != nil {
		return err
	}
	defer os.Remove(f.Name())
	if _, err := f.Write(content); err != nil {
		f.Close()
		return err
	}
	if err := f.Close(); err != nil {
		return err
	}
	return os.Rename(f.Name(), path)
}
