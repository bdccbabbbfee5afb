// Command jembro is the whole program.
package main

import (
	"context"
	"fmt"
	"os"
	"os/signal"
	"syscall"

	"github.com/spf13/cobra"
)

func main() {
	ctx, stop := signal.NotifyContext(context.Background(), os.Interrupt, syscall.SIGTERM)
	defer stop()
	root := &cobra.Command{Use: "jembro", Short: "Meetings settled on one sheet", SilenceUsage: true, SilenceErrors: true}
	root.AddCommand(serveCommand(), migrateCommand(), importCommand(), leaveCommand(), keeperCommand(), rotateSecretCommand(), mailKeyCommand(), houseAddressCommand(), demoCommand(), occurrencesCommand(), busyCommand(), cardCommand())
	if err := root.ExecuteContext(ctx); err != nil {
		fmt.Fprintln(os.Stderr, "jembro:", err)
		os.Exit(1)
	}
}
