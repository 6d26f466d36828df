"""The limit against mould."""

import unittest

from tests.drawn import drawn_home
from warmeter.core.building.damp import damp_limit
from warmeter.core.sensing.humidity import check_mould


class DampLimits(unittest.TestCase):
    def test_at_the_limit_the_worst_corner_stands_at_eighty_percent(self) -> None:
        home = drawn_home()
        room = home.rooms[0]
        limit = damp_limit(home, room, indoor_c=18.0, rh=0.65, outdoor_c=2.0)
        assert limit is not None
        vapour = check_mould(indoor_c=18.0, outdoor_c=2.0, rh=0.65, factor=limit.factor)
        # The same air, the room as cold as the limit: the corner is just as warm as it must be.
        surface = 2.0 + limit.factor * (limit.low_c - 2.0)
        self.assertAlmostEqual(surface, vapour.least_surface_c, places=9)
        damper = damp_limit(home, room, indoor_c=18.0, rh=0.75, outdoor_c=2.0)
        colder = damp_limit(home, room, indoor_c=18.0, rh=0.65, outdoor_c=-6.0)
        assert damper is not None and colder is not None
        self.assertGreater(damper.low_c, limit.low_c)
        self.assertGreater(colder.low_c, limit.low_c)

    def test_where_it_cannot_be_known_there_is_none(self) -> None:
        home = drawn_home()
        self.assertIsNone(damp_limit(home, home.rooms[0], indoor_c=18.0, rh=0.6, outdoor_c=19.0))
        self.assertIsNone(damp_limit(home, home.rooms[0], indoor_c=18.0, rh=0.0, outdoor_c=2.0))


if __name__ == "__main__":
    unittest.main()
