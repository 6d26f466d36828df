"""The real interface, in headless Chromium, on a server of its own."""

import atexit
import shutil
import tempfile
import unittest
from collections.abc import Iterable
from functools import cache
from pathlib import Path
from typing import ClassVar

from playwright.sync_api import Browser, ConsoleMessage, Page, expect, sync_playwright

from tests.logs import machine_csv, room_csv
from warmeter.cli.served import CHROMIUM_ARGS, Served, chromium_path
from warmeter.core.wording import THIN

AXE = (Path(__file__).parents[1] / "vendor" / "axe.min.js").read_text(encoding="utf-8")
DAY = "2026-01-12"
WAIT_MS = 20_000  # at most; a busy machine is slow, not wrong


@cache
def shared() -> tuple[Served, Browser]:
    """Return the server and the browser of this run, ended with it; homes are made by each test for itself."""
    folder = Path(tempfile.mkdtemp(prefix="warmeter-browser-"))
    served = Served(folder / "data", "--no-demo")
    served.start()
    driver = sync_playwright().start()
    expect.set_options(timeout=WAIT_MS)
    browser = driver.chromium.launch(executable_path=chromium_path(), args=CHROMIUM_ARGS)

    def end() -> None:
        browser.close()
        driver.stop()
        served.stop()
        shutil.rmtree(folder, ignore_errors=True)

    atexit.register(end)
    return served, browser


class Browsing(unittest.TestCase):
    """The run's server and browser, a folder for files, a context a test, and an empty console."""

    browser: ClassVar[Browser]
    served: ClassVar[Served]
    folder: ClassVar[Path]

    @classmethod
    def setUpClass(cls) -> None:
        cls.served, cls.browser = shared()
        cls.folder = Path(tempfile.mkdtemp(prefix="warmeter-files-"))
        cls.addClassCleanup(shutil.rmtree, cls.folder, ignore_errors=True)
        (cls.folder / "room.csv").write_text(room_csv(7), encoding="utf-8")
        (cls.folder / "machine.csv").write_text(machine_csv(4), encoding="utf-8")

    def setUp(self) -> None:
        self.said: list[str] = []
        self.context = self.browser.new_context(viewport={"width": 1280, "height": 800})
        self.addCleanup(self.context.close)
        self.page = self.new_page()

    def tearDown(self) -> None:
        self.assertEqual(self.said, [], "the browser's console must stay empty")

    def new_page(self) -> Page:
        """Return a page whose console is listened to."""
        page = self.context.new_page()
        page.set_default_timeout(WAIT_MS)

        def heard(message: ConsoleMessage) -> None:
            if "409" not in message.text and "422" not in message.text:
                self.said.append(message.text)

        page.on("console", heard)
        page.on("pageerror", lambda error: self.said.append(str(error)))
        return page

    def open(self, path: str) -> None:
        """Go to a path of the server."""
        self.page.goto(self.served.address + path)

    def assert_accessible(self) -> None:
        """Check the page in view for violations of accessibility."""
        self.page.evaluate(AXE)
        found = self.page.evaluate("axe.run({resultTypes: ['violations']})")
        faults = [(v["id"], [n["html"][:160] for n in v["nodes"][:3]]) for v in found["violations"]]
        self.assertEqual(faults, [])

    def assert_sound(self, paths: Iterable[str]) -> None:
        """Check pages by day and by night: none scrolls sideways, wide or narrow; none has a violation."""
        for theme in ("day", "night"):
            self.context.add_init_script(f"localStorage.setItem('wm-theme', '{theme}')")
            for width in (1280, 700):
                self.page.set_viewport_size({"width": width, "height": 800})
                for path in paths:
                    with self.subTest(path=path, theme=theme, width=width):
                        self.open(path)
                        self.assertLessEqual(self.page.evaluate("document.documentElement.scrollWidth"), width)
                        if width == 1280:
                            self.assert_accessible()

    def make_home(self, name: str) -> str:
        """Fill in the short form and return the new home's path."""
        page = self.page
        self.open("/homes/new")
        for field, value in (
            ("name", name),
            ("latitude", "57.5"),
            ("longitude", "-3"),
            ("room1_name", "Study"),
            ("room1_area", "20"),
            ("room1_watts", "2000"),
            ("appliance", "Washer"),
        ):
            page.fill(f"#f-{field}", value)
        page.click("#make-home")
        page.wait_for_url("**/survey")
        return page.url.removeprefix(self.served.address).removesuffix("/survey")

    def read_in(self, home: str, file: str) -> None:
        """Choose a file, look, take."""
        self.open(f"{home}/import")
        self.page.set_input_files("#file", self.folder / file)
        self.page.click("#look")
        self.page.wait_for_selector("#take")
        self.page.click("#take")
        self.page.wait_for_url("**/survey?notice=*")

    def give_tariff(self, home: str) -> None:
        """Type two rates."""
        self.open(f"{home}/tariff")
        page = self.page
        page.fill("#first-price", "0.31")
        page.click("#keep-tariff")
        page.wait_for_selector("#rates")
        page.fill("#rate-name", "night")
        page.fill("#rate-price", "0.12")
        page.fill("#rate-to_min", "06:00")
        page.click("#keep-rate")
        page.wait_for_selector("#rate-1")

    def fit(self, home: str) -> None:
        """Learn the room and wait for the result."""
        self.open(f"{home}/warmup")
        self.page.click("#fit")
        self.page.wait_for_selector("text=Learnt against surveyed", timeout=90_000)

    def saved(self) -> str:
        """Return what the status line says was saved."""
        return self.page.inner_text("#saved")

    def edge(self, block: int) -> str:
        """Return the selector of a block's edge on the strip."""
        return f".wm-hnd-edge >> nth={block - 1}"

    def value(self, selector: str) -> float:
        """Return a handle's value."""
        return float(self.page.get_attribute(selector, "data-value") or "nan")


