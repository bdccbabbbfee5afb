package schedule

// Said is what a message says beside the meeting: Words what an update changed, or the word with a
// cancellation; Cover what its sender wrote before it; Subject in the place of its own, "" for
// none.
type Said struct{ Words, Cover, Subject string }
