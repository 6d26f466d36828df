"""Raw readings: back and forth, errors by brute force, and every planted fault of a chain named, none invented."""

import math
import unittest
from dataclasses import replace
from typing import Any

import numpy as np

from tests.homes import done, small_home
from warmeter.core.building.checks.findings import findings_of
from warmeter.core.edits.device_commands import AddDevice, ChangeRawChain
from warmeter.core.electric.raw_chain import celsius_of, chain_end, chain_fault, curve_of, raw_at
from warmeter.core.errors import HomeError, OutOfRange
from warmeter.core.home.raw_readings import FixedSide, RawChain, ThermistorPoint
from warmeter.core.sensing.thermistor import by_beta, steinhart_hart

POINTS = (
    ThermistorPoint(at_c=0.0, ohm=32_650.0),
    ThermistorPoint(at_c=25.0, ohm=10_000.0),
    ThermistorPoint(at_c=50.0, ohm=3603.0),
)


def beta_ohm(celsius: float, r25: float = 10_000.0, beta: float = 3950.0) -> float:
    """Return the ohms of a beta by its law."""
    return r25 * math.exp(beta * (1 / (celsius + 273.15) - 1 / 298.15))


def counts(celsius: float, fixed: float = 10_000.0, side: str = "supply", r25: float = 10_000.0, **more: Any) -> float:
    """Return the counts of a divider by Ohm's law."""
    ohm = beta_ohm(celsius, r25)
    share = ohm / (ohm + fixed) if side == "supply" else fixed / (ohm + fixed)
    return float(share * more.get("supply", 3.3) / more.get("reference", 3.3) * (2 ** more.get("bits", 10) - 1))


class ThereAndBack(unittest.TestCase):
    def test_against_ohms_law(self) -> None:
        sides: tuple[FixedSide, ...] = ("supply", "ground")
        for side in sides:
            for celsius in (-10.0, 0.0, 21.5, 60.0):
                chain = RawChain(fixed_side=side)
                read = float(celsius_of(chain, np.array([counts(celsius, side=side)]))[0])
                self.assertAlmostEqual(read, celsius, places=9)
                self.assertAlmostEqual(raw_at(chain, celsius), counts(celsius, side=side), places=6)

    def test_volts_ohms_and_three_points(self) -> None:
        volts = RawChain(reads="volt")
        self.assertAlmostEqual(float(celsius_of(volts, np.array([1.65]))[0]), 25.0)
        ohms = RawChain(reads="ohm", points=POINTS)
        np.testing.assert_allclose(
            celsius_of(ohms, np.array([32_650.0, 10_000.0, 3603.0])), [0.0, 25.0, 50.0], atol=1e-9
        )
        self.assertAlmostEqual(raw_at(ohms, 25.0), 10_000.0, places=3)

    def test_what_cannot_be_is_nan_and_what_has_no_meaning_is_refused(self) -> None:
        self.assertTrue(np.isnan(celsius_of(RawChain(), np.array([0.0, 1023.0, -5.0]))).all())
        for points in (POINTS[:2], (POINTS[0], POINTS[1], replace(POINTS[2], ohm=50_000.0))):
            with self.assertRaises(HomeError):
                RawChain(points=points)
        with self.assertRaises(HomeError):
            RawChain(low_c=40.0, high_c=10.0)
        for ohm, beta in ((0.0, 3950.0), (1.0, 0.0)):
            with self.assertRaises(OutOfRange):
                by_beta(ohm, beta)
        with self.assertRaises(OutOfRange):
            steinhart_hart([(0.0, 1.0)])

    def test_the_error_at_an_end_against_draws(self) -> None:
        chain = RawChain(tolerance_pct=1.0)
        end = chain_end(chain, 40.0)
        rng = np.random.default_rng(7)
        fixed = 10_000.0 * (1 + rng.choice([-0.01, 0.01], 4000))
        r25 = 10_000.0 * (1 + rng.choice([-0.01, 0.01], 4000))
        read = np.array([counts(40.0, f, r25=r) for f, r in zip(fixed, r25, strict=True)]) + rng.uniform(
            -0.5, 0.5, 4000
        )
        spread = float(np.sqrt(np.mean((celsius_of(chain, read) - 40.0) ** 2)))
        self.assertAlmostEqual(end.error_k, spread, delta=0.15 * spread)
        self.assertFalse(end.is_lost)


class Faults(unittest.TestCase):
    def checked(self, raw: float, at_c: float = 21.0, **chain: Any) -> RawChain:
        return RawChain(checked_raw=raw, checked_c=at_c, **chain)

    def test_each_planted_fault_is_named(self) -> None:
        planted = {
            "the fixed resistor stands on the other side": counts(8.0, side="ground"),
            "the thermistor has ten times the ohms": counts(8.0, r25=100_000.0),
            "the thermistor has a tenth of the ohms": counts(8.0, r25=1000.0),
            "the converter goes by the supply": None,
            "the converter has two bits more": counts(8.0, bits=12),
        }
        for words, raw in planted.items():
            with self.subTest(words):
                chain = self.checked(raw or counts(8.0, reference=3.3), 8.0)
                if raw is None:
                    chain = replace(chain, reference_v=5.0)
                fault = chain_fault(chain)
                assert fault is not None
                self.assertIn(words, fault.likely)

    def test_a_sound_chain_over_its_range_is_never_accused(self) -> None:
        for at_c in np.linspace(-20.0, 60.0, 33):
            for side in ("supply", "ground"):
                chain = self.checked(counts(float(at_c), side=side), float(at_c) + 1.5, fixed_side=side)
                self.assertIsNone(chain_fault(chain))
        self.assertIsNone(chain_fault(RawChain()), "never checked")

    def test_what_no_change_mends_is_left_open(self) -> None:
        fault = chain_fault(self.checked(700.0, 90.0))
        assert fault is not None
        self.assertEqual(fault.likely, "")

    def test_typed_on_a_device_and_found(self) -> None:
        home = done(small_home(), AddDevice(kind="air_sensor", room_id="study"))
        key = home.devices[0].id
        home = done(home, ChangeRawChain(id=key, values={"fixed_side": "ground"}, thermistor_points=()))
        home = done(home, ChangeRawChain(id=key, values={"checked_raw": counts(8.0), "checked_c": 8.0}))
        found = next(f for f in findings_of(home) if f.kind == "raw reading wrong")
        self.assertIn("other side", found.fix)
        points = ((0.0, 32_650.0), (25.0, 10_000.0), (50.0, 3603.0))
        home = done(home, ChangeRawChain(id=key, values={}, thermistor_points=points))
        assert home.devices[0].raw is not None
        self.assertAlmostEqual(float(curve_of(home.devices[0].raw).celsius(np.array([10_000.0]))[0]), 25.0)
        self.assertIsNone(done(home, ChangeRawChain(id=key, values={}, remove=True)).devices[0].raw)
