"""Every page at four widths: no sideways scroll, no text over another, nothing to press lower than 24 px."""

from typing import Any

from tests.browser.test_whole_job import DAY, Browsing

WIDTHS = (320, 480, 700, 1280)
LEAST_PX = 24
# Texts as they are seen: cut by what clips them, closed folds and dialogs left out.
OVERLAPS = """() => {
  const seen = (each) => {
    const style = getComputedStyle(each);
    const folded = each.closest("details:not([open])") && !each.closest("summary");
    return style.visibility !== "hidden" && style.display !== "none" && !folded;
  };
  const boxes = [];
  for (const each of document.querySelectorAll("main *, header *, nav *, footer *")) {
    if (each.closest("svg, dialog:not([open]), .wm-skip") || !seen(each)) continue;
    for (const node of each.childNodes) {
      if (node.nodeType !== 3 || !node.textContent.trim()) continue;
      const range = document.createRange();
      range.selectNodeContents(node);
      for (const rect of range.getClientRects()) {
        let { left, right, top, bottom } = rect;
        for (let up = each; up && up !== document.body; up = up.parentElement) {
          const style = getComputedStyle(up);
          if (style.overflowX === "visible" && style.overflowY === "visible") continue;
          const box = up.getBoundingClientRect();
          left = Math.max(left, box.left); right = Math.min(right, box.right);
          top = Math.max(top, box.top); bottom = Math.min(bottom, box.bottom);
        }
        if (right - left > 1 && bottom - top > 1) boxes.push({ each, left, right, top, bottom, text: node.textContent.trim() });
      }
    }
  }
  const found = [];
  boxes.forEach((a, k) => boxes.slice(k + 1).forEach((b) => {
    if (a.each === b.each || a.each.contains(b.each) || b.each.contains(a.each)) return;
    const wide = Math.min(a.right, b.right) - Math.max(a.left, b.left);
    const high = Math.min(a.bottom, b.bottom) - Math.max(a.top, b.top);
    if (wide > 2 && high > 3) found.push(`${a.text.slice(0, 30)} | ${b.text.slice(0, 30)}`);
  }));
  return found;
}"""
# Letters of a drawing that nothing gave a colour: they cannot be read at night.
BLACK = """() => [...document.querySelectorAll("main svg text")]
  .filter((each) => getComputedStyle(each).fill === "rgb(0, 0, 0)").map((each) => `black: ${each.textContent}`)"""
LOW = """(least) => [...document.querySelectorAll("main a, main button, main select, main summary, header a, footer button")]
  .filter((each) => each.getClientRects().length && !each.closest("svg, p, td, li, dd, label, dialog"))
  .filter((each) => !each.closest("details:not([open])") || each.tagName === "SUMMARY")
  .filter((each) => Math.ceil(each.getBoundingClientRect().height) < least)
  .map((each) => each.outerHTML.slice(0, 120))"""


class EveryPage(Browsing):
    maxDiff = None

    def pages(self) -> list[str]:
        """Return the pages of a home that has logs, and those without one."""
        home = self.make_home("Sweep")
        for file in ("room.csv", "machine.csv"):
            self.read_in(home, file)
        self.give_tariff(home)
        steps = ("survey", "heating", "devices", "survey/record", "zones", "warmup", "signatures", "tariff", "rules")
        kinds = ("ducts", "sun", "water", "circuits", "tasks")
        others = ("sheet", "revisions", "import", "as-of", "rules/sheet")
        panes = ("day", "week", "levels", "dates", "hand", "gaps", "compare", "carry")
        return [
            "/",
            "/homes/new",
            *(f"{home}/{step}" for step in (*steps, *kinds, *others)),
            *(f"{home}/timetable?day={DAY}&pane={pane}" for pane in panes),
        ]

    def test_every_page_at_every_width(self) -> None:
        found: dict[str, Any] = {}
        for path in self.pages():
            for width in WIDTHS:
                self.page.set_viewport_size({"width": width, "height": 800})
                self.open(path)
                wide = self.page.evaluate("document.documentElement.scrollWidth")
                faults = self.page.evaluate(OVERLAPS) + self.page.evaluate(LOW, LEAST_PX) + self.page.evaluate(BLACK)
                if wide > width or faults:
                    found[f"{path} at {width}"] = (wide, faults)
                if width in (WIDTHS[0], WIDTHS[-1]):
                    self.assert_accessible()
        self.assertEqual("\n".join(f"{k}: {v}" for k, v in found.items()), "")
