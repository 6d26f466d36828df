// The live page grows: the server says that there is something new, and what grows is drawn anew.
(() => {
  "use strict";
  let stream = null;
  let waits = 0;
  const LEAST_MS = 2000;
  const region = () => document.getElementById("live-region");

  function look() {
    waits = 0;
    const shown = region();
    // Not under the hand of somebody who holds a button there.
    if (shown && !shown.matches(":active")) shown.dispatchEvent(new CustomEvent("look"));
  }

  function listen() {
    const shown = region();
    if (stream || !shown || document.hidden) return;
    stream = new EventSource(shown.dataset.stream);
    stream.addEventListener("look", () => { waits = waits || window.setTimeout(look, LEAST_MS); });
  }

  // Browsers hold six streams for a host: one that nobody looks at is closed.
  function close() {
    if (stream) stream.close();
    stream = null;
  }

  document.addEventListener("DOMContentLoaded", listen);
  document.addEventListener("htmx:after:swap", (event) => {
    listen();
    if (event.detail.ctx && event.detail.ctx.target === region()) document.dispatchEvent(new CustomEvent("wm:drawn"));
  });
  document.addEventListener("visibilitychange", () => { if (document.hidden) close(); else listen(); });
  window.addEventListener("pagehide", close);
})();
