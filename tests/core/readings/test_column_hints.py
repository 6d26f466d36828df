"""What a column's values tell of its quantity and unit."""

import unittest

import numpy as np

from warmeter.core.readings.column_hints import tellings
from warmeter.core.readings.csvlog import ReadLog, TakenSeries
from warmeter.core.readings.record import Readings, SeriesRecord

START_S = 1_767_225_600  # 1 January 2026, 00:00 UTC


class Tellings(unittest.TestCase):
    def told(self, columns: dict[str, np.ndarray], step_s: int) -> tuple[str, ...]:
        """Return what columns of power, all mapped as watts, say."""
        size = len(next(iter(columns.values())))
        at = START_S * 1000 + np.arange(size) * step_s * 1000
        series = []
        for heading, values in columns.items():
            record = SeriesRecord(
                quantity="electric_w",
                unit="W",
                kind="mean",
                stamp="start",
                step_s=step_s,
                longest_hold_s=3600,
                subject="m",
            )
            series.append(TakenSeries(record=record, readings=Readings(at, values), heading=heading, left_out=0))
        return tellings(ReadLog(series=tuple(series), refusals=(), lines=size, first_ms=None, last_ms=None))

    def test_the_factor_tells_energy_a_step_from_power_and_says_so(self) -> None:
        rng = np.random.default_rng(2)
        power = np.round(rng.uniform(5, 2000, 300), 1)
        for step_s, factor, words in (
            (60, 60 / 3600, "in Wh of each step of 60 s"),
            (300, 300 / 3.6e6, "in kWh of each step of 300 s"),
            (60, 0.001, "the same power in kW"),
        ):
            told = self.told({"load": power, "other": power * factor}, step_s)
            self.assertEqual(len([t for t in told if words in t]), 1, told)
            self.assertIn("“other” is “load” times", told[0])

    def test_a_counter_beside_its_power_is_told_by_its_steps(self) -> None:
        power = np.round(np.random.default_rng(3).uniform(5, 2000, 300), 1)
        told = self.told({"load": power, "meter": 512.0 + np.cumsum(power) * 60 / 3.6e6}, 60)
        self.assertTrue(any("in kWh counted on from step to step" in t for t in told), told)
        self.assertTrue(any("“meter” only rises" in t for t in told), told)

    def test_columns_that_have_nothing_to_do_with_each_other_say_nothing(self) -> None:
        rng = np.random.default_rng(4)
        self.assertEqual(self.told({"a": rng.uniform(0, 50, 300), "b": rng.uniform(0, 50, 300)}, 60), ())
        self.assertEqual(self.told({"a": np.full(5, 3.0), "b": np.full(5, 3.0)}, 60), ())


if __name__ == "__main__":
    unittest.main()
