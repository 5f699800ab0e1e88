package command

// {= if cobra =}
import (
	"fmt"

	"github.com/spf13/cobra"
)

func {= command.camel =}Command() *cobra.Command {
	return &cobra.Command{
		Use:   "{= command =}",
		Short: {= does.go =},
		Args:  cobra.NoArgs,
		RunE: running(func(cmd *cobra.Command, _ []string) error {
			_, err := fmt.Fprintln(cmd.OutOrStdout(), "{= command =}")
			return err
		}),
	}
}
// {= else =}
import (
	"flag"
	"fmt"
	"io"
)

func {= command.camel =}Command() command {
	return command{
		name:    "{= command =}",
		summary: {= does.go =},
		prepare: func(*flag.FlagSet) func([]string, io.Reader, io.Writer) error {
			return func(args []string, _ io.Reader, out io.Writer) error {
				if len(args) > 0 {
					return mistake("it takes no argument")
				}
				_, err := fmt.Fprintln(out, "{= command =}")
				return err
			}
		},
	}
}
// {= end =}
