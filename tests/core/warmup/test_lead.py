"""Lead times in tables and draws, recovery, setbacks and costs: limits, monotony, closed forms."""

import unittest
from dataclasses import replace

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st

from warmeter.core.errors import OutOfRange
from warmeter.core.thermal.simulate import OnOff, compile_rooms
from warmeter.core.thermal.single_rc import SingleRc
from warmeter.core.thermal.survey import RoomRc
from warmeter.core.warmup.lead import Lead, lead_from_floor, lead_of_draws, lead_table_s, measure_first, recovery_limit
from warmeter.core.warmup.setback import SetbackCase, SetbackPrices, setback_cost, setback_energy

ROOM = SingleRc(resistance_k_w=0.02, capacity_j_k=6e6)
CASE = SetbackCase(
    loss_w_k=50, capacity_j_k=5e6, full_heat_w=3000, setpoint_c=20, setback_c=16, outdoor_c=0, period_s=28_800
)


class Tables(unittest.TestCase):
    def test_colder_outdoors_and_colder_rooms_take_longer(self) -> None:
        by_outdoor = lead_table_s(ROOM, power_w=2000, target_c=20, start_c=16, outdoor_c=[10, 5, 0, -5])
        self.assertEqual(by_outdoor, sorted(by_outdoor, key=lambda x: x or 0))
        by_start = [
            lead_table_s(ROOM, power_w=2000, target_c=20, start_c=s, outdoor_c=[0])[0] for s in (19, 18, 16, 12)
        ]
        self.assertEqual(by_start, sorted(by_start, key=lambda x: x or 0))

    def test_out_of_reach_warm_already_and_capped(self) -> None:
        leads = lead_table_s(ROOM, power_w=900, target_c=20, start_c=21, outdoor_c=[0, 5])
        self.assertEqual(leads, [None, 0.0])
        capped = lead_table_s(ROOM, power_w=1100, target_c=20, start_c=10, outdoor_c=[0], max_lead_s=3600)
        self.assertEqual(capped, [3600])

    def test_a_room_that_starts_at_its_recovery_limit_takes_just_that_long(self) -> None:
        limit = recovery_limit(ROOM, power_w=2000, target_c=20, outdoor_c=-3, max_lead_s=7200)
        lead = lead_table_s(ROOM, power_w=2000, target_c=20, start_c=limit.lowest_start_c, outdoor_c=[-3])[0]
        self.assertAlmostEqual(lead or 0, 7200, places=6)
        self.assertAlmostEqual(limit.max_drop_k, 20 - limit.lowest_start_c)
        self.assertAlmostEqual(ROOM.steady_c(power_w=2000, outdoor_c=limit.outdoor_limit_c), 20)


class Draws(unittest.TestCase):
    def test_the_first_draw_is_the_best_and_the_range_holds_most(self) -> None:
        lead = lead_of_draws(np.array([60.0, *np.arange(40, 72)]))
        self.assertEqual((lead.best, lead.low, lead.high, lead.late_share), (60.0, 41.0, 71.0, 0.0))
        self.assertEqual(lead.cautious, 65.0)

    def test_late_draws_count_as_longer_than_any(self) -> None:
        lead = lead_of_draws(np.array([60.0, *np.full(7, 50.0), np.nan, np.nan]))
        self.assertEqual((lead.best, lead.high, lead.late_share), (60.0, None, 0.2))
        self.assertIsNone(lead_of_draws(np.array([np.nan, 50.0])).best)

    def test_a_single_draw_is_its_own_range(self) -> None:
        lead = lead_of_draws(np.array([33.0]))
        self.assertEqual((lead.low, lead.best, lead.high, lead.cautious), (33.0, 33.0, 33.0, 33.0))


