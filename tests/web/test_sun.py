"""The page of the sun: windows and blinds typed in, a log of summer days, what its blinds spare."""

from dataclasses import replace

import numpy as np

from tests.drawn import drawn_home
from tests.web.test_pages import ANN, Case, plain_spaces
from warmeter.core.edits.device_commands import AddDevice
from warmeter.core.home.document import Home
from warmeter.core.readings.csvlog import Column, ImportMapping
from warmeter.core.timegrid import parse_utc
from warmeter.core.weather.sun import clear_sky_w_m2, sun_position
from warmeter.service.readings import logs

START_MS = parse_utc("2026-06-01T00:00:00Z")


class SunOnWindows(Case):
    @classmethod
    def home(cls) -> Home:
        """Return a den with a window to the west, a motor in it, and no heat in summer."""
        home = drawn_home(id="home1")
        home = replace(home, design=replace(home.design, north_deg=90.0))
        home = AddDevice(kind="blind_motor", room_id="den").edit(home).home
        return replace(home, time_zone="UTC")

    def bring(self, days: int = 14, *, position: bool = True) -> None:
        """Import summer days: warm from noon on, half as warm where the blind is down, every other day."""
        motor = self.app.homes.load("home1")[0].devices[-1].id
        at = START_MS + np.arange(days * 144 + 1, dtype=np.int64) * 600_000
        height, _ = sun_position(at, latitude_deg=52.0, longitude_deg=0.0)
        level = clear_sky_w_m2(height)
        lines = ["time,den,outdoor,sun,blind"]
        hour, day = np.arange(at.size) % 144 / 6, np.arange(at.size) // 144
        for k in range(at.size):
            down = 100 if day[k] % 2 and 11 <= hour[k] < 22 else 0
            outdoor = 21 + 5 * np.sin(2 * np.pi * (hour[k] - 9) / 24)
            sun = np.exp(-(((hour[k] - 18) / 3) ** 2)) * (1.5 if down else 4.0)
            lines.append(f"{at[k]},{outdoor + 3 + sun:.2f},{outdoor:.2f},{level[k]:.0f},{down}")
        upload = logs.keep_log(self.app, "june.csv", ["\n".join(lines).encode()])
        wanted = [
            ("room_temperature", "°C", "den"),
            ("outdoor_temperature", "°C", ""),
            ("sun_w_m2", "W/m²", ""),
            ("blind_position", "%", motor),
        ]
        columns = tuple(
            Column(index=k, heading=lines[0].split(",")[k], quantity=quantity, unit=unit, subject=subject)
            for k, (quantity, unit, subject) in enumerate(wanted[: 4 if position else 3], 1)
        )
        mapping = ImportMapping(
            delimiter=",", decimal=".", heading_line=1, time_column=0, date_format="epoch", clock="utc", columns=columns
        )
        logs.take(self.app, "home1", upload, mapping, ANN)

    def set(self, **values: str) -> None:
        page = self.client.get("/homes/home1/sun").text
        base = page.split('data-revision="')[1].split('"')[0]
        answer = self.client.post("/homes/home1/sun/window", data={"base": base, "id": "win", **values})
        self.assertEqual(answer.status_code, 200, answer.text[:400])

    def page(self) -> str:
        return plain_spaces(self.client.get("/homes/home1/sun?on=2026-06-21").text)

    def test_a_window_gets_a_blind_and_its_figure_shows_its_working(self) -> None:
        self.assertTrue("W 270°" in self.page())
        self.set(blind="outside")
        page = self.page()
        self.assertTrue("not known" in page)
        shown = plain_spaces(self.client.get("/homes/home1/sun/working/down.2026-06-21.win").text)
        self.assertTrue("0.9 · g · A" in shown)
        self.assertTrue("0.17" in shown)
        self.set(blind_lets="0.4")
        self.assertTrue('value="0.4"' in self.page())

    def test_days_beyond_the_suns_almanac(self) -> None:
        for on in ("9999-12-31", "0001-01-01", "no day"):
            self.assertEqual(self.client.get(f"/homes/home1/sun?on={on}").status_code, 200, on)
            self.assertEqual(self.client.get(f"/homes/home1/sun/working/up.{on}.win").status_code, 422, on)

    def test_what_is_not_logged_is_said_and_then_what_blinds_spare(self) -> None:
        motor = self.app.homes.load("home1")[0].devices[-1].id
        self.set(blind="outside")
        self.assertTrue("Not logged: its temperature, temperature outdoors, sun on the level outdoors" in self.page())
        self.bring()
        self.assertTrue("how far its blinds are down" in self.page())
        self.set(blind_motor_id=motor)
        page = self.page()
        self.assertTrue("Down wherever the sun stands on its windows, Den is over" in page)
        self.assertTrue("never down" in page)
        self.assertRegex(page, r"Its blinds let \d+ % \(|The share lies anywhere")
        # The position is that of the last reading: midnight after a day with it up.
        self.assertTrue("0 %" in page)

    def test_a_log_that_ends_with_the_blind_silent_says_that_its_position_is_not_known(self) -> None:
        self.set(blind="outside", blind_motor_id=self.app.homes.load("home1")[0].devices[-1].id)
        self.bring(position=False)
        page = self.page()
        self.assertTrue("not known" in page)
        self.assertTrue("no three days in a row" in page)
