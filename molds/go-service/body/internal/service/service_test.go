package service_test

import (
	"context"
	"io"
	"net"
	"net/http"
	"net/http/httptest"
	"strings"
	"testing"
	"time"

	"{= module =}/internal/requests"
	"{= module =}/internal/service"
	"{= module =}/internal/service/servicetest"
)

func TestHealth(t *testing.T) {
	address := servicetest.Start(t)
	for path, status := range map[string]int{"/health": 200, "/ready": 200, "/nothing": 404} {
		for _, method := range []string{"GET", "HEAD"} {
			answer, text := servicetest.Ask(t, method, address+path, "")
			if answer.StatusCode != status || (method == "HEAD" && text != "") {
				t.Errorf("%s %s: %d %q", method, path, answer.StatusCode, text)
			}
		}
	}
}

func TestOnlyJSONIsRead(t *testing.T) {
	address := servicetest.Start(t)
	body := strings.NewReader(`{"text": "a"}`)
	request, err := http.NewRequestWithContext(t.Context(), http.MethodPost, address+"/notes", body)
	if err != nil {
		t.Fatal(err)
	}
	request.Header.Set("Content-Type", "text/plain")
	request.Header.Set("X-Request-ID", "from-a-proxy")
	answer, text := servicetest.Do(t, request)
	if answer.StatusCode != http.StatusUnsupportedMediaType || answer.Header.Get("X-Request-ID") != "from-a-proxy" {
		t.Errorf("%d %s", answer.StatusCode, text)
	}
}

func TestAPanicTellsNothing(t *testing.T) {
	failing := http.HandlerFunc(func(http.ResponseWriter, *http.Request) { panic("a secret") })
	server := httptest.NewServer(requests.Around(failing))
	defer server.Close()
	answer, text := servicetest.Ask(t, "GET", server.URL, "")
	if answer.StatusCode != 500 || strings.Contains(text, "secret") {
		t.Errorf("%d %s", answer.StatusCode, text)
	}
}

func TestAStopFinishesWhatRuns(t *testing.T) {
	listener, err := net.Listen("tcp", "127.0.0.1:0")
	if err != nil {
		t.Fatal(err)
	}
	running := make(chan struct{})
	slow := http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		_, _ = io.Copy(io.Discard, r.Body)
		close(running)
		time.Sleep(300 * time.Millisecond)
		_, _ = io.WriteString(w, "finished")
	})
	ctx, stop := context.WithCancel(t.Context())
	done := make(chan error, 1)
	go func() { done <- service.Serve(ctx, listener, slow) }()
	half, err := net.Dial("tcp", listener.Addr().String())
	if err != nil {
		t.Fatal(err)
	}
	defer func() { _ = half.Close() }()
	if _, err := io.WriteString(half, "POST / HTTP/1.1\r\nHost: x\r\n"); err != nil {
		t.Fatal(err)
	}
	go func() { <-running; stop() }()
	if answer, text := servicetest.Ask(t, "POST", "http://"+listener.Addr().String(), "whole"); text != "finished" {
		t.Errorf("%d %s", answer.StatusCode, text)
	}
	_ = half.SetReadDeadline(time.Now().Add(5 * time.Second))
	if got, err := half.Read(make([]byte, 1)); got > 0 || err == nil {
		t.Errorf("a half-sent request is answered")
	}
	if err := <-done; err != nil {
		t.Error(err)
	}
}
