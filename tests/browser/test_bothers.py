"""Each of the six ways in, from an empty database to its result, by mouse and by keyboard, inputs and time counted."""

from collections.abc import Mapping
from dataclasses import dataclass, field
from pathlib import Path

from playwright.sync_api import expect

from tests import nuisance_logs
from tests.browser.test_eight_rooms import Hands
from tests.browser.test_whole_job import Browsing
from warmeter.web.bothers.ways import WAYS

MOST_INPUTS, MOST_S = 10, 300
# Times of a practised hand (keystroke-level model): a key, a click with its way there, a thought before each input, a
# file found in a folder.
KEY_S, CLICK_S, THOUGHT_S, FILE_S = 0.28, 1.3, 1.35, 12.0
FIT_MS = 120_000


@dataclass(frozen=True)
class Case:
    """What a person types for a way in, its log, and words of its result."""

    typed: Mapping[str, str]
    result: str
    log: str = ""
    ticked: tuple[str, ...] = ()
    chosen: Mapping[str, str] = field(default_factory=dict)


def cases() -> dict[str, Case]:
    return {
        "machine": Case({"tell": "Ines", "price": "0.27"}, "0 missed, 0 false in 14 runs", nuisance_logs.plug_csv()),
        "cold": Case(
            {"room": "Parlour", "warm_by": "7:00", "heater_w": "2 kW"}, "before 07:00", nuisance_logs.cold_room_csv()
        ),
        "costs": Case(
            {
                "first_on": "2026-01-05",
                "first_kwh": "41200.5",
                "last_on": "2026-01-12",
                "last_kwh": "41270,5",
                "price": "0.27",
                "standing": "0.50",
            },
            "10.0 kWh a day. At this pace a year comes to 3650 kWh and 1168",
        ),
        "left-on": Case({"price": "0.27"}, "W run all night", nuisance_logs.meter_csv()),
        "water": Case({"room": "Laundry"}, "it would have told 1 time", nuisance_logs.leak_csv(), ("has_valve",)),
        "window": Case({"room": "Bath", "heater_w": "1500"}, "heated for 3.4 h", nuisance_logs.window_csv()),
    }


class WaysIn(Browsing):
    def log_of(self, key: str, case: Case) -> Path:
        path = self.folder / f"{key}.csv"
        path.write_text(case.log, encoding="utf-8")
        return path

    def assert_result(self, case: Case) -> None:
        expect(self.page.locator("#result")).to_contain_text(case.result, timeout=FIT_MS)

    def test_ten_inputs_at_most(self) -> None:
        self.assertEqual(set(cases()), {way.key for way in WAYS})
        for way in WAYS:
            self.assertLessEqual(len(way.asks), MOST_INPUTS, way.key)

    def test_by_mouse(self) -> None:
        for key, case in cases().items():
            with self.subTest(key):
                self.open("/")
                self.page.click("#bothered")
                self.page.click(f"#way-{key}")
                seconds, inputs = 3 * CLICK_S, 1
                for name, text in case.typed.items():
                    self.page.fill(f"#f-{name}", text)
                    seconds += THOUGHT_S + CLICK_S + KEY_S * len(text)
                    inputs += 1
                for name in case.ticked:
                    self.page.check(f"#f-{name}")
                    seconds, inputs = seconds + THOUGHT_S + CLICK_S, inputs + 1
                if case.log:
                    self.page.set_input_files("#f-file", self.log_of(key, case))
                    seconds, inputs = seconds + FILE_S, inputs + 1
                self.page.click("#find-out")
                self.assert_result(case)
                self.assertLessEqual(inputs, MOST_INPUTS, key)
                self.assertLessEqual(seconds, MOST_S, key)

    def test_by_keyboard(self) -> None:
        for key, case in cases().items():
            with self.subTest(key):
                hands = Hands(self)
                self.open("/")
                hands.press("b")
                self.page.wait_for_url("**/bothers")
                hands.tab_to(f"#way-{key}")
                hands.press("Enter")
                expect(self.page.locator("#find-out")).to_be_visible()
                inputs, seconds = 1, 0.0
                for ask in next(way for way in WAYS if way.key == key).asks:
                    if ask.name in case.typed:
                        hands.tab_to(f"#f-{ask.name}")
                        self.write(hands, ask.name, case.typed[ask.name])
                    elif ask.name in case.ticked:
                        hands.tab_to(f"#f-{ask.name}")
                        hands.press("Space")
                    elif ask.kind == "file" and case.log:
                        hands.tab_to("#f-file")
                        with self.page.expect_file_chooser() as chooser:
                            hands.press("Enter")
                        chooser.value.set_files(self.log_of(key, case))
                        seconds += FILE_S
                    else:
                        continue
                    inputs, seconds = inputs + 1, seconds + THOUGHT_S
                hands.tab_to("#find-out")
                hands.press("Enter")
                self.assert_result(case)
                self.assertLessEqual(inputs, MOST_INPUTS, key)
                self.assertLessEqual(seconds + KEY_S * hands.strokes, MOST_S, key)

    def write(self, hands: Hands, name: str, text: str) -> None:
        """Write over what stands in a field; a date goes in by its parts, as the browser asks for them."""
        box = self.page.locator(f"#f-{name}")
        if box.get_attribute("type") == "date":
            year, month, day = text.split("-")
            hands.write(f"{month}{day}{year}")
            return
        hands.press("Control+a")
        hands.write(text)

    def test_what_one_way_added_the_next_does_not_ask(self) -> None:
        case = cases()["machine"]
        self.open("/bothers")
        self.page.click("#way-machine")
        self.page.fill("#f-tell", "Ines")
        self.page.fill("#f-price", "0.27")
        self.page.set_input_files("#f-file", self.log_of("machine", case))
        self.page.click("#find-out")
        self.assert_result(case)
        self.page.click("text=Water is where it should not be")
        expect(self.page.locator("#f-tell")).to_have_value("Ines")
        self.page.click("text=Something is left on")
        expect(self.page.locator("#f-price")).to_have_value("0.27")

    def test_a_file_of_two_powers_asks_which_and_keeps_what_was_typed(self) -> None:
        path = self.folder / "two.csv"
        lines = nuisance_logs.plug_csv(3).splitlines()
        rows = [f"{line};{line.split(';')[1]}" for line in lines[1:]]
        path.write_text("\n".join(["Date;A (W);B (W)", *rows]) + "\n", encoding="utf-8")
        self.open("/bothers")
        self.page.click("#way-machine")
        self.page.fill("#f-tell", "Ines")
        self.page.set_input_files("#f-file", path)
        self.page.click("#find-out")
        expect(self.page.locator("#f-column-electric_w")).to_be_visible()
        expect(self.page.locator("#f-tell")).to_have_value("Ines")
        self.page.select_option("#f-column-electric_w", label="B (W)")
        self.page.click("#find-out")
        expect(self.page.locator("#result")).to_contain_text("runs")
