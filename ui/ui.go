// Package ui is the page, built by Vite into dist and embedded here.
package ui

import (
	"embed"
	"fmt"
	"io/fs"
)

//go:embed all:dist
var built embed.FS

// Files are the built page's files.
func Files() (fs.ReadDirFS, error) {
	files, err := fs.Sub(built, "dist")
	if err != nil {
		return nil, err
	}
	if _, err := fs.Stat(files, "index.html"); err != nil {
		return nil, fmt.Errorf("the page is not built into this program: run 'make build'")
	}
	return files.(fs.ReadDirFS), nil // which a part of an embedded tree is
}
