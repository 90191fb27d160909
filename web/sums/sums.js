// The find line answers sums: by the server's Go code in this browser once it is
// loaded, so without the network too, else by the server itself.
(function () {
  "use strict";

  const here = document.currentScript.src;
  const file = (name) => here.replace(/scripts\/[^/]*$/, "sums/" + name);
  let ready = null; // the code, once it is asked for

  function load() {
    if (ready) return ready;
    ready = new Promise((resolve, reject) => {
      const runtime = document.createElement("script");
      runtime.src = file("wasm_exec.js");
      runtime.onload = async () => {
        try {
          const go = new window.Go();
          const code = await WebAssembly.instantiateStreaming(fetch(file("sums.wasm")), go.importObject);
          go.run(code.instance);
          resolve(window.largoSum);
        } catch (fault) {
          reject(fault);
        }
      };
      runtime.onerror = reject;
      document.head.append(runtime);
    });
    ready.catch(() => { ready = null; }); // asked again, it is tried again
    return ready;
  }

  async function answer(question) {
    if (window.largoSum) return JSON.parse(window.largoSum(question));
    const loading = load();
    try {
      const res = await fetch("/sums/answer?q=" + encodeURIComponent(question));
      if (res.ok) return await res.json();
    } catch { /* without the network the browser works it out */ }
    await loading;
    return JSON.parse(window.largoSum(question));
  }

  const kept = () => JSON.parse(localStorage.getItem("largo.sums") || "[]");
  function keep(question) {
    localStorage.setItem("largo.sums", JSON.stringify(
      [question, ...kept().filter((q) => q !== question)].slice(0, 50)));
    showKept();
  }
  function forget(question) {
    localStorage.setItem("largo.sums", JSON.stringify(kept().filter((q) => q !== question)));
    showKept();
  }

  function element(tag, text, cls) {
    const el = document.createElement(tag);
    if (text) el.textContent = text;
    if (cls) el.className = cls;
    return el;
  }

  function button(text, act) {
    const b = element("button", text, "btn btn-sm");
    b.type = "button";
    b.addEventListener("click", act);
    return b;
  }

  function vary(question) {
    const a = element("a", "Vary", "btn btn-sm");
    a.href = "/sums?q=" + encodeURIComponent(question);
    return a;
  }

  async function showKept() {
    const section = document.getElementById("kept-sums");
    if (!section) return;
    const list = section.querySelector("ul");
    const items = await Promise.all(kept().map(async (q) => {
      const li = element("li");
      const ask = element("a", q);
      ask.href = "/sums?q=" + encodeURIComponent(q);
      li.append(ask, element("span", (await answer(q)).says), button("Forget", () => forget(q)));
      return li;
    }));
    list.replaceChildren(...items);
    section.hidden = items.length === 0;
  }

  let latest = "";
  async function ask(question) {
    const at = document.getElementById("find-sum");
    if (!at) return;
    latest = question;
    if (!/\d/.test(question)) {
      at.hidden = true;
      return;
    }
    let said;
    try {
      said = await answer(question);
    } catch {
      at.replaceChildren(element("p", "Largo cannot be reached, and the sums were not loaded yet."));
      at.hidden = false;
      return;
    }
    if (question !== latest) return;
    at.replaceChildren(element("p", said.says, "says"));
    (said.lines || []).slice(0, 3).forEach((l) => at.append(element("p", l.name + ": " + l.working, "worked")));
    if (said.ignored && said.ignored.length) {
      at.append(element("p", "Not understood: " + said.ignored.join(", "), "worked"));
    }
    if (said.kind) {
      const acts = element("p", "", "acts");
      acts.append(button("Keep", (e) => {
        keep(question);
        e.target.textContent = "Kept under Sums";
      }), vary(question));
      at.append(acts);
    }
    at.hidden = !said.kind && document.querySelector("#find-list li:not([hidden])") !== null;
  }

  document.addEventListener("input", (e) => {
    if (e.target.id === "find-text") ask(e.target.value);
  });
  document.addEventListener("click", (e) => {
    const of = e.target.closest("[data-keep-sum]");
    if (!of) return;
    keep(of.dataset.keepSum);
    of.textContent = "Kept";
  });
  document.addEventListener("DOMContentLoaded", showKept);
  // It is fetched when the page has nothing else to do, so that it is there when
  // the network is not.
  window.addEventListener("load", () => setTimeout(() => load().catch(() => {}), 2500));
})();
