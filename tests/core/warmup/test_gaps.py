"""What gaps cost, against a room stepped in plain numbers by a loop of its own, for every demo home."""

import unittest
from dataclasses import dataclass, replace
from datetime import date

import numpy as np

from warmeter.core.building.heating import heat_over_draw
from warmeter.core.building.losses import prior_of
from warmeter.core.forecast.room_model import draws_of
from warmeter.core.home.document import Home
from warmeter.core.home.rooms import Room
from warmeter.core.tariff.prices import prices_between
from warmeter.core.thermal.room_fit import survey_draws
from warmeter.core.thermal.simulate import EMITTER_EXCESS_K, OnOff, compile_rooms
from warmeter.core.thermal.survey import RoomRc
from warmeter.core.timegrid import LocalClock
from warmeter.core.timetable.day import Block, blocks_between
from warmeter.core.units import MS_PER_DAY, MS_PER_MIN
from warmeter.core.warmup.gaps import AFTER_MIN, BAND_K, Gap, GapWeather, gap_figures, gaps_of
from warmeter.core.warmup.prediction import RoomModel
from warmeter.core.warmup.setback import SetbackCase, setback_energy
from warmeter.service.homes.demo import DEMO_HOMES, demo_home

ON = date(2026, 1, 21)
INNER = 6  # Euler steps a minute


@dataclass
class Plain:
    """Air, fabric and heater of a room in plain floats, with a heater in proportion over a band."""

    rc: RoomRc
    full_w: float
    gain_w: float
    outdoor: list[float]

    def settle(self, setpoint: float) -> list[float]:
        """Return the state after a long time: by stepping until nothing moves."""
        state = [setpoint, setpoint - 1.0, setpoint]
        hour = self.outdoor[0]
        for _ in range(400):
            for _ in range(24):
                state, _ = self.minute_steps(state, setpoint, hour, hour, minutes=10, inner=2)
        return state

    def minute_steps(
        self, state: list[float], setpoint: float, now: float, then: float, *, minutes: int = 1, inner: int = INNER
    ) -> tuple[list[float], float]:
        rc, (air, fabric, emitter) = self.rc, state
        coupling = self.full_w / EMITTER_EXCESS_K
        given = 0.0
        for _ in range(minutes):
            heat = self.full_w * min(max(0.5 + (setpoint - air) / BAND_K, 0.0), 1.0)
            given += heat
            dt = 60.0 / inner
            for k in range(inner):
                outside = now + (then - now) * (k + 0.5) / inner
                if rc.emitter_lag_s > 0:
                    to_air = coupling * rc.convective * (emitter - air)
                    to_fabric = coupling * (1 - rc.convective) * (emitter - fabric)
                    emitter += dt * (heat - to_air - to_fabric) / (coupling * rc.emitter_lag_s)
                else:
                    to_air, to_fabric = rc.convective * heat, (1 - rc.convective) * heat
                through = rc.air_fabric_w_k * (air - fabric)
                d_air = rc.air_out_w_k * (outside - air) - through + to_air + self.gain_w / 2
                d_fabric = rc.fabric_out_w_k * (outside - fabric) + through + to_fabric + self.gain_w / 2
                air, fabric = air + dt * d_air / rc.air_j_k, fabric + dt * d_fabric / rc.fabric_j_k
        return [air, fabric, emitter], given / minutes

    def run(self, state: list[float], setpoints: list[float], begin: int = 0) -> tuple[list[list[float]], list[float]]:
        states, heats = [state], []
        for k, setpoint in enumerate(setpoints):
            state, heat = self.minute_steps(state, setpoint, self.outdoor[begin + k], self.outdoor[begin + k + 1])
            states.append(state)
            heats.append(heat)
        return states, heats

    def way(self, gap: Gap, asked: float, start: list[float]) -> tuple[list[float], int]:
        """Return heat by minute over the gap and the day after it, and the lead, found by trying."""
        minutes = gap.minutes
        free, _ = self.run(start, [asked] * minutes)
        lead = 0
        if asked < gap.warm_c:
            target = gap.warm_c - BAND_K / 2
            low, high = max(0, minutes - 720), minutes
            if free[minutes][0] < target:
                while high - low > 1:
                    middle = (low + high) // 2
                    late, _ = self.run(free[middle], [99.0] * (minutes - middle), middle)
                    if max(state[0] for state in late) >= target:
                        low = middle
                    else:
                        high = middle
                lead = minutes - low
        setpoints = [asked] * (minutes - lead) + [gap.warm_c] * (lead + AFTER_MIN)
        _, heats = self.run(start, setpoints)
        return heats, lead


