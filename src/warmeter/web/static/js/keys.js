// Single keys: steps, days, undo, theme. Off in fields, and can be switched off.
(() => {
  "use strict";
  const isOff = () => localStorage.getItem("wm-keys") === "off";
  const click = (selector) => { const found = document.querySelector(selector); if (found && !found.closest("[hidden]")) found.click(); return Boolean(found); };
  const box = document.getElementById("keys-off");
  if (box) {
    box.checked = isOff();
    box.addEventListener("change", () => localStorage.setItem("wm-keys", box.checked ? "off" : "on"));
  }
  const acts = {
    i: "#to-import-key", b: "#to-bothers", "/": "#to-find", "[": "#day-before, #zoom-earlier", "]": "#day-after, #zoom-later", ".": "#day-today", u: "#undo", r: "#redo", n: "#theme", "?": "#open-keys",
  };
  // Where typing goes: to what adds, to the name of what is chosen, to the first room of the plan.
  const places = { a: "[data-add]", e: "[data-edit]", p: ".wm-room" };
  const goTo = (selector) => {
    const found = document.querySelector(selector);
    if (!found) return selector === places.e && click("[data-edit-by]");
    const fold = found.closest("details");
    if (fold) fold.open = true;
    found.focus();
    if (found.select) found.select();
    return true;
  };
  document.addEventListener("keydown", (event) => {
    if (event.key === "Escape" && document.getElementById("close-working")) { click("#close-working"); return; }
    if (isOff() || event.ctrlKey || event.altKey || event.metaKey) return;
    if (event.target.closest("input, select, textarea, dialog[open]")) return;
    const digit = /^[0-9hs]$/.test(event.key) && document.querySelector(`.wm-spine a[data-digit="${event.key}"]`);
    if (digit) { digit.click(); event.preventDefault(); return; }
    if (acts[event.key] && click(acts[event.key])) event.preventDefault();
    if (places[event.key] && goTo(places[event.key])) event.preventDefault();
  });
})();
