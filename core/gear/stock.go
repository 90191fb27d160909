package gear

// Holding is how many of a model lie at one place: a truck, a store, a shelf.
type Holding struct {
	Model Model
	Place string
	Count int
}

// MostHeld bounds one holding.
const MostHeld = 100000
