// A run on the phone: one step at a time. What may be done follows from the plan and from what
// happened; the server judges it again. Without the network what was tapped waits here, in order.
(function () {
  "use strict";

  const body = document.body;
  const planAt = document.getElementById("run-plan");
  if (!planAt) return;
  const plan = JSON.parse(planAt.textContent);
  const here = body.dataset.here;
  const keep = "largo " + here;

  let events = []; // as the server has them
  let queue = []; // what it does not have yet
  let offset = 0; // of its clock over the one of this page, which only runs on
  let away = false;
  let said = "";

  const clock = () => performance.now();
  const now = () => offset + clock();

  function take(state) {
    if (state.seq < events.length) return; // an older word
    events = state.events;
    offset = state.now - clock();
    queue = queue.filter((q) => !q.sent);
    remember();
    render();
  }

  // What waits is kept over a reload. The wall clock of a phone is not trusted: time that nobody
  // measured did not pass.
  function remember() {
    try {
      const waiting = queue.map((q) => ({ ...q, ago: now() - q.at }));
      localStorage.setItem(keep, JSON.stringify({ events, queue: waiting, now: now() }));
    } catch { /* private mode: it lasts as long as the page */ }
  }

  function recall() {
    let before = null;
    try { before = localStorage.getItem(keep); } catch { /* private mode */ }
    take(JSON.parse(document.getElementById("run-state").textContent));
    try {
      const kept = JSON.parse(before || "null");
      if (!kept) return;
      if (kept.events.length > events.length) {
        events = kept.events;
        offset = kept.now - clock();
      }
      queue = kept.queue.map((q) => ({ ...q, sent: false, at: now() - q.ago }));
    } catch { /* nothing was kept */ }
  }

  // statuses are how all steps stand, as core/run has it.
  function statuses(list, at) {
    const s = plan.steps.map(() => ({ status: "waiting", thrown: 0, done: 0, for: [] }));
    for (const e of list) {
      if (e.step < 0 || e.step >= s.length) continue;
      const one = s[e.step];
      if (e.kind === "thrown") s[e.step] = { status: "settling", thrown: e.at, by: e.by, done: 0, for: [] };
      else if (e.kind === "seen") Object.assign(one, { status: "done", done: e.at, doneBy: e.by });
      else if (e.kind === "trouble") {
        Object.assign(one, { status: "trouble", wrong: e.wrong, done: e.at, doneBy: e.by });
      }
      else if (e.kind === "again") s[e.step] = { status: "waiting", thrown: 0, done: 0, for: [], wrong: one.wrong };
      else if (e.kind === "left") Object.assign(one, { status: "left off", done: e.at, doneBy: e.by });
    }
    s.forEach((one, i) => {
      if (one.status === "settling") {
        one.left = one.thrown + plan.steps[i].takes - at;
        if (one.left <= 0) one.status = "look";
      } else if (one.status === "waiting") {
        one.for = plan.waits.filter((w) => w.then === i && holds(w, s[w.first], at)).map((w) => w.first);
        if (!one.for.length) one.status = "ready";
      }
    });
    return s;
  }

  function holds(w, first, at) {
    if (first.status === "left off") return plan.sort === "strike" && at < first.done + w.after;
    if (w.seen && first.status !== "done") return true;
    return !first.thrown || first.status === "trouble" || at < first.thrown + w.after;
  }

  const all = () => events.concat(queue);
  const held = () => all().reduce((was, e) => e.kind === "held" || (was && e.kind !== "resumed"), false);
  const stopped = () => all().some((e) => e.kind === "stopped");

  window.largoRun = { statuses, plan }; // for who checks it against the core

  const el = (tag, text, name) => {
    const at = document.createElement(tag);
    if (text) at.textContent = text;
    if (name) at.className = name;
    return at;
  };
  const clockOf = (ms) => {
    const s = Math.max(0, Math.ceil(ms / 1000));
    return Math.floor(s / 60) + ":" + String(s % 60).padStart(2, "0");
  };
  const upper = (s) => s.charAt(0).toUpperCase() + s.slice(1);
  const placeOf = (i) => plan.steps[i].items[0]?.place || "";

  // chosen is the step for whoever stands here: what is to be seen, then what may be thrown, at
  // this place first; then what settles.
  function chosen(s) {
    const place = document.getElementById("run-place").value;
    const of = (status) => {
      const list = s.map((one, i) => i).filter((i) => s[i].status === status);
      return list.find((i) => place && placeOf(i) === place) ?? list[0];
    };
    for (const status of ["trouble", "look", "ready", "settling"]) {
      const i = of(status);
      if (i !== undefined) return i;
    }
    return -1;
  }

  let shown = "";
  function render() {
    const s = statuses(all(), now());
    const through = s.filter((one) => one.status === "done" || one.status === "left off").length;
    const people = new Set(all().map((e) => e.by).filter(Boolean)).size;
    const count = through + " of " + s.length + (people > 1 ? " · " + people + " people" : "");
    const at = document.getElementById("run-count");
    if (at.textContent !== count) at.textContent = count;
    net();
    const i = chosen(s);
    const over = stopped() || through === s.length;
    const mark = [i, i >= 0 && s[i].status, over, held(), away, said].join("|");
    if (mark !== shown) {
      shown = mark;
      card(s, i, over);
      steps(s, i);
    }
    const left = document.getElementById("run-left");
    if (left && i >= 0 && s[i].left > 0) left.textContent = clockOf(s[i].left);
  }

  function net() {
    const at = document.getElementById("run-net");
    at.hidden = !away && !queue.length;
    const waiting = queue.length ? ", " + queue.length + " so far." : ".";
    const text = away ? "No network. What you confirm is kept here" + waiting : "Sending " + queue.length + ".";
    if (at.textContent !== text) at.textContent = text;
  }

  function card(s, i, over) {
    const at = document.getElementById("run-card");
    const acts = document.getElementById("run-acts");
    at.replaceChildren();
    acts.replaceChildren();
    const says = document.getElementById("run-says");
    says.hidden = !said;
    says.textContent = said;
    if (over) {
      const left = s.filter((one) => one.status === "left off").length;
      let end = left ? "Done; " + left + " stay off." : "All is up.";
      if (plan.sort === "strike") end = "All is off. Unplug now.";
      if (stopped()) end = "The run was stopped.";
      at.append(el("h2", end));
      return;
    }
    if (i < 0) {
      at.append(el("h2", "Wait."), el("p", "Others are at it."));
      return;
    }
    const step = plan.steps[i];
    const one = s[i];
    const on = plan.sort === "strike" ? "Switch off " : "Switch on ";
    for (const item of step.items) {
      at.append(el("p", [item.place, item.where].filter(Boolean).join(", "), "run-where"));
      const title = el("h2", on);
      title.append(el("span", item.tag, "tape"));
      at.append(title);
      if (item.how) at.append(el("p", item.how + ".", "run-how"));
    }
    if (one.status === "trouble") {
      at.append(
        el("p", upper(one.wrong || "trouble") + ".", "run-wrong"),
        el("p", plan.advice[one.wrong], "run-look"),
        el("p", step.without, "run-why"),
      );
      act(acts, "Try it again", "again", i, true);
      act(acts, plan.sort === "strike" ? "Its plug is pulled" : "Leave it off", "left", i);
      return;
    }
    at.append(el("p", "Go on only when you see", "run-cap"));
    for (const item of step.items) at.append(el("p", upper(item.look) + ".", "run-look"));
    if (one.status === "settling") {
      const ring = el("p", "", "run-ring");
      ring.append(el("b", clockOf(one.left)), document.createTextNode(" until it may be confirmed. " + next(s, i)));
      ring.firstChild.id = "run-left";
      at.append(ring);
    } else at.append(el("p", step.why, "run-why"));
    if (held()) at.append(el("p", "The desk holds: nothing is thrown.", "run-wrong"));
    if (one.status === "ready") {
      if (step.loud && away) {
        const loud = "It makes sound, and the desk does not see this phone: ask the desk by voice, " +
          "and see that nobody stands before the boxes.";
        at.append(el("p", loud, "run-wrong"));
      }
      act(acts, plan.sort === "strike" ? "It is switched off" : "It is switched on", "thrown", i, true, held());
      act(acts, plan.sort === "strike" ? "Its plug is pulled" : "Leave it off", "left", i);
    } else {
      act(acts, one.status === "look" ? "I see it" : "Not yet", "seen", i, true, one.status !== "look");
      const wrong = el("button", "It does not come up");
      wrong.type = "button";
      if (plan.sort === "strike") wrong.textContent = "It does not go off";
      wrong.addEventListener("click", () => ask(i));
      acts.append(wrong);
    }
  }

  // next says what else may be done meanwhile.
  function next(s, i) {
    const ready = s.map((one, k) => k).filter((k) => k !== i && s[k].status === "ready");
    if (!ready.length) return "What waits for it stays off until then.";
    return "Meanwhile: " + plan.steps[ready[0]].switch + ", " + placeOf(ready[0]) + ".";
  }

  function act(to, text, kind, step, main, shut) {
    const b = el("button", text, main ? "main" : "");
    b.type = "button";
    b.disabled = Boolean(shut);
    b.addEventListener("click", () => happened({ kind, step }));
    to.append(b);
  }

  function steps(s, at) {
    const list = document.getElementById("run-list");
    list.replaceChildren(...plan.steps.map((step, i) => {
      const one = s[i];
      const li = el("li", "", "is-" + one.status.replace(" ", "-") + (i === at ? " is-now" : ""));
      li.append(el("span", step.switch, "tape"));
      let text = " " + one.status;
      if (one.for.length) text += " for " + one.for.map((k) => plan.steps[k].switch).join(", ");
      if (one.doneBy || one.by) text += ", " + (one.doneBy || one.by);
      li.append(document.createTextNode(text));
      return li;
    }));
  }

  function ask(i) {
    const box = document.getElementById("run-wrong");
    box.showModal();
    box.onclick = (e) => {
      if (!e.target.closest("button")) return;
      box.close();
      if (e.target.dataset.wrong) happened({ kind: "trouble", step: i, wrong: e.target.dataset.wrong });
    };
  }

  function happened(e) {
    said = "";
    queue.push({ ...e, by: document.getElementById("run-name").value.trim(), at: now(), command: id() });
    remember();
    render();
    flush();
  }

  function id() { // crypto.randomUUID is there in secure contexts alone
    const b = crypto.getRandomValues(new Uint8Array(16));
    b[6] = (b[6] & 15) | 64;
    b[8] = (b[8] & 63) | 128;
    const h = [...b].map((x) => x.toString(16).padStart(2, "0")).join("");
    return [h.slice(0, 8), h.slice(8, 12), h.slice(12, 16), h.slice(16, 20), h.slice(20)].join("-");
  }

  let flushing = false;
  async function flush() {
    if (flushing) return;
    flushing = true;
    try {
      while (queue.some((q) => !q.sent)) {
        const q = queue.find((one) => !one.sent);
        const ago = Math.max(0, Math.round(now() - q.at));
        const form = new URLSearchParams({ kind: q.kind, step: q.step, wrong: q.wrong || "", by: q.by, ago });
        form.set("command", q.command);
        const answer = await fetch(here + "/event", { method: "POST", body: form });
        if (answer.status >= 500) throw new Error("the server is not well");
        away = false;
        const told = await answer.json().catch(() => ({}));
        q.sent = true;
        if (answer.ok) take(told);
        else {
          said = told.says || "That was not taken.";
          queue = queue.filter((one) => one !== q);
          await anew();
        }
      }
    } catch {
      away = true;
      setTimeout(flush, 2000);
    } finally {
      flushing = false;
      remember();
      render();
    }
  }

  async function anew() {
    const answer = await fetch(here + "/state");
    if (answer.ok) take(await answer.json());
  }

  function places() {
    const at = document.getElementById("run-place");
    const list = [...new Set(plan.steps.map((_, i) => placeOf(i)).filter(Boolean))];
    at.append(new Option("wherever the next one is", ""), ...list.map((p) => new Option(p, p)));
    at.addEventListener("change", () => { shown = ""; render(); });
    const name = document.getElementById("run-name");
    name.value = localStorage.getItem("largo name") || "";
    name.addEventListener("change", () => localStorage.setItem("largo name", name.value));
    document.querySelectorAll("[data-act]").forEach((b) => b.addEventListener("click", () => {
      const kind = b.dataset.act;
      if (kind === "stopped" && !confirm("Stop this run for everybody? It cannot go on after that.")) return;
      happened({ kind, step: -1 });
    }));
  }

  function listen() {
    const source = new EventSource(here + "/events");
    source.addEventListener("state", (e) => { away = false; take(JSON.parse(e.data)); if (queue.length) flush(); });
    source.addEventListener("error", () => { away = true; render(); });
  }

  async function stay() { // the page and what it needs lie on the phone from now on
    if (!navigator.serviceWorker) return;
    await navigator.serviceWorker.register("/run-worker.js", { scope: "/jobs/" });
    const needs = [...document.querySelectorAll("link[rel=stylesheet], script[src]")].map((at) => at.href || at.src);
    const box = await caches.open("largo-run");
    await box.addAll([location.pathname, ...needs]);
    body.dataset.kept = "yes";
  }

  places();
  recall();
  render();
  listen();
  flush();
  setInterval(render, 250);
  stay().catch(() => {});
})();
