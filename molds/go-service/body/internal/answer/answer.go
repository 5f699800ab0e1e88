// Package answer reads and writes JSON.
package answer

import (
	"encoding/json"
	"errors"
	"log/slog"
	"net/http"
)

// JSON writes a value.
func JSON(w http.ResponseWriter, r *http.Request, status int, value any) {
	write(w, r, status, "application/json", value)
}

// Problem writes an error in the form of RFC 9457.
func Problem(w http.ResponseWriter, r *http.Request, status int, detail string) {
	problem := struct {
		Title  string `json:"title"`
		Status int    `json:"status"`
		Detail string `json:"detail"`
	}{http.StatusText(status), status, detail}
	write(w, r, status, "application/problem+json", problem)
}

// Failure writes an error that is nobody's fault outside: only the log tells what it was.
func Failure(w http.ResponseWriter, r *http.Request, err error) {
	slog.ErrorContext(r.Context(), "a request failed", "error", err)
	Problem(w, r, http.StatusInternalServerError, "something went wrong")
}

func write(w http.ResponseWriter, r *http.Request, status int, kind string, value any) {
	w.Header().Set("Content-Type", kind)
	w.WriteHeader(status)
	if err := json.NewEncoder(w).Encode(value); err != nil {
		slog.DebugContext(r.Context(), "an answer was not taken", "error", err)
	}
}

// Read reads the body into a value. Where it cannot, it answers, and gives false.
func Read(w http.ResponseWriter, r *http.Request, into any) bool {
	var large *http.MaxBytesError
	decoder := json.NewDecoder(r.Body)
	err := decoder.Decode(into)
	if err == nil && decoder.More() {
		err = errors.New("more than one value")
	}
	var wrongType *json.UnmarshalTypeError
	switch {
	case err == nil:
		return true
	case errors.As(err, &large):
		Problem(w, r, http.StatusRequestEntityTooLarge, "the body is too large")
	case errors.As(err, &wrongType):
		Problem(w, r, http.StatusUnprocessableEntity, "the body has a value of another type")
	default:
		Problem(w, r, http.StatusBadRequest, "the body is not JSON")
	}
	return false
}
