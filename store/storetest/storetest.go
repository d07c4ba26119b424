// Package storetest gives tests a database of their own.
package storetest

import (
	"context"
	"database/sql"
	"errors"
	"fmt"
	"net/url"
	"os"
	"strings"
	"sync"
	"testing"

	"github.com/google/uuid"
	_ "github.com/jackc/pgx/v5/stdlib" // the driver gorm's postgres uses too
	"github.com/stretchr/testify/require"

	"velvetroad/core/people"
	"velvetroad/demo/load"
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

// Demo makes a database with the demo in it: a copy of one that was loaded once in this
// process, since loading goes through every edit.
func Demo(t testing.TB) *store.Store {
	t.Helper()
	pattern, err := loaded()
	require.NoError(t, err)
	s, err := store.Open(t.Context(), create(t, " TEMPLATE "+pattern))
	require.NoError(t, err)
	t.Cleanup(func() { require.NoError(t, s.Close()) })
	return s
}

// Main runs a package's tests and drops what Demo copies from.
func Main(m *testing.M) int {
	code := m.Run()
	if pattern == "" {
		return code
	}
	admin, err := sql.Open("pgx", os.Getenv(variable))
	if err == nil {
		_, err = admin.Exec("DROP DATABASE " + pattern)
	}
	if err != nil {
		fmt.Fprintln(os.Stderr, "storetest:", err)
		return 1
	}
	return code
}

const variable = "VELVET_TEST_DATABASE_URL"

var pattern string // the database that Demo copies; empty: none was needed

var loaded = sync.OnceValues(func() (string, error) {
	admin, err := sql.Open("pgx", os.Getenv(variable))
	if err != nil {
		return "", err
	}
	defer func() { _ = admin.Close() }()
	name := fresh()
	if _, err := admin.Exec("CREATE DATABASE " + name); err != nil {
		return "", err
	}
	pattern = name
	at, err := url.Parse(os.Getenv(variable))
	if err != nil {
		return "", err
	}
	at.Path = "/" + name
	ctx := context.Background()
	s, err := store.Open(ctx, at.String())
	if err != nil {
		return "", err
	}
	err = s.Migrate(ctx)
	if err == nil {
		_, err = load.Demo(ctx, s)
	}
	return name, errors.Join(err, s.Close())
})

func fresh() string { return "test_" + strings.ReplaceAll(uuid.NewString(), "-", "") }

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
	return create(t, "")
}

func create(t testing.TB, from string) string {
	t.Helper()
	server := os.Getenv(variable)
	require.NotEmpty(t, server, variable+" is not set: run bin/test, or set it to a PostgreSQL that may be written to")
	admin, err := sql.Open("pgx", server)
	require.NoError(t, err)
	name := fresh()
	_, err = admin.Exec("CREATE DATABASE " + name + from)
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
