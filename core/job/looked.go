package job

import (
	"fmt"
	"time"
)

// Looked is a visit after the job that was made: what was due was looked at. A job that is
// signed takes it too.
type Looked struct {
	ID    string `json:"id" jsonschema:"format=uuid"`
	Visit string `json:"visit" jsonschema:"minLength=1,maxLength=40,description=key of the visit: sealant/1 is the look at the sealant after a year"`
	Day   string `json:"day" jsonschema:"description=as YYYY-MM-DD"`
	Note  string `json:"note,omitempty"`
	By    string `json:"by" jsonschema:"description=who wrote it down"`
}

func (l Looked) Key() string { return l.ID }

// lookedProblems says what cannot be of the visits that were made.
func (d Document) lookedProblems(add func(path, says string, args ...any)) {
	had := map[string]bool{}
	for i, l := range d.Upkeep {
		at := fmt.Sprintf("upkeep[%d]", i)
		if _, err := time.Parse(time.DateOnly, l.Day); err != nil {
			add(at+".day", "a day is written as 2027-04-18, not %q", l.Day)
		}
		if had[l.Visit] {
			add(at+".visit", "this visit is written down already; take that one out first")
		}
		had[l.Visit] = true
	}
}
