package job

// Set holds the loads that run together, as a person says: the bank, its fuses and its cables are sized for the
// largest of the job's sets instead of for everything at once.
type Set struct {
	ID    string   `json:"id" jsonschema:"format=uuid"`
	Label string   `json:"label" jsonschema:"minLength=1"`
	Loads []string `json:"loads" jsonschema:"maxItems=300,description=IDs of loads"`
}

func (s Set) Key() string { return s.ID }
