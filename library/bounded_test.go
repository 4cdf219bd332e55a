package library

import (
	"fmt"
	"os"
	"path/filepath"
	"strings"
	"syscall"
	"testing"
)

// What no person has written as a circuit is named as faulty at once, and stops no other.
func TestHostileFilesAreNamed(t *testing.T) {
	folder := t.TempDir()
	sound, err := files.ReadFile("circuits/pressure-cap.yaml")
	if err != nil {
		t.Fatal(err)
	}
	aliases := "a: &a [x, x, x, x, x, x, x, x]\n"
	for i, last := 0, "a"; i < 12; i++ {
		next := fmt.Sprintf("b%d", i)
		aliases += next + ": &" + next + " [" + strings.Repeat("*"+last+", ", 8) + "]\n"
		last = next
	}
	for name, text := range map[string]string{
		"brackets.yaml": strings.Repeat("[", 500_000), "braces.yaml": "a: " + strings.Repeat("{a: ", 200_000), "dashes.yaml": strings.Repeat("- ", 400_000) + "x", "indent.yaml": strings.Repeat(" ", 100_000) + "a: 1",
		"steps.yaml": func() (s string) {
			for i := range 900 {
				s += strings.Repeat(" ", i) + "a:\n"
			}
			return s
		}(), "aliases.yaml": aliases, "nothing.yaml": "", "noise.yaml": "\x00\xff\xfe\x01", "large.yaml": strings.Repeat("#\n", 600_000), "sound.yaml": string(sound),
	} {
		if err := os.WriteFile(filepath.Join(folder, name), []byte(text), 0o644); err != nil {
			t.Fatal(err)
		}
	}
	if err := os.Mkdir(filepath.Join(folder, "folder.yaml"), 0o755); err != nil {
		t.Fatal(err)
	}
	if err := syscall.Mkfifo(filepath.Join(folder, "pipe.yaml"), 0o644); err != nil {
		t.Fatal(err)
	}
	if err := os.Symlink("/dev/zero", filepath.Join(folder, "zeros.yaml")); err != nil {
		t.Fatal(err)
	}
	huge, err := os.Create(filepath.Join(folder, "huge.yaml"))
	if err != nil {
		t.Fatal(err)
	}
	if err := huge.Truncate(200 << 20); err != nil {
		t.Fatal(err)
	}
	huge.Close()
	all, err := OwnCircuits(os.DirFS(folder))
	if err != nil || len(all) != 14 {
		t.Fatalf("%d files, %v", len(all), err)
	}
	for _, o := range all {
		if (len(o.Faults) == 0) != (o.File == "sound.yaml") {
			t.Errorf("%s: %v", o.File, o.Faults)
		}
	}
}
