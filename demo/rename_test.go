package demo

import (
	"context"
	"database/sql"
	"encoding/json"
	"fmt"
	"io/fs"
	"os"
	"path/filepath"
	"regexp"
	"strings"
	"testing"
	"time"

	"github.com/goccy/go-yaml"

	"idlehiss/logbook"
	"idlehiss/shop"
)

// labels are the keys of a circuit file whose words are for people.
var labels = map[string]bool{"title": true, "label": true, "text": true, "look": true, "why": true, "summary": true, "standing": true, "note": true, "says": true, "on": true,
	"faster": true, "close": true, "help": true, "behind": true, "source": true, "starts": true, "cause": true}

// listed are the keys whose lists are for people.
var listed = map[string]bool{"not_tested": true, "state": true, "complaints": true}

// renamed gives every label of a circuit file another name, x1, x2, …: one that stands
// twice has the same again.
func renamed(node any, n *int, names map[string]string) any {
	fresh := func(was string) string {
		if names[was] == "" {
			*n++
			names[was] = fmt.Sprintf("x%d", *n)
		}
		return names[was]
	}
	switch x := node.(type) {
	case map[string]any:
		for k, v := range x {
			switch text, ok := v.(string); {
			case ok && labels[k] && text != "":
				x[k] = fresh(text)
			case listed[k]:
				list, _ := v.([]any)
				for i := range list {
					if was, ok := list[i].(string); ok {
						list[i] = fresh(was)
					}
				}
			default:
				x[k] = renamed(v, n, names)
			}
		}
	case []any:
		for i := range x {
			x[i] = renamed(x[i], n, names)
		}
	}
	return node
}

// said is what a shop's sheets say, without a word of it: calls, gates, suspects, filters.
func said(t *testing.T, folder string) map[string]string {
	t.Helper()
	ctx := context.Background()
	book, err := logbook.Open(ctx, folder)
	if err != nil {
		t.Fatal(err)
	}
	defer book.Close()
	s, err := shop.New(ctx, book, &past{now: now}, shop.Options{Demo: true})
	if err != nil {
		t.Fatal(err)
	}
	defer s.Close()
	// The gauges of the running holds speak when a shop opens: now, and not whenever the
	// shop's own loop comes to it.
	s.Holds.ReadGauges(ctx)
	rows, err := book.Search(ctx, logbook.Wanted{}, logbook.Newest, 100)
	if err != nil {
		t.Fatal(err)
	}
	out := map[string]string{}
	for _, row := range rows {
		j, err := s.Jobs.Job(ctx, row.ID)
		if err != nil {
			t.Fatal(err)
		}
		var b strings.Builder
		note := func(a ...any) { fmt.Fprintln(&b, a...) }
		note(j.State, row.Call, j.Ring, j.Current, j.Call.Verdict, j.Call.Next, len(j.Call.Untested), len(j.Outstanding), j.RigProven, j.Mend.Proof.State, len(j.Mend.Parts), j.Marked, j.Warms)
		for _, st := range j.Stages {
			note(st.ID, st.Kind, st.Done, st.Ring, len(st.Ticks), len(st.Cautions))
		}
		for _, st := range j.Steps {
			note(st.ID, st.Kind, st.Outcome.Verdict, st.Ring, len(st.Waits), len(st.Unsafe), len(st.Changes), len(st.Accepted), st.Energy != "", len(st.Closures), len(st.Ask.Fields), len(st.Ask.Rows))
			for _, c := range st.Pending {
				note(c.ID)
			}
			for _, r := range st.Outcome.Rows {
				note(r.ID, r.Verdict)
			}
			if p := st.Plan; p != nil {
				note(p.Target.Pa, p.Target.School, p.Weakest.Pa, p.Gauge.ID, p.Pump.ID, p.Wanted.From, p.Allowance.PaPerS, p.Fit.Fits, len(p.Schools), len(p.Limits))
			}
		}
		for _, x := range j.Suspects {
			note(x.ID, fmt.Sprintf("%.9f", x.Share), x.OfRig, x.Faulty, x.Looked, len(x.Signs))
		}
		for _, p := range j.Mend.Parts {
			note(p.ID, p.Seen, len(p.Ladder))
		}
		for _, p := range j.Rig.Pieces {
			note(p.ID, p.Suits, p.On)
		}
		for _, h := range j.Holds {
			if h.Report == nil {
				continue
			}
			note(h.Test, h.Purpose, h.State, h.Ring, h.Report.Call, h.Report.Shape, h.Allowance.PaPerS, h.Condition.Under)
			for _, r := range h.Report.Reasons {
				note(r.Code)
			}
		}
		for _, f := range j.Facts {
			note(f.Subject, f.About, f.Stage, f.Source, f.Superseded, f.Against != "")
		}
		text := b.String()
		out[fmt.Sprint(j.Machine, j.At.Format(time.RFC3339))] = ids.ReplaceAllString(text, "id")
	}
	return out
}

// ids are those that each shop makes for itself.
var ids = regexp.MustCompile(`[0-9a-f]{8}-[0-9a-f]{4}-[0-9a-f]{4}-[0-9a-f]{4}-[0-9a-f]{12}`)

