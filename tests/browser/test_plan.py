"""A home drawn from nothing in the real interface: by mouse, then again by keyboard and table."""

import re
from pathlib import Path

from playwright.sync_api import expect

import warmeter.simulators
from tests.browser.test_whole_job import Browsing

# By hand, for rooms of 4 × 3 m and 3 × 3 m, 2.5 m high, built 1950 to 1977, 20 °C inside, −5 °C outdoors,
# year's mean 10 °C, bridges 0.1: walls 1.3, windows 3, roof 1.05, floor 0.85, air 0.5 an hour.
FALL_K = 25.0
WINDOW_M2 = 1.2 * 1.2
WALL_M2 = (4 + 4 + 3) * 2.5 - WINDOW_M2
LOSS_W = (
    WALL_M2 * (1.3 + 0.1) * FALL_K
    + WINDOW_M2 * (3.0 + 0.1) * FALL_K
    + 12 * (1.05 + 0.1) * FALL_K
    + 1.45 * 12 * 0.85 * (20 - 10)
    + 0.34 * 0.5 * 12 * 2.5 * FALL_K
)


class Drawing(Browsing):
    """A plan in the browser, its points in metres."""

    def empty_home(self, name: str) -> str:
        """Begin a home without rooms and return its path."""
        self.open("/homes/new?empty=1")
        for field, value in (("name", name), ("latitude", "52"), ("longitude", "0")):
            self.page.fill(f"#f-{field}", value)
        self.page.click("#make-home")
        self.page.wait_for_url("**/survey")
        return self.page.url.removeprefix(self.served.address).removesuffix("/survey")

    def at(self, x_m: float, y_m: float) -> tuple[float, float]:
        """Return the page's px of a point of the plan."""
        svg = self.page.locator("svg[data-plan]")
        box = svg.bounding_box()
        assert box is not None
        scale, left, top = (float(svg.get_attribute(f"data-{n}") or 0) for n in ("scale", "left", "top"))
        return box["x"] + (x_m - left) * scale, box["y"] + (y_m - top) * scale

    def drag(self, start: tuple[float, float], end: tuple[float, float]) -> None:
        """Drag from one point of the plan to another [m]."""
        (x0, y0), (x1, y1) = self.at(*start), self.at(*end)
        self.page.mouse.move(x0, y0)
        self.page.mouse.down()
        self.page.mouse.move((x0 + x1) / 2, (y0 + y1) / 2, steps=3)
        self.page.mouse.move(x1, y1, steps=3)
        self.page.mouse.up()

    def place(self, what: str, x: float, y: float) -> None:
        """Place a kind of part at a point."""
        self.page.select_option("#place-what", what)
        self.page.click("#tool-place")
        self.page.mouse.click(*self.at(x, y))

    def saw(self, words: str) -> None:
        """Wait until the status line says what was saved."""
        self.page.wait_for_selector(f"#saved b:has-text('{words}')", state="attached")

    def choose(self, name: str, pane: str = "") -> None:
        """Choose a room in the table, and one of its panes."""
        self.page.click(f"#rooms a:has-text('{name}')")
        expect(self.page.locator("#detail-name")).to_have_text(name)
        if pane:
            self.page.click(f"#pane-{pane}")
            self.page.wait_for_selector(f"#pane-{pane}.is-on")


