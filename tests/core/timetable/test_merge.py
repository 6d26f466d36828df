"""A day fitted to a device (O3) against trying everything."""

import itertools
import unittest

from hypothesis import given, settings
from hypothesis import strategies as st

from warmeter.core.errors import HomeError
from warmeter.core.timetable.merge import BlockPiece, merge_blocks

DAYS = st.lists(st.integers(1, 95), max_size=4, unique=True).map(lambda xs: [0, *sorted(x * 15 for x in xs)])


def brute(day: list[BlockPiece], most: int, step: int, values: list[float]) -> tuple:  # type: ignore[type-arg]
    """Return the best (error, pieces, too cold, edges, values) of all pieces on the grid, in mK min."""
    minutes = [round(1000 * next(p for p in reversed(day) if p.from_min <= m).setpoint_c) for m in range(1440)]
    slots = 1440 // step
    off: dict[tuple[int, float], int] = {}
    cold: dict[tuple[int, float], int] = {}
    for slot, value in itertools.product(range(slots), values):
        part, at = minutes[slot * step : (slot + 1) * step], round(1000 * value)
        off[slot, value] = sum(abs(wanted - at) for wanted in part)
        cold[slot, value] = sum(max(0, wanted - at) for wanted in part)
    best = None
    for count in range(1, most + 1):
        for edges in itertools.combinations(range(1, slots), count - 1):
            cuts = [0, *edges, slots]
            for chosen in itertools.product(values, repeat=count):
                if any(a == b for a, b in itertools.pairwise(chosen)):
                    continue
                where = [(slot, chosen[k]) for k in range(count) for slot in range(cuts[k], cuts[k + 1])]
                found = (
                    sum(off[at] for at in where),
                    count,
                    sum(cold[at] for at in where),
                    tuple(cut * step for cut in cuts[:-1]),
                    tuple(chosen),
                )
                best = found if best is None or found < best else best
    assert best is not None
    return best


class Merge(unittest.TestCase):
    @settings(deadline=None, derandomize=True, max_examples=25)
    @given(DAYS, st.lists(st.sampled_from([15.0, 17.0, 18.5, 21.0]), min_size=5, max_size=5), st.integers(1, 3))
    def test_as_good_as_trying_everything(self, starts: list[int], setpoints: list[float], most: int) -> None:
        day = [BlockPiece(at, setpoints[k]) for k, at in enumerate(starts)]
        values = sorted({p.setpoint_c for p in day})
        found = merge_blocks(day, most=most, step_min=180)
        error, count, cold, edges, chosen = brute(day, most, 180, values)
        self.assertEqual(tuple(p.from_min for p in found.pieces), edges)
        self.assertEqual((tuple(p.setpoint_c for p in found.pieces), len(found.pieces)), (chosen, count))
        self.assertAlmostEqual(found.error_kh, error / 60_000, places=9)
        self.assertAlmostEqual(found.below_kh, cold / 60_000, places=9)
        self.assertAlmostEqual(found.below_kh + found.above_kh, found.error_kh, places=9)

    def test_a_device_without_the_day_s_values_takes_the_nearest(self) -> None:
        found = merge_blocks(
            [BlockPiece(0, 17.4), BlockPiece(360, 20.6)], most=4, step_min=60, allowed_c=[17.0, 20.5, 25.0]
        )
        self.assertEqual([p.setpoint_c for p in found.pieces], [17.0, 20.5])
        self.assertAlmostEqual(found.error_kh, 6 * 0.4 + 18 * 0.1)

    def test_what_makes_no_sense_is_refused(self) -> None:
        day = [BlockPiece(0, 17.0), BlockPiece(60, 20.0)]
        for given_day, most, step, allowed in (
            ([BlockPiece(5, 17.0)], 3, 60, None),
            ([BlockPiece(0, 17.0), BlockPiece(0, 18.0)], 3, 60, None),
            (day, 0, 60, None),
            (day, 3, 7, None),
            (day, 3, 60, []),
        ):
            with self.assertRaises(HomeError):
                merge_blocks(given_day, most=most, step_min=step, allowed_c=allowed)