def cases(name: str) -> list[tuple[Home, Room, Gap, GapWeather, Plain, RoomModel]]:
    """Return the gaps of a demo home's first rooms on a cold day, one model and one plain room each."""
    home = demo_home(name)
    clock = LocalClock(home.time_zone)
    day = clock.day(ON)
    found = []
    for room in home.rooms:
        zone, heater = home.zone_of_room(room.id), home.heater_of(room.id)
        if zone is None or heater is None:
            continue
        blocks = blocks_between(home, zone, clock, day.start_ms - 2 * MS_PER_DAY, day.end_ms)
        for gap in gaps_of(blocks, day.start_ms, day.end_ms)[:1]:
            rooms, gains, _, full = draws_of(home, room, None)
            steps = gap.minutes + AFTER_MIN
            minute = np.arange(steps + 1)
            outdoor = 0.0 + 4.0 * np.sin(2 * np.pi * (minute / 1440 - 0.3))
            tariff = home.tariff_on(ON)
            assert tariff is not None
            weather = GapWeather(
                outdoor_c=outdoor,
                offsets_k=np.zeros(1),
                sun_w_m2=np.zeros(steps),
                per_heat=1 / heat_over_draw(heater, home.source(heater.source_id), outdoor[:-1]),
                price=prices_between(tariff, clock, gap.from_ms, gap.from_ms + steps * MS_PER_MIN).by_step,
            )
            model = RoomModel(
                step=compile_rooms(rooms[:1], full, 60.0),
                gain_w=gains[:1],
                sun_m2=np.zeros(1),
                control=OnOff(full_heat_w=full, band_k=0.4, min_on_steps=1, min_off_steps=1),
            )
            plain = Plain(rooms[0], full, float(gains[0]), outdoor.tolist())
            found.append((home, room, gap, weather, plain, model))
    return found


class AgainstAPlainLoop(unittest.TestCase):
    def test_every_demo_home_agrees_within_two_percent_and_on_the_winner(self) -> None:
        judged = 0
        for name in DEMO_HOMES:
            for _, room, gap, weather, plain, model in cases(name)[:3]:
                with self.subTest(home=name, room=room.name):
                    off_c = 10.0
                    found = gap_figures(model, gap, weather, off_c=off_c)
                    start = plain.settle(gap.before_c)
                    costs = []
                    for way in (found.hold, found.setback, found.off):
                        heats, lead = plain.way(gap, way.asked_c, start)
                        electric = np.array(heats) * weather.per_heat / 60_000
                        assert weather.price is not None and way.cost is not None
                        self.assertAlmostEqual(float(way.drawn_kwh[0]) / electric.sum(), 1.0, delta=0.02)
                        self.assertAlmostEqual(float(way.cost[0]) / float(electric @ weather.price), 1.0, delta=0.02)
                        if way.lead is not None:
                            best = 720.0 if way.lead.best is None else way.lead.best
                            self.assertAlmostEqual(best, lead, delta=max(2.0, 0.02 * lead))
                        costs.append(float(electric @ weather.price))
                    mine = float((found.hold.cost - found.setback.cost)[0])  # type: ignore[operator]
                    if abs(costs[0] - costs[1]) > 0.005:
                        self.assertEqual(mine > 0, costs[0] > costs[1], "the same school wins")
                    self.assertAlmostEqual(mine, costs[0] - costs[1], delta=0.02 * costs[0])
                    judged += 1
        self.assertGreaterEqual(judged, 8)


