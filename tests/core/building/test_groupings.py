"""One zone or several, against a plain loop over the same week written another way."""

import unittest
from dataclasses import replace
from decimal import Decimal

import numpy as np

from tests.drawn import drawn_home
from warmeter.core.building.compiled import CompiledHome, compile_home
from warmeter.core.building.groupings import RUN_IN_DAYS, Week, ZoneGroup, judged, run_rooms, tried
from warmeter.core.building.heating import heat_over_draw
from warmeter.core.building.losses import surveyed_room
from warmeter.core.building.room_envelope import envelope_of
from warmeter.core.errors import HomeError
from warmeter.core.home.document import Home
from warmeter.core.home.plant import Source, SplitUnit
from warmeter.core.home.presets import CONVECTIVE, LAG_S
from warmeter.core.sensing.calibration import CountRule

DAYS = RUN_IN_DAYS + 7
N = DAYS * 1440
MINUTE = np.arange(N)


def week_of(rooms: int, *, wants: tuple[float, ...]) -> Week:
    """Return a week of cold nights with a setback from 22 to 6 o'clock."""
    outdoor = 2.0 + 4.0 * np.sin(2 * np.pi * (MINUTE / 1440 - 0.4))
    night = (MINUTE % 1440 < 360) | (MINUTE % 1440 >= 1320)
    needs = np.array([np.where(night, want - 4.0, want) for want in wants])
    price = np.where(night, 0.12, 0.30)
    return Week(outdoor_c=outdoor, gain_w=np.full((rooms, N), 60.0), needs_c=needs, price=price)


def plain_loop(
    home: Home, week: Week, groups: list[list[int]], leaders: list[int], inner: int = 12
) -> dict[str, float]:
    """Return heat, cost and K·h short of a week by Euler steps of five seconds, room by room, in plain floats."""
    rooms = [r for r in home.rooms if r.condition == "heated"]
    rc = [surveyed_room(home, r) for r in rooms]
    heaters = [home.heater_of(r.id) for r in rooms]
    full = compile_home(home).full_w.tolist()
    between = [[0.0] * len(rooms) for _ in rooms]
    for i, r in enumerate(rooms):
        for part in envelope_of(home, r).parts:
            for j, other in enumerate(rooms):
                if part.beyond_id == other.id and part.element.to == "adjacent":
                    between[i][j] = part.element.area_m2 * part.element.u_w_m2k
    air, fabric, out = [17.0] * len(rooms), [16.0] * len(rooms), [0.0] * len(rooms)
    zone = {room: z for z, group in enumerate(groups) for room in group}
    asks = [np.max(week.needs_c[group], axis=0) for group in groups]
    total = cost = short = 0.0
    dt = 60.0 / inner
    for k in range(N):
        fire = []
        for i, heater in enumerate(heaters):
            assert heater is not None
            sensed, band = air[leaders[zone[i]]], max(0.2, heater.band_k)
            fire.append(full[i] * min(1.0, max(0.0, (asks[zone[i]][k] + band / 2 - sensed) / band)))
        if k >= RUN_IN_DAYS * 1440:
            total += sum(fire) / 60_000
            cost += sum(fire) / 60_000 / home.sources[0].efficiency * 0.08
            short += sum(max(0.0, float(week.needs_c[i, k]) - air[i]) for i in range(len(rooms))) / 60
        for _ in range(inner):
            new = []
            for i, heater in enumerate(heaters):
                assert heater is not None
                share, lag = CONVECTIVE[heater.kind], LAG_S[heater.kind]
                into_air = share * out[i] + float(week.gain_w[i, k]) + rc[i].air_out_w_k * (week.outdoor_c[k] - air[i])
                into_air += rc[i].air_fabric_w_k * (fabric[i] - air[i])
                into_fabric = (1 - share) * out[i] + rc[i].air_fabric_w_k * (air[i] - fabric[i])
                into_fabric += rc[i].fabric_out_w_k * (week.outdoor_c[k] - fabric[i])
                into_fabric += sum(between[i][j] * (fabric[j] - fabric[i]) for j in range(len(rooms)))
                new.append(
                    (
                        air[i] + dt * into_air / rc[i].air_j_k,
                        fabric[i] + dt * into_fabric / rc[i].fabric_j_k,
                        out[i] + dt * (fire[i] - out[i]) / lag,
                    )
                )
            air, fabric, out = ([row[n] for row in new] for n in range(3))
    return {"heat": total, "cost": cost, "short": short}


