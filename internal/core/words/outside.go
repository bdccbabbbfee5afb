package words

import "jembro/internal/core/tongue"

// NotForOutside is what who asks for a room from outside hears by its rules.
func NotForOutside(in tongue.Tongue, room string) string {
	return in.Say("%s is not given to people outside. Ask somebody of the house to book it.", room)
}
