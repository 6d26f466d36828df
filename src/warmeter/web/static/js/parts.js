// Parts of a page that are redrawn by the server: numbered requests, conflicts, undo, the working panel.
(() => {
  "use strict";
  let number = 0;
  let last = null;
  // The blank that is being edited: the focus comes back to it.
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

  function show(html) {
    const focus = document.activeElement ? document.activeElement.id : "";
    const unfolded = [...live().querySelectorAll("details[id][open]")].map((each) => each.id);
    live().innerHTML = html;
    for (const id of unfolded) if (document.getElementById(id)) document.getElementById(id).open = true;
    const fresh = part();
    live().dataset.base = fresh.dataset.revision;
    document.querySelector("#saved b").textContent = fresh.dataset.saved;
    const warning = document.querySelector(".wm-status .wm-warn");
    if (warning) warning.textContent = fresh.dataset.warning;
    const undo = document.querySelector("#undo-form input[name=base]");
    if (undo) undo.value = fresh.dataset.revision;
    else if (fresh.dataset.canUndo === "1") addUndo(fresh);
    const redo = document.getElementById("redo-form");
    if (redo && redo.elements.base.value !== fresh.dataset.revision) redo.remove();
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

  function addUndo(fresh) {
    const form = document.createElement("form");
    form.id = "undo-form"; form.method = "post"; form.action = `/homes/${fresh.dataset.home}/undo`;
    form.innerHTML = '<input type="hidden" name="base"><button class="wm-linkish" id="undo" type="submit">undo</button> <kbd>u</kbd>';
    form.elements.base.value = fresh.dataset.revision;
    document.getElementById("saved").after(form);
  }

  // Sends one edit; a late answer never overwrites a newer one.
  async function send(path, fields) {
    const mine = ++number;
    last = { path, fields };
    const body = new URLSearchParams({ ...fields, base: live().dataset.base });
    try {
      const answer = await fetch(address(path), { method: "POST", headers: headers(), body });
      const html = await answer.text();
      if (mine !== number) return;
      if (answer.ok) { notice(""); show(html); return; }
      notice(html);
      // What was typed into a blank and could not be read stands there, to be put right.
      const blank = document.getElementById("fill");
      if (fields.blank && blank && answer.status !== 409) blank.focus(); else await redraw(mine);
    } catch (error) {
      notice('<p class="wm-notice">Warmeter does not answer. Your change is still here: try again when it runs.</p>');
    }
  }

  async function redraw(mine = ++number) {
    if (!part() || !part().dataset.page) return;
    const base = live().dataset.base;
    const answer = await fetch(address(part().dataset.page), { headers: headers() });
    const html = await answer.text();
    if (mine === number && answer.ok) { show(html); if (document.getElementById("save-mine")) live().dataset.base = base; }
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
    if (!form.matches("form[data-live]")) return;
    event.preventDefault();
    const fields = Object.fromEntries(new FormData(form, event.submitter));
    // Enter in a field both changes and submits it: the second of the two is the same edit.
    const edit = JSON.stringify(fields);
    if (form.dataset.pending === edit) return;
    form.dataset.pending = edit;
    send(new URL(form.action).pathname, fields).finally(() => { delete form.dataset.pending; });
  });
  document.addEventListener("change", (event) => {
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
    if (target.id === "save-mine") { live().dataset.base = target.dataset.latest; send(last.path, last.fields); }
    if (target.id === "take-theirs") { notice(""); redraw(); }
    if (target.id === "close-working") redraw();
    if (target.dataset.copy) {
      navigator.clipboard.writeText(document.getElementById(target.dataset.copy).textContent.trim()).then(() => { target.textContent = "Copied"; });
    }
  });
  document.addEventListener("pointerdown", () => { isPointing = true; });
  document.addEventListener("keydown", (event) => {
    isPointing = false;
    const form = event.target.closest(".wm-fillbox") && document.querySelector("form.wm-fill");
    if (!form) return;
    if (event.key === "Escape") { event.preventDefault(); go({ blank: "" }); }
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