class Gaps(unittest.TestCase):
    def block(self, begin_h: float, end_h: float, setpoint: float) -> Block:
        return Block(
            on=ON,
            index=0,
            key="usual",
            start_min=0,
            end_min=0,
            from_ms=round(begin_h * 3_600_000),
            until_ms=round(end_h * 3_600_000),
            level_id="x",
            level_name=f"{setpoint:g}",
            setpoint_c=setpoint,
            level_c=setpoint,
            is_own=False,
        )

    def test_a_gap_lies_from_a_fall_to_the_next_rise(self) -> None:
        blocks = [
            self.block(0, 6, 17),
            self.block(6, 8, 20),
            self.block(8, 10, 18),
            self.block(10, 16, 16),
            self.block(16, 22, 21),
            self.block(22, 30, 17),
        ]
        (gap,) = gaps_of(blocks, 0, 24 * 3_600_000)
        self.assertEqual((gap.from_ms, gap.until_ms), (8 * 3_600_000, 16 * 3_600_000))
        self.assertEqual((gap.before_c, gap.low_c, gap.warm_c, gap.held_c), (20, 16, 21, 20))
        self.assertEqual(gaps_of(blocks[:1], 0, 10**9), [])

    def single(self, period_h: float) -> tuple[RoomModel, GapWeather, Gap, SetbackCase]:
        """Return a room that is as good as one store, and the closed form's case for it."""
        rc = RoomRc(air_out_w_k=50.0, air_fabric_w_k=20_000.0, fabric_out_w_k=1e-6, air_j_k=2e6, fabric_j_k=2e6)
        steps = round(period_h * 60) + AFTER_MIN
        model = RoomModel(
            step=compile_rooms([rc], 3000.0, 60.0),
            gain_w=np.zeros(1),
            sun_m2=np.zeros(1),
            control=OnOff(full_heat_w=3000.0, band_k=0.4, min_on_steps=1, min_off_steps=1),
        )
        weather = GapWeather(
            outdoor_c=np.zeros(steps + 1),
            offsets_k=np.zeros(1),
            sun_w_m2=np.zeros(steps),
            per_heat=np.ones(steps),
            price=None,
        )
        gap = Gap(
            from_ms=0, until_ms=round(period_h * 3_600_000), warm_c=20.0, before_c=20.0, low_c=16.0, level_name="low"
        )
        case = SetbackCase(
            loss_w_k=50.0,
            capacity_j_k=4e6,
            full_heat_w=3000.0,
            setpoint_c=20.0,
            setback_c=16.0,
            outdoor_c=0.0,
            period_s=period_h * 3600,
        )
        return model, weather, gap, case

    def test_a_room_of_one_store_is_the_closed_form(self) -> None:
        for hours in (8.0, 5.0):
            model, weather, gap, case = self.single(hours)
            found = gap_figures(model, gap, weather, off_c=10.0)
            energy = setback_energy(case)
            saved = float(found.hold.heat_kwh[0] - found.setback.heat_kwh[0])
            self.assertAlmostEqual(saved, energy.saving_kwh, delta=0.04 * energy.saving_kwh + 0.02)
            assert found.setback.lead is not None and found.setback.lead.best is not None
            # The room counts as ready half a band, 0.25 K, under the setpoint.
            self.assertAlmostEqual(found.setback.lead.best, energy.reheat_s / 60, delta=15)
            self.assertAlmostEqual(found.setback.lowest_c, energy.lowest_c, delta=0.3)
            self.assertEqual(found.pays_from_min, 30, "at one price and efficiency every setback pays")

    def test_a_setback_that_warms_up_in_dear_hours_pays_later_or_never(self) -> None:
        model, weather, gap, _ = self.single(8.0)
        dear = np.full(weather.minutes, 0.10)
        dear[gap.minutes - 180 : gap.minutes] = 2.0
        dear[gap.minutes - 180 + 1440 : gap.minutes + 1440] = 2.0
        found = gap_figures(model, gap, replace(weather, price=dear), off_c=10.0)
        assert found.hold.cost is not None and found.setback.cost is not None
        self.assertLess(found.hold.cost[0], found.setback.cost[0])
        self.assertTrue(found.pays_from_min is None or found.pays_from_min > 480)

    def test_off_falls_no_lower_than_the_guard(self) -> None:
        model, weather, gap, _ = self.single(40.0)
        found = gap_figures(model, gap, weather, off_c=12.0)
        self.assertGreater(found.off.lowest_c, 11.7)
        self.assertLess(found.off.drawn_kwh[0], found.setback.drawn_kwh[0])

    def test_the_survey_s_draws_make_the_range(self) -> None:
        home = demo_home("weir-cottage")
        room = home.rooms[0]
        rooms, gains, suns = survey_draws(prior_of(home, room))
        _, weather, gap, _ = self.single(8.0)
        model = RoomModel(
            step=compile_rooms(rooms, 2500.0, 60.0),
            gain_w=gains,
            sun_m2=suns,
            control=OnOff(full_heat_w=2500.0, band_k=0.4, min_on_steps=1, min_off_steps=1),
        )
        found = gap_figures(model, gap, replace(weather, offsets_k=np.zeros(gains.size)), off_c=10.0)
        saved = found.saved_kwh(found.setback)
        self.assertLess(saved.low, saved.value)
        self.assertGreater(saved.high, saved.value)
        self.assertIsNone(found.saved_cost(found.setback))
