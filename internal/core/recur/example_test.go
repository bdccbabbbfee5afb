package recur_test

import (
	"fmt"

	"jembro/internal/core/recur"
)

func ExampleOccurrences() {
	lisbon := "Europe/Lisbon"
	answer, err := recur.Occurrences(recur.Question{RRule: "FREQ=MONTHLY;BYDAY=-1FR", DTStart: "20260130T093000", TZID: &lisbon, Limit: 3})
	fmt.Println(answer.Instances, answer.UTC, answer.Complete, err)
	// Output:
	// [20260130T093000 20260227T093000 20260327T093000] [20260130T093000Z 20260227T093000Z 20260327T093000Z] false <nil>
}
