// Package requests holds what happens to every request: an id, a line in the log, limits, and an
// answer where a handler panics.
package requests

import (
	"context"
	"crypto/rand"
	"fmt"
	"log/slog"
	"mime"
	"net/http"
	"regexp"
	"runtime/debug"
	"time"
)

const (
	largestBody = 1 << 20
	longest     = 30 * time.Second
)

type idKey struct{}

var givenID = regexp.MustCompile(`^[A-Za-z0-9._-]{1,64}$`)

// Around wraps the handlers of a service.
func Around(next http.Handler) http.Handler {
	return http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		id := r.Header.Get("X-Request-ID")
		if !givenID.MatchString(id) {
			id = rand.Text()
		}
		ctx, cancel := context.WithTimeout(context.WithValue(r.Context(), idKey{}, id), longest)
		defer cancel()
		r = r.WithContext(ctx)
		w.Header().Set("X-Request-ID", id)
		answer := &recorder{ResponseWriter: w}
		started := time.Now()
		defer func() {
			if failure := recover(); failure != nil {
				if failure == http.ErrAbortHandler {
					panic(failure)
				}
				slog.ErrorContext(ctx, "a handler panicked",
					"error", fmt.Sprint(failure), "stack", string(debug.Stack()))
				if answer.status == 0 {
					http.Error(answer, "something went wrong", http.StatusInternalServerError)
				}
			}
			slog.InfoContext(ctx, "answered", "method", r.Method, "path", r.URL.Path,
				"status", answer.status, "milliseconds", time.Since(started).Milliseconds())
		}()
		if r.ContentLength != 0 && !isJSON(r) {
			http.Error(answer, "a body has the type application/json", http.StatusUnsupportedMediaType)
			return
		}
		r.Body = http.MaxBytesReader(answer, r.Body, largestBody)
		next.ServeHTTP(answer, r)
	})
}

func isJSON(r *http.Request) bool {
	kind, _, err := mime.ParseMediaType(r.Header.Get("Content-Type"))
	return err == nil && kind == "application/json"
}

// recorder keeps the status of an answer for the log.
type recorder struct {
	http.ResponseWriter
	status int
}

func (r *recorder) WriteHeader(status int) {
	if r.status == 0 {
		r.status = status
	}
	r.ResponseWriter.WriteHeader(status)
}

func (r *recorder) Write(data []byte) (int, error) {
	if r.status == 0 {
		r.status = http.StatusOK
	}
	return r.ResponseWriter.Write(data)
}

// Unwrap lets http.ResponseController find what it needs.
func (r *recorder) Unwrap() http.ResponseWriter { return r.ResponseWriter }

type withID struct{ slog.Handler }

// WithID adds the id of the request to each line of the log that is written for one.
func WithID(handler slog.Handler) slog.Handler { return withID{handler} }

func (h withID) Handle(ctx context.Context, record slog.Record) error {
	if id, isThere := ctx.Value(idKey{}).(string); isThere {
		record.AddAttrs(slog.String("request", id))
	}
	return h.Handler.Handle(ctx, record)
}

func (h withID) WithAttrs(attrs []slog.Attr) slog.Handler {
	return withID{h.Handler.WithAttrs(attrs)}
}

func (h withID) WithGroup(name string) slog.Handler { return withID{h.Handler.WithGroup(name)} }
