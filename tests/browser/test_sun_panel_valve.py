"""Blinds, panels, valves, raw readings and work in the browser, from nothing: by mouse, and by keys alone."""

import re
from pathlib import Path
from tempfile import NamedTemporaryFile

from PIL import Image
from playwright.sync_api import expect

from tests.browser.test_eight_rooms import Hands
from tests.browser.test_sweep import BLACK
from tests.browser.test_whole_job import Browsing


class FromNothing(Browsing):
    def with_room(self, name: str) -> str:
        """Return the address of a home of one more room, drawn."""
        home = self.make_home(name)
        self.open(f"{home}/survey")
        self.page.fill("#room-lines", "Nursery 3 x 4")
        self.page.click("#add-lines")
        expect(self.page.locator("main")).to_contain_text("Nursery")
        return home

    def add_device(self, home: str, kind: str) -> None:
        self.open(f"{home}/devices")
        self.page.select_option("#new-kind", kind)
        self.page.click("#add-device")
        expect(self.page.locator("#d-name")).to_be_visible()

    def add_device_by_keys(self, hands: Hands, home: str, kind: str) -> None:
        """Choose a kind by the letters of its name, and add it."""
        self.open(f"{home}/devices")
        hands.tab_to("#new-kind")
        self.page.keyboard.type(kind)
        hands.tab_to("#add-device")
        hands.press("Enter")
        expect(self.page.locator("#d-name")).to_be_visible()


class Sun(FromNothing):
    def test_a_blind_by_mouse(self) -> None:
        home, page = self.with_room("Sunny"), self.page
        self.open(f"{home}/sun")
        expect(page.locator("main")).to_contain_text("Draw windows first")
        self.open(f"{home}/survey")
        page.locator("[id^=room-]").first.click()
        # The room has to be open before its panes are gone through.
        expect(page.locator("[data-part]")).to_have_attribute("data-query", re.compile(r"\bat=\w"))
        expect(page.locator("#pane-openings")).to_have_attribute("href", re.compile(r"\bat=\w"))
        page.click("#pane-openings")
        expect(page.locator("#add-opening")).to_be_visible()
        page.click("#add-opening")
        expect(page.locator("#openings tbody tr")).to_have_count(1)
        self.open(f"{home}/sun?on=2026-06-21")
        page.select_option("[id^=blind-]", "outside")
        expect(page.locator("#windows")).to_contain_text("not known")
        before = page.locator("[data-part]").get_attribute("data-revision") or ""
        page.fill("[id^=lets-]", "0.25")
        page.locator("[id^=lets-]").press("Tab")
        expect(page.locator("[data-part]")).not_to_have_attribute("data-revision", before)
        expect(page.locator("main")).to_contain_text("with all wholly down")
        self.assertEqual(page.evaluate(BLACK), [])
        page.click("[id^=w-down]")
        expect(page.locator("#aside")).to_contain_text("0.25")
        self.assert_accessible()

    def test_a_blind_by_keys(self) -> None:
        home = self.with_room("Sunny keys")
        hands, page = Hands(self), self.page
        page.locator("[id^=room-]").first.focus()
        hands.press("Enter")
        hands.tab_to("#pane-openings")
        hands.press("Enter")
        hands.tab_to("#add-opening")
        hands.press("Enter")
        expect(page.locator("#openings tbody tr")).to_have_count(1)
        self.open(f"{home}/sun?on=2026-06-21")
        wanted = page.locator("[id^=blind-]").get_attribute("id")
        hands.tab_to(f"#{wanted}")
        hands.press("ArrowDown")
        expect(page.locator("[id^=lets-]")).to_be_visible()
        expect(page.locator("main")).to_contain_text("with all wholly down")


class Panel(FromNothing):
    def test_a_lamp_and_its_button_by_mouse(self) -> None:
        home, page = self.make_home("Pool"), self.page
        self.add_device(home, "lamp_sensor")
        self.add_device(home, "relay")
        self.add_device(home, "controller")
        page.click("#to-panel")
        page.fill("#new-lamp", "SPA")
        page.click("#add-lamp")
        expect(page.locator("#trial-words")).to_contain_text("Looking first: 4 presses")
        self.assertEqual(page.evaluate(BLACK), [])
        page.select_option("#d-presser_id", index=1)
        expect(page.locator("#aside")).to_contain_text("nothing sees its lamp")
        page.select_option("#d-lamp_sensor_id", index=1)
        expect(page.locator("#aside")).not_to_contain_text("nothing sees its lamp")
        page.select_option("#mood", "dead")
        expect(page.locator("#trial-words")).to_contain_text("its presses do nothing")
        self.assert_accessible()

    def test_a_lamp_by_keys(self) -> None:
        home = self.make_home("Pool keys")
        hands, page = Hands(self), self.page
        self.add_device_by_keys(hands, home, "controller")
        hands.tab_to("#to-panel")
        hands.press("Enter")
        hands.tab_to("#new-lamp")
        hands.write("SPA")
        hands.press("Enter")
        expect(page.locator("#trial")).to_be_visible()
        hands.tab_to("#d-watch_s")
        page.keyboard.press("Control+a")
        hands.write("0.6")
        hands.press("Tab")
        expect(page.locator("#aside")).to_contain_text("its dark half would be taken for off")


