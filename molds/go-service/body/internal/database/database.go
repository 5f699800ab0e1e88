// Package database opens the database, and brings its tables up to date.
package database
{= match database =}
{= case "sqlite" =}

import (
	"context"
	"database/sql"
	"embed"
	"fmt"
	"io/fs"
	"net/url"

	"github.com/pressly/goose/v3"
	_ "modernc.org/sqlite" // the driver
)

//go:embed migrations/*.sql
var migrations embed.FS

// Open opens the file, with its tables up to date. Readers wait for nobody; a writer waits up to
// ten seconds for another one.
func Open(ctx context.Context, path string) (*sql.DB, error) {
	options := url.Values{
		"_pragma": {"journal_mode(WAL)", "synchronous(NORMAL)", "busy_timeout(10000)", "foreign_keys(1)"},
		"_txlock": {"immediate"},
	}
	db, err := sql.Open("sqlite", "file:"+path+"?"+options.Encode())
	if err != nil {
		return nil, err
	}
	db.SetMaxOpenConns(16)
	if err := migrate(ctx, db); err != nil {
		return nil, fmt.Errorf("%s: %w", path, err)
	}
	return db, nil
}

func migrate(ctx context.Context, db *sql.DB) error {
	steps, err := fs.Sub(migrations, "migrations")
	if err != nil {
		return err
	}
	provider, err := goose.NewProvider(goose.DialectSQLite3, db, steps)
	if err != nil {
		return err
	}
	_, err = provider.Up(ctx)
	return err
}
{= case "postgres" =}

import (
	"context"
	"embed"
	"io/fs"
	"time"

	"github.com/jackc/pgx/v5/pgxpool"
	"github.com/jackc/pgx/v5/stdlib"
	"github.com/pressly/goose/v3"
	"github.com/pressly/goose/v3/lock"
)

//go:embed migrations/*.sql
var migrations embed.FS

// Open gives a pool of connections to a database whose tables are up to date.
func Open(ctx context.Context, address string) (*pgxpool.Pool, error) {
	config, err := pgxpool.ParseConfig(address)
	if err != nil {
		return nil, err
	}
	config.MaxConns = 16
	config.ConnConfig.ConnectTimeout = 5 * time.Second
	// No statement of a request takes longer; the database ends it.
	config.ConnConfig.RuntimeParams["statement_timeout"] = "15s"
	pool, err := pgxpool.NewWithConfig(ctx, config)
	if err != nil {
		return nil, err
	}
	if err := migrate(ctx, pool); err != nil {
		pool.Close()
		return nil, err
	}
	return pool, nil
}

// migrate does the steps that are left; a service that starts at the same time waits.
func migrate(ctx context.Context, pool *pgxpool.Pool) error {
	steps, err := fs.Sub(migrations, "migrations")
	if err != nil {
		return err
	}
	locker, err := lock.NewPostgresSessionLocker()
	if err != nil {
		return err
	}
	db := stdlib.OpenDBFromPool(pool)
	defer func() { _ = db.Close() }()
	provider, err := goose.NewProvider(goose.DialectPostgres, db, steps, goose.WithSessionLocker(locker))
	if err != nil {
		return err
	}
	_, err = provider.Up(ctx)
	return err
}
{= case "none" =}
{= end =}
