"""The arbiter and a day's edits against slow, plain restatements of their rules."""

import itertools
import unittest
from collections.abc import Callable
from datetime import date, timedelta

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st

from tests.homes import small_home, with_day
from warmeter.core.claims.arbiter import PRIORITY, Claim, Guard, by_minute, decisions
from warmeter.core.home.document import Home
from warmeter.core.home.timetables import ChangePoint
from warmeter.core.timegrid import LocalClock
from warmeter.core.timetable.day import blocks_of, setpoint_decisions, timetable_claims
from warmeter.core.timetable.points import merge_block, move_edge, set_block, split_at

MIN = 60_000
DAYS = st.lists(st.integers(1, 1439), max_size=6, unique=True).map(sorted)
CLAIMS = st.lists(
    st.tuples(st.sampled_from(["timetable", "base"]), st.integers(5, 30), st.integers(0, 200), st.integers(1, 120)),
    max_size=8,
)


def day_of(starts: list[int]) -> tuple[ChangePoint, ...]:
    """Return a day whose blocks go round the levels."""
    levels = ("asleep", "in-use", "idle")
    return tuple(ChangePoint(start_min=s, level_id=levels[k % 3]) for k, s in enumerate([0, *starts]))


class Arbiter(unittest.TestCase):
    @settings(deadline=None, derandomize=True, max_examples=80)
    @given(CLAIMS, st.one_of(st.none(), st.integers(8, 15)), st.one_of(st.none(), st.integers(20, 28)))
    def test_every_minute_is_decided_as_the_rule_says(
        self, rows: list[tuple[str, int, int, int]], low: int | None, high: int | None
    ) -> None:
        claims = [
            Claim(kind=k, value=float(v), from_ms=a * MIN, until_ms=(a + n) * MIN, reason="") for k, v, a, n in rows
        ]
        base = Claim(kind="base", value=17.0, from_ms=0, until_ms=240 * MIN, reason="found")
        guard = Guard(low=None if low is None else float(low), high=None if high is None else float(high))
        found = by_minute(decisions(claims, base, [guard], 0, 240 * MIN), 0, 240 * MIN)
        for minute in range(240):
            best = base
            for claim in claims:
                if not claim.from_ms <= minute * MIN < (claim.until_ms or 0):
                    continue
                stronger = PRIORITY[claim.kind] > PRIORITY[best.kind]
                equal = PRIORITY[claim.kind] == PRIORITY[best.kind]
                if best is base or stronger or (equal and claim.from_ms >= best.from_ms):
                    best = claim
            value = best.value
            value = value if low is None else max(value, low)
            value = value if high is None else min(value, high)
            self.assertEqual(found[minute], value, minute)

    @settings(deadline=None, derandomize=True, max_examples=40)
    @given(CLAIMS)
    def test_decisions_change_each_time_and_begin_at_the_start(self, rows: list[tuple[str, int, int, int]]) -> None:
        claims = [
            Claim(kind=k, value=float(v), from_ms=a * MIN, until_ms=(a + n) * MIN, reason="") for k, v, a, n in rows
        ]
        base = Claim(kind="base", value=17.0, from_ms=0, until_ms=1, reason="found")
        found = decisions(claims, base, [], 0, 400 * MIN)
        self.assertEqual(found[0].at_ms, 0)
        self.assertTrue(all(a.at_ms < b.at_ms and a != b for a, b in itertools.pairwise(found)))
        self.assertEqual(found[-1].claim, base)


class Edits(unittest.TestCase):
    @settings(deadline=None, derandomize=True, max_examples=60)
    @given(DAYS, st.integers(0, 6), st.integers(-100, 1600))
    def test_no_edit_makes_a_hole_or_an_overlap(self, starts: list[int], index: int, minute: int) -> None:
        day = day_of(starts)
        edits: tuple[Callable[[], tuple[ChangePoint, ...]], ...] = (
            lambda: move_edge(day, index, minute),
            lambda: split_at(day, minute, day[-1]),
            lambda: merge_block(day, index),
            lambda: set_block(day, index, level_id="idle", own_setpoint_c=18.5),
        )
        for edit in edits:
            try:
                changed = edit()
            except (ValueError, IndexError):
                continue
            times = [point.start_min for point in changed]
            self.assertEqual(times, sorted(set(times)))
            self.assertTrue(all(0 <= t < 1440 for t in times))

    @settings(deadline=None, derandomize=True, max_examples=60)
    @given(
        DAYS, st.sampled_from(["Europe/London", "Australia/Lord_Howe", "America/Santiago", "UTC"]), st.integers(0, 364)
    )
    def test_blocks_fill_every_local_day_without_gap(self, starts: list[int], zone: str, offset: int) -> None:
        home, clock = with_day(small_home(zone), *day_of(starts)), LocalClock(zone)
        day = clock.day(date(2026, 1, 1) + timedelta(days=offset))
        blocks = blocks_of(home, home.zones[0], day, clock)
        self.assertEqual((blocks[0].from_ms, blocks[-1].until_ms), (day.start_ms, day.end_ms))
        for before, after in itertools.pairwise(blocks):
            self.assertEqual(before.until_ms, after.from_ms)

    @settings(deadline=None, derandomize=True, max_examples=40)
    @given(DAYS, st.sampled_from(["Europe/London", "America/Santiago"]), st.integers(0, 364))
    def test_the_setpoint_is_that_of_the_wall_clock(self, starts: list[int], zone: str, offset: int) -> None:
        home, clock = with_day(small_home(zone), *day_of(starts)), LocalClock(zone)
        day = clock.day(date(2026, 1, 1) + timedelta(days=offset))
        asked = setpoint_decisions(
            home,
            home.zones[0],
            timetable_claims(blocks_of(home, home.zones[0], day, clock), {}),
            day.start_ms,
            day.end_ms,
        )
        found = by_minute(asked, day.start_ms, day.end_ms)
        at = day.start_ms + np.arange(found.size, dtype=np.int64) * MIN
        _, wall = clock.local_minutes(at)
        # Where the clock runs straight through the day, each minute has the level of its own time.
        if day.hours == 24:
            self.assertEqual(found.tolist(), [self.asked_at(home, int(minute)) for minute in wall])

    def asked_at(self, home: Home, minute: int) -> float:
        point = [p for p in home.zones[0].timetables[0].usual if p.start_min <= minute][-1]
        return max(home.level(point.level_id).heating_c, home.guard.low_c)