class RawAndValve(FromNothing):
    def test_raw_readings_by_keys(self) -> None:
        """A check that misses its reference names the resistor's side."""
        home = self.make_home("Raw keys")
        hands, page = Hands(self), self.page
        self.add_device_by_keys(hands, home, "air sensor")
        hands.tab_to("#add-raw")
        hands.press("Enter")
        for field, value in (("#d-checked_raw", "200"), ("#d-checked_c", "20")):
            hands.tab_to(field)
            page.keyboard.press("Control+a")
            hands.write(value)
            hands.press("Tab")
        expect(page.locator("#aside")).to_contain_text("where the reference reads")

    def test_a_valve_by_mouse_and_its_two_readings(self) -> None:
        home, page = self.make_home("Valve"), self.page
        self.add_device(home, "radiator_valve")
        for where, value in (("its display", "5"), ("the network", "7")):
            page.fill("#read-setting", "Frost limit")
            page.fill("#read-value", value)
            page.fill("#read-where", where)
            page.click("#save-setting")
            expect(page.locator("#settings-read")).to_contain_text(where)
        expect(page.locator("#aside")).to_contain_text("reads 5 on its display, 7 on the network")
        page.fill("#d-worked_on", "2025-01-05")
        page.locator("#d-worked_on").press("Tab")
        page.click("[id^=begin-]")
        expect(page.locator("#aside")).to_contain_text("0 of")
        self.open(f"{home}/matters")
        expect(page.locator("main")).to_contain_text("waits to be worked")

    def test_a_valve_by_keys(self) -> None:
        home = self.make_home("Valve keys")
        hands, page = Hands(self), self.page
        self.add_device_by_keys(hands, home, "radiator valve")
        for field, value in (("#read-setting", "Frost limit"), ("#read-value", "5"), ("#read-where", "its display")):
            hands.tab_to(field)
            hands.write(value)
        hands.press("Enter")
        expect(page.locator("#settings-read")).to_contain_text("its display")


class Work(FromNothing):
    def test_a_task_with_a_photo_by_mouse(self) -> None:
        home, page = self.make_home("Work"), self.page
        self.open(f"{home}/tasks")
        page.fill("#new-task", "Valve of the bath fitted")
        page.click("#add-task")
        expect(page.locator("#phase-1")).to_contain_text("Valve of the bath")
        for field, value in (
            ("price", "120"),
            ("asked", "J. Hand"),
            ("asked_on", "2026-01-02"),
            ("due_on", "2026-01-09"),
        ):
            page.fill(f"#d-{field}", value)
            page.locator(f"#d-{field}").press("Tab")
            expect(page.locator(f"#d-{field}")).to_have_value(value)
        expect(page.locator("#waits")).to_contain_text("days late")
        with NamedTemporaryFile(suffix=".png") as file:
            Image.new("RGB", (300, 200), "green").save(file, "PNG")
            file.flush()
            page.set_input_files("input[type=file]", Path(file.name))
            page.click("[id^=add-photo-]")
        expect(page.locator(".wm-photo img")).to_have_count(1)
        page.fill("#d-proof", "invoice 17")
        page.locator("#d-proof").press("Tab")
        page.click("#finish")
        expect(page.locator("#aside")).to_contain_text("Done on")
        self.assert_accessible()

    def test_a_task_by_keys(self) -> None:
        home = self.make_home("Work keys")
        hands, page = Hands(self), self.page
        self.open(f"{home}/tasks")
        hands.tab_to("#new-task")
        hands.write("Main valve worked")
        hands.press("Enter")
        expect(page.locator("#phase-1")).to_contain_text("Main valve worked")
        hands.tab_to("#d-asked")
        hands.write("J. Hand")
        hands.press("Tab")
        expect(page.locator("#waits")).to_contain_text("J. Hand")
        hands.tab_to("#finish")
        hands.press("Enter")
        expect(page.locator("#aside")).to_contain_text("Done on")
