// The chosen theme is set before the first paint; without a choice the system's wish holds.
(() => {
  const chosen = localStorage.getItem("wm-theme");
  if (chosen) document.documentElement.dataset.theme = chosen;
  // The server draws strips for the width that its request carried; the page says which that was.
  document.cookie = `wm_width=${window.innerWidth};path=/;samesite=strict`;
})();
