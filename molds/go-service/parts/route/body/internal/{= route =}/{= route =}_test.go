package {= route =}_test

import (
	"testing"

	"{= module =}/internal/service/servicetest"
)

func TestList(t *testing.T) {
	answer, text := servicetest.Ask(t, "GET", servicetest.Start(t)+"/{= route =}", "")
	if answer.StatusCode != 200 || text[:2] != "[]" {
		t.Errorf("%d %s", answer.StatusCode, text)
	}
}
