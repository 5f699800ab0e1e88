// Command {= name =}: {= summary.comment("") =}
package main

import (
	"os"

	"{= module =}/internal/command"
)

func main() {
	os.Exit(command.Run(os.Args[1:], os.Stdin, os.Stdout, os.Stderr))
}
