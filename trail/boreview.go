package trail

import (
	"idlehiss/core/circuit"
	"idlehiss/core/passages"
)

// PassagesView is a housing as it is tested passage by passage.
type PassagesView struct {
	Tests    []PassageTest    `json:"tests"`   // of the whole set in its order, then those done beside it, the one in hand, and the likes of what was done and is in hand on other sections
	Set      int              `json:"set"`     // how many of them are the whole set
	Minutes  float64          `json:"minutes"` // that the whole set takes, everything put back
	Hand     string           `json:"hand"`    // id of the test to do now; empty: none
	Says     string           `json:"says"`
	Why      string           `json:"why"`
	Left     []PassageSeal    `json:"left"` // that may leak yet, likeliest first
	Named    [][]PassageSeal  `json:"named"`
	Sound    bool             `json:"sound"`
	Confirm  []HuntActOf      `json:"confirm"`  // acts that prove or split what is named
	Work     *PassageWork     `json:"work"`     // valves to be worked before the last result is believed
	Stand    passages.Stand   `json:"stand"`    // how everything stands now
	Back     []PassageChange  `json:"back"`     // what is to be done to leave it as it was found
	Last     []PassageChange  `json:"last"`     // the same after the last test of the whole set
	Chambers []PassageChamber `json:"chambers"` // as they are drawn
	Parts    []PassagePart    `json:"parts"`
	Ports    []PassagePort    `json:"ports"`
}

// PassageTest is one isolation test.
type PassageTest struct {
	ID      string           `json:"id"`
	Title   string           `json:"title"`
	Step    string           `json:"step"` // of the circuit's own that it is; empty: none
	Feed    string           `json:"feed"` // port
	Pressed []string         `json:"pressed"`
	Plugs   []string         `json:"plugs"` // shut by hand in it
	Places  []PassagePlace   `json:"places"`
	Meant   []PassageMeant   `json:"meant"`
	Changes []PassageChange  `json:"changes"`  // from how everything stands now, in order
	InOrder []PassageChange  `json:"in_order"` // of the whole set: from the test before it in the set's order
	Minutes float64          `json:"minutes"`  // with the changes
	AtPa    float64          `json:"at_pa"`
	At      string           `json:"at"`   // the pressure proposed
	Mind    []circuit.Item   `json:"mind"` // cautions of the circuit's own steps at that bore
	Weakest string           `json:"weakest"`
	Done    bool             `json:"done"`
	Found   []string         `json:"found"` // places, where it is done; none: it held
	Worked  bool             `json:"worked"`
	ByHold  bool             `json:"by_hold"` // a tight hold of its own step says so: there is nothing to take back
	Fell    bool             `json:"fell"`    // its hold leaked, and where is not known yet
	Excused bool             `json:"excused"`
	Ways    []PassageWay     `json:"ways"` // by which air may have come to a place that no single leak explains
	Like    []PassageSibling `json:"like"` // the same on another section
}

// PassageSeal is a part that may leak.
type PassageSeal struct {
	Part  string  `json:"part"`
	Title string  `json:"title"`
	Odds  float64 `json:"odds"`
}

// PassagePlace is where air may come out in a test.
type PassagePlace struct {
	ID       string   `json:"id"` // a chamber, a part, or unseen
	Title    string   `json:"title"`
	Exits    []string `json:"exits"` // openings of a chamber
	Seals    []string `json:"seals"` // titles of those whose leak comes out there
	Expected bool     `json:"expected"`
	Meant    bool     `json:"meant"` // an escape that is meant comes out there too: only more than that counts
}

// PassageMeant is an escape that belongs there.
type PassageMeant struct {
	Part  string `json:"part"`
	Title string `json:"title"`
	Flow  string `json:"flow"` // empty: not known
}

// PassageChange is one thing to do at the housing.
type PassageChange struct {
	Does passages.Does `json:"does"`
	At   string        `json:"at"`
	To   string        `json:"to"`
	Says string        `json:"says"`
}

// PassageWay is a way by which air may come to a place.
type PassageWay struct {
	Place   string   `json:"place"`
	Through []string `json:"through"` // chambers
	Leaks   []string `json:"leaks"`   // parts
	Says    string   `json:"says"`
	Share   float64  `json:"share"`
}

// PassageSibling is the same test on another section.
type PassageSibling struct {
	Test  string `json:"test"`
	Title string `json:"title"`
}

// PassageWork is what is worked before a result is believed.
type PassageWork struct {
	Test  string        `json:"test"`
	Parts []PassageSeal `json:"parts"`
	Says  string        `json:"says"`
}

// HuntActOf is an act with the parts that its answers point to.
type HuntActOf struct {
	HuntAct
	Parts []string `json:"parts"`
}

// PassageChamber is a space as it is drawn.
type PassageChamber struct {
	ID    string     `json:"id"`
	Title string     `json:"title"`
	Open  bool       `json:"open"`
	At    [2]float64 `json:"at"`
}

// PassagePart is a part as it is drawn.
type PassagePart struct {
	ID      string    `json:"id"`
	Title   string    `json:"title"`
	Between [2]string `json:"between"`
	N       int       `json:"n"`
	Opening bool      `json:"opening"`
	Meant   bool      `json:"meant"`
	Seal    bool      `json:"seal"`
	Odds    float64   `json:"odds"` // that it leaks
}

// PassagePort is a bore as it is drawn.
type PassagePort struct {
	ID      string `json:"id"`
	Title   string `json:"title"`
	Chamber string `json:"chamber"`
	Mouth   string `json:"mouth"`
}
