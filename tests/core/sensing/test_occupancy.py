"""Motion as a witness that somebody is in: by hand, and against a plain walk second by second."""

import unittest

import numpy as np

from warmeter.core.sensing.occupancy import use_by_motion

S = 1000


def reports(*rows: tuple[float, float]) -> tuple[np.ndarray, np.ndarray]:
    return np.array([round(at * S) for at, _ in rows], dtype=np.int64), np.array([v for _, v in rows])


def told(*sensors: tuple[np.ndarray, np.ndarray], wait: int | None = 300) -> list[tuple[float, float]]:
    at, value = use_by_motion(sensors, wait)
    return [(t / S, v) for t, v in zip(at.tolist(), value.tolist(), strict=True)]


class UseByMotion(unittest.TestCase):
    def test_empty_only_so_long_after_the_last_motion(self) -> None:
        self.assertEqual(told(reports((0, 1), (60, 0))), [(0, 1), (360, 0)])
        self.assertEqual(told(reports((0, 1), (60, 0), (200, 1), (220, 0))), [(0, 1), (200, 1), (520, 0)])

    def test_a_motion_at_the_very_end_of_the_wait_goes_on(self) -> None:
        self.assertEqual(told(reports((0, 1), (60, 0), (360, 1), (400, 0))), [(0, 1), (360, 1), (700, 0)])

    def test_where_people_keep_still_motion_never_says_that_nobody_is_there(self) -> None:
        self.assertEqual(told(reports((0, 1), (60, 0), (4000, 1), (4060, 0)), wait=None), [(0, 1), (4000, 1)])

    def test_two_sensors_are_empty_when_both_are(self) -> None:
        a, b = reports((0, 1), (60, 0)), reports((30, 1), (500, 0))
        self.assertEqual(told(a, b), [(0, 1), (30, 1), (800, 0)])

    def test_against_a_walk_by_the_second(self) -> None:
        rng = np.random.default_rng(11)
        for _ in range(20):
            sensors = []
            for _ in range(int(rng.integers(1, 4))):
                at = np.sort(rng.choice(4000, 12, replace=False)).astype(np.int64)
                sensors.append((at * S, (np.arange(12) % 2 == 0).astype(float)))
            at, value = use_by_motion(sensors, 300)
            moving, last = np.zeros((len(sensors), 5000), dtype=bool), -(10**9)
            for k, (when, what) in enumerate(sensors):
                for t, v in zip(when // S, what, strict=True):
                    moving[k, t:] = v > 0.5
            in_use = []
            for second in range(5000):
                last = second if moving[:, second].any() else last
                in_use.append(second <= last or second - last <= 300 if last >= 0 else False)
            place = np.searchsorted(at // S, np.arange(5000), side="right") - 1
            said = np.where(place >= 0, value[np.maximum(place, 0)], 0.0) > 0.5
            # The off comes a second after the last second of motion.
            self.assertLessEqual(int((said != np.array(in_use)).sum()), 2 * len(at))
            edges = np.flatnonzero(np.diff(said.astype(int)) < 0)
            for edge in edges:
                self.assertFalse(moving[:, max(0, edge - 299) : edge + 1].any())


if __name__ == "__main__":
    unittest.main()
