"""Ways compared on a log: opened windows by contact and by fall, what they would have spared, what is not known."""

import unittest
from dataclasses import replace

from tests.homes import small_home
from tests.web.test_pages import Case, Elements
from tests.web.test_rules import PAGE, WithRules
from warmeter.core.home.devices import Device
from warmeter.core.home.document import Home
from warmeter.service.jobs.kinds import run_job

SENSOR = Device(
    id="air", name="Study sensor", kind="air_sensor", room_id="study", power="battery", quantities=("room_temperature",)
)


class WaysCompared(WithRules):
    @classmethod
    def home(cls) -> Home:
        home = super().home()
        return replace(home, devices=(*home.devices, SENSOR))

    def rows(self, query: str) -> tuple[Elements, list[str]]:
        page = self.get(f"{PAGE}/ways?{query}")
        return page, [" ".join(text.split()) for text in page.texts if text.split()]

    def row(self, texts: list[str], name: str) -> list[str]:
        at = texts.index(name)
        return texts[at : at + 10]

    def test_a_week_of_opened_windows_by_contact_and_by_fall(self) -> None:
        page, texts = self.rows("starter=opening")
        said = self.text(page)
        self.assertIn("Study open for three minutes, by contact", said)
        self.assertIn("It was so 7 times in these days", said)
        contact, fall = self.row(texts, "By contact"), self.row(texts, "By fall")
        self.assertEqual(contact[1:4], ["0 of 7", "0", "3 min"])
        # The room's log knows nothing of the window: the fall sees none of them.
        self.assertEqual(fall[1], "7 of 7")
        self.assertIn("Study window", said)
        self.assertIn("through the internet", said)

    def test_what_is_spared_is_a_dash_until_the_room_is_fitted_and_then_grows_with_the_drop(self) -> None:
        _, texts = self.rows("starter=opening")
        self.assertEqual(self.row(texts, "By contact")[6], "–")
        run_job(self.app, self.app.work.enqueue("home1", "fit", "study", 3, 0))
        _, texts = self.rows("starter=opening")
        spared = float(self.row(texts, "By contact")[6].replace("−", "-"))
        off_at = next(k for k, text in enumerate(texts) if text.startswith("Off, down to"))
        self.assertGreaterEqual(float(texts[off_at + 6].replace("−", "-")), spared)
        self.assertGreater(spared, 0)

    def test_without_readings_the_ways_and_what_they_hang_on_are_still_there(self) -> None:
        _, texts = self.rows("starter=idle")
        said = " ".join(texts)
        self.assertIn("No reading of these days tells when that was so", said)
        self.assertIn("The sensor's own wait alone", said)

    def test_what_cannot_be_read_in_the_address_is_as_usual(self) -> None:
        page, _ = self.rows("starter=nothing&place=nowhere&days=-4&comes_min=soon&away_h=9999")
        self.assertEqual(page.by_id("ways-days")["value"], "28")
        self.assertEqual(page.by_id("ways-comes_min")["value"], "60")

    def test_a_rule_to_start_from_leads_there(self) -> None:
        page = self.get(f"{PAGE}?pane=start")
        self.assertIn("starter=opening", page.by_id("ways-opening")["href"])


class NothingThere(Case):
    @classmethod
    def home(cls) -> Home:
        return replace(small_home(), devices=(), zones=(), appliances=())

    def test_a_home_without_anything_is_taught(self) -> None:
        self.assertIn("Nothing to compare yet", " ".join(self.get(f"{PAGE}/ways").texts))


if __name__ == "__main__":
    unittest.main()
