"""A radiator valve's page says what to type into its own correction, from its log and the room's sensor."""

from dataclasses import replace

import numpy as np

from tests.homes import small_home
from tests.logs import START_MS
from tests.web.test_pages import ANN, Case, plain_spaces
from warmeter.core.edits.edit import Apply
from warmeter.core.home.devices import Device
from warmeter.core.home.document import Home
from warmeter.core.readings.csvlog import Column, ImportMapping
from warmeter.service.homes import editing
from warmeter.service.readings import logs
from warmeter.service.readings.room_logs import room_series

VALVE = Device(id="valve", name="Study valve", kind="radiator_valve", power="battery", room_id="study")
SENSOR = Device(id="sensor", name="Study sensor", kind="air_sensor", power="battery", room_id="study")


class OwnReading(Case):
    @classmethod
    def home(cls) -> Home:
        """Return a room with a valve and a sensor."""
        return replace(small_home(), devices=(VALVE, SENSOR))

    def bring(self, at_work_k: float, at_rest_k: float) -> None:
        """Import a week of both, with the valve's opening."""
        lines = ["time,valve,sensor,opening"]
        for k in range(7 * 144):
            hour = k % 144 // 6
            heats = 6 <= hour < 10 or 17 <= hour < 22
            room = 20 + float(np.sin(k / 40))
            own = room + (at_work_k if heats else at_rest_k)
            lines.append(f"{START_MS + k * 600_000},{own:.2f},{room:.2f},{45 if heats else 0}")
        upload = logs.keep_log(self.app, "week.csv", ["\n".join(lines).encode()])
        wanted = (
            ("room_temperature", "°C", "valve"),
            ("room_temperature", "°C", "sensor"),
            ("valve_opening", "%", "valve"),
        )
        columns = tuple(
            Column(index=k, heading=lines[0].split(",")[k], quantity=quantity, unit=unit, subject=subject)
            for k, (quantity, unit, subject) in enumerate(wanted, 1)
        )
        mapping = ImportMapping(
            delimiter=",", decimal=".", heading_line=1, time_column=0, date_format="epoch", clock="utc", columns=columns
        )
        logs.take(self.app, "home1", upload, mapping, ANN)

    def page(self, device: str = "valve") -> str:
        return plain_spaces(self.client.get(f"/homes/home1/devices?at={device}").text)

    def test_what_to_type_and_that_one_number_cannot_serve_both(self) -> None:
        self.bring(2.4, 0.3)
        page = self.page()
        told = "Type −2.5 K into its own correction: its own reading lies +2.4 K off that of the room while it heats"
        self.assertTrue(told in page)
        self.assertTrue("At rest it lies +0.3 K off" in page)
        self.assertTrue("one number cannot serve both" in page)
        self.assertFalse('id="own-reading"' in self.page("sensor"))

    def test_the_room_is_what_its_sensor_reads_never_the_valve_beside_it(self) -> None:
        self.bring(2.0, 2.0)
        home, _ = self.app.homes.load("home1")
        ranked = [s.record.subject for s in room_series(self.app, home, "room_temperature", "study")]
        self.assertEqual(ranked, ["sensor", "valve"])

    def test_in_fahrenheit(self) -> None:
        self.bring(2.0, 2.0)
        _, base = self.app.homes.load("home1")
        change = Apply(change=lambda h: replace(h, temperature_unit="F"), summary="In °F")
        editing.edit_home(self.app, "home1", base, ANN, change)
        self.assertTrue("Type −4.0 °F into its own correction: its own reading lies +3.6 °F" in self.page())

    def test_without_logs_it_says_nothing(self) -> None:
        self.assertFalse('id="own-reading"' in self.page())
