// Package storetest gives tests a database of their own.
package storetest

import (
	"database/sql"
	"net/url"
	"os"
	"strings"
	"testing"

	"github.com/google/uuid"
	_ "github.com/jackc/pgx/v5/stdlib" // the driver gorm's postgres uses too
	"github.com/stretchr/testify/require"

	"velvetroad/core/people"
	"velvetroad/store"
)

// New makes an empty, migrated database on the server that bin/test started,
// and drops it when the test is done.
func New(t testing.TB) *store.Store {
	t.Helper()
	s, err := store.Open(t.Context(), Database(t))
	require.NoError(t, err)
	t.Cleanup(func() { require.NoError(t, s.Close()) })
	require.NoError(t, s.Migrate(t.Context()))
	return s
}

// CrewIn makes a further crew with a lead in a database.
func CrewIn(t testing.TB, s *store.Store, name string) (store.Crew, store.Person) {
	t.Helper()
	crew, err := s.AddCrew(t.Context(), name, false)
	require.NoError(t, err)
	lead, err := crew.AddPerson(t.Context(), "Lead of "+name, people.Lead)
	require.NoError(t, err)
	return crew, lead
}

// Database makes an empty database and gives its URL.
func Database(t testing.TB) string {
	t.Helper()
	server := os.Getenv("VELVET_TEST_DATABASE_URL")
	require.NotEmpty(t, server, "VELVET_TEST_DATABASE_URL is not set: run bin/test, or set it to a PostgreSQL that may be written to")
	admin, err := sql.Open("pgx", server)
	require.NoError(t, err)
	name := "test_" + strings.ReplaceAll(uuid.NewString(), "-", "")
	_, err = admin.Exec("CREATE DATABASE " + name)
	require.NoError(t, err)
	t.Cleanup(func() {
		_, err := admin.Exec("DROP DATABASE " + name)
		require.NoError(t, err)
		require.NoError(t, admin.Close())
	})
	at, err := url.Parse(server)
	require.NoError(t, err)
	at.Path = "/" + name
	return at.String()
}