class AgainstAPlainLoop(unittest.TestCase):
    def test_both_ways_agree_within_a_hundredth(self) -> None:
        home = drawn_home()
        # A cubic metre of gas with 11 kWh at 0.88; what electricity costs does not matter.
        home = replace(home, sources=(replace(home.sources[0], fuel_kwh=11.0, fuel_price=Decimal("0.88")),))
        week = week_of(2, wants=(20.0, 18.0))
        compiled = compile_home(home)
        apart = tuple(ZoneGroup(name=str(r), rooms=(r,), setpoint_c=week.needs_c[r], weights=(1.0,)) for r in range(2))
        one = (
            ZoneGroup(name="all", rooms=(0, 1), setpoint_c=week.needs_c.max(axis=0), weights=(1.0, 0.0), rule="one"),
        )
        for zones, groups, leaders in ((apart, [[0], [1]], [0, 1]), (one, [[0, 1]], [0])):
            mine, plain = tried(compiled, week, zones), plain_loop(home, week, groups, leaders)
            self.assertLess(abs(mine.heat_kwh - plain["heat"]) / plain["heat"], 0.01)
            assert mine.cost is not None
            self.assertLess(abs(mine.cost - plain["cost"]) / plain["cost"], 0.01)
            self.assertLess(abs(float(mine.underheating_kh.sum()) - plain["short"]), 0.01 * plain["short"] + 0.05)


class Judged(unittest.TestCase):
    def test_a_week_is_counted_by_the_minute_without_the_days_before(self) -> None:
        compiled, rooms = compile_home(drawn_home()), 2
        week = week_of(rooms, wants=(20.0, 18.0))
        day = 1440
        needs = np.full((rooms, week.steps), np.nan)
        # Somebody is there for two hours of the first counted day, in the first room.
        first = RUN_IN_DAYS * day
        needs[0, first + 480 : first + 600] = 20.0
        needs[:, :first] = 25.0
        air = np.full((rooms, week.steps), 19.0)
        air[0, first + 540 :] = 22.5
        fired = np.zeros((len(compiled.heater_room), week.steps))
        fired[0, first : first + 30] = 1200.0
        fired[0, first + 60 : first + 90] = 1200.0
        found = judged(compiled, replace(week, needs_c=needs, price=None), air, fired)
        self.assertAlmostEqual(float(found.underheating_kh[0]), 1.0)
        self.assertAlmostEqual(float(found.overheating_kh[0]), 2.5)
        self.assertEqual((float(found.underheating_kh[1]), float(found.overheating_kh[1])), (0.0, 0.0))
        self.assertAlmostEqual(found.heat_kwh, 1.2)
        self.assertAlmostEqual(float(found.room_heat_kwh[compiled.heater_room[0]]), 1.2)
        self.assertEqual((found.starts, found.cost), (1, None))
        self.assertEqual((float(found.coldest_c[0]), float(found.warmest_c[0])), (19.0, 22.5))


