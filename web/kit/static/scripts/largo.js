// The little that the pages do by themselves: keys, the find dialog, and a
// notice when an edit could not be kept. All rules and sums are the server's.
(function () {
  "use strict";

  function notice(text) {
    const at = document.getElementById("notice");
    at.textContent = text;
    at.hidden = text === "";
  }

  function typing(el) {
    return el && (el.isContentEditable || ["INPUT", "SELECT", "TEXTAREA"].includes(el.tagName));
  }

  function press(id) {
    const el = document.getElementById(id);
    if (el && !el.disabled) el.click();
  }

  // Of the two buttons one is shown, by the scheme in force.
  function pressScheme() {
    const shown = [".to-dark", ".to-day"].map((s) => document.querySelector(s)).find((el) => el.offsetParent);
    if (shown) shown.click();
  }

  function open(id) {
    window.bootstrap.Modal.getOrCreateInstance(document.getElementById(id)).show();
  }

  function toStage(n) {
    const links = document.querySelectorAll(".strip a");
    if (links[n]) links[n].click();
  }

  function onKey(e) {
    if (e.key === "k" && (e.ctrlKey || e.metaKey)) {
      e.preventDefault();
      open("find");
      return;
    }
    if (typing(e.target) || e.ctrlKey || e.metaKey || e.altKey || document.querySelector(".modal.show")) return;
    if (e.key >= "1" && e.key <= "9") return toStage(Number(e.key) - 1);
    const acts = { u: () => press("undo"), r: () => press("redo"), d: pressScheme, p: () => press("to-sheet"), "?": () => open("keys"), "/": () => open("find") };
    if (acts[e.key]) {
      e.preventDefault();
      acts[e.key]();
    }
  }

  // An open dialog leaves a backdrop behind when its page is replaced.
  function clearDialogs() {
    document.querySelectorAll(".modal-backdrop").forEach((el) => el.remove());
    document.body.classList.remove("modal-open");
    document.body.removeAttribute("style");
  }

  // A page has a hundred figures; one link asks for the sum of any of them, so
  // that a hundred need not be made ready after every edit.
  document.addEventListener("click", (e) => {
    const sum = e.target.closest("a.sum");
    if (!sum || e.defaultPrevented || e.button > 0 || e.altKey || e.ctrlKey || e.metaKey || e.shiftKey) return;
    e.preventDefault();
    const ask = document.getElementById("ask");
    ask.href = sum.getAttribute("href");
    ask.click();
  });

  let focused = "";
  let steps = false; // in a list of readings Enter keeps one and goes on to the next
  document.addEventListener("keydown", onKey);
  document.addEventListener("ajax:before", () => {
    notice("");
    const at = document.activeElement;
    const rows = at && at.matches("[data-row]") ? [...document.querySelectorAll("[data-row]")] : [];
    const next = rows[rows.indexOf(at) + 1];
    steps = Boolean(next);
    focused = (next || at || {}).id || "";
  });
  document.addEventListener("ajax:merged", () => {
    clearDialogs();
    const wrong = document.querySelector("[aria-invalid=true]");
    const again = wrong || (focused && document.getElementById(focused));
    if (again && (steps || document.activeElement === document.body)) again.focus({ preventScroll: !wrong && !steps });
    if (again && steps && !wrong) again.select();
    steps = false;
  });
  // When the database is away the answer has no page in it: what was typed
  // stays, and the notice says that it was not kept.
  document.addEventListener("ajax:error", (e) => {
    const answer = e.detail;
    if (answer.status < 500 && answer.status !== 413) return;
    if (answer.html && answer.html.getElementById("kept")) return location.reload(); // it was kept, and its page says what can be done
    const said = answer.html && answer.html.getElementById("problem");
    notice(said ? said.textContent : "Largo answered with a fault, and it is not known whether the edit was kept. Send it again in a moment, it is kept once.");
  });
  document.addEventListener("ajax:merge", (e) => {
    if (!document.getElementById("notice").hidden) e.preventDefault();
  });
  window.addEventListener("unhandledrejection", (e) => {
    if (!(e.reason instanceof TypeError)) return;
    e.preventDefault();
    notice("Largo cannot be reached, so it is not known whether the edit was kept. What stands on this page is still yours; send it again in a moment, it is kept once.");
  });
  document.addEventListener("click", (e) => {
    const act = e.target.closest("[data-press]");
    if (!act) return;
    e.preventDefault();
    window.bootstrap.Modal.getInstance(document.getElementById("find"))?.hide();
    press(act.dataset.press);
  });
  document.addEventListener("shown.bs.modal", (e) => {
    const first = e.target.querySelector("input");
    if (first) first.focus();
  });

  document.addEventListener("alpine:init", () => {
    window.Alpine.data("book", () => ({}));
    window.Alpine.data("printer", () => ({ print() { window.print(); } }));
    window.Alpine.data("searcher", () => ({ search() { this.$root.requestSubmit(); } }));
    window.Alpine.data("finder", () => ({
      entries() { return Array.from(document.querySelectorAll("#find-list li")); },
      shown() { return this.entries().filter((li) => !li.hidden); },
      search(e) {
        const words = e.target.value.toLowerCase().split(/\s+/);
        this.entries().forEach((li) => {
          li.hidden = !words.every((w) => li.dataset.find.toLowerCase().includes(w));
        });
      },
      move(e) {
        if (e.key !== "Enter" && e.key !== "ArrowDown") return;
        const first = this.shown()[0];
        if (!first) return;
        e.preventDefault();
        if (e.key === "Enter") first.querySelector("a").click();
        else first.querySelector("a").focus();
      },
    }));
  });
})();
