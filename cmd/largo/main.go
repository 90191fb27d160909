// Largo plans and powers portable PA rigs.
package main

import (
	"os"

	"github.com/spf13/cobra"
)

func main() {
	root := &cobra.Command{
		Use:           "largo",
		Short:         "Plan and power portable PA rigs",
		SilenceUsage:  true,
		SilenceErrors: true,
	}
	root.AddCommand(
		serveCommand("serve", "Serve the interface on this machine", false),
		serveCommand("demo", "Serve it with the demo tour", true),
		checkCommand(),
		matchCommand(),
		signalCommand(), simulateCommand(), limitCommand(), hearCommand(),
		sumCommand(),
		applyCommand(),
		backupCommand(),
		restoreCommand(),
	)
	if err := root.Execute(); err != nil {
		code := 1
		if e, ok := err.(exit); ok {
			code = e.code
		}
		if err.Error() != "" {
			root.PrintErrln("largo: " + err.Error())
		}
		os.Exit(code)
	}
}

// exit is an error with the status to end with.
type exit struct {
	code int
	say  string
}

func (e exit) Error() string { return e.say }