class FromNothing(Drawing):
    """Empty, drawn, placed, read, replaced, checked."""

    def read_by_hand(self) -> None:
        """Compare areas, the shared wall and the loss of the first room with the sums on paper."""
        page = self.page
        self.choose("Room", "shape")
        areas = {}
        for label, shown in zip(
            page.locator("#figures tbody td:first-child").all_inner_texts(),
            page.locator("#figures tbody td:nth-child(2)").all_inner_texts(),
            strict=True,
        ):
            areas[label] = float(re.sub(r"[^\d.]", "", shown.split("W")[0].split("m²")[0].split("1/h")[0]) or "nan")
        self.assertEqual(areas["floor area"], 12.0)
        self.assertEqual(areas["wall to Room 2"], 7.5)
        self.assertEqual(sum(v for k, v in areas.items() if k.startswith("outside wall")), 27.5)
        self.choose("Room", "heat")
        shown = page.inner_text("#fig-loss").replace("\u2009", "")
        self.assertEqual(int(shown), round(LOSS_W))
        page.click("#fig-loss")
        page.wait_for_selector("text=A3 room design load")
        page.click("#close-working")
        page.wait_for_selector("#rooms")

    def replace_and_check(self, home: str) -> None:
        """Replace the sensor, then plant a way left open and a second owner, and find both."""
        page = self.page
        self.open(f"{home}/devices")
        page.click("#register a:has-text('air sensor')")
        page.wait_for_selector("#replace-by")
        page.select_option("#replace-by", "new:air_sensor")
        page.click("#show-replace")
        page.wait_for_selector("#swap")
        page.click("#replace")
        self.saw("replaced by")
        page.select_option("#new-kind", "radiator_valve")
        page.select_option("#new-room", label="Room")
        page.click("#add-device")
        self.saw("added")
        only = page.locator("#d-drives_id option").nth(1).get_attribute("value")
        expect(page.locator("#d-drives_id"), "the room's one heater").to_have_value(only or "")
        page.select_option("#d-own_timetable", "running")
        page.wait_for_selector("text=keeps a timetable of its own")
        page.select_option("#way", "voice")
        page.fill("#way-by", "the kitchen speaker")
        page.click("#add-way")
        page.wait_for_selector("text=can be commanded by voice")
        self.open(f"{home}/zones?pane=checks")
        page.wait_for_selector("text=keeps a timetable of its own")
        for words in ("keeps a timetable of its own", "can be commanded by voice"):
            self.assertEqual(page.locator(f".wm-finding:has-text('{words}')").count(), 1)
        page.click(".wm-finding:has-text('keeps a timetable of its own') button")
        self.saw("Corrected")
        self.assertEqual(page.locator(".wm-finding:has-text('keeps a timetable of its own')").count(), 0)

    def test_by_mouse(self) -> None:
        home, page = self.empty_home("Mouse House"), self.page
        page.click("#first-room")
        self.saw("Room drawn")
        page.click("#pane-shape")
        page.wait_for_selector("#rect-0-w")
        page.click("#remove-room")
        self.saw("removed")
        page.click("#tool-room")
        self.drag((1, 1), (5, 4))
        self.saw("Room drawn")
        page.click("#tool-room")
        self.drag((5.05, 1.03), (8, 4.02))
        self.saw("Room 2 drawn")
        page.click("#tool-window")
        page.mouse.click(*self.at(3, 1))
        self.saw("another window")
        self.place("heater:radiator", 3, 1.4)
        self.saw("radiator placed")
        self.place("device:air_sensor", 4.7, 3.2)
        self.saw("air sensor placed")
        self.drag((4.7, 3.2), (4.4, 3.2))
        self.saw("air sensor moved")
        edge = page.locator("[data-edge]")
        self.assertEqual(edge.count(), 0, "handles belong to the chosen room only")
        self.read_by_hand()
        page.locator("[id$='0-down'][data-edge]").scroll_into_view_if_needed()
        box = page.locator("[id$='0-down'][data-edge]").bounding_box()
        assert box is not None
        page.mouse.move(box["x"] + 9, box["y"] + 3)
        page.mouse.down()
        page.mouse.move(box["x"] + 9, box["y"] + 60, steps=6)
        page.mouse.up()
        page.wait_for_selector("#saved b:has-text('m²')", state="attached")
        page.click("#undo")
        self.saw("Undone")
        self.read_by_hand()
        self.replace_and_check(home)

    def test_by_keyboard_and_table(self) -> None:
        home, page = self.empty_home("Table House"), self.page
        page.focus("#first-room")
        page.keyboard.press("Enter")
        self.saw("Room drawn")
        page.focus("#new-x")
        for field, value in (("x", "4"), ("y", "0"), ("w", "2,5"), ("d", "3")):
            page.fill(f"#new-{field}", value)
        page.press("#new-d", "Enter")
        self.saw("Room 2 drawn")
        right = page.locator("[data-edge=right]")
        right.focus()
        for at in ("6.6", "6.7", "6.8", "6.9", "7"):
            page.keyboard.press("ArrowRight")
            page.wait_for_selector(f"[data-edge=right][data-at='{at}']")
        room = page.locator("[data-room]").first
        room.focus()
        page.keyboard.press("Enter")
        expect(page.locator("#detail-name")).to_have_text("Room")
        page.focus("#pane-openings")
        page.keyboard.press("Enter")
        page.wait_for_selector("#add-opening")
        page.select_option("#opening-side", "up")
        page.focus("#add-opening")
        page.keyboard.press("Enter")
        self.saw("another window")
        page.focus("[data-opening]")
        page.keyboard.press("ArrowRight")
        self.saw("A window moved")
        self.choose("Room", "inside")
        for what in ("heater:radiator", "device:air_sensor"):
            page.select_option("#item-what", what)
            page.focus("#add-item")
            page.keyboard.press("Enter")
            self.saw("placed")
            self.choose("Room", "inside")
        page.locator("#inside tr:has-text('air sensor') input[name=x_m]").fill("3.4")
        page.keyboard.press("Enter")
        self.saw("air sensor changed")
        page.locator("[data-item]").last.focus()
        page.keyboard.press("ArrowUp")
        self.saw("air sensor moved")
        self.read_by_hand()
        self.choose("Room", "shape")
        page.fill("#over-u_wall", "0.5")
        page.keyboard.press("Enter")
        self.saw("a figure entered by hand")
        page.focus("#back-u_wall")
        page.keyboard.press("Enter")
        self.saw("a figure reset to worked-out")
        self.read_by_hand()
        self.replace_and_check(home)


