package browsertest

import (
	"testing"
)

const quay = "/jobs/saltpan-quay"

// From Match to the plan, why not another amplifier, and the plan made so.
func TestThePlanInTheBrowser(t *testing.T) {
	b := open(t, laptop)
	b.visit(quay + "/match")
	b.click("#to-plan")
	b.awaitHeading("Three amplifiers and 36 kg")
	b.fill("#why-why", "Fennholt 2900, bridged")
	b.click("#ask-why")
	b.awaitText("#why-said", "Fennholt 2900")
	b.click("#take-plan")
	b.awaitText(".revision", "revision 2,")
	b.awaitHeading("All 8 boxes driven")
	b.awaitText(".changed", "What that changed")
}

// The sliders answer as they are moved.
func TestWhatIfFollowsTheSliders(t *testing.T) {
	b := open(t, laptop)
	b.visit(boathouse + "/match/whatif")
	b.awaitHeading("107.2 dB at 11 m")
	b.eval(`(() => { const s = document.querySelector("#if-boxes");
		s.value = "8"; s.dispatchEvent(new Event("input", {bubbles: true})) })()`, nil)
	b.awaitHeading("110.2 dB at 11 m") // twice the boxes, 3 dB
	b.awaitText("#whatif-said", "1.23 times as loud")
	b.await("the slider says so too", `document.querySelector("#if-boxes + output").textContent.startsWith("8")`)
}
