// An answer to an edit is the whole page as it is now. Most of it is as it
// was, so only what differs is put in its place: on a large rig that is the
// difference between a blink and a second, and half-typed forms stay.
(function () {
  "use strict";

  const deep = "#book, #matter, #board, .board-view, svg.board, .margin, .leaf, #lists, #patch, #patch-table, #patch-rows";
  const passing = /name="(rev|command|list|follow)" value="[^"]*"/g; // differs in every answer

  const source = (el) => el.outerHTML.replace(passing, "");
  const same = (a, b) => (a.dataset.is ? a.dataset.is === b.dataset.is : source(a) === source(b));

  // What an element is, so that it is known again.
  function keys(children) {
    const seen = {};
    return children.map((el) => {
      const own = el.id || el.dataset.tag || el.getAttribute("href") || el.localName;
      const kind = el.localName + " " + own;
      seen[kind] = (seen[kind] || 0) + 1;
      return kind + " " + seen[kind];
    });
  }

  function attributes(old, fresh) {
    const ours = old.matches("svg.board, .board-view") ? ["viewBox", "style", "class"] : [];
    Array.from(fresh.attributes).forEach((a) => {
      if (!ours.includes(a.name) && old.getAttribute(a.name) !== a.value) old.setAttribute(a.name, a.value);
    });
  }

  // What the page has already comes as a mark alone. Should the page not have
  // it after all, it is loaded anew.
  let stale = false;
  let catchingUp = false;
  const stub = (el) => el.dataset.is && !el.firstChild;

  // What somebody has typed and not sent goes along into what takes its place,
  // when the page only catches up with what others did.
  function carry(was, now) {
    was.querySelectorAll("input, select, textarea").forEach((el) => {
      const dirty = el.type === "checkbox" ? el.checked !== el.defaultChecked
        : el.localName === "select" ? Array.from(el.options).some((o) => o.selected !== o.defaultSelected) && el.selectedIndex >= 0
        : el.type !== "hidden" && el.value !== el.defaultValue;
      const twin = dirty && el.id && now.querySelector("#" + CSS.escape(el.id));
      if (!twin) return;
      if (el.type === "checkbox") twin.checked = el.checked;
      else twin.value = el.value;
    });
  }

  function patch(old, fresh) {
    attributes(old, fresh);
    const before = Array.from(old.children);
    const after = Array.from(fresh.children);
    const known = new Map();
    keys(before).forEach((key, i) => known.set(key, before[i]));
    let at = before[0] || null;
    keys(after).forEach((key, i) => {
      const was = known.get(key);
      let now = after[i];
      known.delete(key);
      if (was) {
        if (was === at) at = at.nextElementSibling;
        if (was.matches(deep) && now.matches(deep)) {
          patch(was, now);
          now = was;
        } else if (same(was, now)) now = was;
        else {
          stale = stale || stub(now);
          if (catchingUp) carry(was, now);
          was.replaceWith(now);
        }
      } else stale = stale || stub(now);
      if (now.nextElementSibling !== at || now.parentElement !== old) old.insertBefore(now, at);
    });
    known.forEach((gone) => gone.remove());
  }

  // Every form of the page names the revision that it was made on, and by its
  // command what the page shows.
  const named = ["rev", "command", "list", "follow"];
  function follow(at, fresh, names) {
    names.forEach((name) => {
      const now = fresh?.querySelector("input[name=" + name + "]");
      if (now) at.querySelectorAll("input[name=" + name + "]").forEach((el) => el.setAttribute("value", now.value));
    });
  }

  // The drawing alone came anew: the forms around it go on from what it shows.
  // The margin alone: its forms go on from what stands beside it.
  document.addEventListener("ajax:merged", (e) => {
    if (e.target.id === "board") follow(document.getElementById("book"), e.target, named);
    if (e.target.id === "margin") follow(e.target, document.getElementById("matter"), ["command", "follow"]);
  });

  // Of edits sent before an answer came, only the answer to the last is shown.
  // Should another have been kept after it, the page is behind and loaded anew.
  const revision = (at) => Number(at?.querySelector("input[name=rev]")?.value || 0);
  const heard = new WeakSet(); // forms whose answers are listened for
  let pending = 0;
  let newest = 0; // of the answers since none was pending
  function catchUp() {
    if (pending === 0 && revision(document.getElementById("book")) < newest) location.reload();
  }
  // At the form itself: one that is no longer on the page has its answer too.
  function hear(form) {
    heard.add(form);
    form.addEventListener("ajax:success", (e) => { newest = Math.max(newest, revision(e.detail.html)); });
    form.addEventListener("ajax:sent", () => {
      pending -= 1;
      setTimeout(catchUp, 100); // once the answer is shown
    });
  }
  document.addEventListener("ajax:before", (e) => {
    if (e.target.method !== "post") return;
    if (!heard.has(e.target)) hear(e.target);
    if (pending === 0) newest = 0;
    pending += 1;
  });
  window.addEventListener("unhandledrejection", () => { pending = 0; });

  let sent = null;
  let kept = false;
  document.addEventListener("ajax:before", (e) => { sent = e.target; });
  document.addEventListener("ajax:success", () => { kept = true; });
  document.addEventListener("ajax:error", () => { kept = false; });
  document.addEventListener("ajax:merge", (e) => {
    const book = e.target;
    const fresh = e.detail.content;
    if (book.id !== "book" || e.defaultPrevented || book.className !== fresh.className) return;
    e.preventDefault();
    const values = document.createElement("div");
    values.append(...Array.from(fresh.querySelectorAll("input[name=rev], input[name=command], input[name=list], input[name=follow]")).slice(0, 4).map((el) => el.cloneNode()));
    if (document.activeElement && document.activeElement.closest("svg")) document.activeElement.blur(); // to lose it half-way would lay out everything twice
    catchingUp = sent?.id === "catch-up";
    patch(book, fresh);
    if (stale) {
      console.warn("The answer left out what this page does not have; the page is loaded anew.");
      return location.reload();
    }
    follow(book, values, named);
    book.removeAttribute("aria-busy");
    if (kept && sent && sent.isConnected && sent.reset) sent.reset();
    book.dispatchEvent(new CustomEvent("ajax:merged", { bubbles: true }));
  });
})();
