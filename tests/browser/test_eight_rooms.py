"""A home of eight rooms from nothing to a first timetable, by mouse and by keyboard alone, its saved edits counted."""

import re

from playwright.sync_api import expect

from tests.browser.test_whole_job import DAY, Browsing
from tests.web.test_room_lines import EIGHT

MOST_EDITS = 20
# What they took when they were counted, and three Tabs more since each page leads to what matters, to find and to
# Live; more is a step back.
MOST_STROKES = {
    "add a device": 11,
    "undo an edit": 1,
    "type a day's weather": 35,
    "change when a period begins": 51,
    "type a tariff of one rate": 30,
}


class Hands:
    """The keyboard alone, its strokes counted; letters typed count each."""

    def __init__(self, test: Browsing) -> None:
        self.page, self.strokes = test.page, 0
        # Choosers are caught from the start: asked for with the key that opens one, they come too late on a busy machine.
        self.page.on("filechooser", lambda _: None)

    def press(self, key: str, times: int = 1) -> None:
        """Press a key, several times one after the other."""
        for _ in range(times):
            self.page.keyboard.press(key)
            self.strokes += 1

    def write(self, text: str) -> None:
        """Type a text letter by letter."""
        self.page.keyboard.type(text)
        self.strokes += len(text)

    def tab_to(self, selector: str, most: int = 120) -> None:
        """Press Tab until a control has the focus."""
        wanted = self.page.locator(selector)
        expect(wanted).to_be_visible()
        for _ in range(most):
            if wanted.evaluate("each => each === document.activeElement"):
                return
            self.press("Tab")
        raise AssertionError(f"{selector} was not reached by Tab")


class EightRooms(Browsing):
    def edits(self) -> int:
        """Return how many edits the home in view has had, as its status line says."""
        text = self.page.inner_text("#saved")
        found = re.search(r"revision (\d+)", text)
        assert found is not None, text
        return int(found[1])

    def assert_timetable(self, home: str) -> None:
        """Check that every heated room has a timetable that begins at half past six."""
        self.open(f"{home}/timetable?day={DAY}")
        for link in self.page.locator("[id^=zone-]").all():
            link.click()
            expect(self.page.locator("#t-start-1")).to_have_value("06:30")
        self.assertLessEqual(self.edits(), MOST_EDITS)

    def test_by_mouse(self) -> None:
        page = self.page
        self.open("/homes/new?empty=1")
        for field, value in (("name", "Eight rooms"), ("latitude", "57.5"), ("longitude", "-3")):
            page.fill(f"#f-{field}", value)
        page.click("#make-home")
        page.wait_for_url("**/survey")
        home = page.url.removeprefix(self.served.address).removesuffix("/survey")
        page.fill("#room-lines", EIGHT)
        page.click("#add-lines")
        expect(page.locator("#described")).to_contain_text("Nursery")
        self.open(f"{home}/timetable?day={DAY}")
        page.fill("#weather-low", "-3")
        page.fill("#weather-high", "5")
        page.click("#save-weather")
        page.fill("#t-start-1", "06:30")
        page.press("#t-start-1", "Enter")
        expect(page.locator("#saved")).to_contain_text("revision 4")
        page.click("#copying summary")
        for box in page.locator("input[id^=copyz-]").all():
            box.check()
        page.click("#copy-zone")
        expect(page.locator("#saved")).to_contain_text("revision 5")
        self.assert_timetable(home)

    def test_by_keyboard_alone(self) -> None:
        page, hands = self.page, Hands(self)
        self.open("/homes/new?empty=1")
        for field, value in (("name", "Eight by keys"), ("latitude", "57.5"), ("longitude", "-3")):
            hands.tab_to(f"#f-{field}")
            hands.write(value)
        hands.press("Enter")
        page.wait_for_url("**/survey")
        home = page.url.removeprefix(self.served.address).removesuffix("/survey")
        hands.press("a")
        hands.write(EIGHT)
        hands.press("Tab")
        hands.press("Enter")
        expect(page.locator("#described")).to_contain_text("Nursery")
        hands.press("3")
        page.wait_for_url("**/timetable*")
        self.open(f"{home}/timetable?day={DAY}")
        hands.tab_to("#weather-low")
        hands.write("-3")
        hands.press("Tab")
        hands.write("5")
        hands.press("Enter")
        hands.tab_to("#t-start-1")
        hands.press("Control+a")
        hands.write("06:30")
        hands.press("Enter")
        expect(page.locator("#saved")).to_contain_text("revision 4")
        hands.tab_to("#copying summary")
        hands.press("Enter")
        for box in page.locator("input[id^=copyz-]").all():
            hands.tab_to(f"#{box.get_attribute('id')}")
            hands.press("Space")
        hands.tab_to("#copy-zone")
        hands.press("Enter")
        expect(page.locator("#saved")).to_contain_text("revision 5")
        self.assert_timetable(home)


