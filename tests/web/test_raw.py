"""A sensor whose log has counts: its chain typed on the register, its column read in, its room told in degrees."""

from dataclasses import replace

import numpy as np

from tests.core.electric.test_raw_chain import counts
from tests.web.test_pages import ANN
from tests.web.test_water_circuits import Pages
from warmeter.core.timegrid import from_ms
from warmeter.service.readings import logs
from warmeter.service.readings.room_logs import instants, room_series

START_MS = 1_767_657_600_000


class Raw(Pages):
    def test_counts_become_degrees_of_the_room(self) -> None:
        self.post("devices/add", kind="air_sensor", room_id="study")
        key = self.app.homes.load("home1")[0].devices[0].id
        page = self.post("devices/raw", id=key)
        self.assertTrue("a count is K" in page)
        page = self.post("devices/raw", id=key, fixed_side="ground", checked_raw=f"{counts(8.0):.1f}", checked_c="8")
        self.assertTrue("stands on the other side" in page)
        page = self.post("devices/raw", id=key, fixed_side="supply", thermistor_points="")
        self.assertFalse("stands on the other side" in page)
        refused = self.post("devices/raw", 422, id=key, thermistor_points="0 cold")
        self.assertTrue("is no point" in refused)

        warm = [19.0, 19.5, 20.0, 20.5]
        lines = ["time,study raw"]
        lines += [f"{from_ms(START_MS + k * 600_000):%Y-%m-%d %H:%M},{counts(c):.2f}" for k, c in enumerate(warm)]
        home, _ = self.app.homes.load("home1")
        upload = logs.keep_upload(self.app, "raw.csv", ["\n".join(lines).encode()])
        plan = logs.proposal(self.app, home, upload).suggested
        column = replace(
            plan.columns[0], quantity="raw_reading", unit="1", kind="instant", stamp="instant", subject=key
        )
        logs.take(self.app, "home1", upload, replace(plan, columns=(column,)), ANN)
        home, _ = self.app.homes.load("home1")
        series = room_series(self.app, home, "room_temperature", "study")
        at = np.array([START_MS + k * 600_000 for k in range(4)], dtype=np.int64)
        np.testing.assert_allclose(instants(self.app, home, series, at), warm, atol=0.01)
