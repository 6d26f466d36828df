"""Ducts in the browser, from nothing: by mouse, and by keys alone."""

from playwright.sync_api import expect

from tests.browser.test_eight_rooms import Hands
from tests.browser.test_whole_job import Browsing


class Ducted(Browsing):
    def two_rooms(self, name: str) -> str:
        """Return the address of a home of two heated rooms."""
        home = self.make_home(name)
        self.open(f"{home}/survey")
        self.page.fill("#room-lines", "Nursery 3 x 4")
        self.page.click("#add-lines")
        expect(self.page.locator("main")).to_contain_text("Nursery")
        return home

    def test_by_mouse(self) -> None:
        home, page = self.two_rooms("Ducted"), self.page
        self.open(f"{home}/heating")
        page.click("#to-ducts")
        page.click("#add-ducts")
        expect(page.locator("#vents tbody tr")).to_have_count(2)
        expect(page.locator("#choices")).to_contain_text("mean of 2")
        page.fill("[id^=flow_m3_h-]", "400")
        page.locator("[id^=flow_m3_h-]").first.press("Tab")
        expect(page.locator("#vents tbody tr").first).to_contain_text("400")
        reads = page.locator("[id^=measured-][name^='rooms.']")
        reads.nth(0).fill("21.4")
        reads.nth(1).fill("19.4")
        page.click("#measure-rooms")
        expect(page.locator("#trim")).to_be_visible()
        page.click("#note-set")
        expect(page.locator("#aside")).to_contain_text("were moved since")
        self.assert_accessible()

    def test_by_keys(self) -> None:
        home = self.two_rooms("Ducted keys")
        hands, page = Hands(self), self.page
        self.open(f"{home}/ducts")
        hands.tab_to("#add-ducts")
        hands.press("Enter")
        expect(page.locator("#vents tbody tr")).to_have_count(2)
        for value in ("21.4", "19.4"):
            place = ("21.4", "19.4").index(value)
            wanted = page.locator("[id^=measured-][name^='rooms.']").nth(place).get_attribute("id")
            hands.tab_to(f"#{wanted}")
            hands.write(value)
        hands.press("Enter")
        expect(page.locator("#trim")).to_be_visible()
        hands.tab_to("#note-set")
        hands.press("Enter")
        expect(page.locator("#aside")).to_contain_text("were moved since")
