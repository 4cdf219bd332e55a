package trail

import (
	"fmt"
	"math"
	"strings"

	"idlehiss/core/hunt"
	"idlehiss/core/judge"
	"idlehiss/core/quantity"
	"idlehiss/core/terms"
)

// The words of evidence.

func heldSays(h Held) string {
	under := ""
	if h.Condition.Warmth == terms.Hot {
		under = ", hot"
	}
	what := map[judge.Call]string{judge.Tight: "tight", judge.Leaking: "leaking", judge.NotYet: "not called"}[h.Report.Call]
	if f := h.Report.FlowCm3PerMin; f != nil {
		what += fmt.Sprintf(", %s cm³/min", quantity.Significant(math.Max(0, f.Value), 2))
	}
	return fmt.Sprintf("Hold “%s”%s: %s.", quantity.Lower(h.Step.Title), under, what)
}

func saidSays(x Said) string {
	if x.Right {
		return fmt.Sprintf("“%s”: right.", x.Step.Title)
	}
	return fmt.Sprintf("“%s”: not right.", x.Step.Title)
}

func lookSays(part string, m hunt.Method, saw bool) string {
	if saw {
		return fmt.Sprintf("%s: leak seen (%s).", part, quantity.Lower(m.Title))
	}
	return fmt.Sprintf("%s: nothing seen (%s).", part, quantity.Lower(m.Title))
}

func ranDownSays(part string) string { return part + ": it ran down to there." }

func actSays(what, saw string) string { return strings.TrimSuffix(what, ".") + ": " + saw }

func cameSays(place string) string {
	return fmt.Sprintf("It came out at the %s.", quantity.Lower(place))
}

func triedSays(test, showed string) string { return test + ": " + quantity.Lower(showed) }

func splitSays(left, groups int) string {
	switch {
	case left < 2:
		return "It shows whether that part leaks."
	case groups < 2:
		return fmt.Sprintf("It tries all %d parts that may leak.", left)
	}
	return fmt.Sprintf("%d parts may leak. Where the air comes out splits them into %d groups.", left, groups)
}
