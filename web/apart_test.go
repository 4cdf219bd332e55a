package web

import (
	"encoding/json"
	"fmt"
	"strings"
	"testing"

	"idlehiss/desk"
)

// What is taken out of a body and what is left say what the whole said, wherever it is cut; a body whose text is not
// plain to see stays as it is.
func TestATextIsTakenOutWhole(t *testing.T) {
	for what, line := range map[string]string{"plain": "0,110.25,x\n", "quotes and backslashes": `"C:\\nets\" \`, "other letters": "Öl, 漏, 🚜\n", "one line": "1,2;", "ends of lines that are none": `\n\\n`, "empty": ""} {
		text := strings.Repeat(line, 3*apartAtOnce/max(1, len(line))+1)
		for _, body := range []map[string]any{{"text": text, "name": `a "text": "b"`, "by": "text"}, {"id": []any{"text", map[string]any{"text": "inner"}}, "text": text, "zone": `\"`}} {
			raw, err := json.Marshal(body)
			if err != nil {
				t.Fatal(err)
			}
			small, got := apart(raw, &desk.Others{})
			var left map[string]any
			if err := json.Unmarshal(small, &left); err != nil || got != text {
				t.Fatalf("%s: %d letters of %d, %v", what, len(got), len(text), err)
			}
			if text != "" && left["text"] != "apart" {
				t.Errorf("%s: the text is still there", what)
			}
			left["text"] = ""
			body["text"] = ""
			if want, have := fmt.Sprint(body), fmt.Sprint(left); want != have {
				t.Errorf("%s: left %s of %s", what, have, want)
			}
		}
	}
	for _, body := range []string{"", "{", `{"text`, `{"text": "a`, `{"text": "a\`, `{"text": "a", "text": "b"}`, `{"text": "\x"}`, `{"text": 5}`, `["text", "a"]`, `{"in": {"text": "a"}}`, "}\"text\":\"a\""} {
		if small, text := apart([]byte(body), &desk.Others{}); string(small) != body || text != "" {
			t.Errorf("%s: %s and %q", body, small, text)
		}
	}
}
