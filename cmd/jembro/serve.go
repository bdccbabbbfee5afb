package main

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"log/slog"
	"os"
	"time"

	"github.com/caarlos0/env/v11"
	"github.com/jackc/pgx/v5/pgxpool"
	"github.com/spf13/cobra"

	"jembro/internal/postgres"
	"jembro/internal/program"
	"jembro/internal/schedule"
	"jembro/internal/schedule/kernel"
	"jembro/internal/schedule/rooms"
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

func leaveCommand() *cobra.Command {
	return &cobra.Command{Use: "leave ADDRESS", Short: "Have somebody work here no more; others keep their rooms", Args: cobra.ExactArgs(1),
		RunE: func(cmd *cobra.Command, args []string) error {
			return database(cmd.Context(), func(pool *pgxpool.Pool) error {
				store, err := postgres.NewStore(pool)
				if err != nil {
					return err
				}
				set := schedule.Setting{Clock: time.Now}
				keeping := rooms.Deeds{Kernel: kernel.Kernel{Setting: set}, Store: store.RoomKeeping()}
				orphaned, err := keeping.Leave(cmd.Context(), args[0])
				if errors.Is(err, schedule.ErrNotFound) {
					return fmt.Errorf("nobody here has the address %s", args[0])
				}
				for _, name := range orphaned {
					fmt.Fprintf(cmd.OutOrStdout(), "Nobody keeps %s any more: it books itself. Name a keeper on its page.\n", name)
				}
				return err
			})
		}}
}
