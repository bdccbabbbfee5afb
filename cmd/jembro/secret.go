package main

import (
	"errors"
	"fmt"

	"github.com/caarlos0/env/v11"
	"github.com/jackc/pgx/v5/pgxpool"
	"github.com/spf13/cobra"

	"jembro/internal/postgres"
	"jembro/internal/program"
	"jembro/internal/schedule"
)

func rotateSecretCommand() *cobra.Command {
	return &cobra.Command{Use: "rotate-secret", Short: "Seal everything at rest with the secret of now", Args: cobra.NoArgs,
		Long: "Seal everything at rest with JEMBRO_SECRET that was sealed with one of JEMBRO_SECRET_BEFORE. The program may run meanwhile.\n" +
			"Keep the old secret in JEMBRO_SECRET_BEFORE as long as addresses in mails that were sent under it are to lead here.",
		RunE: func(cmd *cobra.Command, _ []string) error {
			var set struct {
				Secret string   `env:"JEMBRO_SECRET,required"`
				Before []string `env:"JEMBRO_SECRET_BEFORE"`
			}
			if err := env.Parse(&set); err != nil {
				return err
			}
			seal, err := program.Seal(set.Secret, set.Before)
			if err != nil {
				return err
			}
			return withStore(cmd, func(store *postgres.Store) error {
				n, err := store.Reseal(cmd.Context(), seal.Reseal)
				if err == nil {
					fmt.Fprintf(cmd.OutOrStdout(), "%d sealed anew. Nothing at rest needs an older secret any more.\n", n)
				}
				return err
			})
		}}
}

func keeperCommand() *cobra.Command {
	var stop bool
	cmd := &cobra.Command{Use: "keeper ADDRESS", Short: "Let somebody describe conferencing providers", Args: cobra.ExactArgs(1),
		RunE: func(cmd *cobra.Command, args []string) error {
			return withStore(cmd, func(store *postgres.Store) error {
				err := store.LetKeepProviders(cmd.Context(), args[0], !stop)
				if errors.Is(err, schedule.ErrNotFound) {
					return fmt.Errorf("nobody here has the address %s", args[0])
				}
				return err
			})
		}}
	cmd.Flags().BoolVar(&stop, "stop", false, "no more")
	return cmd
}

// withStore runs do on the store of the database that the environment names.
func withStore(cmd *cobra.Command, do func(*postgres.Store) error) error {
	return database(cmd.Context(), func(pool *pgxpool.Pool) error {
		store, err := postgres.NewStore(pool)
		if err != nil {
			return err
		}
		return do(store)
	})
}
