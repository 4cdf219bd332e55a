package jobs

import (
	"slices"

	"idlehiss/core/circuit"
	"idlehiss/core/hunt"
	"idlehiss/trail"
)

// joints are the pieces of the rig as suspects.
func (f *file) joints() []circuit.Part {
	var out []circuit.Part
	for _, p := range f.on {
		out = append(out, p.Joint())
	}
	return out
}

// faults names the parts of the circuit at which a leak was seen, the rig's among them.
func (f *file) faults() []string { return trail.SeenAt(f.looks, f.parts()) }

// unmended names the parts of the circuit at which a leak was seen last, and not mended since.
func (f *file) unmended() []string { return trail.Unmended(f.looks, f.facts, f.own()) }

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
	return trail.SeenAt(f.looks, rig)
}
