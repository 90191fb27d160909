package browsertest

import "testing"

// The find line answers a sum from any page; once the page is loaded it does so
// without the network too, by the same code; an answer is kept in this browser.
func TestTheFindLineAnswersSums(t *testing.T) {
	b := open(t, laptop)
	b.visit(boathouse + "/match")
	ask := func(question, want string) {
		b.eval(`(() => { const f = document.querySelector("#find-text"); f.value = "";
			f.focus() })()`, nil)
		b.key(question)
		b.awaitText("#find-sum", want)
	}
	b.key("/")
	b.await("the find line is open", `document.activeElement.id === "find-text"`)
	ask("500 W 8 ohm", "63.2 V rms")
	b.await("the code of the sums is here", `typeof window.largoSum === "function"`)
	b.eval(`window.fetch = () => Promise.reject(new TypeError("no network")); 0`, nil)
	ask("3 x 8 ohm", "2.67")
	ask("25 m 12 AWG 4 ohm", "0.5 dB")
	b.click("#find-sum .acts button")
	b.awaitText("#find-sum .acts", "Kept under Sums")
	b.visit("/sums")
	b.awaitText("#kept-sums", "25 m 12 AWG 4 ohm")
	b.awaitText("#kept-sums", "0.5 dB")
	b.accessible("sums")
	b.click("#kept-sums button")
	b.await("what was kept is forgotten", `document.querySelector("#kept-sums").hidden`)
	b.visit("/sums?q=500+W+8+ohm")
	b.fill("#sum-n0", "1000")
	b.click("#sum-work")
	b.awaitHeading("1000 W into 8 Ω are 89.4 V")
}