class WholeJob(Browsing):
    def test_a_home_of_ones_own_from_form_to_sheet_by_mouse(self) -> None:
        home, page = self.make_home("Mill House"), self.page
        self.read_in(home, "room.csv")
        self.read_in(home, "machine.csv")
        self.give_tariff(home)
        self.fit(home)
        self.open(f"{home}/signatures")
        page.click("#use-proposed")
        page.wait_for_selector("#saved b:has-text('has finished')")
        self.open(f"{home}/timetable?day={DAY}")
        before, cost = self.value(self.edge(1)), page.inner_text("#fig-cost")
        box = page.locator(self.edge(1)).bounding_box()
        assert box is not None
        page.mouse.move(box["x"] + 3, box["y"] + 9)
        page.mouse.down()
        page.mouse.move(box["x"] + 3 - 50, box["y"] + 9, steps=6)
        page.mouse.up()
        page.wait_for_selector("#saved b:has-text('period starts 05:00')")
        self.assertEqual((before, self.value(self.edge(1))), (420.0, 300.0))
        self.assertNotEqual(page.inner_text("#fig-cost"), cost)
        run = page.locator(".wm-hnd-run")
        box = run.bounding_box()
        assert box is not None
        page.mouse.move(box["x"] + 3, box["y"] + 8)
        page.mouse.down()
        page.mouse.move(box["x"] + 3 - 250, box["y"] + 8, steps=6)
        page.mouse.up()
        page.wait_for_selector("#saved b:has-text('run planned 08:00')")
        top = page.locator(".wm-hnd-top >> nth=1").bounding_box()
        assert top is not None
        page.mouse.move(top["x"] + 9, top["y"] + 3)
        page.mouse.down()
        page.mouse.move(top["x"] + 9, top["y"] - 4, steps=5)
        page.mouse.up()
        page.wait_for_selector("#saved b:has-text('own setpoint')")
        page.click("[id^='fig-lead.']")
        page.wait_for_selector("text=By hand, one store")
        page.click("#close-working")
        page.wait_for_selector("text=This day")
        page.reload()
        self.assertEqual(self.value(self.edge(1)), 300.0, "all is kept over a reload")
        own = page.input_value("#t-set-1")
        self.assertNotEqual(own, "20.0")
        page.click("#undo")
        page.wait_for_selector("#saved b:has-text('Undone')")
        page.wait_for_selector(".wm-hnd-edge[data-value='300']", state="attached")
        self.assertEqual(page.input_value("#t-set-1"), "20.0", "the last change is undone")
        page.click("text=Settings to type")
        for wanted in ("#set-start-1", "#set-finish-1", "#set-run-1"):
            self.assertTrue(page.inner_text(wanted))

    def test_the_same_job_by_keyboard_alone(self) -> None:
        home, page = self.make_home("Weaver's"), self.page
        page.focus("body")
        self.open(f"{home}/import")
        page.set_input_files("#file", self.folder / "room.csv")
        page.focus("#look")
        page.keyboard.press("Enter")
        page.wait_for_selector("#take")
        page.focus("#take")
        page.keyboard.press("Enter")
        page.wait_for_url("**/survey?notice=*")
        self.give_tariff(home)
        page.focus("main")
        page.keyboard.press("4")
        page.wait_for_url("**/warmup")
        page.focus("#fit")
        page.keyboard.press("Enter")
        page.wait_for_selector("text=Learnt against surveyed", timeout=90_000)
        page.keyboard.press("3")
        page.wait_for_url("**/timetable")
        self.open(f"{home}/timetable?day={DAY}")
        page.locator(self.edge(1)).focus()
        page.keyboard.press("ArrowLeft")
        page.wait_for_selector("#saved b:has-text('period starts 06:55')")
        page.keyboard.press("Shift+ArrowRight")
        page.wait_for_selector("#saved b:has-text('period starts 06:56')")
        page.locator(".wm-hnd-top >> nth=1").focus()
        page.keyboard.press("ArrowUp")
        page.wait_for_selector("#saved b:has-text('own setpoint 20.5')")
        page.keyboard.press("Enter")
        page.wait_for_selector("#saved b:has-text('period split')")
        page.locator(self.edge(2)).focus()
        page.keyboard.press("Delete")
        page.wait_for_selector("#saved b:has-text('merged')")
        page.fill("#t-start-1", "05:45")
        page.keyboard.press("Enter")
        page.wait_for_selector("#saved b:has-text('period starts 05:45')")
        page.focus("#fig-cost")
        page.keyboard.press("Enter")
        page.wait_for_selector("#working-h")
        page.keyboard.press("Escape")
        page.wait_for_selector("text=This day")
        page.keyboard.press("]")
        page.wait_for_url("**day=2026-01-13*")
        page.keyboard.press("[")
        page.wait_for_url(f"**day={DAY}*")
        page.keyboard.press("u")
        page.wait_for_selector("#saved b:has-text('Undone')")
        page.keyboard.press("s")
        page.wait_for_url("**/sheet*")

    def test_two_windows_never_overwrite_each_other_silently(self) -> None:
        home, page = self.make_home("Two Windows"), self.page
        self.read_in(home, "room.csv")
        self.open(f"{home}/timetable?day={DAY}")
        other = self.new_page()
        other.goto(page.url)
        other.fill("#t-start-1", "06:00")
        other.keyboard.press("Enter")
        other.wait_for_selector("#saved b:has-text('06:00')")
        page.fill("#t-start-1", "08:00")
        page.keyboard.press("Enter")
        page.wait_for_selector("#save-mine")
        other.reload()
        self.assertEqual(other.input_value("#t-start-1"), "06:00", "the first window's change stands")
        page.click("#save-mine")
        page.wait_for_selector("#saved b:has-text('08:00')")
        other.reload()
        self.assertEqual(other.input_value("#t-start-1"), "08:00")

    def test_escape_gives_up_a_drag(self) -> None:
        home, page = self.make_home("Gives Up"), self.page
        self.read_in(home, "room.csv")
        self.open(f"{home}/timetable?day={DAY}")
        box = page.locator(self.edge(1)).bounding_box()
        assert box is not None
        page.mouse.move(box["x"] + 3, box["y"] + 9)
        page.mouse.down()
        page.mouse.move(box["x"] + 80, box["y"] + 9, steps=3)
        page.keyboard.press("Escape")
        page.mouse.up()
        page.reload()
        self.assertEqual(self.value(self.edge(1)), 420.0)

    def test_single_keys_are_off_in_fields_and_can_be_switched_off(self) -> None:
        home, page = self.make_home("Keys"), self.page
        self.open(f"{home}/tariff")
        page.focus("#first-name")
        page.keyboard.type("13us")
        self.assertIn("/tariff", page.url)
        page.focus("main")
        page.keyboard.press("?")
        page.check("#keys-off")
        page.keyboard.press("Escape")
        page.focus("main")
        page.keyboard.press("1")
        # A key that acts would have begun to leave before the next key is seen.
        page.focus("#first-name")
        page.keyboard.type("x")
        self.assertIn("x", page.input_value("#first-name"))
        self.assertIn("/tariff", page.url)

    def test_crosshair_reads_ready_numbers(self) -> None:
        home, page = self.make_home("Cross"), self.page
        self.read_in(home, "room.csv")
        self.open(f"{home}/timetable?day={DAY}")
        strip = page.locator("#strip-day")
        box = strip.bounding_box()
        assert box is not None
        left, plot = (float(strip.get_attribute(f"data-{n}") or 0) for n in ("left", "plot"))
        page.mouse.move(box["x"] + left + plot / 2 + 1, box["y"] + 60)
        self.assertEqual(page.text_content("#day-xtext"), "12:00")
        self.assertRegex(page.text_content("#day-v0-0") or "", r"^\d+\.\d$")

    def test_no_page_scrolls_sideways_and_none_has_an_accessibility_violation(self) -> None:
        home = self.make_home("Axe & <Saw>")
        self.read_in(home, "room.csv")
        self.read_in(home, "machine.csv")
        self.give_tariff(home)
        self.fit(home)
        paths = (
            "/",
            "/you",
            "/homes/new",
            *(
                f"{home}/{step}"
                for step in (
                    "survey",
                    "heating",
                    "devices",
                    "zones",
                    "survey/record",
                    "import",
                    "warmup",
                    "signatures",
                    "tariff",
                )
            ),
            f"{home}/timetable?day={DAY}",
            f"{home}/sheet?day={DAY}",
            f"{home}/survey/record?room={self.room_id(home)}",
        )
        self.assert_sound(paths)

    def room_id(self, home: str) -> str:
        """Return the first room's id, as the survey links it."""
        self.open(f"{home}/survey/record")
        return (self.page.get_attribute("[id^=edit-]", "id") or "").removeprefix("edit-")


