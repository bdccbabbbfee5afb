package sheets

import "jembro/internal/schedule/kernel"

// outsideMails is how many mails to people outside a change causes.
func outsideMails(st kernel.Settled) (n int) {
	for _, d := range append(st.Due, st.DueNext...) {
		if d.To.Outside() {
			n++
		}
	}
	return n
}
