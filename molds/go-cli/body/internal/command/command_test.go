package command_test

import (
	"bytes"
	"errors"
	"os"
	"path/filepath"
	"strings"
	"testing"

	"{= module =}/internal/command"
)

func run(args ...string) (code int, out, errOut string) {
	var said, wrong bytes.Buffer
	code = command.Run(args, strings.NewReader("a b\n"), &said, &wrong)
	return code, said.String(), wrong.String()
}

func TestExitCodes(t *testing.T) {
	tests := []struct {
		args []string
		want int
	}{
		{nil, 0},
		{[]string{"--help"}, 0},
		{[]string{"--version"}, 0},
		{[]string{"count", "-h"}, 0},
		{[]string{"count"}, 0},
		{[]string{"count", "-"}, 0},
		{[]string{"completion", "bash"}, 0},
		{[]string{"no-such-command"}, 2},
		{[]string{"--colour"}, 2},
		{[]string{"count", "--colour"}, 2},
		{[]string{"count", "no-such-file"}, 1},
		{[]string{"count", "--", "-h"}, 1},
	}
	for _, test := range tests {
		code, out, errOut := run(test.args...)
		if code != test.want || (code == 0) != (errOut == "") || (code == 0 && out == "") {
			t.Errorf("%v: code %d, %q, %q", test.args, code, out, errOut)
		}
	}
}

func TestCount(t *testing.T) {
	file := filepath.Join(t.TempDir(), "a")
	if err := os.WriteFile(file, []byte("one two\n"), 0o600); err != nil {
		t.Fatal(err)
	}
	code, out, errOut := run("count", file, "no-such-file", "-")
	if code != 1 || !strings.Contains(out, "1        2        8") || !strings.Contains(out, "1        2        4") {
		t.Errorf("%d %q %q", code, out, errOut)
	}
	if _, out, _ := run("count", "--json", "-"); out != `{"file":"-","lines":1,"words":2,"characters":4}`+"\n" {
		t.Error(out)
	}
}

type full struct{}

func (full) Write([]byte) (int, error) { return 0, errors.New("full") }

func TestWhatCannotBeWrittenIsAFailure(t *testing.T) {
	var wrong bytes.Buffer
	if code := command.Run([]string{"count"}, strings.NewReader(""), full{}, &wrong); code != 1 {
		t.Errorf("code %d, %s", code, wrong.String())
	}
}
