package command

import (
	"bufio"
	"encoding/json"
	"errors"
	// {= if not cobra =}
	"flag"
	// {= end =}
	"fmt"
	"io"
	"os"

	// {= if cobra =}
	"github.com/spf13/cobra"

	// {= end =}
	"{= module =}/internal/count"
)

// {= if cobra =}
func countCommand() *cobra.Command {
	var asJSON bool
	cmd := &cobra.Command{
		Use:   "count [FILE]...",
		Short: "Count lines, words and characters; of standard input for - and without a file",
		RunE: running(func(cmd *cobra.Command, files []string) error {
			return countFiles(files, asJSON, cmd.InOrStdin(), cmd.OutOrStdout())
		}),
	}
	cmd.Flags().BoolVar(&asJSON, "json", false, "print JSON, an object for each file")
	return cmd
}

// {= else =}
func countCommand() command {
	return command{
		name:      "count",
		summary:   "Count lines, words and characters; of standard input for - and without a file",
		arguments: "[FILE]...",
		prepare: func(options *flag.FlagSet) func([]string, io.Reader, io.Writer) error {
			asJSON := options.Bool("json", false, "print JSON, an object for each file")
			return func(files []string, in io.Reader, out io.Writer) error {
				return countFiles(files, *asJSON, in, out)
			}
		},
	}
}

// {= end =}
// countFiles counts what can be read, and says at the end what cannot.
func countFiles(files []string, asJSON bool, in io.Reader, out io.Writer) error {
	if len(files) == 0 {
		files = []string{"-"}
	}
	buffered := bufio.NewWriter(out)
	var failures []error
	for _, name := range files {
		counts, err := countFile(name, in)
		if err != nil {
			failures = append(failures, err)
			continue
		}
		if asJSON {
			err = json.NewEncoder(buffered).Encode(struct {
				File string `json:"file"`
				count.Counts
			}{name, counts})
		} else {
			_, err = fmt.Fprintf(buffered, "%8d %8d %8d  %s\n", counts.Lines, counts.Words, counts.Characters, name)
		}
		if err != nil {
			return err
		}
	}
	return errors.Join(append(failures, buffered.Flush())...)
}

func countFile(name string, in io.Reader) (count.Counts, error) {
	if name == "-" {
		return count.Of(in)
	}
	file, err := os.Open(name)
	if err != nil {
		return count.Counts{}, err
	}
	defer func() { _ = file.Close() }()
	return count.Of(file)
}
