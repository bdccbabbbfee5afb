package main

import (
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"os"
	"time"

	"github.com/spf13/cobra"

	"jembro/internal/core/calendar"
	"jembro/internal/ical"
)

func busyCommand() *cobra.Command {
	var q ical.Question
	var batch bool
	cmd := &cobra.Command{Use: "busy [FILE]", Short: "Print when a calendar file takes time", Args: cobra.MaximumNArgs(1),
		Example: `  jembro busy --zone Europe/Lisbon --from 2026-11-23T00:00:00Z --to 2026-11-30T00:00:00Z calendar.ics
  jembro busy --batch < questions.jsonl`,
		RunE: func(cmd *cobra.Command, args []string) error {
			if batch {
				return busyBatch(cmd.InOrStdin(), cmd.OutOrStdout())
			}
			if len(args) == 0 {
				return errors.New("name a calendar file, or ask with --batch")
			}
			raw, err := os.ReadFile(args[0])
			if err != nil {
				return err
			}
			q.ICS = string(raw)
			a, err := q.Ask()
			if err != nil {
				return err
			}
			for _, t := range a.Busy {
				fmt.Fprintln(cmd.OutOrStdout(), t[0], t[1], t[2])
			}
			for _, why := range a.Unread {
				fmt.Fprintln(cmd.ErrOrStderr(), "left out:", why)
			}
			return nil
		}}
	today := time.Now().UTC().Truncate(24 * time.Hour)
	cmd.Flags().StringVar(&q.From, "from", today.Format(time.RFC3339), "the first moment")
	cmd.Flags().StringVar(&q.To, "to", today.AddDate(0, 0, 28).Format(time.RFC3339), "the moment after the last")
	cmd.Flags().StringVar(&q.Zone, "zone", "UTC", "where floating times and whole days are meant")
	cmd.Flags().BoolVar(&batch, "batch", false, "read questions as JSON, one a line, and answer line by line")
	return cmd
}

func busyBatch(in io.Reader, out io.Writer) error {
	return answerBatch(in, out, longestBusyLine, func(line []byte) (any, error) {
		var q ical.Question
		if err := json.Unmarshal(line, &q); err != nil {
			return nil, err
		}
		return q.Ask()
	})
}

// longestBusyLine holds a calendar of the greatest size with every byte escaped.
const longestBusyLine = 6*calendar.MostBytes + 1000
