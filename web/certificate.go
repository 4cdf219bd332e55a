package web

import (
	"crypto/sha256"
	"fmt"
	"strings"

	"github.com/tyler-smith/go-bip39"

	"idlehiss/sheets"
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
	v.QR, v.Size, err = sheets.Code(v.SHA256)
	return v, err
}
