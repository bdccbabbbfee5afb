package main

import (
	"bufio"
	"encoding/json"
	"fmt"
	"io"

	"github.com/spf13/cobra"

	"jembro/internal/core/recur"
)

func occurrencesCommand() *cobra.Command {
	var q recur.Question
	var zone string
	var batch bool
	cmd := &cobra.Command{Use: "occurrences", Short: "Print the dates of a recurrence rule", Args: cobra.NoArgs,
		Example: `  jembro occurrences --rule "FREQ=MONTHLY;BYDAY=-1FR" --start 20260105T093000 --zone Europe/Lisbon --limit 20
  jembro occurrences --batch < questions.jsonl`,
		RunE: func(cmd *cobra.Command, _ []string) error {
			if batch {
				return answerBatch(cmd.InOrStdin(), cmd.OutOrStdout())
			}
			if zone != "" {
				q.TZID = &zone
			}
			a, err := recur.Occurrences(q)
			if err != nil {
				return err
			}
			for _, instance := range a.Instances {
				fmt.Fprintln(cmd.OutOrStdout(), instance)
			}
			return nil
		}}
	cmd.Flags().StringVar(&q.RRule, "rule", "", "the rule, as in RRULE")
	cmd.Flags().StringVar(&q.DTStart, "start", "", "the first date: 20260105T093000, with Z for UTC, or 20260105")
	cmd.Flags().StringVar(&zone, "zone", "", "the time zone, as in Europe/Lisbon; none is local time anywhere")
	cmd.Flags().IntVar(&q.Limit, "limit", 100, "how many dates at the most")
	cmd.Flags().StringSliceVar(&q.EXDates, "without", nil, "dates to leave out, in the form of the start")
	cmd.Flags().BoolVar(&batch, "batch", false, "read questions as JSON, one a line, and answer line by line")
	return cmd
}

// answerBatch answers every line, whatever is wrong with the one before.
func answerBatch(in io.Reader, out io.Writer) error {
	lines := bufio.NewScanner(in)
	lines.Buffer(nil, 4<<20)
	w := bufio.NewWriter(out)
	defer w.Flush()
	encode := json.NewEncoder(w)
	for lines.Scan() {
		var q recur.Question
		a, err := recur.Answer{}, json.Unmarshal(lines.Bytes(), &q)
		if err == nil {
			a, err = recur.Occurrences(q)
		}
		var answer any = a
		if err != nil {
			answer = map[string]string{"error": err.Error()}
		}
		if err := encode.Encode(answer); err != nil {
			return err
		}
		if err := w.Flush(); err != nil { // a reader that waits for each answer gets it
			return err
		}
	}
	return lines.Err()
}
