package main

import (
	"testing"

	"github.com/stretchr/testify/require"
)

// Server and database are killed in the middle of saves: what was confirmed is there, once, and in
// its order. (A few kills; the command makes as many as one likes.)
func TestNothingIsLostWhenKilled(t *testing.T) {
	require.FileExists(t, "../../bin/velvet", "run bin/build first")
	t.Chdir("../..")
	require.NoError(t, run(3, 4))
}
