"""What must not be sure and wrong, in the real interface: too little known, missing hours, a cut plug, danger, gas."""

import re
from dataclasses import replace

import numpy as np
from playwright.sync_api import expect

from tests.browser.test_whole_job import Browsing
from tests.logs import START_MS, room_csv
from warmeter.core.timegrid import from_ms
from warmeter.core.units import TemperatureUnit
from warmeter.service.homes.demo import demo_home
from warmeter.store.codec import home_to_json


def hourly(heading: str, values: np.ndarray, step_min: int = 60) -> str:
    """Return a column of even steps from the logs' first day on; NaN leaves its line out."""
    lines = [f"time,{heading}"]
    lines += [
        f"{from_ms(START_MS + k * step_min * 60_000):%Y-%m-%d %H:%M},{v:g}"
        for k, v in enumerate(values)
        if not np.isnan(v)
    ]
    return "\n".join(lines) + "\n"


class RightAnswers(Browsing):
    def bring(self, demo: str, unit: TemperatureUnit) -> str:
        """Bring a demo home in, in a unit of its own; return its path."""
        page, home = self.page, replace(demo_home(demo), id=f"{demo}-{unit}", temperature_unit=unit)
        path = self.folder / f"{home.id}.json"
        path.write_bytes(home_to_json(home))
        self.open("/")
        page.set_input_files("#bring-file", path)
        page.click("#bring-in")
        page.wait_for_url("**/survey?notice=*")
        return page.url.removeprefix(self.served.address).split("/survey")[0]

    @classmethod
    def setUpClass(cls) -> None:
        super().setUpClass()
        meter = np.where(np.arange(30 * 24) % 24 < 6, 0.12, 0.4)
        meter[200:224] = np.nan
        meter[27] = 0.05
        (cls.folder / "meter.csv").write_text(hourly("Grid import kWh", meter), encoding="utf-8")
        day = np.concatenate([np.zeros(48), np.full(40, 9.0), np.full(8, 80.0)])
        (cls.folder / "cut.csv").write_text(hourly("Washer power W", np.tile(day, 20), 15), encoding="utf-8")
        rows = room_csv(8).splitlines()
        halved = [rows[0]]
        for row in rows[1:]:
            when, room, heat, outdoors = row.split(",")
            halved.append(f"{when},{room},{0.5 * float(heat):.0f},{outdoors}")
        (cls.folder / "halved.csv").write_text("\n".join(halved) + "\n", encoding="utf-8")

    def test_a_meter_says_what_is_missing_and_never_says_never_in_vain(self) -> None:
        home, page = self.make_home("Metered"), self.page
        self.open(f"{home}/import")
        page.set_input_files("#file", self.folder / "meter.csv")
        page.click("#look")
        expect(page.locator(".wm-missing")).to_contain_text("24 intervals")
        page.click("#take")
        page.wait_for_url("**/survey?notice=*")
        self.open(f"{home}/signatures?pane=always-on")
        part = page.locator("#meter-part")
        expect(part).to_contain_text("24 intervals are missing, in 1 stretch")
        expect(part).to_contain_text("usually draws about 120 W")
        expect(part).to_contain_text("On 1 of them")
        expect(part).not_to_contain_text("less than 120 W")
        expect(page.locator("#strip-meter .wm-gap, #meter-part .wm-gap").first).to_be_attached()
        page.fill("#meter-from", "2026-01-06")
        page.fill("#meter-to", "2026-01-07")
        page.click("#sum-meter")
        expect(page.locator("#meter-chosen")).to_contain_text("15.8")
        self.assert_accessible()

    def test_a_machine_cut_at_night_is_told_its_standing_and_what_cutting_saves(self) -> None:
        home, page = self.make_home("Cut at night"), self.page
        self.read_in(home, "cut.csv")
        self.give_tariff(home)
        self.open(f"{home}/signatures?pane=always-on")
        line = page.locator(".wm-cut")
        expect(line).to_contain_text("off at the plug 84.0 h a week, at rest 70.0 h at 9.0 W")
        expect(line).to_contain_text("cutting already saves 39.4 kWh")

    def test_a_fit_of_half_the_heat_is_not_used_and_says_what_is_missing(self) -> None:
        home, page = self.make_home("Half logged"), self.page
        self.read_in(home, "halved.csv")
        self.fit(home)
        missing = page.locator("#fit-missing")
        expect(missing).to_contain_text("part of the heat may not be logged")
        expect(page.locator("text=Lead time")).to_have_count(0)
        expect(page.locator("#fig-loss")).to_have_count(0)
        self.assert_accessible()

    def test_a_room_too_cold_is_danger_and_a_lead_too_little_known_is_measured_first(self) -> None:
        home, page = self.make_home("Cold"), self.page
        self.open(f"{home}/sheet?day=2026-01-12&low=-16&high=-12")
        expect(page.locator("#set-start-1 .wm-big")).to_have_text(re.compile("measure first|not reached in time"))
        for place in ("sheet", "timetable"):
            self.open(f"{home}/{place}?day=2026-01-12&low=-45&high=-40")
            expect(page.locator("#dangers")).to_contain_text("under its protection limit")
        self.assert_accessible()

    def test_gas_without_a_price_has_no_money_until_one_is_typed(self) -> None:
        home, page = self.make_home("Gas"), self.page
        self.give_tariff(home)
        self.open(f"{home}/heating")
        page.select_option("#source-kind", "boiler")
        page.click("#add-source")
        expect(page.locator("#saved b")).to_contain_text("Boiler")
        expect(page.locator("select[name=fuel]")).to_be_visible()
        page.locator("a[href^='?at=']").click()
        page.select_option("select[name=source_id]", label="Boiler")
        expect(page.locator("#saved b")).to_contain_text("Study electric panel heater")
        self.open(f"{home}/timetable?day=2026-01-12&low=-6&high=-2")
        expect(page.locator("#main")).to_contain_text("no costs: gas without a price")
        expect(page.locator("#main")).to_contain_text("Gas for it, Boiler")
        expect(page.locator("#main")).not_to_contain_text("£")
        self.open(f"{home}/heating")
        page.fill("input[name=fuel_price]", "0.09")
        page.press("input[name=fuel_price]", "Enter")
        expect(page.locator("#saved b")).to_contain_text("Boiler changed")
        self.open(f"{home}/timetable?day=2026-01-12&low=-6&high=-2")
        expect(page.locator("#main")).to_contain_text("Heating, whole day")
        shown = re.search(
            r"Heating, whole day\s+£([\d.]+).*Gas for it, Boiler\s+([\d.]+)", page.inner_text("#main"), re.S
        )
        assert shown is not None
        self.assertAlmostEqual(float(shown[1]), 0.09 * float(shown[2]), delta=0.006)
        self.assert_accessible()

    def test_a_rule_of_ones_own_is_silent_until_its_blanks_are_right_and_what_was_never_heard_is_told(self) -> None:
        home, page = self.make_home("Ruled"), self.page
        self.read_in(home, "meter.csv")
        self.open(f"{home}/rules")
        page.fill("#new-name", "Too warm")
        page.click("#new-blank")
        expect(page.locator("#saved b")).to_contain_text("Too warm begun, suspended until its blanks are filled in")
        expect(page.locator(".wm-rules")).to_contain_text("Suspended until a person ends it: new; fill in its blanks")
        # The log of this home knows the meter only: what the rule looks at was never heard.
        expect(page.locator(".wm-came .wm-find:not(.wm-suspended)").first).to_contain_text(
            "The log holds nothing of what it looks at"
        )
        self.open(f"{home}/rules/sheet")
        expect(page.locator(".wm-typed li").first).to_contain_text("Do not type it in yet")
        self.open(f"{home}/rules")
        page.click("#rule-more summary")
        page.click("#resume")
        expect(page.locator("#saved b")).to_contain_text("works again")
        self.assert_accessible()

    def test_what_is_handed_over_is_in_the_receivers_own_form_or_refused_with_what_is_lost(self) -> None:
        home, page = self.bring("terrace-nine", unit="F"), self.page
        self.open(f"{home}/rules/sheet")
        leak = page.locator(".wm-typed", has_text="Water at Kitchen leak sensor")
        expect(leak).to_contain_text("Stop telling when Kitchen leak sensor is dry for 10 min.")
        expect(leak).to_contain_text("What was shut off stays shut until a person opens it.")
        expect(leak).not_to_contain_text("Put it back")
        falls = page.locator(".wm-typed", has_text="Bedroom falls fast")
        expect(falls.locator(".wm-fields")).to_contain_text("mode off")
        expect(falls).to_contain_text("never a toggle")
        empty = page.locator(".wm-typed", has_text="Study empty")
        expect(empty.locator(".wm-fields li").first).to_contain_text(re.compile(r"mode heat, setpoint \d\d °F"))
        expect(empty).to_contain_text("it takes 61 to 86 °F")
        self.assertNotRegex(page.inner_text(".wm-rulesheet .wm-fields >> nth=0"), r"\d\.\d °F")
        self.assert_accessible()
