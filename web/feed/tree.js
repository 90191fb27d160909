// In the picture of the supply a device is dragged onto the circuit that it is to be plugged
// into, and a part onto what is to feed it. By keys the same is done on their forms.
(function () {
  "use strict";

  const slop = 6; // pixels that a press may wander and stay a press
  let held = null;

  function rowAt(e) {
    const under = document.elementsFromPoint(e.clientX, e.clientY);
    return under.map((el) => el.closest("[data-row]")).find(Boolean);
  }

  function mark(row) {
    document.querySelectorAll(".feed-tree .is-over").forEach((el) => el !== row && el.classList.remove("is-over"));
    row?.classList.add("is-over");
  }

  function takes(row) {
    if (!row || !held) return false;
    if (held.dataset.load) return Boolean(row.dataset.outlet);
    return row.dataset.row !== held.dataset.part && row.dataset.feeds === "yes";
  }

  function drop(row) {
    if (held.dataset.load) {
      const form = document.getElementById("plug-by-hand");
      form.elements.tag.value = held.dataset.load;
      form.elements.outlet.value = row.dataset.outlet;
      form.requestSubmit();
      return;
    }
    const form = document.getElementById("feed-by-hand");
    form.elements.name.value = held.dataset.part;
    form.elements.from.value = row.dataset.row;
    form.requestSubmit();
  }

  document.addEventListener("pointerdown", function (e) {
    const at = e.button === 0 && e.target.closest?.(".feed-tree [data-load], .feed-tree [data-part]");
    if (!at) return;
    held = at;
    held.from = { x: e.clientX, y: e.clientY, moved: false };
  });
  document.addEventListener("pointermove", function (e) {
    if (!held) return;
    if (Math.hypot(e.clientX - held.from.x, e.clientY - held.from.y) < slop && !held.from.moved) return;
    held.from.moved = true;
    held.classList.add("is-held");
    const row = rowAt(e);
    mark(takes(row) ? row : null);
  });
  document.addEventListener("pointerup", function (e) {
    if (!held) return;
    const row = rowAt(e);
    if (held.from.moved && takes(row)) drop(row);
    held.classList.remove("is-held");
    mark(null);
    const was = held;
    held = null;
    if (was.from.moved) was.addEventListener("click", (c) => c.preventDefault(), { once: true });
  });
  document.addEventListener("pointercancel", function () {
    held?.classList.remove("is-held");
    held = null;
    mark(null);
  });
  document.addEventListener("dragstart", function (e) {
    if (e.target.closest?.(".feed-tree")) e.preventDefault();
  });
})();
