package join

// Door is who has to wait before being let in, who may speak, and when it starts. What is
// empty is as the provider has it.
type Door struct {
	Waits  Waits  `json:"waits,omitempty"`
	Speaks Speaks `json:"speaks,omitempty"`
	Starts Starts `json:"starts,omitempty"`
}

// Waits is who waits at the door.
type Waits string

const (
	NobodyWaits Waits = "nobody"
	GuestsWait  Waits = "guests" // those from outside
	AllWait     Waits = "all"
)

// Speaks is who may speak and present.
type Speaks string

const (
	AllSpeak        Speaks = "all"
	OrganisersSpeak Speaks = "organisers"
)

// Starts is when the call begins.
type Starts string

const (
	AnybodyStarts   Starts = "anybody" // as soon as somebody is there
	OrganiserStarts Starts = "organiser"
)

// Choices are what a provider can do at the door; a list is empty where it cannot. The first
// of each is what holds when nobody chooses.
type Choices struct {
	Waits  []Waits  `json:"waits,omitempty"`
	Speaks []Speaks `json:"speaks,omitempty"`
	Starts []Starts `json:"starts,omitempty"`
	// OwnPasscode tells that a passcode can be chosen.
	OwnPasscode bool `json:"ownPasscode,omitempty"`
}

// Usual is what holds when nobody chooses.
func (c Choices) Usual() Door {
	return Door{first(c.Waits), first(c.Speaks), first(c.Starts)}
}

// Fit is a door without what the provider cannot do.
func (c Choices) Fit(d Door) Door {
	usual := c.Usual()
	return Door{oneOf(c.Waits, d.Waits, usual.Waits), oneOf(c.Speaks, d.Speaks, usual.Speaks), oneOf(c.Starts, d.Starts, usual.Starts)}
}

func first[T ~string](all []T) (none T) {
	if len(all) == 0 {
		return none
	}
	return all[0]
}

func oneOf[T comparable](all []T, want, usual T) T {
	for _, x := range all {
		if x == want {
			return want
		}
	}
	return usual
}

// Words say to a guest from outside, or to a colleague, what to expect at the door.
func (d Door) Words(outside bool) (out []string) {
	switch {
	case d.Waits == AllWait, d.Waits == GuestsWait && outside:
		out = append(out, "You wait until the organiser lets you in")
	case d.Waits == GuestsWait:
		out = append(out, "Guests from outside wait until the organiser lets them in")
	}
	if d.Starts == OrganiserStarts {
		out = append(out, "It opens when the organiser is there")
	}
	if d.Speaks == OrganisersSpeak {
		out = append(out, "Only the organisers speak and present")
	}
	return out
}
