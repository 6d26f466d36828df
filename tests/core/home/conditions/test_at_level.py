"""A zone that its timetable has at a level."""

import unittest

import numpy as np

from tests.rules_at_work import NOON, AtWork, H, scope
from warmeter.core.home.conditions.at_level import AtLevel
from warmeter.core.truth.scope import LevelLine
from warmeter.core.truth.truth import FALSE, TRUE, UNKNOWN


class LevelOfTheTimetable(AtWork):
    def test_a_level_is_that_of_the_timetable(self) -> None:
        line = LevelLine(np.array([NOON - 1, NOON + 3_600_000]), ("in-use", "idle"))
        log = scope(2, levels={"kitchen": line})
        self.assertEqual(self.told(AtLevel(zone_id="kitchen", level_ids=("idle",)), log), [(0, FALSE), (H, TRUE)])
        self.assertEqual(self.told(AtLevel(zone_id="gone", level_ids=("idle",)), log), [(0, UNKNOWN)])


if __name__ == "__main__":
    unittest.main()
