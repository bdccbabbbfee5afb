package schedule

// ShortAddress is an address of a meeting for mails and pages of others. Asks tells that whoever
// opens it can ask for an invitation.
type ShortAddress struct {
	Code string
	Asks bool
}

// ReaderLanguage is in which language letters go to an address (BCP 47), and whether its reader said
// so.
type ReaderLanguage struct {
	Language string
	Own      bool
}
