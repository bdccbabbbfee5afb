package main

import (
	"context"
	"encoding/json"
	"fmt"
	"log/slog"
	"os"

	"github.com/caarlos0/env/v11"
	"github.com/jackc/pgx/v5/pgxpool"
	"github.com/spf13/cobra"

	"jembro/internal/postgres"
	"jembro/internal/program"
	"jembro/web"
)

func serveCommand() *cobra.Command {
	return &cobra.Command{Use: "serve", Short: "Run the program, set up by environment variables", Args: cobra.NoArgs,
		RunE: func(cmd *cobra.Command, _ []string) error {
			config, err := env.ParseAs[program.Config]()
			if err != nil {
				return err
			}
			if err := config.Check(); err != nil {
				return err
			}
			config.Files = web.Files()
			p, err := program.Start(cmd.Context(), config)
			if err != nil {
				return err
			}
			defer p.Stop()
			slog.Info("serving", "address", p.Address(), "mail", p.Mail.Addr().String())
			select {
			case <-cmd.Context().Done():
				return nil
			case err := <-p.Failed():
				return err
			}
		}}
}

// database runs do on the database that the environment names.
func database(ctx context.Context, do func(*pgxpool.Pool) error) error {
	url := os.Getenv("JEMBRO_DATABASE_URL")
	if url == "" {
		return fmt.Errorf("JEMBRO_DATABASE_URL is not set")
	}
	pool, err := program.Connect(ctx, url)
	if err != nil {
		return err
	}
	defer pool.Close()
	return do(pool)
}

func migrateCommand() *cobra.Command {
	return &cobra.Command{Use: "migrate", Short: "Bring the database to the newest version", Args: cobra.NoArgs,
		RunE: func(cmd *cobra.Command, _ []string) error {
			return database(cmd.Context(), func(pool *pgxpool.Pool) error { return postgres.Migrate(cmd.Context(), pool) })
		}}
}

func importCommand() *cobra.Command {
	return &cobra.Command{Use: "import HOUSE.json", Short: "Fill an empty directory with sites, people, rooms and contacts", Args: cobra.ExactArgs(1),
		RunE: func(cmd *cobra.Command, args []string) error {
			raw, err := os.ReadFile(args[0])
			if err != nil {
				return err
			}
			var house postgres.House
			if err := json.Unmarshal(raw, &house); err != nil {
				return fmt.Errorf("%s: %w", args[0], err)
			}
			return database(cmd.Context(), func(pool *pgxpool.Pool) error {
				if err := postgres.Migrate(cmd.Context(), pool); err != nil {
					return err
				}
				store, err := postgres.NewStore(pool)
				if err != nil {
					return err
				}
				return store.Import(cmd.Context(), house)
			})
		}}
}
