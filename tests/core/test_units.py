"""Units of logs and screens."""

import unittest

from hypothesis import given, settings
from hypothesis import strategies as st

from warmeter.core.errors import ReadingError, UnitError
from warmeter.core.quantity import QUANTITIES
from warmeter.core.readings.record import Kind, SeriesRecord
from warmeter.core.units import UNITS_OF, celsius_from, celsius_to, to_stored


class Units(unittest.TestCase):
    def test_conversions(self) -> None:
        for value, quantity, unit, stored in (
            (32.0, "room_temperature", "°F", 0.0),
            (293.15, "outdoor_temperature", "K", 20.0),
            (1.5, "heat_w", "kW", 1500.0),
            (1.0, "electric_w", "kWh", 3.6e6),
        ):
            self.assertAlmostEqual(to_stored(value, quantity=quantity, unit=unit), stored)

    def test_foreign_units_are_refused(self) -> None:
        with self.assertRaises(UnitError):
            to_stored(1.0, quantity="room_temperature", unit="W")
        self.assertEqual(set(UNITS_OF), set(QUANTITIES))

    @settings(deadline=None, derandomize=True)
    @given(st.floats(-60, 60))
    def test_there_and_back(self, value: float) -> None:
        self.assertAlmostEqual(celsius_from(celsius_to(value, "F"), "F"), value, places=9)

    def test_energies_are_sums_or_counters_only(self) -> None:
        pairs: tuple[tuple[str, Kind], ...] = (("kWh", "mean"), ("W", "sum"), ("°C", "counter"))
        for unit, kind in pairs:
            with self.assertRaises(ReadingError):
                SeriesRecord(
                    quantity="room_temperature" if unit == "°C" else "heat_w",
                    unit=unit,
                    kind=kind,
                    stamp="start",
                    step_s=300,
                    longest_hold_s=900,
                    subject="r1",
                )


if __name__ == "__main__":
    unittest.main()
