package main

import (
	"fmt"

	"github.com/caarlos0/env/v11"
	"github.com/spf13/cobra"

	"jembro/internal/demo"
	"jembro/web"
)

func demoCommand() *cobra.Command {
	return &cobra.Command{Use: "demo", Short: "Run everything on this machine, with the demo house and a simulated outside world", Args: cobra.NoArgs,
		RunE: func(cmd *cobra.Command, _ []string) error {
			var set struct {
				Port  int    `env:"PORT" envDefault:"8800"`
				Data  string `env:"DATA" envDefault:".jembro"`
				Reset bool   `env:"RESET"`
				Now   string `env:"JEMBRO_NOW"`
				Undo  int    `env:"JEMBRO_UNDO_SECONDS" envDefault:"10"`
			}
			if err := env.Parse(&set); err != nil {
				return err
			}
			say := func(format string, args ...any) { fmt.Printf(format+"\n", args...) }
			r, err := demo.Start(cmd.Context(), demo.Options{Port: set.Port, Data: set.Data, Reset: set.Reset, Now: set.Now, UndoSeconds: set.Undo,
				Files: web.Files(), Durable: true, Say: say})
			if err != nil {
				return err
			}
			defer r.Stop()
			say("\nJembro          %s\n  with HTTP/2   %s   (a browser asks about its certificate)\n  sign in as    %s   (or any other name in the directory)\n  password      %s\n\nSimulated outside world\n  post office   %s/post/\n  switches      %s/\n\nCtrl-C stops all of it.",
				r.BaseURL, r.TLSURL, demo.Ilse, demo.Password, r.WorldURL, r.WorldURL)
			select {
			case <-cmd.Context().Done():
				say("\nStopping")
				return nil
			case err := <-r.Program.Failed():
				return err
			}
		}}
}
