package words

import "fmt"

// NotForOutside is what who asks for a room from outside hears by its rules.
func NotForOutside(room string) string {
	return room + " is not given to people outside. Ask somebody of the house to book it."
}

// TakenForOutside says that a room cannot be had on some of the dates that are asked for.
func TakenForOutside(taken, of int) string {
	switch {
	case of == 1:
		return "The room is taken then. Decline, or make room first."
	case taken == of:
		return "The room is taken on all of these dates. Decline, or make room first."
	}
	return fmt.Sprintf("The room is taken on %d of %d dates. Answer the others one by one, or make room first.", taken, of)
}
