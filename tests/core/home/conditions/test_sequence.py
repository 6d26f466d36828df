"""One thing after another within a time."""

import unittest

from tests.rules_at_work import AtWork, scope, track
from warmeter.core.home.conditions.condition import Signal
from warmeter.core.home.conditions.in_state import InState
from warmeter.core.home.conditions.sequence import Sequence
from warmeter.core.truth.truth import FALSE, TRUE


class InSequence(AtWork):
    def test_a_sequence_is_told_unless_the_third_comes(self) -> None:
        motion, door = Signal(quantity="motion", subject_id="m"), Signal(quantity="is_open", subject_id="d")
        leaves = Sequence(
            first=InState(of=motion), then=InState(of=door), within_s=60, unless=InState(of=motion), cancel_s=300
        )
        tracks = {
            motion: track((0, 0), (600, 1), (620, 0), (2000, 1), (2010, 0), (2200, 1), (2210, 0)),
            door: track((0, 0), (640, 1), (650, 0), (2030, 1), (2040, 0)),
        }
        # The second time somebody moves again inside: nobody has left.
        self.assertEqual(self.told(leaves, scope(2, tracks=tracks))[:2], [(0, FALSE), (940, TRUE)])
        self.assertEqual(len(self.told(leaves, scope(2, tracks=tracks))), 3)


if __name__ == "__main__":
    unittest.main()
