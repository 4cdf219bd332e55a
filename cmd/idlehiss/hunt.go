package main

import (
	"fmt"
	"math"
	"slices"
	"strings"

	"idlehiss/core/circuit"
	"idlehiss/core/hunt"
	"idlehiss/core/judge"
	"idlehiss/core/quantity"
	"idlehiss/core/runsheet"
	"idlehiss/core/steps"
	"idlehiss/core/trace"
	"idlehiss/library"
)

type huntCmd struct {
	ID       string       `arg:"" help:"A circuit's id."`
	Findings string       `arg:"" help:"What is known, YAML; - for standard input."`
	Step     string       `help:"The step under way (its first hold)." placeholder:"STEP"`
	With     []string     `help:"An option that this machine has; may be repeated." placeholder:"OPTION"`
	Without  []string     `help:"An option that it has not; may be repeated." placeholder:"OPTION"`
	By       []string     `help:"A school by which it is done, where schools differ; may be repeated." placeholder:"MATTER=SCHOOL"`
	Ambient  pressureFlag `default:"101.325kPa" help:"Air pressure around, absolute."`
	JSON     bool         `name:"json" help:"Print one JSON document."`
}

// flowDoubt is how well a loss is known that is given without bounds, as a share of it.
const flowDoubt = 0.15

// usualPa is the pressure at which it is looked at where neither the mark nor the step tells it.
const usualPa = 100e3

// hunting is a hunt with the file that it is read from.
type hunting struct {
	hunt.Hunt
	cmd   *huntCmd
	clues clues
	dir   string
	mark  *quantity.Reading
}

func (c *huntCmd) Run(o outside) error {
	x, _, err := fitted(c.ID, c.With, c.Without, c.By)
	if err != nil {
		return err
	}
	h := hunting{cmd: c}
	h.Looked, h.Seen, h.Done = map[string][]string{}, map[string]bool{}, map[string]bool{}
	if h.dir, err = readFindings(o, c.Findings, &h.clues); err != nil {
		return err
	}
	x = x.ByThings(h.clues.Called.Things)
	h.Circuit, h.AmbientPa = &x, c.Ambient.Low
	if h.Methods, err = library.Methods(); err != nil {
		return err
	}
	if h.Repairs, err = library.Repairs(); err != nil {
		return err
	}
	for _, weigh := range []func() error{h.step, h.priors, h.holds, h.looks, h.cameOut, h.acts, h.repairs} {
		if err := weigh(); err != nil {
			return badInput("%s: %w", c.Findings, err)
		}
	}
	doc := h.Report()
	if c.JSON {
		return document(o.out, doc)
	}
	printHunt(o.out, &x, &doc)
	return nil
}

// step finds the step under way and how it is held.
func (h *hunting) step() error {
	var ok bool
	if h.Step, ok = h.Circuit.Test(h.cmd.Step); !ok {
		return fmt.Errorf("--step: %s has no step %q", h.Circuit.Title, h.cmd.Step)
	}
	if h.Circuit.Marked() && h.clues.Called.Mark != "" {
		m, err := quantity.DecodeMark(h.clues.Called.Mark, h.Circuit.Plausible())
		if err != nil {
			return fmt.Errorf("mark: %w", err)
		}
		h.mark = &m.Readings[0]
	}
	if h.AtPa = runsheet.About(h.Step, h.mark); h.AtPa == 0 {
		h.AtPa = usualPa
	}
	if h.clues.At != "" {
		v, err := withUnit(h.clues.At, quantity.Pressure)
		if err != nil {
			return fmt.Errorf("at: %w", err)
		}
		h.AtPa = v.Mid()
	}
	switch h.clues.Shop {
	case "", hunt.Quiet:
	case hunt.Noisy:
		h.Loud = true
	default:
		return fmt.Errorf("shop: %q; quiet or noisy is meant", h.clues.Shop)
	}
	h.Tools = map[string]bool{}
	for _, id := range h.clues.Tools {
		if !slices.ContainsFunc(h.Methods, func(m hunt.Method) bool { return m.ID == id && m.Tool }) {
			return fmt.Errorf("tools: no tool %q; there is %s", id, ids(slices.DeleteFunc(slices.Clone(h.Methods), func(m hunt.Method) bool { return !m.Tool }), func(m hunt.Method) string { return m.ID }))
		}
		h.Tools[id] = true
	}
	h.Off = map[string]bool{}
	for _, id := range h.clues.Open {
		i := slices.IndexFunc(h.Circuit.Covers, func(c circuit.Cover) bool { return c.ID == id })
		if i < 0 {
			return fmt.Errorf("open: %s has no cover %q; it has %s", h.Circuit.Title, id, ids(h.Circuit.Covers, func(c circuit.Cover) string { return c.ID }))
		}
		h.Off[id] = true
	}
	return nil
}

