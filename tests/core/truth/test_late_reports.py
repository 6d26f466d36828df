"""Late reports: they say nothing before they were heard, and nothing about now if something newer was known."""

import unittest

import numpy as np

from warmeter.core.truth.late_reports import as_known


class Late(unittest.TestCase):
    def known(self, reports: list[tuple[int, float]], late: dict[int, int]) -> list[tuple[int, float]]:
        at = np.array([at for at, _ in reports], dtype=np.int64)
        value = np.array([value for _, value in reports])
        track = as_known(at, value, np.array(sorted(late)), np.array([late[k] for k in sorted(late)]))
        return list(zip(track.at_ms.tolist(), track.value.tolist(), strict=True))

    def test_by_hand(self) -> None:
        rows = [(10, 1.0), (20, 2.0), (30, 3.0)]
        self.assertEqual(self.known(rows, {}), rows)
        # Of 20, heard at 25: known from 25 on. Heard at 40: history only.
        self.assertEqual(self.known(rows, {20: 25}), [(10, 1.0), (25, 2.0), (30, 3.0)])
        self.assertEqual(self.known(rows, {20: 40}), [(10, 1.0), (30, 3.0)])
        # A batch of three, heard at once: the newest of them counts.
        self.assertEqual(self.known(rows, {10: 50, 20: 50, 30: 50})[-1], (50, 3.0))

    def test_as_one_who_listens_would_have_known(self) -> None:
        rng = np.random.default_rng(4)
        for _ in range(200):
            at = np.unique(rng.integers(0, 100, 12))
            value = rng.normal(size=at.size)
            heard = {int(t): int(t + rng.integers(0, 40)) for t in at if rng.random() < 0.5}
            found = self.known(list(zip(at.tolist(), value.tolist(), strict=True)), heard)
            for now in range(150):
                told = [(t, v) for t, v in zip(at.tolist(), value.tolist(), strict=True) if heard.get(t, t) <= now]
                expected = max(told, default=(0, None))[1]
                self.assertEqual([v for t, v in found if t <= now][-1:] or [None], [expected])
