// Package count counts what a text holds.
package count

import (
	"bufio"
	"errors"
	"io"
	"unicode"
)

// Counts says how much a text holds.
type Counts struct {
	Lines      int64 `json:"lines"`
	Words      int64 `json:"words"`
	Characters int64 `json:"characters"`
}

// Of counts a text of any length; a piece of it is in memory at a time.
func Of(text io.Reader) (Counts, error) {
	var counts Counts
	inWord := false
	reader := bufio.NewReaderSize(text, 1<<16)
	for {
		c, _, err := reader.ReadRune()
		if errors.Is(err, io.EOF) {
			return counts, nil
		}
		if err != nil {
			return counts, err
		}
		counts.Characters++
		if c == '\n' {
			counts.Lines++
		}
		space := unicode.IsSpace(c)
		if !space && !inWord {
			counts.Words++
		}
		inWord = !space
	}
}
