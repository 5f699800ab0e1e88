package command_test

import "testing"

func Test{= command.pascal =}(t *testing.T) {
	if code, out, errOut := run("{= command =}"); code != 0 || out == "" {
		t.Errorf("%d %q %q", code, out, errOut)
	}
	if code, _, _ := run("{= command =}", "--colour"); code != 2 {
		t.Error(code)
	}
}
