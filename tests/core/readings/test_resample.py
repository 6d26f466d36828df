"""Properties of reading and resampling that hold for any log."""

import itertools
import unittest
from datetime import UTC, datetime, timedelta
from typing import Any

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st

from tests.logs import suggested
from warmeter.core.readings.csvlog import Column, ImportMapping
from warmeter.core.readings.logtable import read
from warmeter.core.readings.record import Readings, SeriesRecord
from warmeter.core.readings.resample import mean_over_steps, stretches, value_at
from warmeter.core.timegrid import LocalClock, to_ms

ZONES = ("Europe/London", "Australia/Lord_Howe", "America/Santiago", "UTC")
FORMATS = {"year-month-day": "%Y-%m-%d %H:%M", "day/month/year": "%d.%m.%Y %H:%M", "month/day/year": "%m/%d/%Y %H:%M"}
TEMPERATURES = st.lists(st.integers(-200, 400).map(lambda t: t / 10), min_size=2, max_size=60)


def table(times: list[str], values: list[float], delimiter: str, decimal: str) -> list[str]:
    """Return a log's lines."""
    return [
        f"time{delimiter}x",
        *(f"{t}{delimiter}{str(v).replace('.', decimal)}" for t, v in zip(times, values, strict=True)),
    ]


def plan(delimiter: str, decimal: Any, date_format: str, clock: Any = "home") -> ImportMapping:
    """Return a plan for one outdoor column."""
    column = Column(index=1, heading="x", quantity="outdoor_temperature", unit="°C")
    return ImportMapping(
        delimiter=delimiter,
        decimal=decimal,
        heading_line=1,
        time_column=0,
        date_format=date_format,
        clock=clock,
        columns=(column,),
    )


class AnyLog(unittest.TestCase):
    @settings(deadline=None, derandomize=True, max_examples=60)
    @given(
        TEMPERATURES,
        st.sampled_from(ZONES),
        st.sampled_from(sorted(FORMATS)),
        st.sampled_from([(",", "."), (";", ","), ("\t", "."), ("|", ",")]),
        st.datetimes(datetime(2024, 1, 1), datetime(2027, 1, 1)),
        st.sampled_from([5, 10, 15, 30, 60]),
    )
    def test_what_a_logger_writes_by_the_wall_clock_is_read_back(
        self, values: list[float], zone: str, date_format: str, signs: tuple[str, str], start: datetime, step: int
    ) -> None:
        clock = LocalClock(zone)
        first = to_ms(start.replace(second=0, microsecond=0, tzinfo=UTC)) // 1_800_000 * 1_800_000
        at = [first + k * step * 60_000 for k in range(len(values))]
        times = [clock.local(t).strftime(FORMATS[date_format]) for t in at]
        found = read(table(times, values, *signs), plan(*signs, date_format), clock)
        read_back = dict(
            zip(found.series[0].readings.at_ms.tolist(), found.series[0].readings.value.tolist(), strict=True)
        )
        written = dict(zip(at, values, strict=True))
        # Nothing is invented or moved; only an hour whose second coming is not in the file may be left out.
        self.assertEqual({t: written.get(t) for t in read_back}, read_back)
        if len(read_back) < len(written):
            self.assertTrue(any("comes twice" in r.reason for r in found.refusals))

    @settings(deadline=None, derandomize=True, max_examples=40)
    @given(TEMPERATURES, st.randoms(use_true_random=False))
    def test_the_order_of_lines_does_not_matter_in_utc(self, values: list[float], random: object) -> None:
        times = [
            (datetime(2026, 1, 5) + timedelta(minutes=5 * k)).strftime("%Y-%m-%d %H:%M") for k in range(len(values))
        ]
        lines = table(times, values, ",", ".")
        shuffled = lines[1:]
        random.shuffle(shuffled)  # type: ignore[attr-defined]
        clock = LocalClock("UTC")
        one, other = (
            read([lines[0], *body], plan(",", ".", "year-month-day", "utc"), clock) for body in (lines[1:], shuffled)
        )
        np.testing.assert_array_equal(one.series[0].readings.value, other.series[0].readings.value)
        np.testing.assert_array_equal(one.series[0].readings.at_ms, other.series[0].readings.at_ms)

    @settings(deadline=None, derandomize=True, max_examples=80)
    @given(st.lists(st.text(st.characters(exclude_categories=("Cc", "Cs", "Zl", "Zp")), max_size=40), max_size=12))
    def test_no_text_breaks_guessing_or_reading(self, lines: list[str]) -> None:
        for work in (
            lambda: suggested(lines, rooms=[("r", "R")], machines=[]),
            lambda: read(["t,x", *lines], plan(",", ".", "year-month-day"), LocalClock("UTC")),
        ):
            try:
                work()
            except ValueError as error:
                self.assertTrue(str(error))

    def test_every_line_is_taken_or_accounted_for(self) -> None:
        lines = [
            "2026-01-05 00:00,1",
            "bad,2",
            "2026-01-05 00:05,",
            "2026-01-05 00:05,3",
            "2026-01-05 00:10,99",
            "2026-01-05 00:15",
        ]
        found = read(["t,x", *lines], plan(",", ".", "year-month-day"), LocalClock("UTC"))
        refused = {line for r in found.refusals if r.outcome == "refused" for line in range(r.first, r.last + 1)}
        self.assertEqual(found.series[0].readings.value.tolist(), [1.0, 3.0])
        self.assertEqual(refused, {3, 6, 7})


