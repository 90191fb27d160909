// A page hears when its job is changed elsewhere, on this server or another,
// and offers to catch up. What is half typed stays.
(function () {
  "use strict";

  const book = () => document.getElementById("book");
  const shown = () => Number(book()?.querySelector("input[name=rev]")?.value || 0);
  const own = new Set(); // commands of the edits that this page has sent
  let source = null;
  let job = "";

  document.addEventListener("ajax:before", (e) => {
    const command = e.target.querySelector?.("input[name=command]");
    if (command) own.add(command.value);
  });

  function offer(head) {
    const at = document.getElementById("others");
    at.hidden = head.head === shown() || own.has(head.page);
    if (at.hidden) return;
    const by = head.author && head.author !== "at this machine" ? " by " + head.author : "";
    at.querySelector("span").textContent = "This rig was changed elsewhere" + by + ": revision " + head.head + " is in force, and this page shows " + shown() + ".";
    at.querySelector("a").href = location.href.split("#")[0];
  }

  // A hidden page hears nothing: a browser opens only a few streams at once.
  function listen() {
    const slug = document.hidden ? "" : book()?.dataset.job || "";
    if (slug === job && source) return;
    if (source) source.close();
    source = null;
    job = slug;
    if (!slug) return;
    source = new EventSource("/jobs/" + encodeURIComponent(slug) + "/events");
    source.addEventListener("head", (e) => offer(JSON.parse(e.data)));
  }

  document.addEventListener("visibilitychange", listen);
  document.addEventListener("ajax:merged", () => {
    listen();
    const at = document.getElementById("others");
    if (!at.hidden && /revision (\d+)/.exec(at.textContent)?.[1] === String(shown())) at.hidden = true;
  });
  window.addEventListener("pagehide", () => { if (source) source.close(); source = null; });
  window.addEventListener("pageshow", listen);
})();
