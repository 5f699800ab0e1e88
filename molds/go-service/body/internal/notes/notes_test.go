package notes_test

import (
	"net/http"
	"strings"
	"testing"

	"{= module =}/internal/service/servicetest"
)

func TestNotes(t *testing.T) {
	service := servicetest.Start(t)
	cases := []struct {
		method, path, body string
		status             int
		holds              string
	}{
		{"GET", "/notes", "", 200, "[]"},
		{"POST", "/notes", `{"text": " Buy <paint> "}`, 201, `"id":1`},
		{"POST", "/notes", `{"text": "Oil"}`, 201, `"text":"Oil"`},
		{"GET", "/notes?after=1&limit=1", "", 200, `[{"id":2,"text":"Oil"}]`},
		{"GET", "/notes/2", "", 200, `"Oil"`},
		{"HEAD", "/notes/2", "", 200, ""},
		{"GET", "/notes/3", "", 404, ""},
		{"GET", "/notes/x", "", 404, ""},
		{"GET", "/notes/99999999999999999999", "", 404, ""},
		{"GET", "/notes?limit=0", "", 422, ""},
		{"GET", "/notes?limit=1000", "", 422, ""},
		{"GET", "/notes?after=-1", "", 422, ""},
		{"GET", "/notes?after=x", "", 422, ""},
		{"POST", "/notes", `{"text": "  "}`, 422, ""},
		{"POST", "/notes", `{"text": "a\u0000b"}`, 422, ""},
		{"POST", "/notes", `{"text": "` + strings.Repeat("a", 1001) + `"}`, 422, ""},
		{"POST", "/notes", `{"text": "` + strings.Repeat("a", 2<<20) + `"}`, 413, ""},
		{"DELETE", "/notes", "", 405, ""},
	}
	for _, one := range cases {
		answer, text := servicetest.Ask(t, one.method, service+one.path, one.body)
		if answer.StatusCode != one.status || !strings.Contains(text, one.holds) {
			t.Errorf("%s %s %.40s: %d %s", one.method, one.path, one.body, answer.StatusCode, text)
		}
		allowed := strings.Join(answer.Header.Values("Allow"), ", ")
		if one.status == http.StatusMethodNotAllowed && !strings.Contains(allowed, "POST") {
			t.Errorf("a 405 says what is allowed, and not %q", allowed)
		}
	}
	for _, body := range []string{"[1,}", "{", `{"text": 3}`, "{} x"} {
		answer, text := servicetest.Ask(t, "POST", service+"/notes", body)
		if answer.StatusCode != http.StatusBadRequest && answer.StatusCode != http.StatusUnprocessableEntity {
			t.Errorf("%s: %d %s", body, answer.StatusCode, text)
		}
	}
}