class AnySeries(unittest.TestCase):
    held = SeriesRecord(
        quantity="heat_w", unit="W", kind="held", stamp="instant", step_s=0, longest_hold_s=10**6, subject="r"
    )

    @settings(deadline=None, derandomize=True, max_examples=60)
    @given(
        st.lists(st.tuples(st.integers(0, 7200), st.floats(0, 3000)), min_size=2, max_size=30, unique_by=lambda p: p[0])
    )
    def test_energy_is_kept_whatever_the_times(self, pairs: list[tuple[int, float]]) -> None:
        pairs.sort()
        readings = Readings(np.array([t * 1000 for t, _ in pairs], dtype=np.int64), np.array([v for _, v in pairs]))
        expected = sum(v * (b - a) for (a, v), (b, _) in itertools.pairwise(pairs))
        begin, end, power = stretches(readings, self.held)
        inner = end <= readings.at_ms[-1]
        self.assertAlmostEqual(
            float((power * (end - begin))[inner].sum()) / 1000, expected, delta=1e-6 * max(1.0, expected)
        )
        whole = mean_over_steps(readings, self.held, int(readings.at_ms[0]), (pairs[-1][0] - pairs[0][0]), 1)
        self.assertAlmostEqual(
            float(whole[0]) * (pairs[-1][0] - pairs[0][0]), expected, delta=1e-6 * max(1.0, expected)
        )

    @settings(deadline=None, derandomize=True, max_examples=40)
    @given(st.integers(1, 12), st.floats(1, 2000))
    def test_finer_steps_average_to_coarser_ones(self, parts: int, power: float) -> None:
        readings = Readings(np.arange(0, 100, dtype=np.int64) * 61_000, power * (np.arange(100) % 3).astype(float))
        fine = mean_over_steps(readings, self.held, 0, 60.0, 12 * parts)
        coarse = mean_over_steps(readings, self.held, 0, 60.0 * parts, 12)
        heard = ~np.isnan(coarse) & ~np.isnan(fine.reshape(12, parts)).any(axis=1)
        np.testing.assert_allclose(fine.reshape(12, parts).mean(axis=1)[heard], coarse[heard], rtol=1e-9, atol=1e-9)

    def test_nothing_in_nothing_out(self) -> None:
        empty = Readings(np.zeros(0, dtype=np.int64), np.zeros(0))
        self.assertTrue(np.isnan(mean_over_steps(empty, self.held, 0, 60.0, 3)).all())
        self.assertTrue(np.isnan(value_at(empty, self.held, np.array([0, 1]))).all())
        self.assertIsNone(empty.last_ms)

    def test_between_is_half_open(self) -> None:
        readings = Readings(np.array([0, 10, 20], dtype=np.int64), np.array([1.0, 2.0, 3.0]))
        self.assertEqual(readings.between(0, 20).value.tolist(), [1.0, 2.0])
