// Package bundle is a job, a machine or the whole book as an open zip, and takes such a zip over: whole or not at all,
// and a second time without a change. What it has of readings is trace files, of which every other program reads the
// pressures too. It writes to the book of its shop and owns no state.
package bundle

import (
	"fmt"
	"regexp"
	"time"

	"idlehiss/logbook"
)

// Format is the version of what is written; a newer one is refused.
const Format = 1

// Manifest is the first thing that is read of a bundle.
type Manifest struct {
	Format  int       `json:"format"`
	Made    time.Time `json:"made"`
	Program string    `json:"program"` // which made it, with its judge's version
	Of      Of        `json:"of"`
	Members []Member  `json:"members"` // all but the manifest itself
}

// Of says what a bundle is of.
type Of string

// What bundles are of.
const (
	OfJob     Of = "job"
	OfMachine Of = "machine"
	OfBook    Of = "book"
)

// Values lists every kind.
func (Of) Values() []string { return []string{string(OfJob), string(OfMachine), string(OfBook)} }

// Member is a file in the zip.
type Member struct {
	Name   string `json:"name"`
	Bytes  int64  `json:"bytes"`
	SHA256 string `json:"sha256"` // hexadecimal
}

// Job is jobs/ID.json.
type Job struct {
	logbook.Job
	Words        string                `json:"words"` // by which it is found
	Facts        []logbook.Fact        `json:"facts"`
	Observations []logbook.Observation `json:"observations"`
	Photos       []logbook.Photo       `json:"photos"` // pictures stand in photos/ID.jpg
	Holds        []Hold                `json:"holds"`
}

// Hold is a hold of a job. Its readings stand in traces/HOLD-1.csv, those of the gauge at the far end in traces/HOLD-2.csv.
type Hold struct {
	logbook.Hold
	Sides  []Side          `json:"sides"`
	Events []logbook.Event `json:"events"`
	Gaps   []logbook.Gap   `json:"gaps"`
	Calls  []logbook.Call  `json:"calls"`
}

// Side is what a trace file does not say of a gauge's readings.
type Side struct {
	Gauge  int            `json:"gauge" minimum:"1" maximum:"100"` // 1 near, 2 far, 100 the thermometer
	Runs   []Run          `json:"runs"`                            // in order of number, which begin with 1
	Struck map[int]string `json:"struck"`                          // why, by number
}

// Run is so many readings by one person from one device.
type Run struct {
	N      int    `json:"n" minimum:"1"`
	By     string `json:"by"`
	Device string `json:"device"`
}

// Kit is kit.json: the whole kit of a book; of a job or a machine what it was tested with, which is told and not taken over.
type Kit struct {
	Pieces    []logbook.Kit     `json:"pieces"`
	Notes     []logbook.KitNote `json:"notes"`
	LastGauge string            `json:"last_gauge"` // the one that is proposed
	LastPump  string            `json:"last_pump"`
}

// Names of members.
const (
	manifestName = "manifest.json"
	machinesName = "machines.json"
	kitName      = "kit.json"
)

func jobName(id string) string     { return "jobs/" + id + ".json" }
func photoName(id string) string   { return "photos/" + id + ".jpg" }
func circuitName(id string) string { return "circuits/" + id + ".yaml" }

func traceName(hold string, gauge int) string { return fmt.Sprintf("traces/%s-%d.csv", hold, gauge) }

// The most that is taken of a bundle. A job of a week is some 20 MB; a trace of the most rows that are read is some 80.
const (
	mostMembers  = 400_000
	mostManifest = 64 << 20
	mostList     = 64 << 20 // machines, kit
	mostJob      = 32 << 20
	mostTrace    = 160 << 20
	mostCircuit  = 1 << 20
	mostPhoto    = 300 << 10
	mostOfAll    = 16 << 30
)

// id is what an id is made of; nothing in it leads out of a folder.
const id = `[A-Za-z0-9][A-Za-z0-9_.-]{0,99}`

var kinds = []struct {
	name *regexp.Regexp
	most int64
}{
	{regexp.MustCompile(`^manifest\.json$`), mostManifest},
	{regexp.MustCompile(`^(machines|kit)\.json$`), mostList},
	{regexp.MustCompile(`^jobs/` + id + `\.json$`), mostJob},
	{regexp.MustCompile(`^traces/` + id + `-[12]\.csv$`), mostTrace},
	{regexp.MustCompile(`^photos/` + id + `\.jpg$`), mostPhoto},
	{regexp.MustCompile(`^circuits/` + id + `\.yaml$`), mostCircuit},
}

// mostOf is how large a member of a name may be; 0 where no bundle has such a one.
func mostOf(name string) int64 {
	for _, k := range kinds {
		if k.name.MatchString(name) {
			return k.most
		}
	}
	return 0
}
