"""Water and circuits in the browser, from nothing: by mouse, and by keys alone."""

from playwright.sync_api import expect

from tests.browser.test_eight_rooms import Hands
from tests.browser.test_whole_job import Browsing


class WaterAndCircuits(Browsing):
    def test_water_by_mouse(self) -> None:
        home, page = self.make_home("Weir"), self.page
        self.open(f"{home}/water")
        page.select_option("#new-point", "washing_machine")
        page.select_option("#new-point-room", index=1)
        page.click("#add-point")
        expect(page.locator("#cases")).to_contain_text("seen by chance")
        page.click("#add-valve")
        expect(page.locator("#points")).to_contain_text("valve")
        page.fill("#reach-wet", "20")
        page.click("#add-sensor")
        expect(page.locator("#cases")).not_to_contain_text("seen by chance, shut by a person, shut")
        expect(page.locator("#cases tbody tr").first).to_contain_text("50 s")
        page.fill("[id^=test-told-]", "2")
        page.fill("[id^=test-shut-]", "9")
        page.click("[id^=write-test-]")
        expect(page.locator("#cases tbody tr").first).to_contain_text("31 s")
        page.click("#cases tbody tr:first-child .wm-figure")
        expect(page.locator("#aside")).to_contain_text("22 + 9 / 2")
        self.assert_accessible()

    def test_water_by_keys(self) -> None:
        home = self.make_home("Weir keys")
        hands, page = Hands(self), self.page
        self.open(f"{home}/water")
        hands.tab_to("#new-point")
        hands.press("ArrowDown", 3)
        hands.tab_to("#add-point")
        hands.press("Enter")
        expect(page.locator("#cases")).to_be_visible()
        hands.tab_to("#add-valve")
        hands.press("Enter")
        expect(page.locator("[aria-label$='does not shut this']")).to_be_visible()
        hands.tab_to("#reach-wet")
        hands.write("20")
        hands.press("Enter")
        expect(page.locator("#cases tbody tr").first).to_contain_text("50 s")

    def test_a_mat_that_fails_by_mouse(self) -> None:
        home, page = self.make_home("Floor"), self.page
        self.open(f"{home}/circuits")
        page.fill("#new-circuit", "Floor, bath")
        page.click("#add-circuit")
        page.fill("#new-mat", "K2")
        page.fill("#new-mat-w", "750")
        page.click("#add-mat")
        expect(page.locator("#circuits")).to_contain_text("70.5")
        page.fill("#read-ohm", "70.2")
        page.fill("#read-on", "2025-03-01")
        page.click("#write-reading")
        expect(page.locator("#readings")).to_contain_text("70.2")
        page.select_option("#read-stage", "later")
        page.fill("#read-ohm", "82.4")
        page.click("#write-reading")
        expect(page.locator("#aside")).to_contain_text("16.8 % over")
        page.click("#aside [id^=begin-]")
        page.fill("[id^=by-][id$=-dead]", "M. Vlk")
        page.click("[id^=do-][id$=-dead]")
        expect(page.locator("#aside")).to_contain_text("1 of 9")
        self.assert_accessible()

    def test_a_circuit_by_keys(self) -> None:
        home = self.make_home("Floor keys")
        hands, page = Hands(self), self.page
        self.open(f"{home}/circuits")
        hands.tab_to("#new-circuit")
        hands.write("Floor")
        hands.press("Enter")
        expect(page.locator("#circuits")).to_contain_text("Floor")
        hands.tab_to("#new-mat-w")
        hands.write("600")
        hands.press("Enter")
        expect(page.locator("#circuits")).to_contain_text("88.2")
        hands.tab_to("#read-ohm")
        hands.write("110")
        hands.press("Enter")
        expect(page.locator("#aside")).to_contain_text("% over")
