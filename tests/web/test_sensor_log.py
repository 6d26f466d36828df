"""A sensor's page says what its own log shows: a heater near it, silence; the register names rooms nobody measures."""

from dataclasses import replace

import numpy as np

from tests.drawn import drawn_home
from tests.edited import save_change
from tests.homes import becoming
from tests.hung_sensors import hung
from tests.web.test_pages import ANN, Case, plain_spaces
from warmeter.core.home.document import Home
from warmeter.core.readings.csvlog import Column, ImportMapping
from warmeter.core.timegrid import parse_utc
from warmeter.service.readings import logs

START_MS = parse_utc("2026-01-05T00:00:00Z")


class SensorByItsLog(Case):
    @classmethod
    def home(cls) -> Home:
        """Return the two rooms with a sensor each."""
        return replace(drawn_home(id="home1"), time_zone="UTC")

    def bring(self, values: np.ndarray, heating: np.ndarray, outdoor: np.ndarray) -> None:
        """Import a log of the den's sensor, its heater and outdoors, every five minutes."""
        lines = ["time,den,heat,outdoor"]
        for k, (value, heat, out) in enumerate(zip(values, heating, outdoor, strict=True)):
            lines.append(f"{START_MS + k * 300_000},{value:.1f},{1500 * heat:.0f},{out:.1f}")
        upload = logs.keep_log(self.app, "den.csv", ["\n".join(lines).encode()])
        wanted = (("room_temperature", "°C", "air-den"), ("heat_w", "W", "den"), ("outdoor_temperature", "°C", ""))
        columns = tuple(
            Column(index=k, heading=lines[0].split(",")[k], quantity=quantity, unit=unit, subject=subject)
            for k, (quantity, unit, subject) in enumerate(wanted, 1)
        )
        mapping = ImportMapping(
            delimiter=",", decimal=".", heading_line=1, time_column=0, date_format="epoch", clock="utc", columns=columns
        )
        logs.take(self.app, "home1", upload, mapping, ANN)

    def page(self, at: str = "air-den") -> str:
        return plain_spaces(self.client.get(f"/homes/home1/devices?at={at}").text)

    def test_a_heater_near_it_with_what_the_plan_says(self) -> None:
        self.assertFalse("By its own log" in self.page())
        log = hung(3, "heater").log
        self.bring(log.sensor_c, log.heating, log.outdoor_c)
        page = self.page()
        self.assertTrue("Nothing is wrong with its readings." in page)
        self.assertTrue("a heater near it" in page)
        # The radiator stands two metres away on the plan.
        self.assertTrue("By the plan Den radiator stands" in page)
        self.assertTrue("it lacks another sensor in the room, for a cold wall" in page)

    def test_rooms_that_nobody_measures_are_named(self) -> None:
        log = hung(1).log
        self.assertTrue("Den, Study" in self.page(""))
        self.bring(log.sensor_c, log.heating, log.outdoor_c)
        page = self.page("")
        self.assertTrue("Nobody measures" in page)
        self.assertFalse("Den, Study" in page)
        # The room was aired, and no contact tells of it: a draught cannot be parted from that.
        self.assertTrue("a draught, or airing" in self.page())

    def test_a_sensor_that_drifts_against_another_of_its_room(self) -> None:
        """A tenth of a kelvin every third day is a kelvin in thirty."""
        home = self.app.homes.load("home1")[0]
        other = replace(home.devices[0], id="air-den-2", name="Den sensor 2")
        save_change(self.app, "home1", 1, ANN, "another", becoming(replace(home, devices=(*home.devices, other))))
        days = 20
        k = np.arange(days * 144)
        true = 20 + np.sin(2 * np.pi * k / 144)
        drifting = np.round(true + 1.0 * (k // 144) / 30, 2)
        lines = ["time,one,two"]
        lines += [
            f"{START_MS + j * 600_000},{a:.2f},{b:.2f}" for j, (a, b) in enumerate(zip(drifting, true, strict=True))
        ]
        upload = logs.keep_log(self.app, "two.csv", ["\n".join(lines).encode()])
        columns = tuple(
            Column(index=n, heading=name, quantity="room_temperature", unit="°C", subject=subject)
            for n, (name, subject) in enumerate((("one", "air-den"), ("two", "air-den-2")), 1)
        )
        mapping = ImportMapping(
            delimiter=",", decimal=".", heading_line=1, time_column=0, date_format="epoch", clock="utc", columns=columns
        )
        logs.take(self.app, "home1", upload, mapping, ANN)
        self.assertTrue("it moves +1.0 K in thirty days (+1.0 to +1.0)" in self.page())
        self.assertTrue("it moves −1.0 K in thirty days" in self.page("air-den-2"))
