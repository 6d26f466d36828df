// The chosen theme is set before the first paint; without a choice the system's wish holds.
(() => {
  const chosen = localStorage.getItem("wm-theme");
  if (chosen) document.documentElement.dataset.theme = chosen;
  // The server draws strips for the width that this browser last told; a first visit told none.
  const told = (document.cookie.match(/wm_width=(\d+)/) || [])[1];
  document.documentElement.dataset.told = told || "";
  document.cookie = `wm_width=${window.innerWidth};path=/;samesite=strict`;
})();
