package job

import (
	"bytes"
	"crypto/sha256"
	"encoding/hex"
	"encoding/json"
	"errors"
	"fmt"
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
	sum := sha256.Sum256(bytes.Join([][]byte{sorted(Raw(s)), sorted(Raw(d))}, []byte{'\n'}))
	return hex.EncodeToString(sum[:])
}

// sorted is JSON with its keys in order and nothing between: the same whoever wrote it.
func sorted(text []byte) []byte {
	in := json.NewDecoder(bytes.NewReader(text))
	in.UseNumber()
	var any any
	if err := in.Decode(&any); err != nil {
		panic(fmt.Sprintf("job: what was marshalled does not decode: %v", err))
	}
	return Raw(any)
}

// Sealed tells whether the document is as it was signed: nil, ErrNoSeal, or what is wrong.
func (d Document) Sealed() error {
	s := d.Record.Signed
	if s == nil || s.Seal == "" {
		return ErrNoSeal
	}
	if d.Seal(*s) != s.Seal {
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
