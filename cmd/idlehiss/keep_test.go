package main

import (
	"encoding/json"
	"os"
	"path/filepath"
	"strings"
	"testing"

	"idlehiss/backups"
	"idlehiss/bundle"
	"idlehiss/logbook"
)

// The usual day: a backup while the shop is open, and the book back after it was lost.
func TestTheBookIsBackedUpCheckedAndRestored(t *testing.T) {
	data, stick := t.TempDir(), t.TempDir()
	job, hold, _, shut := kept(t, data)
	ran := func(want int, args ...string) (out, errs string) {
		t.Helper()
		code, out, errs := idlehiss("", args...)
		if code != want {
			t.Fatalf("%v: exit %d, %q, %q", args, code, out, errs)
		}
		return out, errs
	}
	file := filepath.Join(stick, "kept.db")
	ran(0, "backup", file, "--data", data)
	ran(0, "backup", file, "--data", data) // in the place of the last
	ran(0, "backup", stick, "--data", data)
	if all, err := backups.In(stick); err != nil || len(all) != 1 {
		t.Errorf("into a folder: %v %v", all, err)
	}
	if _, errs := ran(1, "restore", file, "--data", data, "--replace"); !strings.Contains(errs, "another idlehiss") {
		t.Errorf("under an open shop: %q", errs)
	}
	shut()
	before, _ := ran(0, "export", hold, "--data", data)
	if err := os.Remove(filepath.Join(data, logbook.File)); err != nil {
		t.Fatal(err)
	}
	if _, errs := ran(2, "serve", "--data", data, "--addr", "127.0.0.1:0"); !strings.Contains(errs, "restore") {
		t.Errorf("a book that is gone: %q", errs)
	}
	ran(0, "restore", file, "--data", data)
	if after, _ := ran(0, "export", job, "--data", data); after != before {
		t.Error("the hold is another after it was restored")
	}
	var sound sounded
	out, _ := ran(0, "check", "--data", data, "--json")
	if err := json.Unmarshal([]byte(out), &sound); err != nil || !sound.Sound || sound.Holds == 0 || sound.Calls == 0 {
		t.Errorf("%s %v", out, err)
	}
	// Noise over its last pages.
	f, err := os.OpenFile(filepath.Join(data, logbook.File), os.O_WRONLY, 0)
	if err != nil {
		t.Fatal(err)
	}
	info, err := f.Stat()
	if err != nil {
		t.Fatal(err)
	}
	if _, err := f.WriteAt([]byte(strings.Repeat("noise", 1600)), info.Size()-8192); err != nil {
		t.Fatal(err)
	}
	f.Close()
	ran(1, "check", "--data", data)
	if _, errs := ran(2, "backup", file, "--data", data); errs == "" {
		t.Error("a damaged book was backed up without a word")
	}
	saved := filepath.Join(stick, "saved.db")
	ran(1, "check", "--data", data, "--save", saved)
	ran(0, "check", "--file", file) // the good backup is as it was
	ran(2, "restore", saved+"x", "--data", data, "--replace")
	ran(0, "restore", file, "--data", data, "--replace")
	if after, _ := ran(0, "export", job, "--data", data); after != before {
		t.Error("the hold is another after the second time")
	}
	ran(2, "check", "--data", t.TempDir())
	ran(2, "backup", file, "--data", t.TempDir())
}

// A job goes as a bundle from one shop's folder to another's, and with it the machine.
func TestABundleGoesFromFolderToFolder(t *testing.T) {
	here, there := t.TempDir(), t.TempDir()
	job, hold, _, shut := kept(t, here)
	ran := func(want int, args ...string) string {
		t.Helper()
		code, out, errs := idlehiss("", args...)
		if code != want {
			t.Fatalf("%v: exit %d, %q, %q", args, code, out, errs)
		}
		return out + errs
	}
	zip := filepath.Join(t.TempDir(), "sent.zip")
	ran(0, "export", "--job", job, "--data", here, "--out", zip) // beside the running shop
	shut()
	ran(2, "import", zip, "--try", "--data", there) // a look makes no shop
	var plan bundle.Takeover
	for i, adds := range []bool{true, false} {
		if err := json.Unmarshal([]byte(ran(0, "import", zip, "--data", there, "--json")), &plan); err != nil || !plan.Taken || plan.Adds != adds || plan.Jobs.New+plan.Jobs.Here != 1 {
			t.Errorf("%d: %+v, %v", i, plan, err)
		}
	}
	ran(0, "import", zip, "--data", there, "--try")
	if a, b := ran(0, "export", hold, "--data", here), ran(0, "export", hold, "--data", there); a != b {
		t.Errorf("the hold is another one there:\n%s\n%s", a, b)
	}
	if a, b := ran(0, "export", "--paper", job, "--data", here), ran(0, "export", "--paper", job, "--data", there); a != b || len(a) < 2000 {
		t.Errorf("the paper is another one there: %d and %d letters", len(a), len(b))
	}
	if slip := ran(0, "export", "--paper", job, "--slip", "--unit", "psi", "--size", "letter", "--data", here); !strings.Contains(slip, "For the customer") || !strings.Contains(slip, " psi") || strings.Contains(slip, "Appendix") {
		t.Errorf("a slip in psi: %s", slip)
	}
	for _, args := range [][]string{{"export"}, {"export", hold, "--book"}, {"export", "--job", "nobody"}, {"export", "--machine", "nobody"}, {"export", "--paper", "nobody"}, {"export", "--paper", job, "--unit", "stone"}, {"export", "--paper", job, "--size", "folio"}, {"export", "--job", job, "--slip"}, {"export", "--job", job, "--json"}, {"import", "keep_test.go"}} {
		ran(2, append(args, "--data", there)...)
	}
}
