package web

import (
	"crypto/sha256"
	"fmt"
	"strings"

	qrcode "github.com/skip2/go-qrcode"
	"github.com/tyler-smith/go-bip39"
)

// CertificateView is what a certificate is compared by: by what the browser of another device shows of it.
type CertificateView struct {
	SHA256 string   `json:"sha256"` // pairs of figures as browsers write them; empty: without TLS
	Words  []string `json:"words"`  // the same, easier to read out
	QR     string   `json:"qr"`     // the same, as an SVG path of squares of size 1
	Size   int      `json:"size"`   // of the QR code
}

func certificate(raw []byte) (CertificateView, error) {
	v := CertificateView{Words: []string{}}
	if raw == nil {
		return v, nil
	}
	sum := sha256.Sum256(raw)
	v.SHA256 = strings.ReplaceAll(fmt.Sprintf("% X", sum), " ", ":")
	words, err := bip39.NewMnemonic(sum[:])
	if err != nil {
		return v, err
	}
	v.Words = strings.Fields(words)
	code, err := qrcode.New(v.SHA256, qrcode.Medium)
	if err != nil {
		return v, err
	}
	code.DisableBorder = true
	var path strings.Builder
	squares := code.Bitmap()
	for y, row := range squares {
		for x, dark := range row {
			if dark {
				fmt.Fprintf(&path, "M%d %dh1v1h-1z", x, y)
			}
		}
	}
	v.QR, v.Size = path.String(), len(squares)
	return v, nil
}
