// What is read at a driver is never lost: every event is kept here until the server has
// it, and sent again when the network is back. The server keeps each once.
(function () {
  "use strict";

  const key = "largo-heated";
  const page = () => document.querySelector(".heat-page");

  function waiting() {
    try { return JSON.parse(localStorage.getItem(key)) || []; } catch { return []; }
  }
  function keep(list) {
    localStorage.setItem(key, JSON.stringify(list));
    const at = document.querySelector(".waiting");
    if (!at) return;
    const refused = list.filter((w) => w.fault);
    at.hidden = list.length === 0;
    at.textContent = refused.length
      ? "Not kept, and still here: " + refused[0].fault + " "
      : list.length + (list.length === 1 ? " entry waits" : " entries wait") + " for the network; nothing is lost.";
    if (refused.length) at.append(discard());
  }
  function discard() {
    const b = document.createElement("button");
    b.className = "btn btn-sm";
    b.textContent = "Discard it";
    b.addEventListener("click", () => keep(waiting().filter((w) => !w.fault)));
    return b;
  }

  // The time is that of the press, whenever it arrives.
  document.addEventListener("submit", (e) => {
    const form = e.target;
    if (!form.matches(".heat-event")) return;
    const pressed = form.querySelector("[name=pressed]");
    if (pressed) pressed.value = Math.floor(Date.now() / 1000);
    const data = new FormData(form, e.submitter);
    const body = new URLSearchParams(data).toString();
    keep([...waiting(), { to: form.getAttribute("action"), body, since: Date.now() }]);
    form.dataset.body = body;
  }, true);

  // Answered in this page: kept, or refused where it was typed.
  document.addEventListener("ajax:success", (e) => settle(e.target));
  document.addEventListener("ajax:error", (e) => {
    if (e.detail && e.detail.status < 500) settle(e.target);
  });
  function settle(form) {
    if (form && form.dataset && form.dataset.body) keep(waiting().filter((w) => w.body !== form.dataset.body));
  }

  let sending = false;
  async function send() {
    if (sending) return;
    sending = true;
    let some = false;
    for (const w of waiting()) {
      if (w.fault || Date.now() - w.since < 4000) continue;
      try {
        const headers = { "Content-Type": "application/x-www-form-urlencoded" };
        const answer = await fetch(w.to, { method: "POST", body: w.body, headers });
        if (answer.status >= 500) break;
        const list = waiting().filter((x) => x.body !== w.body);
        if (answer.ok || answer.status === 409) some = true;
        else list.push({ ...w, fault: await said(answer) });
        keep(list);
      } catch { break; }
    }
    sending = false;
    if (some && page()) location.reload();
  }
  async function said(answer) {
    const html = new DOMParser().parseFromString(await answer.text(), "text/html");
    const at = html.getElementById("problem");
    return at ? at.textContent : "the server refused it.";
  }

  // Another phone, or the probe, added something: show it, unless somebody is typing.
  async function look() {
    const at = page();
    if (!at || document.hidden) return;
    try {
      const answer = await fetch(at.dataset.session + "/head");
      const head = answer.ok && (await answer.json());
      const typing = [...document.querySelectorAll(".heat-event input.form-control")]
        .some((i) => i.value !== i.defaultValue || i === document.activeElement);
      if (head && head.events !== Number(at.dataset.events) && !typing) location.reload();
    } catch { /* the network is away; what is shown stays */ }
  }

  function zone() {
    document.querySelectorAll("[data-zone] [name=zone]").forEach((i) => {
      i.value = -60 * new Date().getTimezoneOffset();
    });
  }
  document.addEventListener("DOMContentLoaded", () => { keep(waiting()); zone(); send(); });
  document.addEventListener("ajax:merged", () => { keep(waiting()); zone(); });
  window.addEventListener("online", send);
  setInterval(send, 5000);
  setInterval(look, 15000);
})();
