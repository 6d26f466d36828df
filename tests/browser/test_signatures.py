"""A machine's log in the real interface: read in, cycles seen and corrected, a setting tuned and carried over, a
year's standby read; by mouse, and again by keyboard alone."""

import re

import numpy as np
from playwright.sync_api import expect

from tests.browser.test_whole_job import Browsing
from tests.logs import START_MS
from warmeter.core.timegrid import from_ms
from warmeter.simulators.machines.labelled import labelled_log


def year_csv() -> str:
    """Return a year of a plug by quarters of an hour: its rest rises on day 200."""
    power = np.full(365 * 96, 1.2)
    power[200 * 96 :] = 3.4
    power[np.arange(power.size) % 192 // 6 == 6] = 600.0
    lines = ["time,Washer power W"]
    lines += [f"{from_ms(START_MS + k * 900_000):%Y-%m-%d %H:%M},{v:.1f}" for k, v in enumerate(power)]
    return "\n".join(lines) + "\n"


class Signatures(Browsing):
    def setUp(self) -> None:
        super().setUp()
        (self.folder / "year.csv").write_text(year_csv(), encoding="utf-8")

    def cycles(self) -> list[str]:
        """Return when each listed cycle started."""
        return self.page.locator("a[id^=cycle-]").all_inner_texts()

    def expect_saved(self, words: str) -> None:
        """Wait until the status line tells a change."""
        expect(self.page.locator("#saved b")).to_contain_text(words)

    def test_from_a_log_to_a_setting_by_mouse(self) -> None:
        home, page = self.make_home("Mouse House"), self.page
        self.give_tariff(home)
        self.read_in(home, "machine.csv")
        self.open(f"{home}/signatures")
        true = labelled_log("washer", 77, 30, days=4, fault="")
        self.assertEqual(len(self.cycles()), len(true.cycles))
        page.locator("a[id^=cycle-]").nth(2).click()
        page.wait_for_selector("tr.is-on a[id^=cycle-]")
        before = page.input_value("#start-time")
        handle = page.locator("#h-begin-chosen").bounding_box()
        assert handle is not None
        page.mouse.move(handle["x"] + 3, handle["y"] + 8)
        page.mouse.down()
        page.mouse.move(handle["x"] - 57, handle["y"] + 8, steps=6)
        page.mouse.up()
        self.expect_saved("run of")
        expect(page.locator("tr.is-on td").last).to_have_text("corrected")
        self.assertNotEqual(page.input_value("#start-time"), before)
        page.fill("#programme", "Cotton 40")
        page.click("#name-cycle")
        self.expect_saved("named Cotton 40")
        expect(page.locator("tr.is-on td").first).to_have_text("Cotton 40")
        page.click("#split-cycle")
        self.expect_saved("run split")
        self.assertEqual(len(self.cycles()), len(true.cycles) + 1)
        page.click("#undo")
        self.expect_saved("Undone")
        self.assertEqual(len(self.cycles()), len(true.cycles))
        page.locator("#strip-log").scroll_into_view_if_needed()
        strip = page.locator("#strip-log").bounding_box()
        assert strip is not None
        page.mouse.move(strip["x"] + 300, strip["y"] + 60)
        page.mouse.down()
        page.mouse.move(strip["x"] + 480, strip["y"] + 60, steps=5)
        page.mouse.up()
        page.wait_for_url(re.compile("from=[0-9]"))
        page.click("#zoom-all")
        page.wait_for_selector("#strip-log")
        page.click("#tells-started")
        page.wait_for_selector("#tells-started[aria-current]")
        self.assertIn("it has started", page.inner_text("#sentence"))
        page.click("#tells-finished")
        page.wait_for_selector("#tells-finished[aria-current]")
        sentence = page.inner_text("#sentence")
        page.click("#use-proposed")
        self.expect_saved("has finished")
        expect(page.locator("text=0 messages missed, 0 false messages").first).to_be_visible()
        self.open(f"{home}/sheet?day=2026-01-12&low=-2&high=6")
        watts = sentence.split(" W ")[1].split(" ")[-1]
        self.assertIn(f"{watts} W", page.inner_text("#set-finish-1"))

    def test_a_years_standby_is_read_with_its_rise_and_money(self) -> None:
        home, page = self.make_home("Year House"), self.page
        self.give_tariff(home)
        self.read_in(home, "year.csv")
        self.open(f"{home}/signatures?pane=always-on")
        self.assertIn("rose on Fri 24 Jul 2026 from 1.2 to 3.4 W", page.inner_text("#always-on"))
        page.fill("#switch-cost", "12,50")
        page.click("#reckon-payback")
        page.wait_for_selector("#always-on td:has-text('years')")
        self.assertRegex(page.inner_text("#total-money"), r"^£7\.\d\d$")

    def test_all_of_it_again_by_keyboard_alone(self) -> None:
        home, page = self.make_home("Key House"), self.page
        self.read_in(home, "machine.csv")
        self.open(f"{home}/survey")
        page.keyboard.press("5")
        page.wait_for_url("**/signatures")
        count = len(self.cycles())
        page.locator("a[id^=cycle-]").nth(1).focus()
        page.keyboard.press("Enter")
        page.wait_for_selector("tr.is-on a[id^=cycle-]")
        first = page.locator("#h-begin-chosen")
        value = float(first.get_attribute("data-value") or "nan")
        start = page.input_value("#start-time")
        first.focus()
        page.keyboard.press("ArrowLeft")
        self.expect_saved("run of")
        expect(page.locator("#h-begin-chosen")).to_be_focused()
        self.assertGreater(value, 0)
        self.assertNotEqual(page.input_value("#start-time"), start)
        page.locator("#end-time").focus()
        page.keyboard.press("Control+a")
        page.keyboard.type("11:30")
        page.keyboard.press("Enter")
        self.expect_saved("11:30")
        page.locator("#no-cycle").focus()
        page.keyboard.press("Enter")
        self.expect_saved("no run at")
        expect(page.locator("a[id^=cycle-]")).to_have_count(count - 1)
        page.keyboard.press("Escape")
        page.locator("#zoom-earlier").focus()
        page.keyboard.press("Enter")
        page.wait_for_url(re.compile("from=[0-9]"))
        page.locator("#try-w").focus()
        page.keyboard.type("5")
        page.locator("#try-min").focus()
        page.keyboard.type("4")
        page.keyboard.press("Tab")
        page.wait_for_selector("#tried")
        page.locator("#use-proposed").focus()
        page.keyboard.press("Enter")
        self.expect_saved("has finished")
        page.locator("#pane-always-on").focus()
        page.keyboard.press("Enter")
        page.wait_for_selector("#always-on")

    def test_pages_are_sound_by_day_and_night_wide_and_narrow(self) -> None:
        home = self.make_home("Sound House")
        self.read_in(home, "machine.csv")
        page = f"{home}/signatures"
        self.assert_sound([page, f"{page}?tells=left_on&try_w=5&try_min=4", f"{page}?pane=always-on", f"{home}/import"])
