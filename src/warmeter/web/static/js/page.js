// What is local to a page: its colours, the list of keys, a sentence copied.
(() => {
  "use strict";
  function isNight() {
    const chosen = document.documentElement.dataset.theme;
    return chosen ? chosen === "night" : matchMedia("(prefers-color-scheme: dark)").matches;
  }
  // A page of words to find begins where they are typed.
  document.addEventListener("DOMContentLoaded", () => { const words = document.getElementById("f-q"); if (words) words.focus(); });
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
    // The clock that this browser goes by: a home that begins with a nuisance has no other yet.
    window.Alpine.data("clock", () => ({ zone: Intl.DateTimeFormat().resolvedOptions().timeZone }));
    window.Alpine.data("copying", () => ({
      async copy() {
        await navigator.clipboard.writeText(document.getElementById(this.$el.dataset.copy).textContent.trim());
        this.$el.textContent = "Copied";
      },
    }));
  });
})();
