package store

// Known is known, for the tests.
var Known = known

// SpokenFor tells whether a table is in backups, or left out with a reason.
func SpokenFor(name string) bool {
	for _, t := range backedUp {
		if t.name == name {
			return true
		}
	}
	return notBackedUp[name] != ""
}
