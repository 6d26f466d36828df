"""Circuits: amperes and ohms worked out on paper; every planted fault is found, and none in a sound home."""

import unittest
from dataclasses import replace
from datetime import date
from math import sqrt
from typing import Any

from tests.drawn import drawn_home
from warmeter.core.building.checks import circuit_checks
from warmeter.core.building.checks.findings import findings_of
from warmeter.core.electric.circuit_load import circuit_load
from warmeter.core.electric.circuit_summary import circuit_summary, floor_relays
from warmeter.core.errors import OutOfRange
from warmeter.core.explain.circuit_figures import circuit_figure
from warmeter.core.home.circuits import Circuit, ElectricalPractice, HeatingMat, OhmReading, TripTest
from warmeter.core.home.document import Home
from warmeter.core.home.plant import SplitUnit
from warmeter.simulators.wiring_faults import sound_wiring

LAID = date(2025, 3, 4)


def read(ohm: float, stage: Any = "covered", on: date = LAID, insulation: float | None = 500.0) -> OhmReading:
    """Return a reading of a mat."""
    return OhmReading(on=on, stage=stage, ohm=ohm, insulation_mohm=insulation)


def mat(**more: Any) -> HeatingMat:
    """Return a sound mat of 600 W on 4 m² of tiles: 230² / 600 = 88.2 Ω."""
    sound = (read(87.6, "before", date(2025, 3, 1)), read(87.9))
    values: dict[str, Any] = {"id": "m1", "name": "T1", "power_w": 600.0, "area_m2": 4.0, "readings": sound}
    return HeatingMat(**(values | more))


def floor(**more: Any) -> Circuit:
    """Return the circuit of that mat on a breaker of 16 A."""
    values: dict[str, Any] = {
        "id": "c1",
        "name": "Floor",
        "mats": (mat(),),
        "control_a": 10.0,
        "trip_tests": (TripTest(on=date(2026, 1, 14), trip_ms=24.0),),
        "probe_ohm": 12_000.0,
        "spare_probe_ohm": 12_300.0,
    }
    return Circuit(**(values | more))


def wired(*circuits: Circuit, **practice: Any) -> Home:
    """Return the drawn home with circuits."""
    return drawn_home(circuits=circuits, electrical_practice=ElectricalPractice(**practice))


def circuit_kinds(home: Home) -> list[str]:
    """Return the kinds of what the checks say of circuits."""
    return sorted(f.kind for f in findings_of(home) if f.kind in circuit_checks.RULES)


class OnPaper(unittest.TestCase):
    def test_a_floor_of_two_mats_and_a_fan(self) -> None:
        home = wired(floor(mats=(mat(), mat(id="m2", name="T2", power_w=300.0)), other_w=20.0))
        found = circuit_summary(home, home.circuits[0])
        self.assertAlmostEqual(found.load.current_a, 920 / 230)
        self.assertAlmostEqual(found.load.limit_a, 12.8)
        self.assertAlmostEqual(found.load.spare_w, 12.8 * 230 - 920)
        self.assertAlmostEqual(found.mats[0].expected_ohm, 52_900 / 600)
        self.assertAlmostEqual(found.mats[0].off_pct or 0.0, 100 * (87.9 * 600 / 52_900 - 1))
        self.assertEqual(found.mats[0].density_w_m2, 150.0)
        assert found.thermostats is not None
        self.assertEqual(found.thermostats.count, 1)

    def test_three_phases_draw_a_root_of_three_less(self) -> None:
        one = circuit_load([9000.0], voltage_v=400.0, rating_a=16.0, continuous_factor=1.0, phases=3)
        self.assertAlmostEqual(one.current_a, 9000 / (sqrt(3) * 400))
        self.assertTrue(one.is_within)

    def test_a_panel_draws_its_plate_and_a_split_unit_its_heat_by_its_cop(self) -> None:
        home = drawn_home()
        panel = replace(home.heaters[0], id="panel", kind="electric_panel", rated_heat_w=1150.0)
        split = replace(home.heaters[0], id="split", kind="split_unit", rated_heat_w=4140.0, split=SplitUnit(cop=3.6))
        home = replace(
            home,
            heaters=(*home.heaters, panel, split),
            circuits=(Circuit(id="c", name="Panels", heater_ids=("panel", "split")),),
        )
        self.assertAlmostEqual(circuit_summary(home, home.circuits[0]).load.current_a, 5.0 + 5.0)

    def test_modules_by_channels_and_a_mat_too_strong_for_one(self) -> None:
        strong = mat(id="m9", name="T9", power_w=2530.0)
        many = tuple(mat(id=f"m{k}", name=f"T{k}") for k in range(8))
        found = floor_relays(wired(floor(mats=(*many, strong)), relay_channels=4, relay_channel_a=10.0))
        assert found is not None
        self.assertEqual((found.channels, found.modules, found.over_channel), (9, 3, (8,)))

    def test_odd_volts_and_factors_are_refused(self) -> None:
        for more in ({"voltage_v": 5.0}, {"continuous_factor": 0.0}, {"power_factor": 0.0}, {"rating_a": 0.0}):
            values: dict[str, Any] = {"voltage_v": 230.0, "rating_a": 16.0, "continuous_factor": 1.0} | more
            with self.assertRaises(OutOfRange):
                circuit_load([100.0], **values)

    def test_workings_say_the_same(self) -> None:
        home = wired(floor())
        self.assertAlmostEqual(circuit_figure(home, "load.c1").value or 0.0, 600 / 230)
        self.assertAlmostEqual(circuit_figure(home, "ohm.m1").value or 0.0, 52_900 / 600)
        self.assertEqual(circuit_figure(home, "relays").value, 1.0)
        self.assertIn("sound from 83.8 to 97.0", circuit_figure(home, "ohm.m1").substituted)


class Findings(unittest.TestCase):
    """Each rule's own planted fault stands in tests.core.building.test_findings."""

    def test_a_sound_home_has_no_finding(self) -> None:
        sound = sound_wiring(drawn_home())
        self.assertEqual([f.kind for f in findings_of(sound)], [f.kind for f in findings_of(drawn_home())])
        self.assertEqual(circuit_kinds(drawn_home()), [])

    def test_a_device_that_did_not_trip_and_one_of_300_ma_are_found(self) -> None:
        dead = wired(floor(trip_tests=(TripTest(on=LAID, trip_ms=24.0), TripTest(on=date(2026, 2, 1), trip_ms=None))))
        self.assertEqual(circuit_kinds(dead), ["trips too slowly"])
        self.assertEqual(circuit_kinds(wired(floor(residual_ma=300.0))), ["no fault-current device"])
        mended = wired(floor(trip_tests=(TripTest(on=LAID, trip_ms=None), TripTest(on=date(2026, 2, 1), trip_ms=24.0))))
        self.assertEqual(circuit_kinds(mended), [])

    def test_timber_over_a_floor_without_a_limit(self) -> None:
        home = wired(floor(mats=(mat(cover="timber", area_m2=8.0, room_id="den"),)))
        warm = replace(home.heaters[0], kind="warm_floor", free_floor_m2=8.0)
        unlimited = replace(home, heaters=(warm, *home.heaters[1:]))
        self.assertEqual(circuit_kinds(unlimited), ["cover without its limit"])
        limited = replace(home, heaters=(replace(warm, surface_limit_c=27.0), *home.heaters[1:]))
        self.assertEqual(circuit_kinds(limited), [])
