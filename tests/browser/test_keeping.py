"""Readings taken back and brought back, a home saved whole and brought in again: in the browser, by keyboard too."""

from playwright.sync_api import expect

from tests.browser.test_whole_job import Browsing


class Keeping(Browsing):
    def with_log(self, name: str) -> str:
        """Make a home, read a log into it and return its address."""
        home = self.make_home(name)
        self.read_in(home, "room.csv")
        expect(self.page.locator("#saved b")).to_contain_text("Imported")
        return home

    def test_undo_of_an_import_asks_first_and_redo_brings_it_back(self) -> None:
        home, page = self.with_log("Kept Readings"), self.page
        self.open(f"{home}/survey/record")
        page.keyboard.press("u")
        expect(page.locator("h1")).to_contain_text("readings back?")
        page.locator("#leave-them").focus()
        page.keyboard.press("Enter")
        expect(page.locator("h1")).to_have_text("Survey")
        expect(page.locator("#saved b")).to_contain_text("Imported")
        page.keyboard.press("u")
        page.locator("#take-back").focus()
        page.keyboard.press("Enter")
        expect(page.locator("#notice")).to_contain_text("readings taken back")
        expect(page.locator("#main")).to_contain_text("No log yet")
        page.keyboard.press("r")
        expect(page.locator("#saved b")).to_contain_text("Brought back")
        expect(page.locator("#main")).not_to_contain_text("No log yet")

    def test_a_home_is_saved_whole_and_brought_in_beside_itself(self) -> None:
        home, page = self.with_log("Kept Whole"), self.page
        self.open(f"{home}/survey/record")
        with page.expect_download() as saved:
            page.click("#archive")
        path = self.folder / "whole.zip"
        saved.value.save_as(path)
        self.open("/")
        page.set_input_files("#bring-file", path)
        page.click("#bring-in")
        expect(page.locator("#notice")).to_contain_text("Kept Whole (copy) is imported with its revisions, readings")
        self.open(page.url.removeprefix(self.served.address).split("?")[0] + "/record")
        expect(page.locator("#main")).to_contain_text("room.csv")
