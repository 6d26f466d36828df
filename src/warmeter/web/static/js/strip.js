// The strip's crosshair and its handles: drawing and dragging only. Numbers come ready from the server.
(() => {
  "use strict";
  const NS = "http://www.w3.org/2000/svg";
  const strips = new WeakMap();
  const clamp = (value, low, high) => Math.min(Math.max(value, low), high);

  function facts(svg) {
    if (!strips.has(svg)) {
      const d = svg.dataset;
      strips.set(svg, {
        id: d.strip, left: +d.left, plot: +d.plot, length: +d.length, step: +d.step,
        times: JSON.parse(d.times), clocks: JSON.parse(d.clocks), tables: JSON.parse(d.tables), unit: d.unit || "C", at: +d.at,
      });
    }
    return strips.get(svg);
  }

  const toX = (f, at) => f.left + (at / f.length) * f.plot;
  const toAt = (f, x) => clamp(((x - f.left) / f.plot) * f.length, 0, f.length);
  const localX = (svg, event) => event.clientX - svg.getBoundingClientRect().left;

  function crosshair(svg, at) {
    const f = facts(svg);
    f.at = at;
    const x = Math.round(toX(f, at)) + 0.5;
    const line = svg.querySelector(`#${f.id}-xh`);
    line.setAttribute("d", line.getAttribute("d").replace(/^M[\d.]+/, `M${x}`));
    line.setAttribute("visibility", "visible");
    const k = clamp(Math.floor(at / f.step), 0, f.times.length - 1);
    const tag = svg.querySelector(`#${f.id}-xtag`);
    const text = svg.querySelector(`#${f.id}-xtext`);
    const wide = Math.max(44, 7 * f.times[k].length + 10);
    tag.setAttribute("x", x - wide / 2); tag.setAttribute("width", wide);
    tag.setAttribute("visibility", "visible");
    text.setAttribute("x", x); text.textContent = f.times[k];
    svg.querySelector(`#${f.id}-xhead`).textContent = f.times[k].split(" ").pop();
    const clocks = f.clocks.filter(([from]) => from <= k * f.step);
    svg.querySelector(`#${f.id}-xclock`).textContent = clocks.length ? clocks[clocks.length - 1][1] : "";
    f.tables.forEach((table, lane) => table.rows.forEach(([values, unit, word], row) => {
      const value = values[k] || "";
      svg.querySelector(`#${f.id}-v${lane}-${row}`).textContent = value || "–";
      svg.querySelector(`#${f.id}-v${lane}-${row}-u`).textContent = value ? unit : "";
      svg.querySelector(`#${f.id}-v${lane}-${row}-w`).textContent = word;
    }));
  }

  function ready() {
    document.querySelectorAll("svg[data-strip]").forEach((svg) => crosshair(svg, facts(svg).at));
  }

  const home = () => document.querySelector("[data-part]").dataset.home;
  const path = (name) => `/homes/${home()}/timetable/${name}`;
  const isBlock = (kind) => kind === "edge" || kind === "top";
  // How far a handle moves at once, and with Shift, in units of the axis.
  const snaps = (svg) => (svg.dataset.snap || "5 1").split(" ").map(Number);
  const steps = (f) => (f.unit === "F" ? [1 / 1.8, 0.2 / 1.8] : [0.5, 0.1]);

  function named(key) {
    const cut = key.lastIndexOf("-");
    return { zone_id: key.slice(0, cut), block: key.slice(cut + 1) };
  }

  function commit(handle, value) {
    const { kind, key } = handle.dataset;
    if (kind === "begin" || kind === "end") {
      const { machine, since, span } = handle.closest("svg").dataset;
      const edge = kind === "begin" ? "start" : "end";
      window.warmeter.send(`/homes/${home()}/signatures/bound`, { machine_id: machine, span, edge, since_ms: since, at_min: value.toFixed(4) }, `${kind} ${span}`);
    }
    if (kind === "price") window.warmeter.send(handle.closest("svg").dataset.post, { key, minute: Math.round(value) }, `price ${key}`);
    const { pin } = handle.closest("svg").dataset;
    if (kind === "run") window.warmeter.send(pin || path("run"), { [pin ? "id" : "appliance_id"]: key, minute: Math.round(value) }, `run ${key}`);
    if (kind === "edge") window.warmeter.send(path("minute"), { ...named(key), minute: Math.round(value) }, `edge ${key}`);
    if (kind === "top") window.warmeter.send(path("setpoint"), { ...named(key), setpoint_c: value.toFixed(4), unit: "C" }, `top ${key}`);
  }

  // In °F the grid is that of the home's unit, not of °C.
  function snapTemperature(f, value, fine) {
    const size = f.unit === "F" ? (fine ? 0.2 : 1) : (fine ? 0.1 : 0.5);
    if (f.unit === "F") return (Math.round((value * 1.8 + 32) / size) * size - 32) / 1.8;
    return Math.round(value / size) * size;
  }

  // A click waits whether it becomes a double one.
  let asking = 0;
  // Which claim decides at a point of a zone's lane; the answer comes ready.
  function why(svg, event) {
    const f = facts(svg), y = event.clientY - svg.getBoundingClientRect().top;
    const lane = f.tables.filter((table) => +table.y <= y).pop();
    if (!lane || !lane.zone || !document.getElementById("aside")) return;
    const query = new URLSearchParams(document.querySelector("[data-part]").dataset.query || "");
    query.set("zone", lane.zone); query.set("minute", Math.floor(toAt(f, localX(svg, event))));
    htmx.ajax("GET", `${path("why")}?${query}`, { target: "#aside", swap: "outerHTML" });
  }

  function drag(svg, handle, start) {
    const f = facts(svg);
    const isTop = handle.dataset.kind === "top";
    const from = +handle.dataset.value;
    let value = from;
    const ghost = document.createElementNS(NS, "path");
    ghost.setAttribute("class", "wm-ghost");
    handle.classList.add("is-on");
    svg.append(ghost);
    svg.setPointerCapture(start.pointerId);
    const y0 = +handle.getAttribute("y"), x0 = +handle.getAttribute("x");
    const move = (event) => {
      if (isTop) {
        value = snapTemperature(f, from + (start.clientY - event.clientY) / +handle.dataset.scale, event.shiftKey);
        const y = y0 - (value - from) * +handle.dataset.scale;
        handle.setAttribute("y", y);
        ghost.setAttribute("d", `M${x0 - 30} ${y + 3}h78`);
      } else {
        const size = snaps(svg)[event.shiftKey ? 1 : 0];
        value = clamp(Math.round(toAt(f, toX(f, from) + event.clientX - start.clientX) / size) * size, 0, f.length - 1);
        const x = toX(f, value);
        handle.setAttribute("x", x - 3);
        ghost.setAttribute("d", `M${x} 24V${svg.getAttribute("height")}`);
        crosshair(svg, value);
      }
    };
    const end = (event) => {
      svg.removeEventListener("pointermove", move); svg.removeEventListener("pointerup", end);
      svg.removeEventListener("pointercancel", end); document.removeEventListener("keydown", stop);
      ghost.remove();
      handle.classList.remove("is-on");
      if (event.type === "pointerup" && Math.abs(value - from) > 1e-9) { handle.dataset.value = value; commit(handle, value); }
      else if (event.type === "pointerup" && !start.target.closest(".wm-hnd")) {
        clearTimeout(asking);
        asking = setTimeout(() => why(svg, start), 300);
      }
      if (Math.abs(value - from) <= 1e-9 || event.type !== "pointerup") { handle.setAttribute("x", x0); handle.setAttribute("y", y0); }
    };
    const stop = (event) => { if (event.key === "Escape") end({ type: "given up" }); };
    svg.addEventListener("pointermove", move); svg.addEventListener("pointerup", end);
    svg.addEventListener("pointercancel", end); document.addEventListener("keydown", stop);
  }

  // A stretch dragged out of a strip that can be zoomed is shown instead of it.
  function zoom(svg, start) {
    const f = facts(svg), x0 = localX(svg, start);
    if (x0 < f.left || x0 > f.left + f.plot) return;
    start.preventDefault();
    svg.setPointerCapture(start.pointerId);
    const ghost = document.createElementNS(NS, "rect");
    ghost.setAttribute("class", "wm-zoomed"); ghost.setAttribute("y", 24); ghost.setAttribute("height", svg.getAttribute("height") - 24);
    svg.append(ghost);
    const ends = (event) => [x0, clamp(localX(svg, event), f.left, f.left + f.plot)].sort((a, b) => a - b);
    const move = (event) => { const [a, b] = ends(event); ghost.setAttribute("x", a); ghost.setAttribute("width", b - a); };
    const end = (event) => {
      svg.removeEventListener("pointermove", move); svg.removeEventListener("pointerup", end); svg.removeEventListener("pointercancel", end);
      ghost.remove();
      const [a, b] = ends(event);
      if (event.type !== "pointerup" || b - a < 6) return;
      const at = (x) => Math.round(+svg.dataset.since + toAt(f, x) * 60000);
      window.warmeter.go({ from: at(a), to: at(b) });
    };
    svg.addEventListener("pointermove", move); svg.addEventListener("pointerup", end); svg.addEventListener("pointercancel", end);
  }

  document.addEventListener("pointermove", (event) => {
    const svg = event.target.closest && event.target.closest("svg[data-strip]");
    if (svg && event.buttons === 0) {
      const f = facts(svg), x = localX(svg, event);
      if (x >= f.left && x <= f.left + f.plot) crosshair(svg, toAt(f, x));
    }
  });
  document.addEventListener("pointerdown", (event) => {
    const svg = event.target.closest("svg[data-strip]");
    if (!svg || event.button !== 0) return;
    let handle = event.target.closest(".wm-hnd");
    if (!handle && svg.dataset.zoom) { zoom(svg, event); return; }
    if (!handle && event.target.dataset.block) handle = svg.querySelector(`[id="h-top-${event.target.dataset.block}"]`);
    if (!handle) return;
    event.preventDefault();
    handle.focus({ preventScroll: true });
    drag(svg, handle, event);
  });
  document.addEventListener("dblclick", (event) => {
    const svg = event.target.closest("svg[data-strip]");
    if (!svg) return;
    // The strip holds the pointer since the press, so what lies under it is asked for.
    const under = document.elementsFromPoint(event.clientX, event.clientY).find((part) => part.dataset && part.dataset.block);
    const block = under && under.dataset.block;
    if (!block) return;
    clearTimeout(asking);
    const minute = Math.round(toAt(facts(svg), localX(svg, event)) / 5) * 5;
    window.warmeter.send(path("split"), { ...named(block), minute });
  });
  document.addEventListener("keydown", (event) => {
    const handle = event.target.closest && event.target.closest("svg[data-strip] .wm-hnd");
    if (!handle || event.ctrlKey || event.altKey || event.metaKey) return;
    const svg = handle.closest("svg"), f = facts(svg), { kind, key, value } = handle.dataset;
    const sign = { ArrowLeft: -1, ArrowRight: 1, ArrowDown: -1, ArrowUp: 1 }[event.key];
    if (sign) {
      event.preventDefault();
      const size = kind === "top" ? steps(f)[event.shiftKey ? 1 : 0] : snaps(svg)[event.shiftKey ? 1 : 0];
      const next = kind === "top" ? snapTemperature(f, +value + sign * size, event.shiftKey) : +value + sign * size;
      handle.dataset.value = next;
      commit(handle, next);
    } else if (isBlock(kind) && event.key === "Enter") {
      window.warmeter.send(path("split"), named(key));
    } else if (isBlock(kind) && event.key === "Delete") {
      window.warmeter.send(path("merge"), named(key));
    }
  });
  document.addEventListener("DOMContentLoaded", ready);
  document.addEventListener("wm:drawn", ready);
})();
