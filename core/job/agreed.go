package job

import (
	"fmt"
	"time"
)

// Agreement is what a customer was told and agreed to, with their own signature.
type Agreement struct {
	ID   string `json:"id" jsonschema:"format=uuid"`
	Text string `json:"text" jsonschema:"minLength=1,description=what they were told and agreed to"`
	Name string `json:"name" jsonschema:"minLength=1,description=who agreed"`
	Ink  string `json:"ink,omitempty" jsonschema:"pattern=^(M[0-9]+ [0-9]+( L[0-9]+ [0-9]+)* ?)+$,maxLength=20000,description=the signature as a path of SVG in a box of 320 by 120; absent: agreed by word"`
	By   string `json:"by" jsonschema:"description=who was told it by"`
	At   string `json:"at" jsonschema:"format=date-time"`
}

func (a Agreement) Key() string { return a.ID }

// Spent is time that somebody spent at a stage.
type Spent struct {
	ID    string  `json:"id" jsonschema:"format=uuid"`
	Stage string  `json:"stage" jsonschema:"minLength=1,description=key of the road's stage"`
	Who   string  `json:"who" jsonschema:"minLength=1"`
	Hours float64 `json:"hours" jsonschema:"minimum=0,maximum=24"`
	Day   string  `json:"day" jsonschema:"description=as YYYY-MM-DD"`
	Note  string  `json:"note,omitempty"`
	By    string  `json:"by" jsonschema:"description=who wrote it down"`
}

func (s Spent) Key() string { return s.ID }

// agreedProblems says what cannot be of what was agreed and of the hours.
func (d Document) agreedProblems(add func(path, says string, args ...any)) {
	for i, a := range d.Record.Agreed {
		if _, err := time.Parse(time.RFC3339, a.At); err != nil {
			add(fmt.Sprintf("record.agreed[%d].at", i), "%q is no time; it is written as 2027-04-18T09:30:00Z", a.At)
		}
	}
	for i, s := range d.Record.Spent {
		at := fmt.Sprintf("record.spent[%d]", i)
		if _, err := time.Parse(time.DateOnly, s.Day); err != nil {
			add(at+".day", "a day is written as 2027-04-18, not %q", s.Day)
		}
		if !(s.Hours > 0 && s.Hours <= 24) {
			add(at+".hours", "somebody works more than 0 and up to 24 hours on a day, not %v", s.Hours)
		}
	}
}
