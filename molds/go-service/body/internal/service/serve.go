package service

import (
	"context"
	"errors"
	"io"
	"log/slog"
	"net"
	"net/http"
	"sync"
	"time"
)

const (
	headerTime = 10 * time.Second
	readTime   = 20 * time.Second
	writeTime  = 60 * time.Second
	idleTime   = 60 * time.Second
	stopTime   = 10 * time.Second
)

// Serve answers at the listener until ctx ends. Requests that run are then finished within a time,
// and half-sent ones are cut.
func Serve(ctx context.Context, listener net.Listener, handler http.Handler) error {
	arriving := &connections{open: map[net.Conn]bool{}}
	server := &http.Server{
		Handler:           arriving.watch(handler),
		ReadHeaderTimeout: headerTime,
		ReadTimeout:       readTime,
		WriteTimeout:      writeTime,
		IdleTimeout:       idleTime,
		MaxHeaderBytes:    32 << 10,
		ConnState:         arriving.changed,
		ConnContext:       remember,
		ErrorLog:          slog.NewLogLogger(slog.Default().Handler(), slog.LevelDebug),
	}
	failed := make(chan error, 1)
	go func() { failed <- server.Serve(listener) }()
	select {
	case err := <-failed:
		return err
	case <-ctx.Done():
	}
	arriving.cut()
	within, cancel := context.WithTimeout(context.Background(), stopTime)
	defer cancel()
	if err := server.Shutdown(within); err != nil {
		slog.Warn("requests were cut off", "error", err)
		if err := server.Close(); err != nil {
			return err
		}
	}
	slog.Info("stopped")
	return nil
}

// connections are those whose request is not all there.
type connections struct {
	mu         sync.Mutex
	open       map[net.Conn]bool
	isStopping bool
}

type connectionKey struct{}

func remember(ctx context.Context, connection net.Conn) context.Context {
	return context.WithValue(ctx, connectionKey{}, connection)
}

func (c *connections) changed(connection net.Conn, state http.ConnState) {
	c.mu.Lock()
	defer c.mu.Unlock()
	switch state {
	case http.StateNew, http.StateActive:
		c.open[connection] = true
		if c.isStopping {
			_ = connection.Close()
		}
	default:
		delete(c.open, connection)
	}
}

// watch takes a connection out once its request has arrived.
func (c *connections) watch(next http.Handler) http.Handler {
	return http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		connection, _ := r.Context().Value(connectionKey{}).(net.Conn)
		arrived := func() {
			c.mu.Lock()
			defer c.mu.Unlock()
			delete(c.open, connection)
		}
		if r.ContentLength == 0 {
			arrived()
		} else {
			r.Body = &body{r.Body, arrived}
		}
		next.ServeHTTP(w, r)
	})
}

func (c *connections) cut() {
	c.mu.Lock()
	defer c.mu.Unlock()
	c.isStopping = true
	for connection := range c.open {
		_ = connection.Close()
	}
}

// body tells when all of it was read.
type body struct {
	io.ReadCloser
	arrived func()
}

func (b *body) Read(into []byte) (int, error) {
	count, err := b.ReadCloser.Read(into)
	if errors.Is(err, io.EOF) {
		b.arrived()
	}
	return count, err
}
