package circuit

import "slices"

// Matter is something that practitioners do in different ways. One of its schools
// is chosen for a job and kept with its result.
type Matter struct {
	ID      string `yaml:"id" json:"id"`
	Kind    string `yaml:"kind" json:"kind"` // one of MatterKinds
	Title   string `yaml:"title" json:"title"`
	Schools []Way  `yaml:"schools" json:"schools"` // the first is the default, and its why says why
}

// MatterKinds are what schools may differ in, beside how far to pump and what may
// be lost, which belong to a step.
var MatterKinds = []string{"order", "method"}

// Way is one school's way to do it. Steps and parts name it in with and without, as they
// name options.
type Way struct {
	ID     string `yaml:"id" json:"id"`
	Title  string `yaml:"title" json:"title"`
	Why    string `yaml:"why" json:"why"`
	Fewest bool   `yaml:"fewest" json:"fewest,omitempty"` // holds in the order of the fewest changes of set-up
}

// Loss is what may be lost at a step by one school of it.
type Loss struct {
	ID    string `yaml:"id" json:"id"`
	Title string `yaml:"title" json:"title"`
	Why   string `yaml:"why" json:"why"`
	Allow string `yaml:"allow" json:"allow"` // as in Step.Allow
}

// Allowance is what may be lost by default.
func (s Step) Allowance() string {
	if len(s.Allows) > 0 {
		return s.Allows[0].Allow
	}
	return s.Allow
}

// Matter finds one.
func (c *Circuit) Matter(id string) (Matter, bool) {
	i := slices.IndexFunc(c.Matters, func(m Matter) bool { return m.ID == id })
	if i < 0 {
		return Matter{}, false
	}
	return c.Matters[i], true
}

// Chosen is the school of a matter: the one named, else the default.
func (m Matter) Chosen(id string) Way {
	for _, s := range m.Schools {
		if s.ID == id {
			return s
		}
	}
	return m.Schools[0]
}

// By is the circuit as it is done by these schools, told by matter: what belongs to
// others is not there. A matter that is not told is done by its default.
func (c Circuit) By(chosen map[string]string) Circuit {
	taken := map[string]bool{}
	fewest := false
	for _, m := range c.Matters {
		for _, s := range m.Schools {
			taken[s.ID] = false
		}
		now := m.Chosen(chosen[m.ID])
		taken[now.ID] = true
		fewest = fewest || now.Fewest
	}
	out := c.with(taken)
	if fewest {
		out.Steps = out.fewestChanges()
	}
	return out
}

// Wanted are the titles of the options and schools that a step wants.
func (c *Circuit) Wanted(s Step) []string {
	out := []string{}
	for _, id := range s.With {
		for _, o := range c.Options {
			if o.ID == id {
				out = append(out, o.Title)
			}
		}
		for _, m := range c.Matters {
			for _, w := range m.Schools {
				if w.ID == id {
					out = append(out, w.Title)
				}
			}
		}
	}
	return out
}
