package jobs

import (
	"slices"

	"idlehiss/core/circuit"
	"idlehiss/core/hunt"
	"idlehiss/core/terms"
	"idlehiss/logbook"
)

// joints are the pieces of the rig as suspects.
func (f *file) joints() []circuit.Part {
	var out []circuit.Part
	for _, p := range f.on {
		out = append(out, p.Joint())
	}
	return out
}

// seenAt names those of some parts at which a leak was seen, each once.
func (f *file) seenAt(parts []circuit.Part) []string {
	var out []string
	for _, o := range f.looks {
		if !o.Seen || o.Class == terms.Meant {
			continue
		}
		for _, p := range parts {
			if p.ID == o.Part && !slices.Contains(out, p.Title) {
				out = append(out, p.Title)
			}
		}
	}
	return out
}

// faults names the parts of the circuit at which a leak was seen, the rig's among them.
func (f *file) faults() []string { return f.seenAt(f.parts()) }

// unmended names the parts of the circuit at which a leak was seen last, and not mended since.
func (f *file) unmended() []string {
	last := map[string]logbook.Observation{}
	for _, o := range f.looks {
		last[o.Part] = o
	}
	for _, x := range f.facts {
		if o, ok := last[x.About]; ok && x.Subject == terms.AboutRepair && !x.At.Before(o.At) {
			delete(last, x.About)
		}
	}
	var out []string
	for _, p := range f.own() {
		if o := last[p.ID]; o.Seen && o.Class.Faulty() {
			out = append(out, p.Title)
		}
	}
	return out
}

// parts are those of the circuit as fitted, then those that each thing has one of, as the file
// names them together: a look may be at either.
func (f *file) parts() []circuit.Part {
	out := slices.Clone(f.basis.Circuit.Parts)
	for _, p := range f.basis.Snapshot.Circuit.Parts {
		if !slices.ContainsFunc(out, func(x circuit.Part) bool { return x.ID == p.ID }) {
			out = append(out, p)
		}
	}
	return out
}

// own are the parts of the circuit without those of the rig.
func (f *file) own() []circuit.Part {
	return slices.DeleteFunc(f.parts(), isRig)
}

func isRig(p circuit.Part) bool { return p.Opening || p.Rig }

// rigSeen names where the rig itself was seen to leak: that can be lived with, by name,
// and is no fault of the part.
func (f *file) rigSeen() []string {
	rig := append(f.joints(), hunt.RigItself)
	for _, p := range f.basis.Circuit.Parts {
		if isRig(p) {
			rig = append(rig, p)
		}
	}
	return f.seenAt(rig)
}
