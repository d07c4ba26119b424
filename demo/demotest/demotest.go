// Package demotest gives tests the demo's jobs, and edits them.
package demotest

import (
	"testing"

	"github.com/stretchr/testify/require"

	"velvetroad/core/finding"
	"velvetroad/core/job"
	"velvetroad/demo"
)

// Document is the job that a story ends with.
func Document(t testing.TB, s demo.Story) job.Document {
	t.Helper()
	d := s.Start
	for _, e := range s.Edits {
		next, err := job.Apply(d, e)
		require.NoError(t, err, e.Says)
		d = next
	}
	return d
}

// Unsigned is the same without its signature, so that it can be changed.
func Unsigned(t testing.TB, s demo.Story) job.Document {
	t.Helper()
	d := Document(t, s)
	d.Record.Signed = nil
	return d
}

// Edited is a job with changes made.
func Edited(t testing.TB, d job.Document, changes ...job.Change) job.Document {
	t.Helper()
	next, err := job.Apply(d, job.Edit{Changes: changes})
	require.NoError(t, err)
	return next
}

// Says are the findings of a code, about one thing or, with "", about anything.
func Says(findings []finding.Finding, code, about string) (out []finding.Finding) {
	for _, f := range findings {
		if f.Code == code && (about == "" || f.About == about) {
			out = append(out, f)
		}
	}
	return out
}
