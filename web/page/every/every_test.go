package every_test

import (
	"os"
	"path/filepath"
	"regexp"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// All pages share one set of templates: a name that is defined twice would take the other's
// place on every page.
func TestNoTemplateIsDefinedTwice(t *testing.T) {
	files, err := filepath.Glob("../*/*.html")
	require.NoError(t, err)
	in := map[string]string{}
	for _, file := range files {
		text, err := os.ReadFile(file)
		require.NoError(t, err)
		for _, m := range regexp.MustCompile(`\{\{-? *define "([^"]+)"`).FindAllStringSubmatch(string(text), -1) {
			assert.Empty(t, in[m[1]], "%s is defined in %s and in %s", m[1], in[m[1]], file)
			in[m[1]] = file
		}
	}
	assert.Greater(t, len(in), 50)
}
