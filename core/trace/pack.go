package trace

import (
	"bytes"
	"encoding/binary"
	"encoding/gob"
	"errors"
	"hash/crc32"
)

// Row is a reading as it was taken down.
type Row struct {
	At    int64 // µs
	Value float64
	Taken
}

// Taken is what most readings of a gauge have in common: unit, way of reading, who took it down from which device, and
// why it is struck.
type Taken struct{ Unit, How, By, Device, Struck string }

// pack is rows column by column.
type pack struct {
	At    []int64 // each but the first since the one before
	Value []float64
	As    []uint16 // which of Of
	Of    []Taken
}

// sumBytes is the length of the check sum in front of a pack.
const sumBytes = 4

// ErrPack is that a pack is not as it was written.
var ErrPack = errors.New("packed readings are not as they were written")

// Pack writes up to 65,536 rows as one body of some fifteen bytes a row, with a sum by which Unpack knows it again.
func Pack(rows []Row) ([]byte, error) {
	p, seen, last := pack{}, map[Taken]uint16{}, int64(0)
	for _, r := range rows {
		n, ok := seen[r.Taken]
		if !ok {
			n = uint16(len(seen))
			seen[r.Taken] = n
			p.Of = append(p.Of, r.Taken)
		}
		p.At, p.Value, p.As = append(p.At, r.At-last), append(p.Value, r.Value), append(p.As, n)
		last = r.At
	}
	out := bytes.NewBuffer(make([]byte, sumBytes))
	err := gob.NewEncoder(out).Encode(p)
	body := out.Bytes()
	binary.LittleEndian.PutUint32(body, crc32.ChecksumIEEE(body[sumBytes:]))
	return body, err
}

// SoundPack reports whether a body is as it was written.
func SoundPack(body []byte) bool {
	return len(body) > sumBytes && binary.LittleEndian.Uint32(body) == crc32.ChecksumIEEE(body[sumBytes:])
}

// Unpack reads it back; one that is not sound is ErrPack.
func Unpack(body []byte) ([]Row, error) {
	var p pack
	if !SoundPack(body) {
		return nil, ErrPack
	}
	if err := gob.NewDecoder(bytes.NewReader(body[sumBytes:])).Decode(&p); err != nil {
		return nil, errors.Join(ErrPack, err)
	}
	rows, at := make([]Row, len(p.At)), int64(0)
	for i, since := range p.At {
		at += since
		rows[i] = Row{at, p.Value[i], p.Of[p.As[i]]}
	}
	return rows, nil
}
