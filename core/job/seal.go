package job

import (
	"bytes"
	"crypto/sha256"
	"encoding/hex"
	"encoding/json"
	"errors"
	"fmt"
	"slices"
)

// ErrNoSeal is of a job that nobody signed, of a copy, or of one that was signed before seals were made.
var ErrNoSeal = errors.New("there is no seal: the job is not signed, is a copy, or was signed before seals were made")

// Seal is what a signature seals a document with: a SHA-256 sum, in hex, over the seal before it,
// who signed when and why, and everything in the document but its number, which another
// installation may change, what customers say later and visits that are made. A changed letter gives another seal, and
// so does another one before it: the signatures of a job are a chain.
func (d Document) Seal(s Signature) string {
	s.Seal = ""
	d.Number, d.Feedback, d.Upkeep, d.Record.Signed, d.Record.Before = 0, nil, nil, nil, ""
	return sealOf(s, d, unmeasuredAsZero)
}

func sealOf(s Signature, d Document, amend func(any)) string {
	sum := sha256.Sum256(bytes.Join([][]byte{sorted(Raw(s), nil), sorted(Raw(d), amend)}, []byte{'\n'}))
	return hex.EncodeToString(sum[:])
}

// seals returns the seals that a signature of the document may carry: this version's, and the one
// that a program of version 4 made of the same job.
func (d Document) seals(s Signature) (out []string) {
	out = append(out, d.Seal(s))
	s.Seal = ""
	d.Number, d.Feedback, d.Upkeep, d.Record.Signed, d.Record.Before = 0, nil, nil, nil, ""
	older := false
	seal := sealOf(s, d, func(document any) {
		unmeasuredAsZero(document)
		older = asVersion4(document)
	})
	if older {
		out = append(out, seal)
	}
	return out
}

// unmeasuredAsZero writes lengths of the rig that nobody measured as 0, which is how they were
// written when the first seals were made: a seal holds whichever program wrote the file.
func unmeasuredAsZero(document any) {
	whole, _ := document.(map[string]any)
	rig, _ := whole["rig"].(map[string]any)
	for _, key := range []string{"length_mm", "width_mm", "deck_mm", "framing_spacing_mm", "framing_width_mm", "inside_height_mm"} {
		if _, measured := rig[key]; rig != nil && !measured {
			rig[key] = json.Number("0")
		}
	}
}

// sorted returns JSON with its keys in order and nothing between: the same whoever wrote it. Amend
// changes it before it is written; nil: nothing.
func sorted(text []byte, amend func(any)) []byte {
	in := json.NewDecoder(bytes.NewReader(text))
	in.UseNumber()
	var whole any
	if err := in.Decode(&whole); err != nil {
		panic(fmt.Sprintf("job: what was marshalled does not decode: %v", err))
	}
	if amend != nil {
		amend(whole)
	}
	return Raw(whole)
}

// Sealed tells whether the document is as it was signed: nil, ErrNoSeal, or what is wrong.
func (d Document) Sealed() error {
	s := d.Record.Signed
	if s == nil || s.Seal == "" {
		return ErrNoSeal
	}
	if !slices.Contains(d.seals(*s), s.Seal) {
		return fmt.Errorf("the seal is broken: the job was changed after %s signed it on %s", s.By, s.At)
	}
	return nil
}

// Chained tells whether signatures of a job, oldest first, follow each other: each carries the
// seal of the one before it.
func Chained(signed []Signature) error {
	for i := 1; i < len(signed); i++ {
		if signed[i].Before != signed[i-1].Seal {
			return fmt.Errorf("the chain is broken: the signature of %s does not follow that of %s", signed[i].At, signed[i-1].At)
		}
	}
	return nil
}
