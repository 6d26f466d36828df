// The year ribbon: a click goes to a day, a drag to a stretch; arrows move the caret, Enter goes there.
(() => {
  "use strict";
  const ribbon = () => document.getElementById("ribbon");
  const clamp = (value, low, high) => Math.min(Math.max(value, low), high);

  function dateOf(svg, day) {
    const at = new Date(`${svg.dataset.first}T00:00:00Z`);
    at.setUTCDate(at.getUTCDate() + day);
    return at.toISOString().slice(0, 10);
  }
  const dayAt = (svg, event) =>
    clamp(Math.floor((event.clientX - svg.getBoundingClientRect().left) / +svg.dataset.px), 0, +svg.dataset.days - 1);

  function go(svg, fields) {
    const url = new URL(svg.dataset.url, location.origin);
    for (const [name, value] of Object.entries(fields)) url.searchParams.set(name, value);
    location.assign(url);
  }
  function caret(svg, day) {
    document.getElementById("ribbon-caret").setAttribute("transform", `translate(${day * +svg.dataset.px + 0.5} 0)`);
    svg.setAttribute("aria-valuenow", day);
    svg.setAttribute("aria-valuetext", dateOf(svg, day));
  }

  document.addEventListener("pointerdown", (event) => {
    const svg = event.target.closest && event.target.closest("#ribbon");
    if (!svg || event.button !== 0) return;
    event.preventDefault();
    svg.setPointerCapture(event.pointerId);
    const from = dayAt(svg, event), px = +svg.dataset.px;
    let to = from;
    const shade = document.getElementById("ribbon-stretch");
    const move = (moved) => {
      to = dayAt(svg, moved);
      caret(svg, to);
      shade.setAttribute("d", to === from ? "" : `M${Math.min(from, to) * px} 31.5H${(Math.max(from, to) + 1) * px}`);
    };
    const end = (ended) => {
      svg.removeEventListener("pointermove", move);
      svg.removeEventListener("pointerup", end);
      svg.removeEventListener("pointercancel", end);
      if (ended.type !== "pointerup") { shade.setAttribute("d", ""); caret(svg, from); return; }
      if (to === from) go(svg, { day: dateOf(svg, to) });
      else go(svg, { from: dateOf(svg, Math.min(from, to)), to: dateOf(svg, Math.max(from, to)), pane: "compare" });
    };
    svg.addEventListener("pointermove", move);
    svg.addEventListener("pointerup", end);
    svg.addEventListener("pointercancel", end);
  });
  document.addEventListener("keydown", (event) => {
    const svg = ribbon();
    if (!svg || document.activeElement !== svg || event.ctrlKey || event.altKey || event.metaKey) return;
    const now = +svg.getAttribute("aria-valuenow");
    const step = { ArrowLeft: -1, ArrowRight: 1, PageUp: 30, PageDown: -30 }[event.key];
    if (step) { event.preventDefault(); caret(svg, clamp(now + step, 0, +svg.dataset.days - 1)); }
    if (event.key === "Home" || event.key === "End") { event.preventDefault(); caret(svg, event.key === "Home" ? 0 : +svg.dataset.days - 1); }
    if (event.key === "Enter") go(svg, { day: dateOf(svg, now) });
  });
})();
