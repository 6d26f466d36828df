"""What a zone's counted sensors say now, from logs of sensors and of rooms."""

import unittest
from dataclasses import replace

from tests.homes import small_home
from tests.logs import room_csv
from tests.served import fresh_app
from warmeter.core.home.devices import Device
from warmeter.core.home.zones import CountedSensor, Sensing
from warmeter.service.app import Person
from warmeter.service.homes import editing
from warmeter.service.readings import logs
from warmeter.service.zones.counted_sensors import counted_now

ANN = Person("Ann")


class Counted(unittest.TestCase):
    def setUp(self) -> None:
        self.app = fresh_app()
        sensors = tuple(Device(id=f"s{k}", name=f"Sensor {k}", kind="air_sensor", room_id="study") for k in (1, 2))
        editing.create_home(self.app, replace(small_home(), devices=sensors), ANN)
        home, _ = self.app.homes.load("home1")
        upload = logs.keep_upload(self.app, "x.csv", [room_csv(2).encode()])
        logs.take(self.app, "home1", upload, logs.proposal(self.app, home, upload).suggested, ANN)
        self.home = self.app.homes.load("home1")[0]
        self.last = float(room_csv(2).splitlines()[-1].split(",")[1])

    def sensing(self, *ids: str, rule: str = "mean") -> Sensing:
        return Sensing(rule=rule, sensors=tuple(CountedSensor(device_id=i) for i in ids))  # type: ignore[arg-type]

    def test_a_log_of_the_room_stands_for_one_of_its_sensors(self) -> None:
        value, used = counted_now(self.app, self.home, self.sensing("s1"))
        self.assertEqual(used, 1)
        self.assertAlmostEqual(value or 0.0, self.last, places=6)
        self.assertEqual(counted_now(self.app, self.home, self.sensing("s1", "s2"))[1], 1)

    def test_what_is_gone_or_was_not_heard_counts_nothing(self) -> None:
        self.assertEqual(counted_now(self.app, self.home, self.sensing("gone")), (None, 0))
        self.app.homes.set_as_of("home1", self.app.as_of_ms("home1") + 3 * 3_600_000)
        self.assertEqual(counted_now(self.app, self.home, self.sensing("s1")), (None, 0))


if __name__ == "__main__":
    unittest.main()
