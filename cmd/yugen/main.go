// Command yugen turns chromatograms into results: as an application in the browser, and from the shell.
package main

import (
	"context"
	"fmt"
	"os"
	"os/signal"
	"syscall"

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
	root.AddCommand(serveCommand(), demoCommand(), peaksCommand(), readCommand(), profileCommand(), convertCommand(), curveCommand(), limitsCommand(), processCommand(), checkCommand(), backupCommand(), restoreCommand())
	if err := root.ExecuteContext(ctx); err != nil {
		fmt.Fprintln(os.Stderr, lab.Reason(err))
		os.Exit(1)
	}
}
