"""What is typed is never lost: the window changes its size, the server refuses, the page comes anew; on every form."""

from dataclasses import replace

from playwright.sync_api import expect

from tests.browser.test_whole_job import Browsing
from warmeter.service.homes.demo import demo_home
from warmeter.store.codec import home_to_json

# Types into every field that is seen, without leaving one: returns what stands in each.
TYPE = """() => {
  const fields = [...document.querySelectorAll("main input, main textarea, main select")].filter((f) =>
    f.offsetParent && !f.matches("[type=hidden], [type=file], [type=submit], [hx-get], [hx-get] *") && !f.disabled);
  fields.forEach((f, k) => {
    if (f.type === "checkbox") f.checked = !f.checked;
    else if (f.type === "radio") f.checked = true;
    else if (f.tagName === "SELECT") f.selectedIndex = f.options.length - 1;
    else if (f.type === "date") f.value = `2031-04-${10 + (k % 20)}`;
    else f.value = `typed ${k}`;
    f.dispatchEvent(new Event("input", { bubbles: true }));
  });
  return fields.length;
}"""
READ = """() => [...document.querySelectorAll("main input, main textarea, main select")].filter((f) =>
    f.offsetParent && !f.matches("[type=hidden], [type=file], [type=submit], [hx-get], [hx-get] *") && !f.disabled)
  .map((f) => [f.name, f.type === "checkbox" || f.type === "radio" ? f.checked : f.value])"""


class TypingHome(Browsing):
    """A home of its own, without logs."""

    @classmethod
    def setUpClass(cls) -> None:
        super().setUpClass()
        home = replace(demo_home("weir-cottage"), id="typing-home", name="Typing House")
        (cls.folder / "typing.json").write_bytes(home_to_json(home))

    def setUp(self) -> None:
        super().setUp()
        self.open("/")
        if not self.page.get_by_role("link", name="Typing House").count():
            self.page.set_input_files("#bring-file", self.folder / "typing.json")
            self.page.click("#bring-in")
            self.page.wait_for_url("**/survey?notice=*")


