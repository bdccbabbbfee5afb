package main

import (
	"encoding/json"
	"errors"
	"io"
	"os"

	"github.com/spf13/cobra"

	"jembro/internal/core/join"
)

func cardCommand() *cobra.Command {
	var batch bool
	cmd := &cobra.Command{Use: "card [FILE]", Short: "Print the way into a call that a text holds", Args: cobra.MaximumNArgs(1),
		Long: "Print the way into a call that a text holds, an invitation in any wording or just a link, as JSON.",
		Example: `  jembro card invitation.txt
  jembro card --batch < texts.jsonl`,
		RunE: func(cmd *cobra.Command, args []string) error {
			if batch {
				return cardBatch(cmd.InOrStdin(), cmd.OutOrStdout())
			}
			if len(args) == 0 {
				return errors.New("name a file with the text, or ask with --batch")
			}
			raw, err := os.ReadFile(args[0])
			if err != nil {
				return err
			}
			return json.NewEncoder(cmd.OutOrStdout()).Encode(cardOf(string(raw)))
		}}
	cmd.Flags().BoolVar(&batch, "batch", false, "read texts as JSON, one a line, and answer line by line")
	return cmd
}

// cardAnswer holds null where there is no way into a call.
type cardAnswer struct {
	Card *join.Pasted `json:"card"`
}

func cardOf(text string) cardAnswer {
	p, found := join.Read(text)
	if !found {
		return cardAnswer{}
	}
	return cardAnswer{&p}
}

func cardBatch(in io.Reader, out io.Writer) error {
	return answerBatch(in, out, longestCardLine, func(line []byte) (any, error) {
		var q struct {
			Text string `json:"text"`
		}
		if err := json.Unmarshal(line, &q); err != nil {
			return nil, err
		}
		return cardOf(q.Text), nil
	})
}

// longestCardLine holds a text of the greatest size with every byte escaped.
const longestCardLine = 6*join.MostPasted + 1000
