package settings

import (
	"strings"
	"testing"
)

func TestFromEnvironment(t *testing.T) {
	cases := map[string]string{
		"PORT=0":          "",
		"PORT=65536":      "PORT",
		"PORT=-1":         "PORT",
		"PORT=eighty":     "PORT",
		"LOG_FORMAT=text": "",
		"LOG_FORMAT=xml":  "LOG_FORMAT",
		"LOG_LEVEL=DEBUG": "",
		"LOG_LEVEL=loud":  "LOG_LEVEL",
	}
	for given, named := range cases {
		name, value, _ := strings.Cut(given, "=")
		_, err := FromEnvironment(func(asked string) (string, bool) {
			if asked == "DATABASE_URL" {
				return "postgres://127.0.0.1/notes", true
			}
			return value, asked == name
		})
		if (err == nil) != (named == "") || (err != nil && !strings.HasPrefix(err.Error(), named)) {
			t.Errorf("%s: %v", given, err)
		}
	}
}
