// Edits through htmx: one at a time, each on the revision that the one before left; conflicts, undo, what is typed meanwhile.
(() => {
  "use strict";
  const SILENT = '<p class="wm-notice">Warmeter does not answer. Your change is still here: try again when it runs.</p>';
  const PATIENCE_MS = 8000;
  // Requests that were asked for and are not over, in turn. Only the answer of the last is drawn.
  let waiting = [];
  // The newest revision that this page was told.
  let latest = "";
  // Edits that met another window's: kept until one chooses whose is saved.
  let refused = [];
  // Not drawn because somebody was typing: made up for when the field is left.
  let isStale = false;
  // To be done when nothing waits any more: draw what is there, draw the whole page, go on to another.
  let after = { redraw: false, renew: false, leave: "" };
  // While something is dragged, nothing is drawn anew under the hand.
  let release = null;
  let released = Promise.resolve();
  // The slot that is being edited: the focus comes back to it.
  let returnTo = "";
  let unfolded = [];
  let isPointing = false;
  if (!sessionStorage.getItem("wm-window")) sessionStorage.setItem("wm-window", crypto.randomUUID().slice(0, 12));

  const live = () => document.querySelector(".wm-live");
  const part = () => document.querySelector("[data-part]");
  const isQueued = (ctx) => waiting.includes(ctx);
  const ask = (method, path, more) => htmx.ajax(method, path, { source: "#sender", target: ".wm-live", ...more });
  const redraw = () => ask("GET", `${part().dataset.page}?${part().dataset.query || ""}`);
  const notice = (html) => { document.getElementById("notice").innerHTML = html; };

  // Of edits of one series that still wait, each says the whole of it, so that the last of them is enough.
  function send(path, fields, series = "") {
    ask("POST", `${path}?${part().dataset.query || ""}`, { values: fields, series });
  }

  // Shows the page with other things chosen.
  function go(changes) {
    const query = new URLSearchParams(part().dataset.query || "");
    for (const [name, value] of Object.entries(changes)) query.set(name, value);
    part().dataset.query = query.toString();
    redraw();
  }

  // The whole page as it is now, in place: keys that are pressed meanwhile are heard.
  function renew() {
    const others = "#home-name,#ribbon-box,#spine,#status";
    ask("GET", location.href, { target: "#main", select: "#main", swap: "innerHTML strip:true", selectOOB: others });
  }

  // Whether something that was asked for is under way, for eye and ear.
  function busy(isBusy) {
    document.body.classList.toggle("is-busy", isBusy);
    document.getElementById("main").ariaBusy = isBusy ? "true" : "false";
  }

  // Whether a field holds what was typed and is not sent yet.
  function isTyping() {
    const field = document.activeElement;
    const isText = field && live() && live().contains(field) && field.matches("input:not([type=checkbox], [type=radio]), textarea");
    return isText && field.value !== (field.dataset.sent ?? field.defaultValue);
  }

  // The base of edits follows what was saved, drawn or not; not while somebody has to choose whose is saved.
  function follow(revision) {
    if (!revision || document.getElementById("save-mine")) return;
    latest = revision;
    if (live()) live().dataset.base = revision;
  }

  // In a long list the chosen row is brought into view.
  function toChosen() {
    const row = document.querySelector(".wm-rules.is-long > .is-on");
    if (row) row.scrollIntoView({ block: "nearest" });
  }

  document.addEventListener("htmx:config:request", (event) => {
    const { ctx } = event.detail, { request } = ctx;
    request.headers["X-Window"] = sessionStorage.getItem("wm-window");
    if (!ctx.sourceElement.getAttribute("hx-sync")) return;
    // Its element may be drawn anew meanwhile.
    ctx.isStep = ctx.sourceElement.matches("#undo-form, #redo-form");
    if (request.method === "POST") {
      // Enter in a field both changes and submits it: the second of the two is the same edit.
      ctx.wording = JSON.stringify([request.action, ...new URLSearchParams(request.body)]);
      const isTwice = waiting.some((other) => other.sourceElement === ctx.sourceElement && other.wording === ctx.wording);
      if (isTwice && !ctx.isStep && ctx.sourceElement.id !== "sender") { event.preventDefault(); return; }
      if (request.form) for (const field of request.form.elements) field.dataset.sent = field.value;
      // What is on its way can be undone already, and what is being undone brought back.
      const next = document.getElementById(ctx.sourceElement.id === "undo-form" ? "redo-form" : "undo-form");
      if (next) next.hidden = false;
    }
    waiting.push(ctx);
    busy(true);
  });

  document.addEventListener("htmx:before:request", (event) => {
    const { ctx } = event.detail, { request } = ctx;
    if (!isQueued(ctx)) return;
    const next = waiting[waiting.indexOf(ctx) + 1];
    if (ctx.series && next && next.series === ctx.series) { event.preventDefault(); return; }
    const url = new URL(request.action, location.href);
    // The answer shows what is in view now, which may be more than when the form was drawn.
    if (request.method === "POST" && !ctx.isStep && part()) url.search = part().dataset.query || "";
    url.searchParams.set("w", window.innerWidth);
    request.action = url.pathname + url.search;
    if (request.method === "POST") {
      request.body.set("base", (live() ? live().dataset.base : latest) || request.body.get("base"));
      // A page that is closed meanwhile still sends it; browsers take that for small bodies only.
      request.keepalive = request.body.toString().length < 60000;
    }
    ctx.fetch = async (...asked) => {
      const answer = await window.fetch(...asked);
      while (release) await released;
      return answer;
    };
  });

  document.addEventListener("htmx:after:request", (event) => {
    const { ctx } = event.detail, { status, headers } = ctx.response;
    if (!isQueued(ctx)) return;
    const isPost = ctx.request.method === "POST", isLast = waiting.at(-1) === ctx;
    if (status < 400) {
      if (isPost) follow(headers.get("X-Revision"));
      if (isPost && ctx.request.form) window.warmeter.forget(ctx.request.form);
      if (isPost && !waiting.some((other) => other.isStep)) document.getElementById("redo-form").hidden = true;
      if (ctx.isStep) after.renew = true;
      else if (!isLast) event.preventDefault();
      else if (live() && ctx.target === live() && isTyping()) { isStale = true; event.preventDefault(); }
      else if (isPost) notice("");
      return;
    }
    if (ctx.isStep) {
      if (status === 409) { event.preventDefault(); ctx.request.form.submit(); }
      return;
    }
    if (status === 409) {
      refused.push({ path: ctx.request.action, fields: Object.fromEntries(ctx.request.body), series: ctx.series });
      if (ctx.request.form) window.warmeter.forget(ctx.request.form);
    }
    // What was typed and could not be taken stands there, to be put right; what was dragged goes back.
    const form = isPost && status !== 409 ? ctx.request.form : null;
    if (!form) after.redraw ||= isPost;
    else if (!form.isConnected || window.warmeter.showFaults(form, ctx.text)) return;
    else if (form.querySelector("#fill")) form.querySelector("#fill").focus();
  });

  document.addEventListener("htmx:before:swap", (event) => {
    const { ctx, tasks } = event.detail, fresh = tasks.map((task) => task.fragment.querySelector("[data-page]")).find(Boolean);
    if (isQueued(ctx) && fresh) history.replaceState(null, "", `${fresh.dataset.page}?${fresh.dataset.query || ""}`);
    unfolded = [...document.querySelectorAll(".wm-live details[id][open]")].map((each) => each.id);
  });

  document.addEventListener("htmx:after:swap", (event) => {
    const { ctx } = event.detail;
    if (!isQueued(ctx) || ctx.response.status !== 200) return;
    isStale = false;
    const fresh = part();
    if (!fresh) return;
    for (const id of unfolded) if (document.getElementById(id)) document.getElementById(id).open = true;
    follow(fresh.dataset.revision);
    document.dispatchEvent(new CustomEvent("wm:drawn"));
    toChosen();
    const opened = live() && live().querySelector("[data-focus]");
    const back = document.activeElement === document.body && document.getElementById(returnTo);
    if (opened) { opened.focus(); if (opened.select) opened.select(); } else if (back) back.focus({ preventScroll: true });
  });

  document.addEventListener("htmx:error", (event) => { if (isQueued(event.detail.ctx)) notice(SILENT); });

  document.addEventListener("htmx:finally:request", (event) => {
    waiting = waiting.filter((ctx) => ctx !== event.detail.ctx);
    if (waiting.length) return;
    busy(false);
    const { redraw: isToDraw, renew: isToRenew, leave } = after;
    after = { redraw: false, renew: false, leave: "" };
    if (leave) location.assign(leave); else if (isToRenew) renew(); else if (isToDraw && part()) redraw();
  });

  // A form that brings a whole page: its answer may take a while.
  document.addEventListener("submit", (event) => {
    if (event.defaultPrevented || event.target.target) return;
    busy(true);
    setTimeout(() => busy(waiting.length > 0), PATIENCE_MS);  // what is saved as a file brings no page
  });
  window.addEventListener("pageshow", () => busy(false));
  document.addEventListener("focusout", () => setTimeout(() => { if (isStale && !isTyping()) redraw(); }));
  document.addEventListener("change", (event) => {
    event.target.dataset.sent = event.target.value;
    // Chosen by pointer it is kept at once; by keys each arrow is a change, and Enter keeps.
    if (event.target.matches("select[data-fill]") && isPointing) event.target.form.requestSubmit();
  });
  document.addEventListener("click", (event) => {
    const chosen = event.target.closest("a[hx-get][id]");
    if (chosen) returnTo = chosen.id;
    const target = event.target.closest("button");
    if (target && target.id === "save-mine") {
      const mine = refused;
      refused = [];
      notice("");
      follow(target.dataset.latest);
      for (const { path, fields, series } of mine) ask("POST", path, { values: fields, series });
    }
    if (target && target.id === "take-theirs") { refused = []; notice(""); redraw(); }
    if (target && target.id === "close-working") { if (live()) redraw(); else location.reload(); }
    // A page that is left waits for the edits that are on their way.
    const link = event.target.closest("a[href]");
    if (!link || event.defaultPrevented || link.target || link.hasAttribute("download") || link.matches("[hx-get]")) return;
    if (event.button || event.ctrlKey || event.metaKey || event.shiftKey || !waiting.length) return;
    event.preventDefault();
    after.leave = link.href;
  });
  document.addEventListener("pointerdown", (event) => {
    isPointing = true;
    if (release || !event.target.closest("svg[data-strip], svg[data-plan]")) return;
    released = new Promise((resolve) => { release = resolve; });
  });
  for (const name of ["pointerup", "pointercancel"]) {
    // After those who hear it have sent what was dragged.
    document.addEventListener(name, () => { const mine = release; release = null; if (mine) setTimeout(mine); }, true);
  }
  document.addEventListener("keydown", (event) => {
    isPointing = false;
    const form = event.target.closest(".wm-fillbox") && document.querySelector("form.wm-fill");
    if (!form) return;
    if (event.key === "Escape") { event.preventDefault(); go({ slot: "" }); }
    if (event.key === "Enter" && event.target.matches("select[data-fill]")) { event.preventDefault(); form.requestSubmit(); }
  });

  // A page drawn for another width is drawn again for this one: the year ribbon, and what has a strip or a plan.
  function refit() {
    const isDrawn = document.querySelector("svg[data-strip], svg[data-plan]") && !document.querySelector(".wm-error");
    const box = { source: "#ribbon-box", target: "#ribbon-box", select: "#ribbon-box", swap: "outerHTML" };
    if (isDrawn && part() && part().dataset.page) redraw(); else if (isDrawn) renew();
    if (document.getElementById("ribbon-box")) htmx.ajax("GET", location.href, box);
  }
  document.addEventListener("DOMContentLoaded", () => {
    toChosen();
    if (document.documentElement.dataset.told !== String(window.innerWidth)) refit();
  });
  let resized;
  window.addEventListener("resize", () => {
    document.cookie = `wm_width=${window.innerWidth};path=/;samesite=strict`;
    clearTimeout(resized);
    resized = setTimeout(refit, 200);
  });

  window.warmeter = { ...window.warmeter, send, redraw, go };
})();
