"""A thing that is in one of two states."""

import unittest

from tests.rules_at_work import ROOM, AtWork, scope, track
from warmeter.core.home.conditions.in_state import InState
from warmeter.core.truth.truth import TRUE, UNKNOWN


class InAState(AtWork):
    def test_reports_without_a_value_are_none(self) -> None:
        log = scope(1, tracks={ROOM: track((0, 20.0), (600, float("nan")))})
        self.assertEqual(self.told(InState(of=ROOM), log, stale_s=900), [(0, TRUE), (900, UNKNOWN)])


if __name__ == "__main__":
    unittest.main()
