// Package servicetest starts the whole service for tests, and asks it.
package servicetest

import (
	"io"
	"net/http"
	"net/http/httptest"
	"strings"
	"testing"

	// {= if stored =}
	"{= module =}/internal/database/databasetest"
	// {= end =}
	"{= module =}/internal/notes"
	"{= module =}/internal/service"
)

// Start gives the address of a service of the test's own.
func Start(t *testing.T) string {
	t.Helper()
	// {= if stored =}
	db := databasetest.Open(t)
	server := httptest.NewServer(service.New(notes.NewStore(db), db))
	// {= else =}
	server := httptest.NewServer(service.New(notes.NewStore()))
	// {= end =}
	t.Cleanup(server.Close)
	return server.URL
}

// Ask sends a request, and gives the answer with its body. A body is sent as JSON.
func Ask(t *testing.T, method, address, body string) (*http.Response, string) {
	t.Helper()
	request, err := http.NewRequestWithContext(t.Context(), method, address, strings.NewReader(body))
	if err != nil {
		t.Fatal(err)
	}
	if body != "" {
		request.Header.Set("Content-Type", "application/json")
	}
	return Do(t, request)
}

// Do sends a request, and gives the answer with its body.
func Do(t *testing.T, request *http.Request) (*http.Response, string) {
	t.Helper()
	answer, err := http.DefaultClient.Do(request)
	if err != nil {
		t.Fatal(err)
	}
	defer func() { _ = answer.Body.Close() }()
	text, err := io.ReadAll(answer.Body)
	if err != nil {
		t.Fatal(err)
	}
	return answer, string(text)
}