// ids lists them for an error.
func ids[T any](all []T, id func(T) string) string {
	out := []string{}
	for _, x := range all {
		out = append(out, id(x))
	}
	return strings.Join(append(out, "none more"), ", ")
}

func (h *hunting) priors() error {
	signs := map[string]bool{}
	for _, s := range h.clues.Signs {
		if !slices.Contains(hunt.SignsOf(h.Circuit), s) {
			return fmt.Errorf("signs: %s has no sign %q; it has %s", h.Circuit.Title, s, ids(hunt.SignsOf(h.Circuit), func(s string) string { return s }))
		}
		signs[s] = true
	}
	h.Suspects = hunt.Suspects(h.Circuit, nil, signs, "")
	told := hunt.Told{RigProven: h.clues.RigProven, Weight: h.clues.Hunch.Weight, Hunch: -1}
	for _, id := range h.clues.WorkedOn {
		i, err := h.index("worked_on", id)
		if err != nil {
			return err
		}
		told.WorkedOn = append(told.WorkedOn, i)
	}
	if h.clues.Hunch.Part != "" {
		i, err := h.index("hunch", h.clues.Hunch.Part)
		if err != nil {
			return err
		}
		if w := h.clues.Hunch.Weight; w <= 0 || w >= 1 {
			return fmt.Errorf("hunch: weight %v; above 0 and below 1 is meant, such as 0.4", w)
		}
		told.Hunch = i
	}
	h.Shares = told.Shares(h.Suspects)
	return nil
}

// index finds a suspect.
func (h *hunting) index(at, id string) (int, error) {
	i := slices.IndexFunc(h.Suspects, func(s hunt.Suspect) bool { return s.ID == id })
	if i < 0 {
		return 0, fmt.Errorf("%s: no suspect %q; there is %s", at, id, ids(h.Suspects, func(s hunt.Suspect) string { return s.ID }))
	}
	return i, nil
}

// holds takes the loss, or the traces of the steps.
func (h *hunting) holds() error {
	if h.clues.Loss.Value != "" {
		held, err := h.held("loss", h.clues.Loss)
		if err != nil {
			return err
		}
		h.Found = append(h.Found, held)
		h.Flow = &hunt.FlowRange{Value: held.Flow * 60e6, Low: math.Max(0, held.Flow-1.96*held.SE) * 60e6, High: (held.Flow + 1.96*held.SE) * 60e6}
	}
	known := h.Circuit.Tests()
	for id := range h.clues.Called.Steps {
		if !slices.ContainsFunc(known, func(s circuit.Step) bool { return s.ID == id }) {
			return fmt.Errorf("%s has no step %q", h.Circuit.Title, id)
		}
	}
	given := steps.Given{AmbientPa: h.AmbientPa, Mark: h.mark, Things: h.clues.Called.Things, Lot: strings.Join(h.clues.Called.Things, "/")}
	call := callCmd{Ambient: h.cmd.Ambient}
	for _, s := range known {
		f, ok := h.clues.Called.Steps[s.ID]
		if !ok {
			continue
		}
		if s.Kind != circuit.Hold {
			out, err := call.judge(h.Circuit, s, f, given)
			if err != nil {
				return fmt.Errorf("step %s: %w", s.ID, err)
			}
			if e, ok := h.Stepped(s, out.Verdict == steps.Good); ok && out.Verdict != steps.Unknown {
				h.Done[s.ID] = true
				h.Found = append(h.Found, e)
			}
			continue
		}
		if f.Trace == "" {
			continue
		}
		rep, _, err := call.hold(h.Circuit, s, f, h.dir, given)
		if err != nil {
			return fmt.Errorf("step %s: %w", s.ID, err)
		}
		h.Done[s.ID] = true
		if rep.Shape == judge.ShapeFloor {
			h.Found = append(h.Found, h.Floors())
		}
		if slices.ContainsFunc(rep.Steps, func(x judge.StepReport) bool { return x.Event == trace.Moved && x.KPa < 0 }) {
			h.Found = append(h.Found, h.MovedAndJumped())
		}
		if r := rep.FlowCm3PerMin; r != nil {
			held := h.Tried(s)
			held.Flow, held.SE, held.Leaking = math.Max(0, r.Value)/60e6, math.Max((r.High-r.Low)/3.92, 1e-3)/60e6, rep.Call == "leaking"
			h.Found = append(h.Found, held)
			if rep.ActS != nil {
				h.WatchS = *rep.ActS
			}
			if h.Flow == nil || held.Leaking {
				h.Flow = (*hunt.FlowRange)(r)
			}
		}
	}
	return h.phase()
}

