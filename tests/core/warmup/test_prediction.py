"""A day predicted under its timetable."""

import unittest
from dataclasses import replace
from datetime import date

import numpy as np

from tests.homes import small_home
from warmeter.core.building.losses import prior_of
from warmeter.core.home.document import Home
from warmeter.core.thermal.room_fit import survey_draws
from warmeter.core.thermal.simulate import OnOff, compile_rooms
from warmeter.core.timegrid import LocalClock
from warmeter.core.timetable.day import blocks_of
from warmeter.core.warmup.prediction import (
    HeatingStretch,
    RoomModel,
    day_with_leads,
    held_setpoint_c,
    predict_day,
    settled_heat_w,
)

LONDON = LocalClock("Europe/London")


def model_of(home: Home) -> tuple[RoomModel, int]:
    """Return the home's room by its survey, and how many draws it has."""
    room, heater = home.rooms[0], home.heaters[0]
    rooms, gains, suns = survey_draws(prior_of(home, room))
    control = OnOff(full_heat_w=heater.rated_heat_w, band_k=0.4, min_on_steps=2, min_off_steps=2)
    return RoomModel(
        step=compile_rooms(rooms, heater.rated_heat_w, 60.0), gain_w=gains, sun_m2=suns, control=control
    ), len(rooms)


class Prediction(unittest.TestCase):
    def setUp(self) -> None:
        self.home = small_home()
        self.model, draws = model_of(self.home)
        self.day = LONDON.day(date(2026, 1, 5))
        self.stretch = HeatingStretch(
            start_ms=self.day.start_ms,
            outdoor_c=np.full(1441, 3.0),
            offsets_k=np.zeros(draws),
            certain=0,
            clear_sky_w_m2=np.zeros(1440),
            start_c=np.full((draws, 3), 18.0),
        )
        self.blocks = blocks_of(self.home, self.home.zones[0], self.day, LONDON)

    def test_room_is_at_its_setpoint_when_the_block_begins(self) -> None:
        day = predict_day(self.home, self.home.zones[0], self.model, self.stretch, self.blocks)
        self.assertEqual(len(day.leads), 1)
        self.assertGreater(day.leads[0].lead.best or 0, 5)
        self.assertGreaterEqual(float(day.run.air_c[0, 420]), 20.0 - 1e-6)

    def test_without_warm_up_the_room_is_short_of_its_setpoint_for_longer(self) -> None:
        early = predict_day(self.home, self.home.zones[0], self.model, self.stretch, self.blocks)
        late = predict_day(self.home, self.home.zones[0], self.model, self.stretch, self.blocks, with_leads=False)
        self.assertLess(early.underheating_kh(0, 1440)[0], 0.6 * late.underheating_kh(0, 1440)[0])
        self.assertGreater(early.heat_kwh(0, 1440)[0], late.heat_kwh(0, 1440)[0])

    def test_a_typed_lead_is_carried_out(self) -> None:
        day = day_with_leads(
            self.home, self.home.zones[0], self.model, self.stretch, self.blocks, {self.blocks[1].from_ms: 30}
        )
        self.assertEqual(np.flatnonzero(day.setpoint_c == 20.0)[0], 390)

    def test_the_range_holds_the_best(self) -> None:
        lead = predict_day(self.home, self.home.zones[0], self.model, self.stretch, self.blocks).leads[0].lead
        self.assertLessEqual(lead.low or 0, lead.best or 0)
        self.assertTrue(lead.high is None or lead.high >= (lead.best or 0))

    def test_holding_never_needs_less_heat(self) -> None:
        asked = predict_day(self.home, self.home.zones[0], self.model, self.stretch, self.blocks).setpoint_c
        written = settled_heat_w(self.model, self.stretch, asked).sum(axis=1) / 60_000
        held = (
            settled_heat_w(self.model, self.stretch, held_setpoint_c(self.home.guard, self.blocks, 1440)).sum(axis=1)
            / 60_000
        )
        self.assertTrue((held >= written - 0.05).all())

    def test_a_hopeless_heater_is_too_late(self) -> None:
        weak = replace(self.model, control=replace(self.model.control, full_heat_w=100.0))
        self.assertIsNone(
            predict_day(self.home, self.home.zones[0], weak, self.stretch, self.blocks).leads[0].lead.best
        )


if __name__ == "__main__":
    unittest.main()
