package {= package =}_test

import (
	"errors"
	"testing"

	"{= module =}/internal/{= package =}"
)

func TestFirst(t *testing.T) {
	if first, err := {= package =}.First([]string{"Heron", "Tern"}); first != "Heron" || err != nil {
		t.Error(first, err)
	}
	if _, err := {= package =}.First(nil); !errors.Is(err, {= package =}.ErrNone) {
		t.Error(err)
	}
}
