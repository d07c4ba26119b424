package page_test

import (
	"os/exec"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// The pages can be made elsewhere: they reach no web server and no database.
func TestPagesReachNoServerAndNoDatabase(t *testing.T) {
	deps, err := exec.Command("go", "list", "-deps", "velvetroad/web/page/...", "velvetroad/web/form").Output()
	require.NoError(t, err)
	for _, never := range []string{"net/http", "database/sql", "github.com/gin-gonic/gin", "gorm.io/gorm", "velvetroad/store", "velvetroad/web"} {
		assert.NotContains(t, strings.Fields(string(deps)), never)
	}
}
