"""A file read section by section."""

import random
import unittest
from dataclasses import replace
from datetime import datetime, timedelta

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st

from warmeter.core.readings.csvlog import Column, ImportMapping, ReadLog
from warmeter.core.readings.logblocks import MOST_NOTES
from warmeter.core.readings.logtable import read
from warmeter.core.timegrid import LocalClock

LONDON = LocalClock("Europe/London")


COLUMNS = (
    Column(index=1, heading="Study", quantity="room_temperature", unit="°C", subject="study"),
    Column(index=2, heading="Heater", quantity="heat_w", unit="W", kind="mean", stamp="start", subject="study"),
)


MAPPING = ImportMapping(
    delimiter=",",
    decimal=".",
    heading_line=1,
    time_column=0,
    date_format="year-month-day",
    clock="home",
    columns=COLUMNS,
)


# The clock in London goes back in the night to 26 October 2025 and forward in that to 29 March 2026.
BEGINS = (datetime(2025, 10, 24, 18), datetime(2026, 3, 27, 18), datetime(2026, 1, 5, 3))


def facts(found: ReadLog) -> tuple[object, ...]:
    """Return what a reading came to, in plain values."""
    series = [
        (s.record, s.readings.at_ms.tolist(), s.readings.value.tolist(), s.left_out, s.heading) for s in found.series
    ]
    told = {(r.outcome, r.reason, line) for r in found.refusals for line in range(r.first, r.last + 1)}
    return series, told, found.lines, found.first_ms, found.last_ms


@st.composite
def logs(draw: st.DrawFn) -> list[str]:
    """Return a log by London's clock, with gaps, times that stand twice, bad cells; rising or falling."""
    rng = random.Random(draw(st.integers(0, 2**32)))
    begin, step = draw(st.sampled_from(BEGINS)), draw(st.sampled_from((10, 30, 60)))
    lines, at = [], LONDON.instant(begin.date(), begin.hour * 60)
    for _ in range(draw(st.integers(0, 300))):
        cells = [f"{rng.uniform(15, 22):.1f}", f"{rng.uniform(0, 900):.0f}"]
        if rng.random() < 0.1:
            cells[rng.randrange(2)] = rng.choice(("", "?", "-400", "1e9"))
        lines.append(",".join((f"{LONDON.local(at):%Y-%m-%d %H:%M}", *cells)))
        if rng.random() < 0.05:
            lines.append(
                rng.choice((lines[-1], f"{lines[-1].rsplit(',', 1)[0]},1", "", "spoilt", "2026-02-30 10:00,1,2"))
            )
        at += step * 60_000 * rng.choice((1,) * 30 + (9, 40))
    return ["time,Study,Heater", *(reversed(lines) if draw(st.booleans()) else lines)]


class Sections(unittest.TestCase):
    def test_the_last_minute_of_an_hour_is_a_time_and_the_next_is_none(self) -> None:
        held = replace(MAPPING, columns=COLUMNS[:1])
        heading, rows = "time,Study", ["2026-01-05 00:00,20", "2026-01-05 12:59,21", "2026-01-05 23:59,22"]
        (series,) = read([heading, *rows], held, LONDON).series
        self.assertEqual(series.readings.at_ms.size, 3)
        wrong = ["2026-01-05 12:60,20", "2026-01-05 24:01,21", "2026-13-05 12:00,22"]
        refused = read([heading, *wrong, rows[1]], held, LONDON)
        told = [line for r in refused.refusals for line in range(r.first, r.last + 1)]
        self.assertEqual(sorted(told), [2, 3, 4])

    @settings(max_examples=120, deadline=None)
    @given(logs(), st.integers(1, 120), st.sampled_from(("ask", "first", "second")))
    def test_sections_of_any_length_make_the_same_log(self, lines: list[str], section: int, fold: str) -> None:
        plan = replace(MAPPING, repeated_hour=fold)  # type: ignore[arg-type]
        try:
            whole = facts(read(lines, plan, LONDON))
        except Exception as error:
            with self.assertRaises(type(error)):
                read(lines, plan, LONDON, section_lines=section)
            return
        self.assertEqual(facts(read(lines, plan, LONDON, section_lines=section)), whole)

    def test_lines_in_no_order_over_many_sections_are_put_in_order(self) -> None:
        begin = datetime(2026, 1, 5)
        lines = [f"{begin + timedelta(minutes=10 * k):%Y-%m-%d %H:%M},{k % 7 + 15}.5,{k}" for k in range(2000)]
        mixed = lines.copy()
        random.Random(4).shuffle(mixed)
        # Each stands twice, far apart; the second with another temperature.
        other = [line.replace(".5,", ".7,") for line in lines]
        found = read(["heading", *mixed, *other], MAPPING, LONDON, section_lines=150)
        at = found.series[0].readings.at_ms
        self.assertEqual(at.tolist(), [1_767_571_200_000 + 600_000 * k for k in range(2000)])
        np.testing.assert_allclose(found.series[0].readings.value, [k % 7 + 15.5 for k in range(2000)])
        self.assertEqual([s.left_out for s in found.series], [2000, 2000])
        self.assertEqual(found.series[1].record.step_s, 600)

    def test_a_file_of_nothing_but_faults_is_told_in_bounds(self) -> None:
        lines = [f"2026-01-05 00:00,x{k},y{k}" for k in range(MOST_NOTES)]
        found = read(["heading", *lines], MAPPING, LONDON)
        self.assertEqual(len(found.refusals), MOST_NOTES + 1)
        self.assertIn(f"{MOST_NOTES:,} more places", found.refusals[-1].reason)


if __name__ == "__main__":
    unittest.main()
