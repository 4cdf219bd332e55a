package trace

import (
	"fmt"
	"math"
	"strings"

	"idlehiss/core/quantity"
)

type role int

const (
	ignored role = iota
	timeCol
	pressureCol
	secondCol
	temperatureCol
	ambientCol
	eventCol
	howCol
)

type column struct {
	role             role
	unit             quantity.Unit
	vacuum, absolute bool
	clock            bool // time as mm:ss, hh:mm:ss or RFC 3339
}

// columns reads the first row. Columns that are not used are named.
func columns(row []string, c table) (cols []column, unused []string, err error) {
	cols = make([]column, len(row))
	seen := map[role]bool{}
	for i, text := range row {
		line, at := c.FieldPos(i)
		fault := func(format string, a ...any) error {
			return &Fault{Line: line, Column: at, Problem: fmt.Sprintf(format, a...)}
		}
		name, unit, hasUnit := titled(text)
		col := &cols[i]
		switch name {
		case "time", "elapsed time":
			col.role = timeCol
			if col.clock = !hasUnit; hasUnit {
				u, err := quantity.Named(unit, quantity.Time)
				if err != nil {
					return nil, nil, fault("%v", err)
				}
				col.unit = u
			}
		case "pressure", "pressure 1", "pressure 2":
			col.role = pressureCol
			if name == "pressure 2" {
				col.role = secondCol
			}
			if !hasUnit {
				return nil, nil, fault("the column %q has no unit; write it in brackets, as in pressure [psi]", text)
			}
			words := strings.Fields(unit)
			for len(words) > 1 && (strings.EqualFold(words[len(words)-1], "vac") || strings.EqualFold(words[len(words)-1], "abs") || strings.EqualFold(words[len(words)-1], "gauge")) {
				col.vacuum = col.vacuum || strings.EqualFold(words[len(words)-1], "vac")
				col.absolute = col.absolute || strings.EqualFold(words[len(words)-1], "abs")
				words = words[:len(words)-1]
			}
			u, err := quantity.Named(strings.Join(words, " "), quantity.Pressure)
			if err != nil {
				return nil, nil, fault("%v", err)
			}
			col.unit = u
		case "temperature", "temp", "temp.":
			if !hasUnit {
				return nil, nil, fault("the column %q has no unit; write it in brackets, as in temperature [°C]", text)
			}
			u, err := quantity.Named(unit, quantity.Warmth)
			if err != nil {
				return nil, nil, fault("%v", err)
			}
			col.role, col.unit = temperatureCol, u
		case "ambient":
			u, err := quantity.Named(unit, quantity.Pressure)
			if err != nil {
				return nil, nil, fault("%v", err)
			}
			col.role, col.unit = ambientCol, u
		case "event":
			col.role = eventCol
		case "how":
			col.role = howCol
		case "":
			continue // padding
		default:
			unused = append(unused, strings.TrimSpace(text)) // a column of another program: it is named in the answer
			continue
		}
		if seen[col.role] {
			return nil, nil, fault("a second column %q; one is wanted (a second gauge is 'pressure 2 [unit]')", name)
		}
		seen[col.role] = true
	}
	line, _ := c.FieldPos(0)
	if !seen[timeCol] {
		return nil, nil, &Fault{Line: line, Problem: "no column 'time [s]' (or [min], [h], or 'time' as mm:ss)"}
	}
	if !seen[pressureCol] {
		return nil, nil, &Fault{Line: line, Problem: "no column 'pressure [unit]', such as pressure [kPa]"}
	}
	return cols, unused, nil
}

// celsius is a temperature in °C, to a millionth: no thermometer shows more.
func celsius(v float64, u quantity.Unit) float64 {
	return math.Round((u.SI(v)+quantity.AbsoluteZero)*1e6) / 1e6
}

// titled is a column's name in lower case and its unit, which stands in square or round
// brackets.
func titled(text string) (name, unit string, hasUnit bool) {
	text = strings.TrimSpace(text)
	if at := strings.LastIndexAny(text, "[("); at >= 0 && strings.ContainsAny(text[len(text)-1:], "])") {
		return strings.ToLower(strings.TrimSpace(text[:at])), strings.TrimSpace(text[at+1 : len(text)-1]), true
	}
	return strings.ToLower(text), "", false
}
