package browsertest

import "testing"

// The main job from nothing, from a job's title to the sheet for the crew, takes a
// newcomer at most 15 actions with a library and 20 without: a click, a field filled
// and a key are one each.
func TestTheNewcomer(t *testing.T) {
	for name, c := range map[string]struct {
		most  int
		lines string
		says  string
	}{
		"with a library": {15, "RADIO: Lapwell Lark receiver\nDESK: Osierby Eight\nA1: Fennholt 1400\n" +
			"TOP 1 to 4: Brackwater Reed 10\nRADIO > DESK > A1 > TOP 1 to 4", "All 4 boxes driven"},
		"without one": {20, "RADIO: receiver\nDESK: mixer 8 in\nA1: 2 x 700 W 4 ohm, 1 V\n" +
			"TOP 1 to 4: 12 inch 8 ohm 300 W AES 98 dB\nRADIO > DESK > A1 > TOP 1 to 4", "All 4 boxes driven"},
	} {
		t.Run(name, func(t *testing.T) {
			b := open(t, laptop)
			b.visit("/")
			acts := 0
			click := func(selector string) { acts++; b.click(selector) }
			fill := func(selector, text string) { acts++; b.fill(selector, text) }
			click(".forms summary")
			fill("#job-title", "Village hall, "+name)
			fill("#job-wanted", "92")
			fill("#job-distance", "12 m")
			fill("#job-region", "230 V")
			click("#begin")
			b.awaitHeading("The rig is empty")
			fill("#type-lines", c.lines)
			click("#type-in")
			b.awaitText(".revision", "revision 2,")
			acts++
			b.key("2")
			b.awaitHeading(c.says)
			acts++
			b.key("p")
			b.awaitText(".sheet", "A1 out A")
			b.awaitText(".sheet", "TOP 1, TOP 2")
			if acts > c.most {
				t.Errorf("%d actions, at most %d are wanted", acts, c.most)
			}
		})
	}
}

// What cannot be read is said at its line, and nothing is taken.
func TestTypingIsRefusedWhole(t *testing.T) {
	b := open(t, laptop)
	b.expect("422")
	b.begin("Typed")
	b.fill("#type-lines", "A1: 2 x 700 W 4 ohm\nTOP: blue")
	b.click("#type-in")
	b.awaitText("#type-lines-fault", `Line 2, "TOP: blue"`)
	b.await("what was typed stands there", `document.querySelector("#type-lines").value.includes("TOP: blue")`)
	b.awaitText(".revision", "revision 1,")
}
