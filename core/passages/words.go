package passages

import (
	"fmt"
	"strings"

	"idlehiss/core/circuit"
	"idlehiss/core/quantity"
)

// title names a chamber, a port, a position or a part.
func title(c *circuit.Circuit, id string) string {
	if ch, ok := c.Chamber(id); ok {
		return ch.Title
	}
	for _, x := range c.Parts {
		if x.ID == id {
			return x.Title
		}
	}
	for _, x := range c.Ports {
		if x.ID == id || "port-"+x.ID == id {
			return x.Title
		}
	}
	for _, x := range c.Positions {
		if x.ID == id {
			return x.Title
		}
		for _, s := range x.States {
			if s.ID == id {
				return s.Title
			}
		}
	}
	return id
}

// says are changes in words.
func says(c *circuit.Circuit, all []Change) []string {
	out := []string{}
	for _, x := range all {
		out = append(out, x.Says(c))
	}
	return out
}

// Says is a change in words.
func (x Change) Says(c *circuit.Circuit) string {
	what := title(c, x.At)
	switch x.Does {
	case LetGo:
		return quantity.Capital(what) + ": let go"
	case Unplug:
		return "Plug out: " + quantity.Lower(what)
	case Plug:
		return "Plug in: " + quantity.Lower(what)
	case Move:
		return quantity.Capital(what) + " to " + title(c, x.To)
	case Work:
		return quantity.Capital(what) + " held " + x.To
	case Unfeed:
		return "Air off: " + quantity.Lower(what)
	case Feed:
		return "Air in: " + quantity.Lower(what)
	}
	return what
}

// Says names a test: where air goes in, and how what differs from as it was found stands.
func (t Test) Says(c *circuit.Circuit) string {
	says := "Air into the " + quantity.Lower(title(c, t.setup.feed))
	var more []string
	for i, p := range c.Positions {
		if len(c.Positions) == 1 || t.setup.levers[i] != p.States[0].ID {
			more = append(more, quantity.Lower(p.Title)+" "+title(c, t.setup.levers[i]))
		}
	}
	for _, w := range t.setup.worked {
		i := strings.LastIndexByte(w, ' ')
		more = append(more, quantity.Lower(title(c, w[:i]))+" held "+w[i+1:])
	}
	if len(more) > 0 {
		says += ", " + strings.Join(more, ", ")
	}
	return says
}

// PlaceOf is the id of the place that Test.Out means: a chamber, the part itself, or Unseen.
func PlaceOf(out string) string { return strings.TrimPrefix(out, atItself) }

// PlaceSays is a place in words.
func PlaceSays(c *circuit.Circuit, place string) string {
	if place == Unseen {
		return "The needle falls, nothing comes out"
	}
	return quantity.Capital(title(c, place))
}

// MinutesSay is minutes in words, to the half.
func MinutesSay(minutes float64) string {
	return fmt.Sprintf("%.3g min", float64(int(2*minutes+0.5))/2)
}
