// Parts of a page that are redrawn by the server: edits in turn, conflicts, undo, the working panel.
(() => {
  "use strict";
  const SILENT = '<p class="wm-notice">Warmeter does not answer. Your change is still here: try again when it runs.</p>';
  // Edits go one at a time, each on what the one before left; only the newest request's answer is drawn.
  let number = 0;
  let turn = Promise.resolve();
  const waiting = [];
  // The newest revision that this page was told.
  let latest = "";
  // Edits that met another window's: kept until one chooses whose is saved.
  let refused = [];
  // Not drawn because somebody was typing: made up for when the field is left.
  let isStale = false;
  let release = null;
  let released = Promise.resolve();
  // The slot that is being edited: the focus comes back to it.
  let returnTo = "";
  let isPointing = false;
  if (!sessionStorage.getItem("wm-window")) sessionStorage.setItem("wm-window", crypto.randomUUID().slice(0, 12));

  const live = () => document.querySelector(".wm-live");
  const part = () => document.querySelector("[data-part]");
  const headers = () => ({ "X-Part": "1", "X-Window": sessionStorage.getItem("wm-window") });
  const address = (path) => `${path}?${part().dataset.query || ""}&w=${window.innerWidth}`;

  function notice(html) {
    document.getElementById("notice").innerHTML = html;
  }

  // Whether a field holds what was typed and is not sent yet.
  function isTyping() {
    const field = document.activeElement;
    const isText = field && live().contains(field) && field.matches("input:not([type=checkbox], [type=radio]), textarea");
    return isText && field.value !== (field.dataset.sent ?? field.defaultValue);
  }

  function display(html) {
    isStale = isTyping();
    if (!isStale) show(html);
  }

  function show(html) {
    const focus = document.activeElement ? document.activeElement.id : "";
    const unfolded = [...live().querySelectorAll("details[id][open]")].map((each) => each.id);
    live().innerHTML = html;
    for (const id of unfolded) if (document.getElementById(id)) document.getElementById(id).open = true;
    const fresh = part();
    document.querySelector("#saved b").textContent = fresh.dataset.saved;
    const warning = document.querySelector(".wm-status .wm-warn");
    if (warning) warning.textContent = fresh.dataset.warning;
    follow(fresh.dataset.revision);
    const undo = document.getElementById("undo-form");
    if (undo && fresh.dataset.canUndo !== "1") undo.remove();
    if (!undo && fresh.dataset.canUndo === "1") addStep("undo", fresh.dataset.home, fresh.dataset.revision);
    if (fresh.dataset.page) history.replaceState(null, "", `${fresh.dataset.page}?${fresh.dataset.query || ""}`);
    htmx.process(live());
    document.dispatchEvent(new CustomEvent("wm:drawn"));
    toChosen();
    const opened = live().querySelector("[data-focus]");
    const back = document.getElementById(focus) || document.getElementById(returnTo);
    if (opened) { opened.focus(); if (opened.select) opened.select(); } else if (back) back.focus();
  }

  // In a long list the chosen row is brought into view.
  function toChosen() {
    const row = document.querySelector(".wm-rules.is-long > .is-on");
    if (row) row.scrollIntoView({ block: "nearest" });
  }

  function addStep(name, home, base) {
    const form = document.createElement("form"), key = name[0];
    form.id = `${name}-form`; form.method = "post"; form.action = `/homes/${home}/${name}`;
    form.innerHTML = `<input type="hidden" name="base"><button class="wm-linkish" id="${name}" type="submit">${name}</button> <kbd>${key}</kbd>`;
    form.elements.base.value = base;
    (document.getElementById("undo-form") || document.getElementById("saved")).after(form);
  }

  function inTurn(act) {
    const done = turn.then(act);
    turn = done.catch(() => {});
    return done;
  }

  // Bases of the page's forms follow what was saved, whether its answer is drawn or not.
  function follow(revision) {
    if (!revision) return;
    latest = revision;
    if (live()) live().dataset.base = revision;
    document.querySelectorAll("#undo-form input[name=base], #redo-form input[name=base]").forEach((each) => { each.value = revision; });
  }

  // Of edits of one series that still wait, each says the whole of it, so that the last of them is enough.
  function send(path, fields, series = "") {
    const edit = { path, fields, series, mine: ++number };
    waiting.push(edit);
    // What is on its way can be undone already.
    if (!document.getElementById("undo-form")) addStep("undo", part().dataset.home, live().dataset.base);
    return inTurn(async () => {
      const next = waiting[1];
      if (!(series && next && next.series === series)) await post(edit);
      waiting.shift();
    });
  }

  async function unheld() {
    while (release) await released;
  }

  async function post(edit) {
    const { path, fields, mine } = edit;
    const body = new URLSearchParams({ ...fields, base: live().dataset.base });
    try {
      // A page that is closed meanwhile still sends it; browsers take that for small bodies only.
      const keepalive = body.toString().length < 60000;
      const answer = await fetch(address(path), { method: "POST", headers: headers(), body, keepalive });
      const html = await answer.text();
      if (answer.ok) {
        const revision = /data-revision="(\d+)"/.exec(html);
        follow(revision && revision[1]);
        const redo = document.getElementById("redo-form");
        if (redo) redo.remove();
        // What is being dragged is not drawn anew under the hand.
        await unheld();
        if (mine === number) { notice(""); display(html); }
        return;
      }
      notice(html);
      if (answer.status === 409) refused.push(edit);
      // What was typed into a slot and could not be read stands there, to be put right.
      const slot = document.getElementById("fill");
      if (fields.slot && slot && answer.status !== 409) slot.focus(); else await draw(mine);
    } catch (error) {
      notice(SILENT);
    }
  }

  async function draw(mine) {
    if (!part() || !part().dataset.page) return;
    const base = live().dataset.base;
    const answer = await fetch(address(part().dataset.page), { headers: headers() });
    const html = await answer.text();
    await unheld();
    if (mine === number && answer.ok) { display(html); if (document.getElementById("save-mine")) live().dataset.base = base; }
  }

  function redraw() {
    const mine = ++number;
    // It waits for the edits before it; those that come meanwhile do not wait for it.
    return turn.then(() => draw(mine)).catch(() => notice(SILENT));
  }

  // Undo and redo wait for the edits before them, and for each other.
  let steps = 0;
  function step(form) {
    steps += 1;
    const other = form.id === "undo-form" ? "redo" : "undo";
    if (!document.getElementById(`${other}-form`)) addStep(other, form.action.split("/").at(-2), form.elements.base.value);
    return inTurn(async () => {
      const body = new URLSearchParams({ base: latest || form.elements.base.value });
      let told = "";
      try {
        const answer = await fetch(form.action, { method: "POST", headers: headers(), body });
        const ask = answer.headers.get("X-Ask");
        if (ask) { location.assign(ask); return; }
        if (answer.status === 409) { document.body.append(form); form.submit(); return; }
        if (answer.ok) follow(answer.headers.get("X-Revision")); else told = await answer.text();
      } catch (error) {
        told = SILENT;
      }
      steps -= 1;
      if (!steps && told !== SILENT) await renew().catch(() => { told = SILENT; });
      if (told) notice(told);
    });
  }

  // The whole page as it is now, in place: keys that are pressed meanwhile are heard.
  async function renew() {
    const focus = document.activeElement ? document.activeElement.id : "";
    const answer = await fetch(location.href, { headers: { Accept: "text/html" } });
    const fresh = new DOMParser().parseFromString(await answer.text(), "text/html");
    for (const id of ["home-name", "ribbon-box", "spine", "main", "status"]) replaced(fresh, id);
    for (const id of ["main", "status"]) htmx.process(document.getElementById(id));
    document.dispatchEvent(new CustomEvent("wm:drawn"));
    toChosen();
    const back = focus && document.getElementById(focus);
    if (back) back.focus({ preventScroll: true });
  }

  // Shows the page with other things chosen.
  function go(changes) {
    const query = new URLSearchParams(part().dataset.query || "");
    for (const [name, value] of Object.entries(changes)) query.set(name, value);
    part().dataset.query = query.toString();
    return redraw();
  }

  document.addEventListener("submit", (event) => {
    const form = event.target;
    if (form.matches("#undo-form, #redo-form")) { event.preventDefault(); step(form); return; }
    if (!form.matches("form[data-live]")) return;
    event.preventDefault();
    const fields = Object.fromEntries(new FormData(form, event.submitter));
    for (const field of form.elements) field.dataset.sent = field.value;
    // Enter in a field both changes and submits it: the second of the two is the same edit.
    const edit = JSON.stringify(fields);
    if (form.dataset.pending === edit) return;
    form.dataset.pending = edit;
    send(new URL(form.action).pathname, fields).finally(() => { delete form.dataset.pending; });
  });
  document.addEventListener("focusout", () => setTimeout(() => { if (isStale && !isTyping()) redraw(); }));
  document.addEventListener("change", (event) => {
    event.target.dataset.sent = event.target.value;
    // Chosen by pointer it is kept at once; by keys each arrow is a change, and Enter keeps.
    if (event.target.matches("select[data-fill]") && isPointing) { event.target.form.requestSubmit(); return; }
    if (event.target.matches(".wm-go")) { go({ [event.target.name]: event.target.value }); return; }
    const form = event.target.closest("form[data-live]");
    if (form && event.target.matches(".wm-cell")) form.requestSubmit();
  });
  document.addEventListener("click", (event) => {
    const link = event.target.closest("[data-go]");
    if (link) {
      event.preventDefault();
      if (link.id) returnTo = link.id;
      go(Object.fromEntries(new URLSearchParams(link.dataset.go)));
      return;
    }
    const target = event.target.closest("button");
    if (!target) return;
    if (target.id === "save-mine") {
      live().dataset.base = target.dataset.latest;
      const mine = refused;
      refused = [];
      notice("");
      for (const { path, fields, series } of mine) send(path, fields, series);
    }
    if (target.id === "take-theirs") { refused = []; notice(""); redraw(); }
    if (target.id === "close-working") redraw();
    if (target.dataset.copy) {
      navigator.clipboard.writeText(document.getElementById(target.dataset.copy).textContent.trim()).then(() => { target.textContent = "Copied"; });
    }
  });
  // A page that is left waits for the edits that are on their way.
  document.addEventListener("click", (event) => {
    const link = event.target.closest("a[href]");
    if (!link || event.defaultPrevented || link.target || link.hasAttribute("download")) return;
    if (event.button || event.ctrlKey || event.metaKey || event.shiftKey || link.matches("[data-go], [hx-get]")) return;
    if (!waiting.length) return;
    event.preventDefault();
    turn.then(() => location.assign(link.href));
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
  document.addEventListener("htmx:config:request", (event) => {
    event.detail.ctx.request.headers["X-Window"] = sessionStorage.getItem("wm-window");
  });
  // A page drawn for another width is drawn again for this one: the year ribbon, and what has a strip or a plan.
  async function refit() {
    const isDrawn = document.querySelector("svg[data-strip], svg[data-plan]") && !document.querySelector(".wm-error");
    const isLive = part() && part().dataset.page;
    if (isDrawn && isLive) redraw();
    const answer = await fetch(location.href, { headers: { Accept: "text/html" } });
    if (!answer.ok) return;
    const fresh = new DOMParser().parseFromString(await answer.text(), "text/html");
    replaced(fresh, "ribbon-box");
    if (!isDrawn || isLive || !replaced(fresh, "main")) return;
    htmx.process(document.getElementById("main"));
    document.dispatchEvent(new CustomEvent("wm:drawn"));
  }
  function replaced(fresh, id) {
    const [there, here] = [fresh.getElementById(id), document.getElementById(id)];
    if (there && here) here.innerHTML = there.innerHTML;
    return Boolean(there && here);
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

  window.warmeter = { send, redraw, go };
  document.addEventListener("alpine:init", () => {
    window.Alpine.data("page", () => ({
      themeName: "night",
      init() { this.tell(); },
      tell() { this.themeName = isNight() ? "day" : "night"; },
      turnTheme() {
        const next = isNight() ? "day" : "night";
        document.documentElement.dataset.theme = next;
        localStorage.setItem("wm-theme", next);
        this.tell();
      },
      openKeys() { document.getElementById("keys").showModal(); },
    }));
  });
  function isNight() {
    const chosen = document.documentElement.dataset.theme;
    return chosen ? chosen === "night" : matchMedia("(prefers-color-scheme: dark)").matches;
  }
})();
