// Package sheets makes what leaves the shop: the job sheet on paper with its
// charts, as one HTML page that prints. It is given what to say, in words.
package sheets

import (
	"embed"
	"encoding/base64"
	"html/template"
	"io"
	"time"
)

//go:embed sheet.html appendix.html sticker.html
var files embed.FS

var page = template.Must(template.New("sheet.html").Funcs(template.FuncMap{
	"day":  func(t time.Time) string { return t.Local().Format("2 January 2006, 15:04") },
	"ring": func(r string) template.HTML { return template.HTML(ringSVG(r)) },
}).ParseFS(files, "sheet.html", "appendix.html"))

// Sheet is everything that a job's paper says: first what a customer and a second workshop need, on one page where it
// fits, then the rest.
type Sheet struct {
	Head      Head
	Slip      bool   // only what the customer needs
	Size      string // of the paper, as styles name it; empty: the printer's
	Number    string
	Rows      []Row // customer, machine, plate, meter, complaint
	Machine   string
	Ring      string // whole | dotted | nicked | cut
	Verdict   string
	Simulated bool
	Figures   []Figure
	Did       []Row  // how it was tested, so that somebody else can repeat it
	Tests     []Step // of a circuit of several
	NotTested []string
	Overrides []string // the target went over a limit, and why
	Part      string   // where it leaked
	Seen      []string // what was seen there
	Photo     *Photo
	Mend      *Mend         // nil: nothing was mended
	Chart     template.HTML // of the last test, where no repair was proved
	Next      []string      // what is to be done
	Rest      Rest
}

// Head is what a shop puts at the top of its papers.
type Head struct {
	Name     string
	Lines    []string // address, telephone
	Standing string   // at the foot, beside what always stands there
	Always   string
}

// Row is a line of a table: what it is, and what is said of it.
type Row struct{ Label, Text string }

// Mend is what was put right, and whether a hold proved it.
type Mend struct {
	Done        []string
	Proved      bool
	Says        string
	Lost, Loses string // before and after
	Sure        string
	Unlike      []string
	Chart       template.HTML // both holds; empty: there are not two
}

// Rest is what follows the first page.
type Rest struct {
	Facts    []Fact
	Holds    []Hold
	Steps    []Step
	Untested []string
	Schools  []string
	Bores    *Bores // of a housing; nil: it is none
	Looks    []Look
	Photos   []Photo
	Ticks    []Tick
	Cautions []string
}

// Figure is one number with its range.
type Figure struct{ Label, Value, Range string }

// Step is one test of several: what it said, and what was read at it.
type Step struct {
	Title, Verdict, Sentence string
	Read                     []Read
}

// Read is one line of what was read at a step.
type Read struct{ What, Figures, Says string }

// Fact is a sentence and where it is from.
type Fact struct {
	Sentence, Source string
	Superseded       bool
}

// Photo is a picture of a part.
type Photo struct {
	Says string
	JPEG []byte
}

// Data is the picture within the page itself, so that the page is one file.
func (p Photo) Data() template.URL {
	return template.URL("data:image/jpeg;base64," + base64.StdEncoding.EncodeToString(p.JPEG))
}

// Look is what was seen at a part.
type Look struct{ Part, Seen, By string }

// Tick is an item with its state.
type Tick struct {
	Text string
	On   bool
}

// Hold is one hold with its chart.
type Hold struct {
	Title    string
	Sentence string
	How      string // gauge, target, allowance
	Why      []string
	Schools  []string
	Chart    template.HTML
}

// Write renders the paper.
func Write(w io.Writer, s Sheet) error { return page.ExecuteTemplate(w, "sheet.html", s) }

// ringSVG draws the verdict's ring in black ink.
func ringSVG(ring string) string {
	const head = `<svg viewBox="0 0 48 48" width="56" height="56" role="img" aria-hidden="true"><g fill="none" stroke="#111" stroke-width="6" stroke-linecap="round">`
	switch ring {
	case "whole":
		return head + `<circle cx="24" cy="24" r="17"/></g></svg>`
	case "nicked":
		return head + `<path d="M26.4 7.2A17 17 0 1 1 21.6 7.2"/></g></svg>`
	case "cut":
		return head + `<path d="M34.9 11A17 17 0 1 1 24 7"/><path stroke-width="2.5" d="M33 5c3-1 3-4 6-4M38 9c3-1 4-3 7-3"/></g></svg>`
	}
	return head + `<circle cx="24" cy="24" r="17" stroke-dasharray="1 9.7"/></g></svg>`
}
