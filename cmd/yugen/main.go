// Command yugen turns chromatograms into results: as an application in the browser, and from the shell.
package main

import (
	"context"
	"fmt"
	"os"
	"os/signal"
	"strings"
	"syscall"
	_ "time/tzdata" // machines without their own list of time zones

	"github.com/spf13/cobra"

	"yugen/lab"
)

func main() {
	ctx, stop := signal.NotifyContext(context.Background(), os.Interrupt, syscall.SIGTERM)
	defer stop()
	root := &cobra.Command{
		Use:           "yugen",
		Short:         "Turns chromatograms into results that others can trust",
		SilenceUsage:  true,
		SilenceErrors: true,
	}
	root.AddCommand(serveCommand(), demoCommand(), peaksCommand(), readCommand(), profileCommand(), convertCommand(), curveCommand(), limitsCommand(), processCommand(), reportCommand(), receiverCommand(), instrumentCommand(), mailboxCommand(), spectrumCommand(), matchCommand(), indexCommand(), resolveCommand(), checkCommand(), backupCommand(), restoreCommand(), recoverCommand(), jobsCommand(), againCommand(), peopleCommand())
	if err := root.ExecuteContext(ctx); err != nil {
		fmt.Fprintln(os.Stderr, reason(err, os.Args[1:]))
		os.Exit(1)
	}
}

// reason is the sentence of an error. A file that it begins with keeps its name as it was asked for.
func reason(err error, asked []string) string {
	for _, file := range asked {
		if rest, found := strings.CutPrefix(err.Error(), file+": "); found && file != "" {
			return file + ": " + strings.TrimSuffix(rest, ".") + "."
		}
	}
	return lab.Reason(err)
}
