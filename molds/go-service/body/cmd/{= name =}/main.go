// Command {= name =} is an HTTP service.
package main

import (
	"context"
	// {= if stored =}
	"errors"
	"fmt"
	"io/fs"
	// {= else =}
	"fmt"
	// {= end =}
	"log/slog"
	"net"
	"net/http"
	"os"
	"os/signal"
	"strconv"
	"syscall"
	"time"

	// {= if stored =}
	"github.com/joho/godotenv"

	"{= module =}/internal/database"
	// {= end =}
	"{= module =}/internal/notes"
	"{= module =}/internal/requests"
	"{= module =}/internal/service"
	"{= module =}/internal/settings"
)

func main() {
	ctx, stop := signal.NotifyContext(context.Background(), os.Interrupt, syscall.SIGTERM)
	defer stop()
	if err := run(ctx); err != nil {
		fmt.Fprintln(os.Stderr, err)
		os.Exit(1)
	}
}

// run answers until ctx ends.
func run(ctx context.Context) error {
	// {= if stored =}
	// What the environment says is stronger than the file.
	if err := godotenv.Load(); err != nil && !errors.Is(err, fs.ErrNotExist) {
		return fmt.Errorf(".env cannot be read: %w", err)
	}
	// {= end =}
	chosen, err := settings.FromEnvironment(os.LookupEnv)
	if err != nil {
		return err
	}
	if len(os.Args) == 2 && os.Args[1] == "healthy" {
		return healthy(ctx, chosen.Port)
	}
	slog.SetDefault(slog.New(requests.WithID(chosen.LogHandler(os.Stderr))))
	// {= if stored =}
	db, err := database.Open(ctx, chosen.DatabaseURL)
	if err != nil {
		return fmt.Errorf("the database cannot be used: %w", err)
	}
	// {= if database == "sqlite" =}
	defer func() { _ = db.Close() }()
	// {= else =}
	defer db.Close()
	// {= end =}
	handler := service.New(notes.NewStore(db), db)
	// {= else =}
	handler := service.New(notes.NewStore())
	// {= end =}
	listener, err := net.Listen("tcp", net.JoinHostPort(chosen.Host, strconv.Itoa(chosen.Port)))
	if err != nil {
		return err
	}
	slog.Info("listening", "address", "http://"+listener.Addr().String())
	return service.Serve(ctx, listener, handler)
}

// healthy asks the service that runs in this container whether it can answer.
func healthy(ctx context.Context, port int) error {
	request, err := http.NewRequestWithContext(ctx, http.MethodGet, fmt.Sprintf("http://127.0.0.1:%d/ready", port), nil)
	if err != nil {
		return err
	}
	answer, err := (&http.Client{Timeout: 2 * time.Second}).Do(request)
	if err != nil {
		return err
	}
	defer func() { _ = answer.Body.Close() }()
	if answer.StatusCode != http.StatusOK {
		return fmt.Errorf("it answers %s", answer.Status)
	}
	return nil
}