class Strokes(Browsing):
    """Keystrokes of tasks done again and again; at most what docs/figures.md says."""

    def test_adding_renaming_and_importing_by_keyboard(self) -> None:
        page, hands = self.page, Hands(self)
        home = self.make_home("Strokes")
        self.open(f"{home}/survey")
        hands.press("a")
        hands.write("Den 4 x 3")
        hands.press("Tab")
        hands.press("Enter")
        expect(page.locator("#saved")).to_contain_text("Den added")
        self.assertLessEqual(hands.strokes, 31)
        hands.strokes = 0
        self.open(f"{home}/survey")
        hands.press("p")
        hands.press("Enter")
        expect(page.locator("#detail-name")).to_have_text("Den")
        hands.press("e")
        expect(page.locator("#room-name")).to_be_focused()
        hands.press("Control+a")
        hands.write("Snug")
        hands.press("Enter")
        expect(page.locator("#detail-name")).to_have_text("Snug")
        self.assertLessEqual(hands.strokes, 53)
        hands.strokes = 0
        hands.press("Escape")
        page.locator("body").evaluate("body => document.activeElement.blur()")
        hands.press("i")
        page.wait_for_url("**/import?back=*")
        expect(page.locator("#file")).to_be_focused()
        page.set_input_files("#file", self.folder / "room.csv")
        hands.strokes += len("room.csv") + 1  # the file's name in the browser's own dialog
        hands.press("Tab")
        hands.press("Enter")
        expect(page.locator("#take")).to_be_focused()
        hands.press("Enter")
        page.wait_for_url("**/survey?*notice=*")
        self.assertLessEqual(hands.strokes, 36)

    def test_five_more_tasks_by_keyboard(self) -> None:
        page, home = self.page, self.make_home("More strokes")
        counted: dict[str, int] = {}

        def begun(path: str) -> Hands:
            self.open(f"{home}/{path}")
            return Hands(self)

        hands = begun("devices")
        hands.press("a")
        expect(page.locator("#new-kind")).to_be_focused()
        hands.write("therm")
        hands.press("Tab")
        hands.write("St")
        hands.press("Tab")
        hands.press("Enter")
        expect(page.locator("#saved")).to_contain_text("added")
        counted["add a device"] = hands.strokes
        hands.strokes = 0
        page.locator("body").evaluate("() => document.activeElement.blur()")
        hands.press("u")
        expect(page.locator("#saved")).to_contain_text("Undone")
        counted["undo an edit"] = hands.strokes
        hands = begun(f"timetable?day={DAY}")
        hands.tab_to("#weather-low")
        hands.write("-3")
        hands.press("Tab")
        hands.write("5")
        hands.press("Enter")
        expect(page.locator("#t-start-1")).to_be_visible()
        counted["type a day's weather"] = hands.strokes
        hands = begun(f"timetable?day={DAY}")
        hands.tab_to("#t-start-1")
        hands.press("Control+a")
        hands.write("06:30")
        # The field shows what was typed at once; the edit is done when the status line says so.
        saved = page.inner_text("#saved")
        hands.press("Enter")
        expect(page.locator("#saved")).not_to_have_text(saved)
        counted["change when a period begins"] = hands.strokes
        hands = begun("tariff")
        hands.tab_to("#first-price")
        hands.write("0.25")
        hands.press("Enter")
        expect(page.locator("#saved")).to_contain_text("rate")
        counted["type a tariff of one rate"] = hands.strokes
        for task, most in MOST_STROKES.items():
            with self.subTest(task):
                self.assertLessEqual(counted[task], most)
