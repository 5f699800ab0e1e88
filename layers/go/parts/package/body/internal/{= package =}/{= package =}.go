// Package {= package =} {= does.comment("") =}
package {= package =}

import "errors"

// ErrNone says that nothing was given.
var ErrNone = errors.New("{= package =}: nothing was given")

// First gives the first of some names.
func First(names []string) (string, error) {
	if len(names) == 0 {
		return "", ErrNone
	}
	return names[0], nil
}
