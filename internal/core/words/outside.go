package words

// NotForOutside is what who asks for a room from outside hears by its rules.
func NotForOutside(room string) string {
	return room + " is not given to people outside. Ask somebody of the house to book it."
}
