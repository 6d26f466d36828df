// What was scrolled stays so when a part is drawn anew; beside a newly chosen thing, what is told of it begins at its top.
(() => {
  "use strict";
  let kept = [];

  // A box is known again by its id, else by its classes and its place among those like it.
  function keyOf(box) {
    if (box.id) return `#${box.id}`;
    const alike = [...document.getElementsByClassName(box.className)].filter((each) => each.className === box.className);
    return `${box.className} ${alike.indexOf(box)}`;
  }

  document.addEventListener("htmx:before:swap", (event) => {
    const { ctx } = event.detail;
    const isChoosing = ctx.request.method === "GET" && ctx.sourceElement.matches("a");
    kept = [...document.querySelectorAll("#main *")]
      .filter((box) => box.className && typeof box.className === "string" && (box.scrollTop || box.scrollLeft))
      .filter((box) => !(isChoosing && box.closest("#aside")))
      .map((box) => [keyOf(box), box.scrollTop, box.scrollLeft]);
  });

  document.addEventListener("wm:drawn", () => {
    const places = new Map(kept.map(([key, top, left]) => [key, [top, left]]));
    kept = [];
    if (!places.size) return;
    for (const box of document.querySelectorAll("#main *")) {
      if (!box.className || typeof box.className !== "string") continue;
      const place = places.get(keyOf(box));
      if (place) [box.scrollTop, box.scrollLeft] = place;
    }
  });
})();
