package sheets

import (
	"fmt"
	"html/template"
	"io"
	"strings"

	qrcode "github.com/skip2/go-qrcode"
)

var sticker = template.Must(template.New("sticker.html").ParseFS(files, "sticker.html"))

// Sticker is a label for a machine: its name, and a code that opens its page.
type Sticker struct {
	Name    string
	Shop    string
	Address string // of the machine's page
	Reached bool   // by other devices
}

// Print writes it as a page of its own.
func (s Sticker) Print(w io.Writer) error {
	code, size, err := Code(s.Address)
	if err != nil {
		return err
	}
	return sticker.Execute(w, struct {
		Sticker
		Code string
		Span int
	}{s, code, size + 4})
}

// Code is a text as a QR code: an SVG path of squares of size 1, and how many there are to a side.
func Code(text string) (path string, size int, err error) {
	code, err := qrcode.New(text, qrcode.Medium)
	if err != nil {
		return "", 0, err
	}
	code.DisableBorder = true
	var b strings.Builder
	squares := code.Bitmap()
	for y, row := range squares {
		for x, dark := range row {
			if dark {
				fmt.Fprintf(&b, "M%d %dh1v1h-1z", x, y)
			}
		}
	}
	return b.String(), len(squares), nil
}
