"""A sensor that has said nothing for long."""

import unittest

from tests.rules_at_work import ROOM, AtWork, scope, track
from warmeter.core.home.conditions.silent import Silent
from warmeter.core.truth.truth import FALSE, TRUE


class Silence(AtWork):
    def test_silent_is_told_after_the_last_report_and_never_by_a_report_at_the_very_end(self) -> None:
        log = scope(1, tracks={ROOM: track((0, 20.0), (600, 20.0), (1800, 20.0))})
        self.assertEqual(
            self.told(Silent(of=ROOM, for_s=600), log), [(0, FALSE), (1200, TRUE), (1800, FALSE), (2400, TRUE)]
        )


if __name__ == "__main__":
    unittest.main()
