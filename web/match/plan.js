// A search that takes long tells how far it has come, and can be stopped; the
// server keeps the best so far.
(function () {
  "use strict";
  // A slider says what it stands at, before the server says what follows.
  document.addEventListener("input", (e) => {
    const said = e.target.type === "range" && e.target.parentElement.querySelector("output");
    if (said) said.textContent = e.target.value + " " + said.dataset.unit;
  });

  document.addEventListener("click", (e) => {
    if (e.target.id !== "go-on") return;
    const line = e.target.closest("[data-stream]");
    const said = document.getElementById("looking");
    const stop = document.getElementById("stop-looking");
    const events = new EventSource(line.dataset.stream);
    const end = () => { events.close(); location.reload(); };
    e.target.hidden = true;
    stop.hidden = false;
    stop.addEventListener("click", end, { once: true });
    events.addEventListener("progress", (p) => {
      const now = JSON.parse(p.data);
      said.textContent = now.amplifiers + " amplifiers, off by at most " + (100 * now.gap).toFixed(1) + " %, " + now.nodes + " branches looked at";
    });
    events.addEventListener("done", end);
    events.addEventListener("busy", (p) => {
      events.close();
      said.textContent = JSON.parse(p.data).says;
      stop.hidden = true;
      e.target.hidden = false;
    });
    events.addEventListener("error", end);
  });
})();
