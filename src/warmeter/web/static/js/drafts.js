// What is typed and not saved yet: kept through a drawing anew, a refusal, another size of the window and a reload.
(() => {
  "use strict";
  const STORE = "wm-typed", SENT = "wm-sent", MOST = 400;
  const KEPT = "input:not([type=hidden], [type=file], [type=submit], [type=password], [type=button]), select, textarea";
  const load = (name) => JSON.parse(sessionStorage.getItem(name) || "{}");
  const save = (name, all) => sessionStorage.setItem(name, JSON.stringify(all));
  const isTick = (field) => field.type === "checkbox" || field.type === "radio";
  const valueOf = (field) => (isTick(field) ? field.checked : field.value);

  // What is chosen goes into the address, and single keys are the browser's own.
  const isKept = (field) => field.matches(KEPT) && !field.matches("[hx-get], dialog *") && Boolean(keyOf(field));

  // A field's name for good: what its form does, to what, and its own name; drawn anew it is the same.
  function keyOf(field) {
    const form = field.form;
    if (!form) return field.id;
    const about = [...form.querySelectorAll("input[type=hidden]")].filter((each) => each.name !== "base");
    const alike = [...form.elements].filter((each) => each.name === field.name);
    const words = [new URL(form.action, location.href).pathname, ...about.map((each) => `${each.name}=${each.value}`)];
    return [...words, field.name, alike.indexOf(field)].join("|");
  }

  function isDirty(field) {
    if (isTick(field)) return field.checked !== field.defaultChecked;
    if (field.tagName !== "SELECT") return field.value !== field.defaultValue;
    const chosen = [...field.options].findIndex((option) => option.defaultSelected);
    return field.selectedIndex !== Math.max(chosen, 0);
  }

  function mark(field, isUnsaved) {
    field.classList.toggle("is-unsaved", isUnsaved);
    if (isUnsaved) field.setAttribute("aria-description", "typed, not saved yet"); else field.removeAttribute("aria-description");
  }

  function note(field) {
    const all = load(STORE), here = all[location.pathname] || {};
    if (isDirty(field)) here[keyOf(field)] = valueOf(field); else delete here[keyOf(field)];
    all[location.pathname] = Object.fromEntries(Object.entries(here).slice(-MOST));
    save(STORE, all);
    mark(field, false);
  }

  function forget(form) {
    const all = load(STORE), here = all[location.pathname];
    if (!here) return;
    for (const field of form.elements) delete here[keyOf(field)];
    save(STORE, all);
  }

  function restore() {
    const here = load(STORE)[location.pathname] || {};
    if (!Object.keys(here).length) return;
    for (const field of document.querySelectorAll(KEPT)) {
      const value = isKept(field) ? here[keyOf(field)] : undefined;
      if (value === undefined || valueOf(field) === value || isDirty(field)) continue;
      if (isTick(field)) field.checked = value; else field.value = value;
      // A choice that is not offered any more is none.
      if (valueOf(field) === value) mark(field, true);
    }
  }

  // A refusal stands at the fields that it is about.
  function showFaults(form, html) {
    const told = new DOMParser().parseFromString(html, "text/html").querySelectorAll("[data-fault]");
    let first = null;
    for (const { dataset, textContent } of told) {
      const field = [...form.elements].find((each) => each.name === dataset.fault && each.type !== "hidden");
      if (!field) continue;
      clearFault(field);
      const words = document.createElement("span");
      words.className = "wm-fault";
      words.id = `fault-${dataset.fault.replace(/\W/g, "-")}`;
      words.textContent = textContent;
      field.after(words);
      field.setAttribute("aria-invalid", "true");
      field.setAttribute("aria-describedby", words.id);
      first ||= field;
    }
    if (first) first.focus();
    return Boolean(first);
  }

  function clearFault(field) {
    const words = field.nextElementSibling;
    if (words && words.classList.contains("wm-fault")) words.remove();
    if (field.getAttribute("aria-invalid")) { field.removeAttribute("aria-invalid"); field.removeAttribute("aria-describedby"); }
  }

  document.addEventListener("input", (event) => {
    if (!isKept(event.target)) return;
    clearFault(event.target);
    note(event.target);
  });
  document.addEventListener("change", (event) => { if (isKept(event.target)) note(event.target); });
  // Sent by the browser itself: whether it was saved is known from the page that comes.
  document.addEventListener("submit", (event) => {
    if (event.defaultPrevented) return;
    const here = load(STORE)[location.pathname] || {};
    const keys = [...event.target.elements].map(keyOf).filter((key) => key in here);
    save(SENT, { path: location.pathname, typed: Object.fromEntries(keys.map((key) => [key, here[key]])) });
    forget(event.target);
  });
  document.addEventListener("DOMContentLoaded", () => {
    const { path, typed } = load(SENT), all = load(STORE);
    if (path && document.querySelector("[data-refused]")) save(STORE, { ...all, [path]: { ...all[path], ...typed } });
    sessionStorage.removeItem(SENT);
    restore();
  });
  document.addEventListener("wm:drawn", restore);
  window.warmeter = { ...window.warmeter, forget, showFaults };
})();
