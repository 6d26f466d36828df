"""Tariff and plan in the browser: from one price to seasons and tiers, a year imported and billed, a bill typed, offers, a plan."""

from datetime import date

from playwright.sync_api import expect

from tests.browser.test_eight_rooms import Hands
from tests.browser.test_sweep import WIDTHS
from tests.browser.test_whole_job import Browsing
from tests.web.test_tariff import meter_csv


class TariffInTheBrowser(Browsing):
    @classmethod
    def setUpClass(cls) -> None:
        super().setUpClass()
        (cls.folder / "year.csv").write_text(meter_csv(date(2025, 2, 1), date(2026, 1, 31)), encoding="utf-8")

    def done(self, act: str, words: str) -> None:
        """Press something and wait until the status line says what was saved."""
        self.page.click(act)
        expect(self.page.locator("#saved")).to_contain_text(words)

    def test_from_one_price_to_a_seasonal_tariff_with_tiers_a_year_billed_and_compared(self) -> None:
        home, page = self.make_home("Billed"), self.page
        self.open(f"{home}/tariff")
        page.fill("#first-price", "0.28")
        page.fill("#first-standing", "0.5")
        self.done("#keep-tariff", "1 rate")
        page.fill("#rate-name", "Winter, dear")
        page.fill("#rate-seasons", "Oct to Mar")
        page.fill("#rate-from_min", "16:00")
        page.fill("#rate-to_min", "20:00")
        page.fill("#rate-price", "45 p")
        page.fill("#rate-tiers", "above 100: 0.60")
        self.done("#keep-rate", "Winter, dear, added")
        expect(page.locator("#strip-prices")).to_contain_text("45.0")
        expect(page.locator("#rates")).to_contain_text("above 100: 60 p")
        # An edge of the lane by keys: half an hour later, both rates move.
        page.focus("#h-price-0-960")
        page.keyboard.press("ArrowRight")
        expect(page.locator("#saved")).to_contain_text("Rates change at 16:30 instead of 16:00")
        expect(page.locator("#rates")).to_contain_text("16:30 to 20:00")
        self.assert_accessible()
        self.read_in(home, "year.csv")
        self.open(f"{home}/tariff?month=2026-01")
        # 744 h at 1 kW; 31 · 3.5 h dear: 100 at 0.45, 8.5 at 0.60; the rest 635.5 at 0.28; 15.50 standing.
        expect(page.locator("#bill-total")).to_have_text("243.54")
        page.click("#type-bill")
        page.fill("#b-total", "246.54")
        page.fill("#b-standing_per_day", "0.5")
        self.done("#keep-bill", "Bill of 01 Jan 2026")
        expect(page.locator(".wm-difference")).to_contain_text("£3.00 more than worked out")
        expect(page.locator(".wm-difference")).to_contain_text("Rounding and the rest")
        page.click("#tariff-details summary")
        page.fill("#offer-name", "Flat offer")
        page.fill("#offer-price", "0.25")
        self.done("#add-offer", "Flat offer")
        self.open(f"{home}/which-tariff")
        expect(page.locator("#choice")).to_contain_text("Flat offer")
        expect(page.locator("main")).to_contain_text("Flat offer costs £")
        self.assert_accessible()
        self.open(f"{home}/use?month=2026-01")
        expect(page.locator("#use-rows")).to_contain_text("The rest")
        self.assert_accessible()
        for width in WIDTHS:
            page.set_viewport_size({"width": width, "height": 800})
            for path in ("tariff", "which-tariff", "use", "day-plan"):
                self.open(f"{home}/{path}")
                wide = page.evaluate("document.documentElement.scrollWidth")
                self.assertLessEqual(wide, width, f"{path} at {width}")

    def test_plan_a_day_drag_pin_and_plan_again(self) -> None:
        home, page = self.make_home("Planned"), self.page
        self.give_tariff(home)
        self.open(f"{home}/day-plan?day=2026-01-21")
        hands = Hands(self)
        hands.tab_to("#run-kwh")
        hands.write("1.2")
        hands.tab_to("#run-minutes")
        hands.write("60")
        hands.press("Enter")
        expect(page.locator("#saved")).to_contain_text("Washer wanted on 21 Jan 2026")
        page.click("#make-plan")
        page.wait_for_selector("#against", timeout=90_000)
        expect(page.locator("#plan-side")).to_contain_text("00:00 to 01:00")
        expect(page.locator("#how-sure")).to_contain_text("Least cost proven")
        self.assert_accessible()
        handle = page.locator("[data-kind=run]")
        box = handle.bounding_box()
        assert box is not None
        page.mouse.move(box["x"] + 2, box["y"] + 8)
        page.mouse.down()
        page.mouse.move(box["x"] + 240, box["y"] + 8, steps=6)
        page.mouse.up()
        expect(page.locator("#saved")).to_contain_text("Washer pinned at")
        expect(page.locator("#why-there")).to_contain_text("It is pinned")
        expect(page.locator("#plan-side")).not_to_contain_text("00:00 to 01:00;")
        when = page.inner_text("#plan-side .wm-text")
        page.click("#make-plan")
        page.wait_for_selector("#against", timeout=90_000)
        expect(page.locator("#rule-costs")).to_contain_text("Washer pinned")
        self.assertEqual(page.inner_text("#plan-side .wm-text"), when, "a pin stays")
        page.click("#unpin")
        expect(page.locator("#saved")).to_contain_text("left to the plan")

    def test_a_pre_heat_is_planned_and_taken_into_the_timetable_by_keyboard(self) -> None:
        home, page = self.make_home("Warmed ahead"), self.page
        self.give_tariff(home)
        self.open(f"{home}/timetable?day=2026-01-21")
        page.fill("#weather-low", "-4")
        page.fill("#weather-high", "3")
        page.keyboard.press("Enter")
        expect(page.locator("#saved")).to_contain_text("Weather of")
        self.open(f"{home}/day-plan?day=2026-01-21")
        hands = Hands(self)
        hands.tab_to("#plan-zones summary")
        hands.press("Enter")
        zone = page.get_attribute("#plan-zones input[type=checkbox]", "id")
        hands.tab_to(f"#{zone}")
        hands.press("Space")
        hands.tab_to(f"#keep-{zone}")
        hands.press("Enter")
        expect(page.locator("#saved")).to_contain_text("Study")
        hands.tab_to("#make-plan")
        hands.press("Enter")
        page.wait_for_selector("#preheat-figures", timeout=90_000)
        expect(page.locator("#preheats")).to_contain_text("simulated")
        self.assert_accessible()
        hands.tab_to("#take-preheats")
        hands.press("Enter")
        expect(page.locator("#preheats")).to_contain_text("They stand in the timetable")
        self.open(f"{home}/timetable?day=2026-01-21")
        expect(page.locator("#timetable, main")).to_contain_text("pre-heat")
        self.assert_accessible()