class OtherWindows(Browsing):
    """Narrow windows, the night theme, a mapping mended on the page, and a sheet on paper."""

    def test_on_a_phone_the_strip_is_redrawn_and_its_handles_work(self) -> None:
        home, page = self.make_home("Pocket"), self.page
        self.read_in(home, "room.csv")
        page.set_viewport_size({"width": 480, "height": 900})
        self.open(f"{home}/timetable?day={DAY}")
        page.wait_for_function("() => +document.querySelector('#strip-day').getAttribute('width') <= 480")
        page.wait_for_function("() => document.querySelector('#ribbon').getBoundingClientRect().right <= 480")
        self.assertEqual(page.evaluate("document.documentElement.scrollWidth"), 480)
        page.locator(self.edge(1)).focus()
        page.keyboard.press("ArrowRight")
        page.wait_for_selector("#saved b:has-text('07:05')", state="attached")

    def test_the_night_theme_is_kept_and_turns_every_ground(self) -> None:
        page = self.page
        self.open("/")
        page.click("#theme")
        self.assertEqual(page.evaluate("getComputedStyle(document.body).backgroundColor"), "rgb(22, 26, 23)")
        page.reload()
        self.assertEqual(page.evaluate("document.documentElement.dataset.theme"), "night")
        page.click("#theme")
        self.assertEqual(page.evaluate("getComputedStyle(document.body).backgroundColor"), "rgb(247, 244, 236)")

    def test_a_mapping_is_changed_on_the_page_and_read_again(self) -> None:
        home, page = self.make_home("Mapper"), self.page
        self.open(f"{home}/import")
        page.set_input_files("#file", self.folder / "room.csv")
        page.click("#look")
        page.wait_for_selector("#take:has-text('3\u2009024')")
        self.assert_accessible()
        page.select_option("[name=c1_quantity]", "-")
        page.click("#again")
        page.wait_for_selector("#take:has-text('2\u2009016')")
        page.click("#take")
        page.wait_for_url("**/survey?notice=*")
        self.assertIn(f"2{THIN}016 readings imported", page.inner_text("#notice"))

    def test_the_sheet_on_paper_shows_settings_and_no_frame(self) -> None:
        home, page = self.make_home("Paper"), self.page
        self.read_in(home, "room.csv")
        self.open(f"{home}/sheet?day={DAY}")
        page.emulate_media(media="print")
        self.assertTrue(page.is_visible("#set-start-1"))
        for hidden in (".wm-spine", ".wm-status", "#theme"):
            self.assertFalse(page.is_visible(hidden), hidden)

    def test_undo_appears_with_the_first_edit_and_takes_it_back(self) -> None:
        home, page = self.make_home("First edit"), self.page
        self.open(f"{home}/timetable?day={DAY}&low=0&high=8")
        self.assertFalse(page.is_visible("#undo"))
        page.fill("#t-start-1", "08:00")
        page.keyboard.press("Enter")
        page.wait_for_selector("#undo")
        page.click("#undo")
        page.wait_for_selector("#saved b:has-text('Undone')")
        self.assertEqual(page.input_value("#t-start-1"), "07:00")
