"""Live in the browser, over a real broker and a stand-in for mail: a leak told and answered, a sensor that changed its name."""

import time

from playwright.sync_api import expect

from tests.browser.test_whole_job import WAIT_MS, Browsing
from warmeter.service.homes.demo import demo_home
from warmeter.service.live.setting_up import demo_linked
from warmeter.store.codec import home_to_json

# Faults take some reports to be seen, and rules wait; the clock runs 60 times as fast.
LONG_MS = 6 * WAIT_MS
SPEED, FAST = "60", "300"


class LiveInTheBrowser(Browsing):
    def begin(self) -> str:
        """Bring the workshop in, let its devices be played, and return its path."""
        (self.folder / "loft.json").write_bytes(home_to_json(demo_linked(demo_home("sail-loft"))))
        self.open("/")
        self.page.set_input_files("#bring-file", self.folder / "loft.json")
        self.page.click("#bring-in")
        self.page.wait_for_url("**/homes/*/*")
        home = "/homes/" + self.page.url.split("/homes/")[1].split("/")[0]
        self.open(f"{home}/live")
        expect(self.page.locator("#main")).to_contain_text("Link this home")
        self.page.click("#begin-live")
        # What is brought in sends nothing before somebody says so.
        expect(self.page.locator("#live-lead")).to_contain_text("not followed")
        self.page.select_option("#live-mode", "send")
        expect(self.page.locator("#live-lead")).to_contain_text("sends")
        self.open(f"{home}/live/bench")
        self.page.select_option("#speed", SPEED)
        expect(self.page.locator("#speed")).to_have_value(SPEED)
        return home

    def until_shown(self, place: str, words: str) -> None:
        """Load a page that does not grow by itself until it says something."""
        end = time.monotonic() + LONG_MS / 1000
        while words not in self.page.inner_text(place) and time.monotonic() < end:
            self.page.reload()
        expect(self.page.locator(place)).to_contain_text(words)

    def test_a_finished_machine_is_told_by_mail_until_it_is_emptied(self) -> None:
        home, page = self.begin(), self.page
        self.open(f"{home}/live/messages")
        page.fill("#address-ch-mail", "ada@home.example")
        with page.expect_response(lambda answer: "/live/address" in answer.url):
            page.keyboard.press("Enter")
        self.open(f"{home}/live/bench")
        page.select_option("#speed", FAST)
        expect(page.locator("#speed")).to_have_value(FAST)
        page.click("#start-ap-washer")
        self.open(f"{home}/live")
        waits = page.locator(".wm-wait", has_text="Washing machine has finished")
        expect(waits).to_contain_text("Told 2 times", timeout=LONG_MS)
        self.open(f"{home}/live/messages")
        self.until_shown(".wm-liveside", "Washing machine has finished")
        self.open(f"{home}/live")
        waits.locator("button", has_text="It is emptied").first.focus()
        with page.expect_response(lambda answer: "/live/answer" in answer.url):
            page.keyboard.press("Enter")
        self.open(f"{home}/live/log")
        answered = page.locator("#alerts tr", has_text="Washing machine has finished").filter(has_text="done by")
        expect(answered.first).to_be_visible()
        self.open(f"{home}/live/bench")
        page.click("#stop-playing")
        expect(page.locator("#play")).to_be_visible()

    def test_a_leak_is_told_shut_off_and_answered_and_a_sensor_goes_on_under_its_new_name(self) -> None:
        home, page = self.begin(), self.page
        self.open(f"{home}/live")
        # It grows by itself: devices speak, valves are asked and confirm.
        expect(page.locator("#sent")).to_contain_text("confirmed in", timeout=LONG_MS)
        expect(page.locator("#on-now")).to_contain_text("timetable")
        self.open(f"{home}/live/bench")
        page.click("#fault-dv-leak-wet")
        expect(page.locator("#fault-dv-leak-wet")).to_have_attribute("aria-pressed", "true")
        page.click("#fault-dv-hall-new_name")
        expect(page.locator("#fault-dv-hall-new_name")).to_have_attribute("aria-pressed", "true")
        self.open(f"{home}/live")
        waits = page.locator(".wm-wait.is-danger")
        expect(waits).to_contain_text("water is shut off", timeout=LONG_MS)
        self.assert_accessible()
        waits.locator("button").first.focus()
        page.keyboard.press("Enter")
        expect(waits).to_have_count(0, timeout=LONG_MS)
        self.open(f"{home}/live/messages")
        expect(page.locator(".wm-liveside")).to_contain_text("stand-in")
        # The sensor is heard under another name, and goes on with its history.
        self.open(f"{home}/live/links")
        self.until_shown("main", "Hall sensor, under a new name")
        page.locator("#unknown button[id^=readopt]").first.click()
        expect(page.locator("#saved")).to_contain_text("Hall sensor is now heard as dv-hall-n")
        expect(page.locator("#mappings")).to_contain_text("dv-hall-n/room_temperature")
        self.assert_accessible()
        self.open(f"{home}/live/log")
        expect(page.locator("#alerts")).to_contain_text("done by no name given")
        expect(page.locator("#commands")).to_contain_text("Water stop off")
        self.assert_sound([f"{home}/live", f"{home}/live/links", f"{home}/live/messages", f"{home}/live/bench"])
        self.open(f"{home}/live/bench")
        page.click("#stop-playing")
        expect(page.locator("#play")).to_be_visible()