class Typing(TypingHome):
    def pages(self) -> list[str]:
        base, home = "/homes/typing-home", demo_home("weir-cottage")
        return [
            "/homes/new",
            f"{base}/survey",
            f"{base}/survey?at={home.rooms[0].id}",
            f"{base}/heating?at={home.heaters[0].id}",
            f"{base}/heating?at={home.sources[0].id}",
            f"{base}/devices?at={home.devices[0].id}",
            f"{base}/survey/record?room={home.rooms[0].id}",
            *(f"{base}/zones?pane={pane}" for pane in ("wiring", "sensors")),
            *(f"{base}/timetable?pane={pane}&low=1&high=6" for pane in ("day", "hand", "levels", "dates", "carry")),
            *(f"{base}/rules{tail}" for tail in ("", "?pane=people", "?pane=start")),
            f"{base}/tariff",
            f"{base}/signatures",
        ]

    def drawn_anew(self, act: str) -> None:
        """Have the part in view drawn anew, and wait for it."""
        self.page.evaluate("document.querySelector('[data-part]').dataset.probe = '1'")
        if act == "redraw":
            self.page.evaluate("window.warmeter.redraw()")
        else:
            width, height = (int(number) for number in act.split("x"))
            self.page.set_viewport_size({"width": width, "height": height})
        expect(self.page.locator("[data-probe]")).to_have_count(0)

    def test_no_form_loses_a_letter_when_the_page_is_drawn_anew_or_comes_anew(self) -> None:
        page, lost, count = self.page, [], 0
        for path in self.pages():
            self.open(path)
            count += page.evaluate(TYPE)
            wanted = page.evaluate(READ)
            if page.locator(".wm-live [data-page]").count():
                self.drawn_anew("redraw")
                if page.evaluate(READ) != wanted:
                    lost.append((path, "drawn anew"))
            page.reload()
            if page.evaluate(READ) != wanted:
                lost.append((path, "came anew"))
            page.evaluate("sessionStorage.clear()")
        self.assertEqual(lost, [])
        self.assertGreater(count, 250)

    def test_a_window_of_another_height_or_width_loses_nothing(self) -> None:
        page = self.page
        for path in ("survey?at=wc-parlour", "survey?at=wc-kitchen&pane=openings"):
            page.set_viewport_size({"width": 1280, "height": 800})
            self.open(f"/homes/typing-home/{path}")
            page.evaluate(TYPE)
            wanted = page.evaluate(READ)
            for size in ("1280x620", "1100x620", "1280x800"):
                self.drawn_anew(size)
                self.assertEqual(page.evaluate(READ), wanted, (path, size))
            page.evaluate("sessionStorage.clear()")

    def test_what_is_refused_stands_with_its_fault_at_the_field_until_it_is_right(self) -> None:
        page = self.page
        self.open(f"/homes/typing-home/heating?at={demo_home('weir-cottage').heaters[0].id}")
        rated = page.locator("input[name=rated_heat_w]").first
        rated.fill("-5")
        rated.press("Enter")
        expect(page.locator(".wm-fault")).to_contain_text("Above 0")
        expect(rated).to_be_focused()
        expect(rated).to_have_value("-5")
        expect(rated).to_have_attribute("aria-invalid", "true")
        rated.fill("1,4 kW")
        expect(page.locator(".wm-fault")).to_have_count(0)
        rated.press("Enter")
        expect(page.locator("#saved b")).to_contain_text("changed")
        expect(page.locator("input[name=rated_heat_w]").first).to_have_value("1400")
        expect(page.locator(".is-unsaved")).to_have_count(0)
        self.assertEqual(
            page.evaluate("Object.values(JSON.parse(sessionStorage['wm-typed'])).flatMap(Object.keys)"), []
        )

    def test_a_page_that_is_sent_by_the_browser_and_refused_keeps_it_too(self) -> None:
        page = self.page
        self.open("/homes/typing-home/survey/record")
        form = page.locator("form[action*='/levels/']").first
        field = form.locator("input[name=heating_c]")
        before = field.input_value()
        field.fill("900")
        form.locator("button").click()
        page.wait_for_url("**/survey/record?*refused*")
        field = page.locator("form[action*='/levels/'] input[name=heating_c]").first
        expect(field).to_have_value("900")
        field.fill(before)
        page.locator("form[action*='/levels/'] button").first.click()
        page.wait_for_url(lambda url: "refused" not in url)
        expect(page.locator("form[action*='/levels/'] input[name=heating_c]").first).to_have_value(before)
        self.said.clear()


# What has the focus, and whether that can be seen: an outline of 2 px, or a room's edge on the plan.
FOCUS = """() => {
  const on = document.activeElement, look = getComputedStyle(on);
  const isSeen = (look.outlineStyle !== "none" && parseFloat(look.outlineWidth) >= 2) || parseFloat(look.strokeWidth) >= 10;
  return [isSeen || on === document.body || on.id === "main", `${on.tagName} ${on.id} ${on.className.baseVal ?? on.className}`];
}"""


class Focus(TypingHome):
    def test_what_has_the_focus_is_seen_by_day_and_by_night(self) -> None:
        page, hidden = self.page, set()
        for scheme in ("light", "dark"):
            page.emulate_media(color_scheme=scheme)
            for path in ("survey", "heating", "zones", "timetable?pane=hand", "rules", "tariff"):
                self.open(f"/homes/typing-home/{path}")
                for _ in range(45):
                    page.keyboard.press("Tab")
                    is_seen, what = page.evaluate(FOCUS)
                    if not is_seen:
                        hidden.add((scheme, path, what))
        self.assertEqual(hidden, set())


if __name__ == "__main__":
    import unittest

    unittest.main()
