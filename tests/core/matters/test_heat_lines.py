"""Lines on the heat of rooms, each against numbers by hand; planted changes move them as they must."""

import unittest
from dataclasses import replace

import numpy as np

from tests.core.matters.rooms import evidence_of, heated_room, known, steady_year
from tests.core.matters.test_heat_year import stepped_year_kwh
from tests.homes import small_home
from warmeter.core.home.devices import Calibration, Device
from warmeter.core.home.document import Home
from warmeter.core.home.zones import CountedSensor, Sensing
from warmeter.core.matters.all_lines import home_matters
from warmeter.core.matters.evidence import HeatedRoom, IdleHours
from warmeter.core.matters.line import MatterLine
from warmeter.core.matters.ranking import Matters
from warmeter.core.thermal.room_fit import Estimate

HOLD_MONEY = 100.0 * 16.0 * 8 * 365 / 1000 * 0.30  # 100 W/K, 16 K over outdoors, eight hours of each night


def with_sensor(checked: bool = False) -> Home:
    """Return the small home with an air sensor that decides for its zone."""
    lines = (Calibration(offset=0.2),) if checked else ()
    sensor = Device(id="s1", name="Study sensor", kind="air_sensor", room_id="study", calibrations=lines)
    zone = small_home().zones[0]
    sensing = Sensing(rule="mean", sensors=(CountedSensor(device_id="s1"),))
    return replace(small_home(), devices=(sensor,), zones=(replace(zone, sensing=(sensing,)),))


class HeatLines(unittest.TestCase):
    def matters(self, *rooms: HeatedRoom, home: Home | None = None, **parts: object) -> Matters:
        return home_matters(evidence_of(home or small_home(), climate=steady_year(4.0), rooms=rooms, **parts))

    def line(self, key: str, found: Matters) -> MatterLine:
        return next(line for line in found.lines if line.key == key)

    def test_a_zone_that_is_never_set_back_by_hand(self) -> None:
        found = self.matters(heated_room(gaps=()))
        line = self.line("set-back:z-study", found)
        assert line.money is not None
        by_hand = HOLD_MONEY - 0.30 * stepped_year_kwh(17.0, 4.0)
        self.assertAlmostEqual(line.money.value, by_hand, delta=0.03 * HOLD_MONEY)

    def test_hours_with_nobody_there_by_hand(self) -> None:
        idle = IdleHours(zone_id="z-study", count=28, weeks=4.0, minutes=480.0, held_c=20.0, low_c=17.0)
        line = self.line("idle:z-study", self.matters(heated_room(), idle=(idle,)))
        assert line.money is not None
        by_hand = HOLD_MONEY - 0.30 * stepped_year_kwh(17.0, 4.0)
        self.assertAlmostEqual(line.money.value, by_hand, delta=0.03 * HOLD_MONEY)
        self.assertIn("56 h a week", line.sentence)

    def test_a_room_over_what_its_zone_asks_by_hand(self) -> None:
        home = small_home()
        warm = heated_room(excess_k=Estimate(value=1.5, low=1.2, high=1.8))
        beside = heated_room(room_id="den", loss_w_k=known(0.01))
        line = self.line("second-zone:study", self.matters(warm, beside, home=home))
        assert line.money is not None
        # 1.5 K · 100 W/K · 8760 h = 1314 kWh at 0.30.
        self.assertAlmostEqual(line.money.value, 394.2, places=6)
        measured = next(d for d in line.money.doubts if d.cause == "excess:study")
        self.assertAlmostEqual(measured.up, 0.3 * 262.8, places=6)

    def test_a_checked_sensor_takes_its_doubt_away(self) -> None:
        unchecked = self.matters(heated_room(), home=with_sensor())
        line = self.line("sensors", unchecked)
        assert line.money is not None
        self.assertAlmostEqual(line.money.high, 0.5 * 262.8, places=6)
        offer = next(m for m in unchecked.measures if m.offer.key == "check-sensors")
        self.assertIn("sensors", offer.feeds)
        checked = self.matters(heated_room(), home=with_sensor(checked=True))
        self.assertNotIn("sensors", [each.key for each in checked.lines])
        self.assertLess(checked.total.width, unchecked.total.width)

    def test_a_known_loss_narrows_and_an_unknown_one_is_offered_to_be_logged(self) -> None:
        vague = heated_room(gaps=(), is_fitted=False, loss_w_k=Estimate(value=100.0, low=50.0, high=180.0))
        found, sure = self.matters(vague), self.matters(heated_room(gaps=()))
        self.assertGreater(found.total.width, sure.total.width)
        self.assertIn("log:study", [each.offer.key for each in found.measures])

    def test_two_lines_on_one_room_err_together(self) -> None:
        room = heated_room(
            gaps=(),
            loss_w_k=Estimate(value=100.0, low=80.0, high=120.0),
            excess_k=Estimate(value=1.5, low=1.5, high=1.5),
        )
        beside = heated_room(room_id="den", loss_w_k=known(0.01), gaps=())
        found = self.matters(room, beside)
        money = [line.money for line in found.lines if line.money]
        by_squares = sum((m.high - m.value) ** 2 for m in money) ** 0.5
        self.assertGreater(found.total.high - found.total.value, by_squares + 1)

    def test_a_dearer_price_scales_every_line(self) -> None:
        cheap, dear = (self.matters(heated_room(gaps=(), price=p, night_price=p, morning_price=p)) for p in (0.3, 0.6))
        self.assertAlmostEqual(dear.total.value, 2 * cheap.total.value, places=6)
        self.assertAlmostEqual(dear.total.width, 2 * cheap.total.width, places=6)

    def test_without_weather_or_price_there_is_no_money(self) -> None:
        found = home_matters(evidence_of(small_home(), rooms=(heated_room(),)))
        self.assertEqual([line.key for line in found.lines if line.money], [])
        self.assertTrue(np.isfinite(found.total.width))