// Every label renamed, in all circuits and in the kit: the same story comes to the same
// calls, gates, suspects and filters.
func TestRenamingEveryLabelChangesNothing(t *testing.T) {
	plain, other := filled(t), t.TempDir()
	n := 0
	if err := os.Mkdir(filepath.Join(other, "circuits"), 0o755); err != nil {
		t.Fatal(err)
	}
	files, err := fs.Glob(os.DirFS("../library"), "circuits/*.yaml")
	if err != nil {
		t.Fatal(err)
	}
	for _, f := range files {
		raw, err := os.ReadFile(filepath.Join("../library", f))
		if err != nil {
			t.Fatal(err)
		}
		var doc map[string]any
		if err := yaml.Unmarshal(raw, &doc); err != nil {
			t.Fatal(err)
		}
		if raw, err = yaml.Marshal(renamed(doc, &n, map[string]string{})); err != nil {
			t.Fatal(err)
		}
		if err := os.WriteFile(filepath.Join(other, f), raw, 0o644); err != nil {
			t.Fatal(err)
		}
	}
	if n < 1000 {
		t.Fatalf("only %d labels were renamed", n)
	}
	if err := fill(other); err != nil {
		t.Fatal(err)
	}
	same := func(what string) {
		t.Helper()
		want, got := said(t, plain), said(t, other)
		if len(want) != len(got) || len(want) < 15 {
			t.Fatalf("%s: %d sheets of %d", what, len(got), len(want))
		}
		for machine, w := range want {
			if g := got[machine]; g != w {
				a, b := strings.Split(w, "\n"), strings.Split(g, "\n")
				for i := range a {
					if i >= len(b) || a[i] != b[i] {
						t.Errorf("%s, %s: %q became %q", what, machine, a[i], b[min(i, len(b)-1)])
						break
					}
				}
			}
		}
	}
	same("circuits renamed")
	db, err := sql.Open("sqlite", "file:"+filepath.Join(other, logbook.File))
	if err != nil {
		t.Fatal(err)
	}
	rows, err := db.Query("SELECT id, body FROM kit")
	if err != nil {
		t.Fatal(err)
	}
	bodies := map[string]string{}
	for rows.Next() {
		var id, body string
		if err := rows.Scan(&id, &body); err != nil {
			t.Fatal(err)
		}
		bodies[id] = body
	}
	for id, body := range bodies {
		var piece map[string]any
		if err := json.Unmarshal([]byte(body), &piece); err != nil {
			t.Fatal(err)
		}
		n++
		piece["name"], piece["fits"] = fmt.Sprintf("x%d", n), ""
		raw, _ := json.Marshal(piece)
		if _, err := db.Exec("UPDATE kit SET body = ? WHERE id = ?", string(raw), id); err != nil {
			t.Fatal(err)
		}
	}
	if err := db.Close(); err != nil {
		t.Fatal(err)
	}
	same("kit renamed")
}

// No rule of the program or of the page compares or searches a label or a sentence.
func TestNoRuleReadsALabel(t *testing.T) {
	rules := map[string][]*regexp.Regexp{
		".go": {
			regexp.MustCompile(`\.(Title|Label|Says|Sentence|Text|Note|Look|Why|Summary|Folded|Standing)\s*(==|!=)\s*"[^"]`),
			regexp.MustCompile(`strings\.(Contains|HasPrefix|HasSuffix|EqualFold|Cut|CutPrefix|CutSuffix|Index|Replace|ReplaceAll)\([^,()]*\.(Title|Label|Says|Sentence|Text|Note|Look|Why|Summary|Next)\b`),
			regexp.MustCompile(`\.(Kind|Purpose|State|Class|Source|Stage|Subject) [!=]= "[^"]`),
		},
		".svelte": page, ".ts": page,
	}
	seen := 0
	err := filepath.WalkDir("..", func(path string, d fs.DirEntry, err error) error {
		if err != nil {
			return err
		}
		if d.IsDir() && (d.Name() == "node_modules" || d.Name() == "dist" || d.Name() == ".git") {
			return filepath.SkipDir
		}
		all := rules[filepath.Ext(path)]
		if d.IsDir() || all == nil || strings.HasSuffix(path, "_test.go") {
			return nil
		}
		raw, err := os.ReadFile(path)
		if err != nil {
			return err
		}
		seen++
		for i, line := range strings.Split(string(raw), "\n") {
			for _, r := range all {
				if r.MatchString(line) {
					t.Errorf("%s:%d: %s", path, i+1, strings.TrimSpace(line))
				}
			}
		}
		return nil
	})
	if err != nil || seen < 200 {
		t.Fatalf("%d files, %v", seen, err)
	}
}

var page = []*regexp.Regexp{
	regexp.MustCompile(`\.(title|label|says|sentence|text|note|summary|under_text|alarm_text|why)\s*[!=]==\s*['"` + "`" + `][^'"` + "`" + `]`),
	regexp.MustCompile(`\.(title|label|sentence|summary|under_text|alarm_text|why)\s*[!=]==\s*[a-z]`),
	regexp.MustCompile(`\.(title|label|says|sentence|summary|under_text|alarm_text|why|next)\??\.(includes|startsWith|endsWith|match|replace|search|indexOf)\(`),
}
