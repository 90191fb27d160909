// The circuits during the show come anew every half minute; what is half typed stays.
(function () {
  "use strict";

  async function anew() {
    const at = document.getElementById("feed-show");
    if (!at || document.hidden) return;
    try {
      const answer = await fetch(at.dataset.refresh);
      if (!answer.ok) return;
      const page = new DOMParser().parseFromString(await answer.text(), "text/html");
      const next = page.getElementById("feed-show");
      if (next && at.isConnected) {
        at.innerHTML = next.innerHTML;
        document.querySelector("h1").textContent = page.querySelector("h1").textContent;
      }
    } catch { /* without the network it stays as it was */ }
  }

  setInterval(anew, 30000);
})();