// held is a flow that was given, in the step under way.
func (h *hunting) held(at string, l lossClue) (hunt.Held, error) {
	out := h.Tried(h.Step)
	v, err := withUnit(l.Value, quantity.Flow)
	if err != nil {
		return out, fmt.Errorf("%s: %w", at, err)
	}
	out.Flow, out.SE, out.Leaking = v.Low, math.Max(flowDoubt*v.Low, 1e-3/60e6), v.Low > 0
	if l.Low != "" || l.High != "" {
		low, errLow := withUnit(l.Low, quantity.Flow)
		high, errHigh := withUnit(l.High, quantity.Flow)
		if errLow != nil || errHigh != nil || !(low.Low <= v.Low && v.Low <= high.Low && low.Low < high.Low) {
			return out, fmt.Errorf("%s: low, value and high are flows with their units, in that order, such as low: 2.5 cm3/min", at)
		}
		out.SE = (high.Low - low.Low) / 3.92
	}
	return out, nil
}

func (h *hunting) phase() error {
	switch h.clues.Phase {
	case "", "unknown":
	case "gas", "liquid":
		h.Found = append(h.Found, hunt.Phase{Dripped: h.clues.Phase == "liquid"})
	default:
		return fmt.Errorf("phase: %q; gas, liquid or unknown is meant", h.clues.Phase)
	}
	return nil
}

func (h *hunting) looks() error {
	for _, l := range h.clues.Looks {
		i, err := h.index("looks", l.Part)
		if err != nil {
			return err
		}
		k := slices.IndexFunc(h.Methods, func(m hunt.Method) bool { return m.ID == l.Method })
		if k < 0 {
			return fmt.Errorf("looks: no method %q; there is %s", l.Method, ids(h.Methods, func(m hunt.Method) string { return m.ID }))
		}
		h.Found = append(h.Found, h.Look(i, h.Methods[k], l.Seen))
		if !slices.Contains(h.Looked[l.Part], l.Method) {
			h.Looked[l.Part] = append(h.Looked[l.Part], l.Method)
		}
		h.Seen[l.Part] = h.Seen[l.Part] || l.Seen
	}
	return nil
}

func (h *hunting) cameOut() error {
	for _, out := range h.clues.CameOut {
		s := h.Step
		if out.Step != "" {
			var ok bool
			if s, ok = h.Circuit.Test(out.Step); !ok {
				return fmt.Errorf("came_out: %s has no step %q", h.Circuit.Title, out.Step)
			}
		}
		there, ok := h.Comes(s, out.At)
		if !ok {
			return fmt.Errorf("came_out: %s has no chamber, port or part %q", h.Circuit.Title, out.At)
		}
		h.Found = append(h.Found, hunt.CameOut{There: there})
	}
	return nil
}

func (h *hunting) acts() error {
	for _, a := range h.clues.Acts {
		before, errBefore := h.held("acts: before", lossClue{Value: a.Before})
		after, errAfter := h.held("acts: after", lossClue{Value: a.After})
		if a.Changed == nil && (errBefore != nil || errAfter != nil || before.Flow <= 0) {
			return fmt.Errorf("acts: say whether it changed (changed: true or false), or the losses before and after, such as before: 3 cm3/min")
		}
		tries, air := a.Tries, 0.0
		if i := slices.IndexFunc(h.Circuit.Acts, func(x circuit.Act) bool { return x.ID == a.Act }); i >= 0 {
			h.Done[a.Act], air = true, h.Circuit.Acts[i].Air
			if len(tries) == 0 {
				tries = h.Circuit.CutOff(h.Circuit.Acts[i], h.Step)
			}
		}
		if len(tries) == 0 && a.Part != "" {
			tries = []string{a.Part}
		}
		points := make([]bool, len(h.Suspects))
		for _, id := range tries {
			i, err := h.index("acts: tries", id)
			if err != nil {
				return err
			}
			points[i] = true
		}
		if !slices.Contains(points, true) {
			return fmt.Errorf("acts: name the parts that it tries (tries), or one of this circuit's acts: %s", ids(h.Circuit.Acts, func(x circuit.Act) string { return x.ID }))
		}
		if a.Changed != nil {
			h.Found = append(h.Found, hunt.Did(points, *a.Changed))
			continue
		}
		share := after.Flow / before.Flow
		h.Found = append(h.Found, hunt.Slowed{Cut: points, Share: share, SE: math.Hypot(after.SE, share*before.SE) / before.Flow, Air: air})
	}
	return nil
}

func (h *hunting) repairs() error {
	for _, r := range h.clues.Repairs {
		i, err := h.index("repairs", r.Part)
		if err != nil {
			return err
		}
		after, err := h.held("repairs: loss_after", lossClue{Value: r.LossAfter})
		if err != nil {
			return err
		}
		h.Found = append(h.Found, hunt.Mended{Part: i, After: after})
	}
	return nil
}
