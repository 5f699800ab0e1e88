// Package notes is the first resource: what a note is, where notes are kept, and their HTTP.
package notes

import (
	"errors"
	"strings"
	"unicode/utf8"
)

const longestText = 1000

var (
	// ErrNone says that there is no such note.
	ErrNone = errors.New("there is no such note")
	// ErrText says that a text cannot be one of a note.
	ErrText = errors.New("a text has 1 to 1000 characters")
)

// Note is a text with a number.
type Note struct {
	ID   int64  `json:"id"`
	Text string `json:"text"`
}

// clean gives the text without white space around it, or ErrText.
func clean(text string) (string, error) {
	text = strings.TrimSpace(text)
	count := utf8.RuneCountInString(text)
	if count == 0 || count > longestText || strings.ContainsRune(text, 0) {
		return "", ErrText
	}
	return text, nil
}
