package bundle

import (
	"archive/zip"
	"bytes"
	"crypto/sha256"
	"encoding/hex"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"strings"
)

// ErrNoBundle is wrapped when a file is no bundle of this program, or not the one that was made.
var ErrNoBundle = errors.New("no bundle")

func no(format string, a ...any) error {
	return fmt.Errorf("%w: %w", ErrNoBundle, fmt.Errorf(format, a...))
}

// archive is a bundle whose names, sizes and sums were checked. Nothing of it is unpacked to the disk.
type archive struct {
	Manifest
	files map[string]*zip.File
	sums  map[string]string
	used  map[string]bool // was unpacked
}

// open looks at a zip before anything of it is unpacked: only names that a bundle has, each once, none larger than its
// kind may be; a manifest that lists all of them.
func open(from io.ReaderAt, size int64) (*archive, error) {
	z, err := zip.NewReader(from, size)
	if err != nil {
		return nil, no("this is no zip, or it is cut short")
	}
	if len(z.File) > mostMembers {
		return nil, no("it has more than %d files in it", mostMembers)
	}
	a := &archive{files: map[string]*zip.File{}, sums: map[string]string{}, used: map[string]bool{manifestName: true}}
	var all uint64
	for _, f := range z.File {
		switch most := mostOf(f.Name); {
		case most == 0:
			return nil, no("it has a file %.60q in it, which is no part of a bundle", f.Name)
		case f.UncompressedSize64 > uint64(most):
			return nil, no("%s would be %d bytes, and at most %d are taken", f.Name, f.UncompressedSize64, most)
		case a.files[f.Name] != nil:
			return nil, no("%s is in it twice", f.Name)
		case f.Mode()&^0o777 != 0:
			return nil, no("%s is no plain file", f.Name)
		}
		if all += f.UncompressedSize64; all > mostOfAll {
			return nil, no("unpacked it would be more than %d GB", mostOfAll>>30)
		}
		a.files[f.Name] = f
	}
	if a.files[manifestName] == nil {
		return nil, no("it has no %s", manifestName)
	}
	raw, err := a.unpack(manifestName)
	if err != nil {
		return nil, err
	}
	var first struct {
		Format int `json:"format"`
	}
	if json.Unmarshal(raw, &first) == nil && first.Format > Format {
		return nil, no("it was made by a newer idlehiss (format %d, and this one reads %d): bring this one up to date first", first.Format, Format)
	}
	if err := strict(raw, &a.Manifest); err != nil || a.Format < 1 {
		return nil, no("%s is not what it should be", manifestName)
	}
	for _, m := range a.Members {
		if f := a.files[m.Name]; f == nil || m.Name == manifestName || a.sums[m.Name] != "" || int64(f.UncompressedSize64) != m.Bytes || m.SHA256 == "" {
			return nil, no("%s says something else of %.120q than is in it", manifestName, m.Name)
		}
		a.sums[m.Name] = m.SHA256
	}
	if len(a.sums)+1 != len(a.files) {
		return nil, no("there is more in it than %s says", manifestName)
	}
	for _, name := range []string{machinesName, kitName} {
		if a.files[name] == nil {
			return nil, no("it has no %s", name)
		}
	}
	return a, nil
}

// unpack gives a member, not a byte more than it was said to have, if it is the one that was put in.
func (a *archive) unpack(name string) ([]byte, error) {
	f := a.files[name]
	if f == nil {
		return nil, no("it has no %s", name)
	}
	r, err := f.Open()
	if err != nil {
		return nil, no("%s cannot be unpacked", name)
	}
	defer r.Close()
	a.used[name] = true
	var out bytes.Buffer
	if _, err := io.Copy(&out, io.LimitReader(r, int64(f.UncompressedSize64)+1)); err != nil || uint64(out.Len()) != f.UncompressedSize64 {
		return nil, no("%s cannot be unpacked", name)
	}
	if want, ok := a.sums[name]; ok {
		if sum := sha256.Sum256(out.Bytes()); hex.EncodeToString(sum[:]) != want {
			return nil, no("%s is not the one that was put in: the bundle is damaged or was changed", name)
		}
	}
	return out.Bytes(), nil
}

// decode reads a member that is JSON.
func (a *archive) decode(name string, into any) error {
	raw, err := a.unpack(name)
	if err != nil {
		return err
	}
	if err := strict(raw, into); err != nil {
		return no("%s: %w", name, err)
	}
	return nil
}

// strict reads one JSON document that has no other fields than it should.
func strict(raw []byte, into any) error {
	d := json.NewDecoder(bytes.NewReader(raw))
	d.DisallowUnknownFields()
	if err := d.Decode(into); err != nil {
		return err
	}
	if _, err := d.Token(); !errors.Is(err, io.EOF) {
		return errors.New("there is more after its end")
	}
	return nil
}

// named lists the ids of the members in a folder, in the order in which they were put in.
func (a *archive) named(folder, ending string) []string {
	var out []string
	for _, m := range a.Members {
		if rest, ok := strings.CutPrefix(m.Name, folder); ok {
			out = append(out, strings.TrimSuffix(rest, ending))
		}
	}
	return out
}