class FromASetback(unittest.TestCase):
    room = RoomRc(
        air_out_w_k=20,
        air_fabric_w_k=160,
        fabric_out_w_k=25,
        air_j_k=4e5,
        fabric_j_k=4e6,
        emitter_lag_s=300,
        convective=0.7,
    )
    control = OnOff(full_heat_w=2500, band_k=0.1, min_on_steps=1, min_off_steps=1)

    def lead(self, room: RoomRc, floor_c: float = 16.0, outdoor_c: float = 0.0, hours: float = 8.0) -> float:
        found = lead_from_floor(
            compile_rooms([room], 2500, 60.0),
            self.control,
            floor_c=floor_c,
            target_c=20.0,
            outdoor_c=outdoor_c,
            gain_w=np.array([50.0]),
            hours_of_fall=hours,
        )
        return -1.0 if found.best is None else found.best

    def test_deeper_and_longer_setbacks_and_colder_nights_take_longer(self) -> None:
        for leads in (
            [self.lead(self.room, floor_c=c) for c in (19.0, 18.0, 17.0)],
            [self.lead(self.room, hours=h) for h in (1, 3, 8)],
            [self.lead(self.room, outdoor_c=o) for o in (8.0, 0.0, -8.0)],
        ):
            self.assertEqual(leads, sorted(leads))
            self.assertLess(leads[0], leads[-1])

    def test_a_later_heater_takes_longer_by_about_its_lag(self) -> None:
        prompt, late = (
            self.lead(replace(self.room, emitter_lag_s=0.0)),
            self.lead(replace(self.room, emitter_lag_s=1200.0)),
        )
        self.assertTrue(8 <= late - prompt <= 30, (prompt, late))

    def test_a_room_like_one_store_agrees_with_the_closed_form(self) -> None:
        # Air and fabric all but joined: one store of their sum, its loss through the air alone.
        joined = RoomRc(
            air_out_w_k=50.0, air_fabric_w_k=50_000.0, fabric_out_w_k=1e-6, air_j_k=1e5, fabric_j_k=4e6, convective=1.0
        )
        found = self.lead(joined, floor_c=5.0, outdoor_c=0.0, hours=4.0)
        rc = SingleRc(resistance_k_w=1 / 50.0, capacity_j_k=4.1e6)
        start = rc.temperature_c(start_c=20.0, power_w=50.0, outdoor_c=0.0, after_s=(4 * 60 - found) * 60)
        closed = rc.time_to_s(start_c=start, target_c=20.0, power_w=2550.0, outdoor_c=0.0)
        self.assertAlmostEqual(found, (closed or 0) / 60, delta=4.0)


class Setbacks(unittest.TestCase):
    @settings(deadline=None, derandomize=True, max_examples=60)
    @given(st.floats(20, 120), st.floats(1e6, 5e7), st.floats(-10, 12), st.floats(1, 14), st.floats(1, 6))
    def test_heat_is_never_lost_by_setting_back_and_never_saves_more_than_the_bound(
        self, loss: float, store: float, outdoor: float, hours: float, drop: float
    ) -> None:
        case = SetbackCase(
            loss_w_k=loss,
            capacity_j_k=store,
            full_heat_w=loss * 45,
            setpoint_c=20,
            setback_c=20 - drop,
            outdoor_c=outdoor,
            period_s=hours * 3600,
        )
        found = setback_energy(case)
        self.assertGreaterEqual(found.saving_kwh, -1e-9)
        self.assertLessEqual(found.saving_kwh, found.naive_bound_kwh + 1e-9)
        self.assertTrue(20 - drop - 1e-9 <= found.lowest_c <= 20 + 1e-9)
        self.assertAlmostEqual(found.cool_s + found.hold_s + found.reheat_s, case.period_s, places=4)

    def test_heavier_rooms_save_less(self) -> None:
        savings = [setback_energy(replace(CASE, capacity_j_k=c)).saving_kwh for c in (1e6, 5e6, 2e7, 1e8)]
        self.assertEqual(savings, sorted(savings, reverse=True))

    def test_a_setback_below_outdoors_is_never_reached(self) -> None:
        self.assertGreater(setback_energy(replace(CASE, setback_c=-5.0)).lowest_c, 0.0)

    def test_equal_prices_and_cop_make_cost_follow_energy(self) -> None:
        cost = setback_cost(CASE, SetbackPrices(cop_hold=3, cop_reheat=3, price_base=0.3, price_reheat=0.3))
        energy = setback_energy(CASE)
        self.assertAlmostEqual(cost.hold - cost.setback, energy.saving_kwh * 0.1)
        self.assertTrue(cost.setback_pays)

    def test_dear_mornings_turn_the_answer_and_the_break_even_is_exact(self) -> None:
        prices = SetbackPrices(cop_hold=3.5, cop_reheat=2.0, price_base=0.1, price_reheat=0.4)
        cost = setback_cost(CASE, prices)
        self.assertFalse(cost.setback_pays)
        even = setback_cost(CASE, replace(prices, cop_reheat=cost.breakeven_cop_reheat or 0))
        self.assertAlmostEqual(even.hold, even.setback)

    def test_no_excess_no_case(self) -> None:
        for change in ({"outdoor_c": 20.0}, {"outdoor_c": 25.0}, {"full_heat_w": 900.0}):
            with self.assertRaises(OutOfRange):
                replace(CASE, **change)


class MeasureFirst(unittest.TestCase):
    def test_a_range_longer_than_its_gap_or_that_reaches_too_late_holds_no_setting(self) -> None:
        known = Lead(best=60.0, low=40.0, high=95.0, cautious=70.0, late_share=0.0)
        for lead, gap_min, expected in (
            (known, 480.0, False),
            (known, 50.0, True),
            (replace(known, low=19.0, high=None), 720.0, True),
            (replace(known, best=None, high=None), 720.0, False),
        ):
            with self.subTest(lead=lead, gap=gap_min):
                self.assertEqual(measure_first(lead, gap_min), expected)