class Groupings(unittest.TestCase):
    def setUp(self) -> None:
        self.home = drawn_home()
        self.compiled: CompiledHome = compile_home(self.home)
        self.week = week_of(2, wants=(20.0, 18.0))

    def held(self, room_c: float, outdoor_c: float) -> Week:
        """Return a week that never changes."""
        return Week(
            outdoor_c=np.full(N, outdoor_c), gain_w=np.zeros((2, N)), needs_c=np.full((2, N), room_c), price=None
        )

    def zones(self, week: Week, rule: CountRule = "mean") -> tuple[ZoneGroup, ...]:
        """Return one zone of both rooms."""
        return (
            ZoneGroup(name="all", rooms=(0, 1), setpoint_c=week.needs_c.max(axis=0), weights=(1.0, 1.0), rule=rule),
        )

    def test_in_a_steady_week_heat_is_the_closed_form_of_two_stores(self) -> None:
        week = self.held(19.0, 0.0)
        apart = tuple(ZoneGroup(name=str(r), rooms=(r,), setpoint_c=week.needs_c[r], weights=(1.0,)) for r in range(2))
        run = run_rooms(self.compiled, week, apart)
        air, fired = run.air_c, run.fired_w
        wanted = 0.0
        for k, room in enumerate(self.home.rooms):
            rc = surveyed_room(self.home, room)
            # A radiator warms the fabric by itself with 35 % of its heat, of which a part is lost unfelt.
            lost = 0.35 * rc.fabric_out_w_k / (rc.air_fabric_w_k + rc.fabric_out_w_k)
            wanted += rc.loss_w_k * float(air[k, -1]) / (1 - lost)
        self.assertAlmostEqual(float(fired[:, -1].sum()), wanted, delta=0.01 * wanted)

    def test_the_coldest_sensor_leaves_nobody_cold_and_the_warmest_somebody(self) -> None:
        week = self.week
        found = {rule: tried(self.compiled, week, self.zones(week, rule)) for rule in ("coldest", "warmest")}
        self.assertLess(float(found["coldest"].underheating_kh.sum()), float(found["warmest"].underheating_kh.sum()))
        self.assertGreater(found["coldest"].heat_kwh, found["warmest"].heat_kwh)

    def test_a_source_that_cannot_give_all_shares_what_it_can(self) -> None:
        small = replace(self.home, sources=(replace(self.home.sources[0], most_w=600.0),))
        week = self.held(20.0, -5.0)
        fired = run_rooms(compile_home(small), week, self.zones(week)).fired_w
        self.assertAlmostEqual(float(fired.sum(axis=0).max()), 600.0, places=6)

    def test_heaters_that_give_all_they_can_and_do_not_arrive_are_told_by_their_hours(self) -> None:
        cold, mild = self.held(20.0, -25.0), self.held(20.0, 12.0)
        weak = replace(self.home, heaters=tuple(replace(h, rated_heat_w=60.0) for h in self.home.heaters))
        self.assertTrue((tried(compile_home(weak), cold, self.zones(cold)).strained_h == 7 * 24).all())
        self.assertTrue((tried(self.compiled, mild, self.zones(mild)).strained_h == 0).all())
        drained = replace(self.home, sources=(replace(self.home.sources[0], most_w=100.0),))
        self.assertTrue((tried(compile_home(drained), cold, self.zones(cold)).strained_h == 7 * 24).all())

    def test_what_is_drawn_goes_by_the_heater_and_its_source(self) -> None:
        plain = self.home.heaters[0]
        split = replace(plain, kind="split_unit", split=SplitUnit(cop=3.6, cop_slope_1_k=0.02))
        direct = Source(id="mains", name="Mains", kind="direct")
        gas = replace(direct, kind="boiler", efficiency=0.9)
        pump = replace(direct, kind="heat_pump", cop_points=((-7.0, 2.0), (7.0, 4.0)))
        at = np.array([7.0, 0.0, -60.0])
        np.testing.assert_allclose(heat_over_draw(split, direct, at), (3.6, 3.6 * 0.86, 1.0))
        np.testing.assert_allclose(heat_over_draw(plain, gas, at), 0.9)
        np.testing.assert_allclose(heat_over_draw(plain, pump, at), (4.0, 3.0, 2.0))
        np.testing.assert_allclose(heat_over_draw(plain, direct, at), 1.0)

    def test_a_split_unit_on_the_mains_is_costed_at_its_own_cop(self) -> None:
        home = replace(
            self.home,
            sources=tuple(replace(s, kind="direct") for s in self.home.sources),
            heaters=tuple(replace(h, kind="split_unit", split=SplitUnit(cop=3.0)) for h in self.home.heaters),
        )
        found = tried(compile_home(home), self.held(20.0, 7.0), self.zones(self.held(20.0, 7.0)))
        self.assertAlmostEqual(found.drawn_kwh, found.heat_kwh / 3.0, places=6)

    def test_a_room_in_no_zone_stays_unheated_and_its_neighbour_warms_it(self) -> None:
        week = self.held(20.0, 0.0)
        only = (ZoneGroup(name="den", rooms=(0,), setpoint_c=week.needs_c[0], weights=(1.0,)),)
        run = run_rooms(self.compiled, week, only)
        air, fired = run.air_c, run.fired_w
        self.assertEqual(float(fired[1].max()), 0.0)
        self.assertTrue(0.5 < air[1, -1] < 19.0)

    def test_a_home_without_heaters_and_a_zone_without_weights_are_refused(self) -> None:
        with self.assertRaises(HomeError):
            compile_home(replace(self.home, heaters=()))
        with self.assertRaises(HomeError):
            ZoneGroup(name="x", rooms=(0,), setpoint_c=np.zeros(3), weights=(0.0,))
