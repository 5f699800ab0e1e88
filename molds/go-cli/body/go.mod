module {= module =}

go 1.26.0
{= if cobra =}

require (
	github.com/spf13/cobra v1.10.2
	// joint: dependencies (tinmold)
)
{= end =}
