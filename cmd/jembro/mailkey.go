package main

import (
	"errors"
	"fmt"
	"os"

	"github.com/caarlos0/env/v11"
	"github.com/google/uuid"
	"github.com/spf13/cobra"

	"jembro/internal/mail"
	"jembro/internal/program"
)

func mailKeyCommand() *cobra.Command {
	return &cobra.Command{Use: "mail-key FILE", Short: "Make the key that mails are signed with, and say what to put into the DNS", Args: cobra.ExactArgs(1),
		Long: "Makes a key in FILE where there is none yet, for JEMBRO_DKIM_KEY, and prints the TXT record for it.",
		RunE: func(cmd *cobra.Command, args []string) error {
			var set struct {
				Domain   string `env:"JEMBRO_MAIL_DOMAIN,required"`
				Selector string `env:"JEMBRO_DKIM_SELECTOR" envDefault:"jembro"`
			}
			if err := env.Parse(&set); err != nil {
				return err
			}
			if _, err := os.Stat(args[0]); errors.Is(err, os.ErrNotExist) {
				key, err := mail.NewKey()
				if err != nil {
					return err
				}
				if err := os.WriteFile(args[0], key, 0o600); err != nil {
					return err
				}
			}
			signer, err := mail.ReadSigner(set.Domain, set.Selector, args[0])
			if err != nil {
				return err
			}
			record, err := signer.Record()
			fmt.Fprintf(cmd.OutOrStdout(), "%s. TXT \"%s\"\n", signer.Name(), record)
			return err
		}}
}

func houseAddressCommand() *cobra.Command {
	return &cobra.Command{Use: "house-address", Short: "Say where your mail server sends invitations from outside on to", Args: cobra.NoArgs,
		RunE: func(cmd *cobra.Command, _ []string) error {
			var set struct {
				Secret string   `env:"JEMBRO_SECRET,required"`
				Before []string `env:"JEMBRO_SECRET_BEFORE"`
				Domain string   `env:"JEMBRO_MAIL_DOMAIN,required"`
			}
			if err := env.Parse(&set); err != nil {
				return err
			}
			seal, err := program.Seal(set.Secret, set.Before)
			if err == nil {
				fmt.Fprintln(cmd.OutOrStdout(), seal.InvitationAddress(uuid.Nil, set.Domain))
			}
			return err
		}}
}
