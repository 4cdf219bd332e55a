package main

import "github.com/goccy/go-yaml"

// clues is the file: that of call, with more that may be known.
type clues struct {
	Called    findings     `yaml:",inline"`
	Loss      lossClue     `yaml:"loss"`
	At        string       `yaml:"at"`
	Phase     string       `yaml:"phase"`
	Complaint string       `yaml:"complaint"` // for the reader: no rule reads it
	Signs     []string     `yaml:"signs"`
	WorkedOn  []string     `yaml:"worked_on"`
	Hunch     hunchClue    `yaml:"hunch"`
	Shop      string       `yaml:"shop"`
	Open      []string     `yaml:"open"`
	Tools     []string     `yaml:"tools"`
	RigProven bool         `yaml:"rig_proven"`
	Looks     []lookClue   `yaml:"looks"`
	CameOut   []outClue    `yaml:"came_out"`
	Acts      []actClue    `yaml:"acts"`
	Repairs   []repairClue `yaml:"repairs"`
}

type lossClue struct{ Value, Low, High string }

// UnmarshalYAML reads a figure, or one with its bounds.
func (l *lossClue) UnmarshalYAML(raw []byte) error {
	if err := yaml.Unmarshal(raw, &l.Value); err == nil {
		return nil
	}
	var whole struct {
		Value string `yaml:"value"`
		Low   string `yaml:"low"`
		High  string `yaml:"high"`
	}
	err := yaml.UnmarshalWithOptions(raw, &whole, yaml.Strict())
	*l = lossClue(whole)
	return err
}

type hunchClue struct {
	Part   string  `yaml:"part"`
	Weight float64 `yaml:"weight"`
}

type lookClue struct {
	Part   string `yaml:"part"`
	Method string `yaml:"method"`
	Seen   bool   `yaml:"seen"`
}

type outClue struct {
	At   string `yaml:"at"`
	Step string `yaml:"step"`
}

type actClue struct {
	Act     string   `yaml:"act"`
	Part    string   `yaml:"part"`
	Tries   []string `yaml:"tries"`
	Changed *bool    `yaml:"changed"`
	Before  string   `yaml:"before"`
	After   string   `yaml:"after"`
}

type repairClue struct {
	Part      string `yaml:"part"`
	Repair    string `yaml:"repair"`
	LossAfter string `yaml:"loss_after"`
}