class Hands(Drawing):
    """Smaller movements: giving up, fine steps, two windows, storeys, joining, removing."""

    def two_rooms(self, name: str) -> str:
        """Return the path of a home with two rooms side by side, 4 × 3 and 3 × 3 m."""
        home, page = self.empty_home(name), self.page
        page.click("#first-room")
        self.saw("Room drawn")
        for field, value in (("x", "4"), ("y", "0"), ("w", "3"), ("d", "3")):
            page.fill(f"#new-{field}", value)
        page.click("#add-room")
        self.saw("Room 2 drawn")
        return home

    def left_of(self, name: str) -> float:
        """Return the x of a room's first rectangle as the table shows it."""
        self.choose(name, "shape")
        return float(self.page.input_value("#rect-0-x"))

    def test_escape_gives_a_drag_up_and_shift_is_a_centimetre(self) -> None:
        self.two_rooms("Escape House")
        page = self.page
        x, y = self.at(2.0, 0.7)
        page.mouse.move(x, y)
        page.mouse.down()
        page.mouse.move(x + 80, y + 40, steps=4)
        page.keyboard.press("Escape")
        page.mouse.up()
        self.assertEqual(self.left_of("Room"), 0.0)
        page.locator("[data-room]").first.focus()
        page.keyboard.press("Shift+ArrowLeft")
        self.saw("Room moved")
        page.wait_for_selector("#rect-0-x[value='-0.01']")
        page.locator("[data-room]").first.focus()
        page.keyboard.press("ArrowLeft")
        page.wait_for_selector("#rect-0-x[value='-0.11']")
        self.drag((2.0, 0.7), (2.2, 0.7))
        page.wait_for_selector("#rect-0-x[value='0']")

    def test_another_windows_change_is_told_and_ones_own_can_still_be_saved(self) -> None:
        home = self.two_rooms("Two Windows")
        other = self.new_page()
        other.goto(f"{self.served.address}{home}/survey")
        self.page.locator("[data-room]").first.focus()
        self.page.keyboard.press("ArrowLeft")
        self.saw("Room moved")
        other.locator("[data-room]").nth(1).focus()
        other.keyboard.press("ArrowRight")
        other.wait_for_selector("#save-mine")
        other.click("#save-mine")
        other.wait_for_selector("#saved b:has-text('Room 2 moved')", state="attached")
        self.page.reload()
        self.assertEqual((self.left_of("Room"), self.left_of("Room 2")), (-0.1, 4.1))

    def test_a_storey_above_two_rooms_joined_and_one_removed(self) -> None:
        self.two_rooms("Tower")
        page = self.page
        page.click("#add-storey")
        self.saw("Storey 1 added")
        page.click("text=Storey 1")
        page.click("#tool-room")
        self.drag((0, 0), (4, 3))
        self.saw("Room 3 drawn")
        self.choose("Room", "shape")
        page.wait_for_selector("#figures td:has-text('ceiling to Room 3')")
        self.assertEqual(page.locator("#figures td:has-text('roof')").count(), 0, "a room above takes the roof away")
        page.click("#join-room")
        self.saw("Room 2 joined to Room")
        page.wait_for_selector("#rect-1-w")
        self.assertIn("21.0", page.inner_text("#out-area_m2"))
        page.locator("[data-room]").first.focus()
        page.keyboard.press("Delete")
        self.saw("Room removed")
        page.keyboard.press("u")
        self.saw("Undone")
        self.assertEqual(page.locator("[data-room]").count(), 1)

    def test_a_wrong_number_is_told_and_the_drawing_stands(self) -> None:
        self.two_rooms("Wrong House")
        page = self.page
        self.choose("Room", "shape")
        page.fill("#rect-0-w", "-4")
        page.keyboard.press("Enter")
        page.wait_for_selector("#notice:has-text('Between 0.1 and 100')")
        expect(page.locator(".wm-fault")).to_contain_text("Between 0.1 and 100 m")
        expect(page.locator("#rect-0-w")).to_have_value("-4")
        expect(page.locator("[data-room]")).to_have_count(2)
        page.fill("#rect-0-w", "4,5")
        page.keyboard.press("Enter")
        expect(page.locator("#rect-0-w")).to_have_value("4.5")

    def test_a_whole_home_reads_well_on_every_page_by_day_and_by_night(self) -> None:
        page = self.page
        file = Path(warmeter.simulators.__file__).parent / "data" / "sail-loft.json"
        self.open("/")
        page.set_input_files("#bring-file", file)
        page.click("#bring-in")
        page.wait_for_url("**/survey?notice=*")
        home = page.url.split("/survey")[0].removeprefix(self.served.address)
        paths = (
            *(f"survey?at=rm-hall&pane={pane}" for pane in ("heat", "shape", "openings", "inside")),
            "heating?at=he-bath",
            "devices?at=dv-valve-loft&by=dv-valve-loft-2",
            *(f"zones?at=zo-side&pane={pane}" for pane in ("wiring", "sensors", "checks", "several")),
            "zones?at=zo-side&room=rm-hall&to=zo-bath",
        )
        self.assert_sound([f"{home}/{path}" for path in paths])
