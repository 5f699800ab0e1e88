package count_test

import (
	"strings"
	"testing"

	"{= module =}/internal/count"
)

func TestOf(t *testing.T) {
	tests := map[string]count.Counts{
		"":                                {},
		"one":                             {Words: 1, Characters: 3},
		"one two\nthree\n":                {Lines: 2, Words: 3, Characters: 14},
		" \n\t":                           {Lines: 1, Characters: 3},
		"⛴😀 é":                            {Words: 2, Characters: 4},
		"a\xffb":                          {Words: 1, Characters: 3},
		strings.Repeat("x", 1<<17) + " y": {Words: 2, Characters: 1<<17 + 2},
	}
	for text, want := range tests {
		if got, err := count.Of(strings.NewReader(text)); err != nil || got != want {
			t.Errorf("%.20q: %+v, %v; want %+v", text, got, err, want)
		}
	}
}
