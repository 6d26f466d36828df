"""Radio sensors in the browser: from a capture to a device of one's own, by mouse and by keys alone."""

import re
from pathlib import Path
from typing import ClassVar

from playwright.sync_api import expect

from tests.browser.test_eight_rooms import Hands
from tests.browser.test_whole_job import Browsing
from warmeter.core.timegrid import LocalClock
from warmeter.simulators.radio_capture import RadioScene, radio_scene


class RadioSensors(Browsing):
    scene: ClassVar[RadioScene] = radio_scene(911, 6, hours=6)

    def capture(self) -> Path:
        path = self.folder / "street.jsonl"
        path.write_text("\n".join(self.scene.lines), encoding="utf-8")
        return path

    def seen(self) -> list[tuple[str, str]]:
        """Return the clock and the number of each reading, by the clock of the home."""
        clock = LocalClock("Europe/London")
        return [(f"{clock.local(at):%H:%M}", f"{value}") for at, value in self.scene.readings]

    def assert_taken(self, name: str) -> None:
        expect(self.page.locator("main")).to_contain_text(name)
        expect(self.page.locator("main")).to_contain_text(self.scene.own)
        expect(self.page.locator("body")).to_contain_text("Nothing of the others was kept")

    def test_by_mouse(self) -> None:
        home = self.make_home("Street")
        self.open(f"{home}/devices")
        self.page.click("#to-radios")
        self.page.set_input_files("#f-file", self.capture())
        self.page.click("#look")
        expect(self.page.locator("#heard tbody tr")).to_have_count(7)
        for number, (at, shows) in enumerate(self.seen(), 1):
            self.page.fill(f"[id='f-r{number}.at']", at)
            self.page.fill(f"[id='f-r{number}.shows_c']", shows)
        self.page.fill("#f-channel", self.scene.channel)
        self.page.click("#find-mine")
        expect(self.page.locator("#verdict")).to_contain_text(f"It is {self.scene.own}")
        self.assert_accessible()
        self.page.fill("#f-name", "Cellar sensor")
        self.page.click("#take-in")
        self.assert_taken("Cellar sensor")

    def test_by_keys(self) -> None:
        home = self.make_home("Keys")
        hands = Hands(self)
        self.open(f"{home}/radios")
        hands.tab_to("#f-file")
        with self.page.expect_file_chooser() as chooser:
            hands.press("Enter")
        chooser.value.set_files(self.capture())
        hands.tab_to("#look")
        hands.press("Enter")
        self.page.wait_for_url(re.compile("token="))
        expect(self.page.locator("#find-mine")).to_be_visible()
        for number, (at, shows) in enumerate(self.seen(), 1):
            hands.tab_to(f"[id='f-r{number}.at']")
            hands.write(at)
            hands.tab_to(f"[id='f-r{number}.shows_c']")
            hands.write(shows)
        hands.tab_to("#f-channel")
        hands.write(self.scene.channel)
        hands.press("Enter")
        expect(self.page.locator("#verdict")).to_contain_text(f"It is {self.scene.own}")
        hands.tab_to("#f-name")
        hands.write("Cellar sensor")
        hands.press("Enter")
        self.assert_taken("Cellar sensor")
