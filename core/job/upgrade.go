package job

import (
	"bytes"
	"encoding/json"
	"fmt"
)

// Version is the format's: what this program writes.
const Version = 5

// upgrades make a decoded document of one version one of the next: the step at n
// leads from version n to n + 1. Files and stored revisions go through the same
// steps; a golden file of every version is held by the tests.
var upgrades = map[int]func(doc map[string]any) error{
	1: nothingMoved, // version 2 added lists and fields that may be absent
	2: nothingMoved, // so did version 3
	3: toCircuits,
	4: toRulesByClass,
}

func nothingMoved(map[string]any) error { return nil }

// Newer is a document of a version that this program does not know. Reading it
// would lose what this program cannot hold.
type Newer struct{ Version int }

func (e *Newer) Error() string {
	return fmt.Sprintf("it is of version %d and this program reads versions 1 to %d: update the program, then open it again", e.Version, Version)
}

// upgrade makes a decoded document one of this program's version. The error is a
// *Newer, or says that the version is none.
func upgrade(doc map[string]any) error {
	number, ok := doc["version"].(json.Number)
	from, err := number.Int64()
	if !ok || err != nil || from < 1 {
		return fmt.Errorf("it is %s; this program reads versions 1 to %d", quoted(doc["version"]), Version)
	}
	if from > Version {
		return &Newer{int(from)}
	}
	for v := int(from); v < Version; v++ {
		if err := upgrades[v](doc); err != nil {
			return fmt.Errorf("from version %d to %d: %w", v, v+1, err)
		}
	}
	doc["version"] = json.Number(fmt.Sprint(Version))
	return nil
}

// object decodes JSON with its numbers as they are written.
func object(text []byte) (doc map[string]any, err error) {
	dec := json.NewDecoder(bytes.NewReader(text))
	dec.UseNumber()
	return doc, dec.Decode(&doc)
}

// Open reads a document that this program or an older one has stored. It is
// strict: a field that it does not know would be lost by the next edit, so the
// document is refused. The error is a *Newer where a newer program stored it.
func Open(text []byte) (Document, error) {
	doc, err := object(text)
	if err != nil {
		return Document{}, fmt.Errorf("a stored document is no JSON: %w", err)
	}
	if err := upgrade(doc); err != nil {
		return Document{}, err
	}
	var d Document
	if err := decode(Raw(doc), &d); err != nil {
		return Document{}, fmt.Errorf("a stored document has what this program does not know (%w): update the program, then open it again", err)
	}
	return d, nil
}
