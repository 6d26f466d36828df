"""A day of rooms that share walls: what a cold neighbour takes is in the day, the gaps and the season."""

import unittest
from dataclasses import replace
from datetime import date

from tests.drawn import drawn_home
from tests.served import fresh_app
from warmeter.core.building.room_envelope import shared_w_k
from warmeter.core.forecast.day_forecast import DayForecast
from warmeter.core.home.document import Home
from warmeter.core.home.timetables import ChangePoint, every_day
from warmeter.core.home.zones import Level
from warmeter.service.app import Person
from warmeter.service.forecast.day_forecasts import day_forecast
from warmeter.service.forecast.gaps import day_gaps
from warmeter.service.forecast.outdoor_forecast import TypedWeather
from warmeter.service.homes import editing
from warmeter.service.timetable import comparisons

ON, COLD = date(2026, 1, 13), TypedWeather(-2.0, 4.0)


def with_study_at(celsius: float) -> Home:
    """Return the drawn home with the den in use at 20 °C but idle at night, and the study held at a temperature."""
    home = drawn_home()
    levels = (
        *home.levels,
        Level(id="idle", name="Idle", heating_c=15.0, is_saving=True),
        Level(id="own", name="Own", heating_c=celsius),
    )
    day = every_day("d", ChangePoint(start_min=420, level_id="in-use"), ChangePoint(start_min=1320, level_id="idle"))
    study = every_day("s", ChangePoint(start_min=0, level_id="own"))
    zones = tuple(replace(z, timetables=day if z.id == "z-den" else study) for z in home.zones)
    return replace(home, levels=levels, zones=zones)


class Together(unittest.TestCase):
    def setUp(self) -> None:
        self.app = fresh_app()
        editing.create_home(self.app, with_study_at(18.0), Person("Ann"))

    def forecast(self, home: Home) -> DayForecast:
        return day_forecast(self.app, home, 1, ON, COLD)

    def den_kwh(self, home: Home) -> float:
        return next(r for r in self.forecast(home).rooms if r.room.id == "den").costed.heat_kwh.value

    def test_the_den_gives_its_cold_neighbour_what_the_wall_carries(self) -> None:
        warm, cold = self.den_kwh(with_study_at(20.0)), self.den_kwh(with_study_at(12.0))
        home = with_study_at(18.0)
        wall = shared_w_k(home, home.room("den"))["study"]
        # Steady: of the heat that the wall carries the den's own losses take the part that its fabric, now cooler, saves.
        self.assertGreater(cold - warm, 0.3 * wall * 8 * 24 / 1000)
        self.assertLess(cold - warm, 1.1 * wall * 8 * 24 / 1000)

    def test_a_change_next_door_is_seen_and_one_that_changes_nothing_keeps_the_day(self) -> None:
        before = self.forecast(with_study_at(18.0)).rooms[0]
        again = self.forecast(with_study_at(18.0)).rooms[0]
        self.assertIs(before.predicted_c, again.predicted_c)
        after = self.forecast(with_study_at(14.0)).rooms[0]
        self.assertIsNot(before.predicted_c, after.predicted_c)
        assert before.stretch.beside_c is not None and after.stretch.beside_c is not None
        self.assertGreater(float(before.stretch.beside_c.mean() - after.stretch.beside_c.mean()), 2.0)

    def test_a_gap_held_beside_a_cold_room_takes_more(self) -> None:
        held = {}
        for celsius in (20.0, 12.0):
            _, rooms = day_gaps(self.app, with_study_at(celsius), 1, ON, COLD)
            den = next(r for r in rooms if r.room.id == "den")
            held[celsius] = float(den.gaps[0].hold.heat_kwh[0])
        self.assertGreater(held[12.0], held[20.0] + 0.5)

    def test_a_season_beside_a_room_that_is_never_heated_leaves_the_den_shorter(self) -> None:
        asked = comparisons.ComparisonRequest(variants=("now", "hold"), first=date(2026, 1, 12), last=date(2026, 1, 18))
        weak = {}
        for celsius in (20.0, 10.0):
            home = with_study_at(celsius)
            # The den's radiator can only just hold it: what the wall takes is missing.
            heaters = tuple(replace(h, rated_heat_w=700.0 if h.room_id == "den" else 5000.0) for h in home.heaters)
            found = comparisons.compare(self.app, replace(home, heaters=heaters), 1, asked, lambda *_: None)
            weak[celsius] = found.found[1].underheating_kh
        self.assertGreater(weak[10.0], weak[20.0] + 10.0)


if __name__ == "__main__":
    unittest.main()
