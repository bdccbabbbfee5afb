package main

import (
	"bufio"
	"bytes"
	"encoding/json"
	"errors"
	"fmt"
	"io"

	"github.com/spf13/cobra"

	"jembro/internal/core/recur"
	"jembro/internal/core/tongue"
	"jembro/internal/core/words"
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
				return occurrencesBatch(cmd.InOrStdin(), cmd.OutOrStdout())
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

func occurrencesBatch(in io.Reader, out io.Writer) error {
	return answerBatch(in, out, 4<<20, func(line []byte) (any, error) {
		var q recur.Question
		if err := json.Unmarshal(line, &q); err != nil {
			return nil, err
		}
		return recur.Occurrences(q)
	})
}

// answerBatch answers every line, whatever is wrong with the one before. A line that is
// longer than most is not kept.
func answerBatch(in io.Reader, out io.Writer, most int, answer func(line []byte) (any, error)) error {
	lines := bufio.NewReaderSize(in, 64<<10)
	w := bufio.NewWriter(out)
	encode := json.NewEncoder(w)
	for {
		line, err := readLine(lines, most)
		if err == io.EOF {
			return nil
		}
		if err != nil && err != errLongLine {
			return err
		}
		var a any
		if err == nil {
			a, err = answer(line)
		}
		if err != nil {
			a = map[string]string{"error": words.Error(tongue.Tongue{}, err)}
		}
		if err := encode.Encode(a); err != nil {
			return err
		}
		if err := w.Flush(); err != nil { // a reader that waits for each answer gets it
			return err
		}
	}
}

var errLongLine = errors.New("this line is longer than a question can be")

// readLine reads a line without its end; io.EOF where there is none.
func readLine(in *bufio.Reader, most int) (line []byte, err error) {
	long := false
	for {
		part, err := in.ReadSlice('\n')
		if long = long || len(line)+len(part) > most; !long {
			line = append(line, part...)
		}
		switch {
		case err == bufio.ErrBufferFull:
			continue
		case err == io.EOF && (len(line) > 0 || long), err == nil:
		default:
			return nil, err
		}
		if long {
			return nil, errLongLine
		}
		return bytes.TrimRight(line, "\r\n"), nil
	}
}
