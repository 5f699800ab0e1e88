// Package command is the command line: the commands, their options, and the exit codes.
package command
{= if cobra =}

import (
	"errors"
	"fmt"
	"io"
	"runtime/debug"

	"github.com/spf13/cobra"
)

// failure is what goes wrong while a command runs; all else is a mistake in the command line.
type failure struct{ error }

func (f failure) Unwrap() error { return f.error }

// Run does what the arguments say. It returns the exit code: 0, 1 where something failed, 2 where the command line is wrong.
func Run(args []string, in io.Reader, out, errOut io.Writer) int {
	root := &cobra.Command{
		Use:           "{= name =}",
		Short:         {= summary.go =},
		Version:       version(),
		SilenceErrors: true,
		SilenceUsage:  true,
	}
	root.SetArgs(args)
	root.SetIn(in)
	root.SetOut(out)
	root.SetErr(errOut)
	root.AddCommand(
		countCommand(),
		// joint: commands (tinmold)
	)
	err := root.Execute()
	if err == nil {
		return 0
	}
	_, _ = fmt.Fprintf(errOut, "{= name =}: %v\n", err)
	var failed failure
	if errors.As(err, &failed) {
		return 1
	}
	_, _ = fmt.Fprintln(errOut, "try: {= name =} --help")
	return 2
}

// running marks what goes wrong in a command as a failure.
func running(run func(cmd *cobra.Command, args []string) error) func(cmd *cobra.Command, args []string) error {
	return func(cmd *cobra.Command, args []string) error {
		if err := run(cmd, args); err != nil {
			return failure{err}
		}
		return nil
	}
}
{= else =}

import (
	"errors"
	"flag"
	"fmt"
	"io"
	"runtime/debug"
	"slices"
	"strings"
)

// command is one of the commands.
type command struct {
	name    string
	summary string
	// arguments says in the help what follows the options.
	arguments string
	// prepare adds the options, and gives what runs with the arguments behind them.
	prepare func(options *flag.FlagSet) func(args []string, in io.Reader, out io.Writer) error
}

// mistake is what is wrong with the command line.
type mistake string

func (m mistake) Error() string { return string(m) }

// commands gives all of them.
func commands() []command {
	return []command{
		countCommand(),
		// joint: commands (tinmold)
		completionCommand(),
	}
}

// Run does what the arguments say. It returns the exit code: 0, 1 where something failed, 2 where the command line is wrong.
func Run(args []string, in io.Reader, out, errOut io.Writer) int {
	err := run(args, in, out)
	if err == nil {
		return 0
	}
	_, _ = fmt.Fprintf(errOut, "{= name =}: %v\n", err)
	var wrong mistake
	if errors.As(err, &wrong) {
		_, _ = fmt.Fprintln(errOut, "try: {= name =} --help")
		return 2
	}
	return 1
}

func run(args []string, in io.Reader, out io.Writer) error {
	if len(args) == 0 || slices.Contains([]string{"-h", "-help", "--help", "help"}, args[0]) {
		return help(out)
	}
	if slices.Contains([]string{"-version", "--version", "version"}, args[0]) {
		_, err := fmt.Fprintln(out, "{= name =}", version())
		return err
	}
	for _, one := range commands() {
		if one.name == args[0] {
			return one.run(args[1:], in, out)
		}
	}
	return mistake("there is no command " + args[0])
}

func (c command) run(args []string, in io.Reader, out io.Writer) error {
	options := flag.NewFlagSet(c.name, flag.ContinueOnError)
	var said strings.Builder
	options.SetOutput(&said)
	options.Usage = func() {
		_, _ = fmt.Fprintf(&said, "%s\n\nUsage: {= name =} %s [OPTION]... %s\n", c.summary, c.name, c.arguments)
		options.PrintDefaults()
	}
	act := c.prepare(options)
	err := options.Parse(args)
	if errors.Is(err, flag.ErrHelp) {
		_, err = io.WriteString(out, said.String())
		return err
	}
	if err != nil {
		return mistake(err.Error())
	}
	return act(options.Args(), in, out)
}

func help(out io.Writer) error {
	var text strings.Builder
	text.WriteString({= summary.go =} + "\n\nUsage: {= name =} COMMAND [OPTION]... [ARGUMENT]...\n\n")
	for _, one := range commands() {
		fmt.Fprintf(&text, "  %-12s  %s\n", one.name, one.summary)
	}
	text.WriteString("\n{= name =} COMMAND --help says more, {= name =} --version which version it is.\n")
	_, err := io.WriteString(out, text.String())
	return err
}
{= end =}

// version says which one this is, by what the build wrote into the program.
func version() string {
	info, ok := debug.ReadBuildInfo()
	if !ok || info.Main.Version == "" {
		return "(devel)"
	}
	return info.Main.Version
}
