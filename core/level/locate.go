package level

// Where distortion comes from is found, not guessed: three questions and a reading.

// Heard is an answer; "" is not known yet.
type Heard string

// The answers.
const (
	Yes Heard = "yes"
	No  Heard = "no"
)

// Answers are those to the questions, in their order.
type Answers struct {
	Channel Heard // in headphones at the desk's channel, before its fader
	Mix     Heard // in headphones at the desk's output
	Knob    Heard // it stays as loud and rough after the amplifier went down 10 dB and the desk up 10
	Volts   Heard // the amplifier's volts reach its clip while it is heard
}

// Question is one question, with how to ask it.
type Question struct{ Key, Asks, How string }

// Questions are all of them; each parts what lies before it from what lies behind.
var Questions = []Question{
	{"channel", "Is it heard in headphones at the channel?", "Listen before the fader, to one channel after the other."},
	{"mix", "Is it heard in headphones at the desk's output?", "Listen to the mix, its meters in view."},
	{"knob", "Turn the amplifier down by 10 dB and the desk up by 10: is it worse?",
		"The level stays the same. What lies between desk and amplifier gets 10 dB more."},
	{"volts", "Do the volts at the amplifier's output reach its clip?",
		"Read the peaks at the terminals while it is heard, with a meter that holds them; compare with the clip on Protect."},
}

// Located is where it comes from, what proves it, and what to do. Stage is "" while the
// answers do not tell yet.
type Located struct{ Stage, Says, Proof, Mend string }

// Locate says where distortion comes from, as far as the answers tell; next is the number
// of the question to ask then.
func Locate(a Answers) (l Located, next int) {
	switch {
	case a.Channel == "":
		return Located{}, 0
	case a.Channel == Yes:
		return Located{"source", "It is there before the desk's fader: the source, its lead, or the channel's input gain.",
			"Turn the channel's gain down 10 dB: if it goes, the input clipped; if it stays, it comes in on the lead.",
			"Gain down or the pad in; a fresh battery, another lead, another microphone, one at a time."}, -1
	case a.Mix == "":
		return Located{}, 1
	case a.Mix == Yes:
		return Located{"desk", "The desk's mix clips: channels are clean and their sum is not.",
			"Turn all channels of it down alike by 6 dB: it goes, at the same fader of the output.",
			"Channel faders down and the amplifiers' level controls up by as much."}, -1
	case a.Knob == "":
		return Located{}, 2
	case a.Knob == Yes:
		return Located{"processor", "What lies between desk and amplifier clips: its input or its output.",
			"It went worse with 10 dB more through it, and the amplifier gave no more.",
			"Its input gain down, or the desk's output down, and the amplifier's level control up."}, -1
	case a.Volts == "":
		return Located{}, 3
	case a.Volts == Yes:
		return Located{"amplifier", "The amplifier clips, into this load and on this mains.",
			"Its peaks stand at its clip while it is heard, and are cut off flat.",
			"Down, or a limiter below its clip; if that is too soft, more amplifier or more boxes."}, -1
	}
	return Located{"loudspeaker", "The loudspeaker: it compresses or strikes its end, or something in it rattles.",
		"Everything before it is clean, and the volts stay under the amplifier's clip. Try the same signal on its like.",
		"High-pass as its maker asks, less bass, a sine swept softly to find a rattle; a driver that scrapes is done."}, -1
}
