// Package databasetest gives tests databases of their own.
package databasetest
{= if database == "sqlite" =}

import (
	"database/sql"
	"path/filepath"
	"testing"

	"{= module =}/internal/database"
)

// Open gives a new database with its tables.
func Open(t *testing.T) *sql.DB {
	t.Helper()
	db, err := database.Open(t.Context(), filepath.Join(t.TempDir(), "tests.sqlite3"))
	if err != nil {
		t.Fatal(err)
	}
	t.Cleanup(func() { _ = db.Close() })
	return db
}
{= else =}

import (
	"context"
	"crypto/rand"
	"net/url"
	"os"
	"strings"
	"testing"

	"github.com/jackc/pgx/v5"
	"github.com/jackc/pgx/v5/pgxpool"

	"{= module =}/internal/database"
)

// Open gives a new schema with its tables in the database of TEST_DATABASE_URL; without one the
// test is skipped.
func Open(t *testing.T) *pgxpool.Pool {
	t.Helper()
	server := os.Getenv("TEST_DATABASE_URL")
	if server == "" {
		t.Skip("TEST_DATABASE_URL names no database for the tests")
	}
	connection, err := pgx.Connect(t.Context(), server)
	if err != nil {
		t.Fatal(err)
	}
	schema := "tests_" + strings.ToLower(rand.Text())
	if _, err := connection.Exec(t.Context(), "CREATE SCHEMA "+schema); err != nil {
		t.Fatal(err)
	}
	address, err := url.Parse(server)
	if err != nil {
		t.Fatal(err)
	}
	query := address.Query()
	query.Set("search_path", schema)
	address.RawQuery = query.Encode()
	pool, err := database.Open(t.Context(), address.String())
	if err != nil {
		t.Fatal(err)
	}
	t.Cleanup(func() {
		pool.Close()
		_, _ = connection.Exec(context.Background(), "DROP SCHEMA "+schema+" CASCADE")
		_ = connection.Close(context.Background())
	})
	return pool
}
{= end =}
