package trail

import (
	"bytes"
	"encoding/binary"
	"image/jpeg"

	"idlehiss/desk"
)

// What is kept of a photo: the page shrinks it before it is sent.
const (
	MostPhotoBytes = 300 << 10
	mostPixels     = 4096 // either way
)

// Markers of a JPEG file (ITU-T T.81, table B.1).
const (
	startOfScan = 0xDA
	comment     = 0xFE
	firstApp    = 0xE1 // APP1: camera, moment, position; APP0 is the file's own form
	lastApp     = 0xEF
)

// CleanPhoto takes out of a JPEG picture what says where and with what it was taken. What is no such
// picture, or too large, is refused.
func CleanPhoto(raw []byte) ([]byte, error) {
	if len(raw) > MostPhotoBytes {
		return nil, desk.Refuse("jpeg", "the photo has %d kB: at most %d kB are kept. The page shrinks it before it is sent", len(raw)>>10, MostPhotoBytes>>10)
	}
	size, err := jpeg.DecodeConfig(bytes.NewReader(raw))
	if err != nil || size.Width > mostPixels || size.Height > mostPixels {
		return nil, desk.Refuse("jpeg", "this is no JPEG photo of at most %d by %d points", mostPixels, mostPixels)
	}
	out := append([]byte{}, raw[:2]...)
	for at := 2; at+4 <= len(raw); {
		if raw[at] != 0xFF {
			return nil, desk.Refuse("jpeg", "this JPEG photo is damaged")
		}
		marker, length := raw[at+1], int(binary.BigEndian.Uint16(raw[at+2:]))
		if marker == startOfScan {
			return append(out, raw[at:]...), nil
		}
		end := at + 2 + length
		if length < 2 || end > len(raw) {
			return nil, desk.Refuse("jpeg", "this JPEG photo is damaged")
		}
		if marker != comment && (marker < firstApp || marker > lastApp) {
			out = append(out, raw[at:end]...)
		}
		at = end
	}
	return nil, desk.Refuse("jpeg", "this JPEG photo is damaged")
}
