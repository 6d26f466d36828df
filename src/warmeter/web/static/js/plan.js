// The plan: drawing, moving and placing by pointer and by arrows. It measures in metres and sends one act at a time.
(() => {
  "use strict";
  const NS = "http://www.w3.org/2000/svg";
  const GRID = 0.1, FINE = 0.01, PULL_PX = 8, START_PX = 4, LEAST = 0.3;
  let tool = "choose";

  const plan = () => document.querySelector("svg[data-plan]");
  const home = () => document.querySelector("[data-part]").dataset.home;
  const act = (name, fields, series) => window.warmeter.send(`/homes/${home()}/plan/${name}`, { ...fields, unit: "SI" }, series);
  const centimetres = (value) => Math.round(value * 100) / 100;

  function facts(svg) {
    const d = svg.dataset;
    return {
      scale: +d.scale, left: +d.left, top: +d.top, storey: d.storey,
      edges: { x: JSON.parse(d.edgesX), y: JSON.parse(d.edgesY) },
    };
  }

  function point(svg, event) {
    const box = svg.getBoundingClientRect(), f = facts(svg);
    return { x: (event.clientX - box.left) / f.scale + f.left, y: (event.clientY - box.top) / f.scale + f.top };
  }

  // To an edge that is already drawn, else to the grid; Shift leaves edges alone and goes by the centimetre.
  function snap(f, axis, value, fine, not = []) {
    if (fine) return centimetres(value);
    let best = null;
    for (const edge of f.edges[axis]) {
      const away = Math.abs(edge - value);
      if (away * f.scale <= PULL_PX && !not.includes(edge) && (best === null || away < Math.abs(best - value))) best = edge;
    }
    return best === null ? Math.round(value / GRID) * GRID : best;
  }

  function rubber(svg, kind) {
    const shape = document.createElementNS(NS, kind);
    shape.setAttribute("class", "wm-ghost");
    svg.querySelector(".wm-rubber").append(shape);
    return shape;
  }

  function follow(svg, start, move, end) {
    svg.setPointerCapture(start.pointerId);
    let moved = false;
    const go = (event) => {
      if (!moved && Math.hypot(event.clientX - start.clientX, event.clientY - start.clientY) < START_PX) return;
      moved = true;
      move(event);
    };
    const stop = (event) => {
      svg.removeEventListener("pointermove", go); svg.removeEventListener("pointerup", stop);
      svg.removeEventListener("pointercancel", stop); document.removeEventListener("keydown", escape);
      svg.querySelector(".wm-rubber").replaceChildren();
      svg.querySelectorAll("[data-was]").forEach((each) => { each.removeAttribute("transform"); each.removeAttribute("data-was"); });
      end(event.type === "pointerup", moved);
    };
    const escape = (event) => { if (event.key === "Escape") { event.stopPropagation(); stop({ type: "given up" }); } };
    svg.addEventListener("pointermove", go); svg.addEventListener("pointerup", stop);
    svg.addEventListener("pointercancel", stop); document.addEventListener("keydown", escape);
  }

  function shift(element, dx, dy) {
    element.setAttribute("data-was", "1");
    element.setAttribute("transform", `translate(${dx} ${dy})`);
  }

  function drawRoom(svg, start) {
    const f = facts(svg), from = point(svg, start), shape = rubber(svg, "rect");
    const a = { x: snap(f, "x", from.x, start.shiftKey), y: snap(f, "y", from.y, start.shiftKey) };
    let b = a;
    const size = rubber(svg, "text");
    follow(svg, start, (event) => {
      const to = point(svg, event);
      b = { x: snap(f, "x", to.x, event.shiftKey), y: snap(f, "y", to.y, event.shiftKey) };
      const x = Math.min(a.x, b.x), y = Math.min(a.y, b.y), w = Math.abs(a.x - b.x), d = Math.abs(a.y - b.y);
      shape.setAttribute("x", (x - f.left) * f.scale); shape.setAttribute("y", (y - f.top) * f.scale);
      shape.setAttribute("width", w * f.scale); shape.setAttribute("height", d * f.scale);
      size.setAttribute("x", (x - f.left) * f.scale + 6); size.setAttribute("y", (y - f.top) * f.scale + 16);
      const foot = svg.dataset.unit === "ft" ? 0.3048 : 1;
      size.textContent = `${(w / foot).toFixed(2)} × ${(d / foot).toFixed(2)} ${svg.dataset.unit}`;
    }, (done) => {
      const w = Math.abs(a.x - b.x), d = Math.abs(a.y - b.y);
      if (!done || w < LEAST || d < LEAST) return;
      choose("choose");
      act("room-add", {
        storey_id: f.storey, x_m: centimetres(Math.min(a.x, b.x)), y_m: centimetres(Math.min(a.y, b.y)),
        width_m: centimetres(w), depth_m: centimetres(d),
      });
    });
  }

  function rectsOf(path) {
    return [...path.getAttribute("d").matchAll(/M([\d.-]+) ([\d.-]+)H([\d.-]+)V([\d.-]+)/g)].map((m) => m.slice(1).map(Number));
  }

  function moveRoom(svg, path, start) {
    const f = facts(svg), from = point(svg, start);
    const own = rectsOf(path).flatMap(([x0, y0, x1, y1]) => [[x0, y0], [x1, y1]]);
    const xs = [...new Set(own.map(([x]) => centimetres(x / f.scale + f.left)))];
    const ys = [...new Set(own.map(([, y]) => centimetres(y / f.scale + f.top)))];
    let dx = 0, dy = 0;
    const best = (axis, values, delta, fine) => {
      if (fine) return centimetres(delta);
      let found = null;
      for (const value of values) {
        const to = snap(f, axis, value + delta, false, values);
        if (f.edges[axis].includes(to) && (found === null || Math.abs(to - value - delta) < Math.abs(found - delta))) found = to - value;
      }
      return found === null ? Math.round(delta / GRID) * GRID : found;
    };
    follow(svg, start, (event) => {
      const to = point(svg, event);
      dx = best("x", xs, to.x - from.x, event.shiftKey); dy = best("y", ys, to.y - from.y, event.shiftKey);
      shift(path, dx * f.scale, dy * f.scale);
    }, (done, moved) => {
      if (!done) return;
      if (!moved) { window.warmeter.go({ at: path.dataset.room }); return; }
      if (dx || dy) act("room-move", { room_id: path.dataset.room, dx_m: centimetres(dx), dy_m: centimetres(dy) });
    });
  }

  function moveEdge(svg, handle, start) {
    const f = facts(svg), { edge, of, index, at } = handle.dataset;
    const axis = edge === "left" || edge === "right" ? "x" : "y";
    const from = point(svg, start);
    let value = +at;
    const line = rubber(svg, "path");
    follow(svg, start, (event) => {
      value = centimetres(snap(f, axis, +at + point(svg, event)[axis] - from[axis], event.shiftKey, [+at]));
      const px = (value - (axis === "x" ? f.left : f.top)) * f.scale;
      line.setAttribute("d", axis === "x" ? `M${px} 0V${svg.getAttribute("height")}` : `M0 ${px}H${svg.getAttribute("width")}`);
    }, (done, moved) => { if (done && moved && value !== +at) act("room-edge", { room_id: of, index, side: edge, at_m: value }); });
  }

  function moveOpening(svg, group, start) {
    const f = facts(svg), { opening, axis, along } = group.dataset, from = point(svg, start);
    let value = +along;
    follow(svg, start, (event) => {
      const step = event.shiftKey ? FINE : GRID;
      value = centimetres(Math.round((+along + point(svg, event)[axis] - from[axis]) / step) * step);
      const px = (value - along) * f.scale;
      shift(group, axis === "x" ? px : 0, axis === "x" ? 0 : px);
    }, (done, moved) => {
      if (!done) return;
      if (moved) act("opening-move", { id: opening, along_m: value });
      else window.warmeter.go({ at: opening, pane: "openings" });
    });
  }

  function moveItem(svg, group, start) {
    const f = facts(svg), { item, x, y } = group.dataset, from = point(svg, start);
    let to = { x: +x, y: +y };
    follow(svg, start, (event) => {
      const p = point(svg, event), step = event.shiftKey ? FINE : GRID;
      to = { x: centimetres(Math.round((+x + p.x - from.x) / step) * step), y: centimetres(Math.round((+y + p.y - from.y) / step) * step) };
      shift(group, (to.x - x) * f.scale, (to.y - y) * f.scale);
    }, (done, moved) => {
      if (!done) return;
      if (moved) act("item-move", { id: item, x_m: to.x, y_m: to.y, storey_id: f.storey });
      else window.warmeter.go({ at: item, pane: "inside" });
    });
  }

  function choose(name) {
    tool = name;
    document.querySelectorAll("[data-tool]").forEach((button) => {
      const on = button.dataset.tool === name;
      button.classList.toggle("is-on", on);
      button.setAttribute("aria-pressed", on);
    });
    if (plan()) plan().setAttribute("class", `wm-plan wm-with-${name}`);
  }

  document.addEventListener("click", (event) => {
    const button = event.target.closest("[data-tool]");
    if (button) choose(button.dataset.tool);
  });
  document.addEventListener("pointerdown", (event) => {
    const svg = event.target.closest("svg[data-plan]");
    if (!svg || event.button !== 0) return;
    event.preventDefault();
    if (tool === "room") { drawRoom(svg, event); return; }
    const p = point(svg, event), f = facts(svg);
    if (tool === "window" || tool === "door") {
      act("opening-add", { kind: tool, storey_id: f.storey, x_m: centimetres(p.x), y_m: centimetres(p.y) });
      choose("choose");
      return;
    }
    if (tool === "place") {
      const what = document.getElementById("place-what").value;
      act("item-add", { what, storey_id: f.storey, x_m: Math.round(p.x / GRID) * GRID, y_m: Math.round(p.y / GRID) * GRID });
      choose("choose");
      return;
    }
    const target = event.target.closest(".wm-hnd, [data-opening], [data-item], [data-room]");
    if (!target) return;
    target.focus({ preventScroll: true });
    if (target.dataset.edge) moveEdge(svg, target, event);
    else if (target.dataset.opening) moveOpening(svg, target, event);
    else if (target.dataset.item) moveItem(svg, target, event);
    else moveRoom(svg, target, event);
  });

  const ARROWS = { ArrowLeft: ["x", -1], ArrowRight: ["x", 1], ArrowUp: ["y", -1], ArrowDown: ["y", 1] };
  function arrow(target, axis, step) {
    const d = target.dataset, storey = plan().dataset.storey;
    if (d.edge) {
      if ((axis === "x") !== (d.edge === "left" || d.edge === "right")) return;
      d.at = centimetres(+d.at + step);
      act("room-edge", { room_id: d.of, index: d.index, side: d.edge, at_m: d.at }, `${d.of} ${d.index} ${d.edge}`);
    } else if (d.opening) {
      if (axis !== d.axis) return;
      d.along = centimetres(+d.along + step);
      act("opening-move", { id: d.opening, along_m: d.along }, d.opening);
    } else if (d.item) {
      d[axis] = centimetres(+d[axis] + step);
      act("item-move", { id: d.item, x_m: d.x, y_m: d.y, storey_id: storey }, d.item);
    } else {
      act("room-move", { room_id: d.room, dx_m: axis === "x" ? step : 0, dy_m: axis === "y" ? step : 0 });
    }
  }
  document.addEventListener("keydown", (event) => {
    const target = event.target.closest && event.target.closest("svg[data-plan] [tabindex]");
    if (!target || event.ctrlKey || event.altKey || event.metaKey) return;
    const found = ARROWS[event.key];
    if (found) {
      event.preventDefault();
      arrow(target, found[0], found[1] * (event.shiftKey ? FINE : GRID));
    } else if (event.key === "Enter" || event.key === " ") {
      event.preventDefault();
      const d = target.dataset;
      if (d.room) window.warmeter.go({ at: d.room });
      if (d.opening) window.warmeter.go({ at: d.opening, pane: "openings" });
      if (d.item) window.warmeter.go({ at: d.item, pane: "inside" });
    } else if (event.key === "Delete") {
      const d = target.dataset;
      if (d.room) act("room-remove", { room_id: d.room });
      else if (d.opening || d.item) act("part-remove", { id: d.opening || d.item });
    }
  });
  document.addEventListener("wm:drawn", () => choose(tool));
})();
