"""A home compiled to run room by room against what follows from its document."""

import unittest
from dataclasses import replace

import numpy as np

from tests.drawn import drawn_home
from warmeter.core.building.compiled import compile_home
from warmeter.core.building.losses import surveyed_room
from warmeter.core.home.plant import Source
from warmeter.service.homes.demo import demo_home


class Compiled(unittest.TestCase):
    def test_sources_give_by_their_kind(self) -> None:
        home = drawn_home()
        kinds = (
            home.sources[0],
            Source(id="pump", name="Pump", kind="heat_pump", cop_points=((-5.0, 2.0), (5.0, 4.0))),
            Source(id="wire", name="Wire", kind="direct", most_w=3000.0),
        )
        third = replace(home.heaters[1], id="third", source_id="wire")
        heaters = (home.heaters[0], replace(home.heaters[1], source_id="pump"), third)
        compiled = compile_home(replace(home, sources=kinds, heaters=heaters))
        found = compiled.efficiency(np.array([-5.0, 0.0, 20.0]))
        np.testing.assert_allclose(found, [[0.9, 0.9, 0.9], [2.0, 3.0, 4.0], [1.0, 1.0, 1.0]])
        np.testing.assert_allclose(compiled.most_w, [np.inf, np.inf, 3000.0])

    def test_walls_between_rooms_join_their_fabrics_both_ways_alike(self) -> None:
        home = drawn_home()
        compiled = compile_home(home)
        stores = [surveyed_room(home, r).fabric_j_k for r in home.rooms]
        there, back = compiled.a[1, 4] * stores[0], compiled.a[4, 1] * stores[1]
        self.assertAlmostEqual(there, 3 * 2.5 * 1.75)
        self.assertAlmostEqual(there, back)

    def test_in_equilibrium_at_one_temperature_nothing_flows(self) -> None:
        compiled = compile_home(demo_home("sail-loft"))
        states = np.tile([7.0, 7.0, 0.0], len(compiled.room_ids))
        flow = compiled.a @ states + compiled.b[:, 0] * 7.0
        np.testing.assert_allclose(flow, 0.0, atol=1e-12)


if __name__ == "__main__":
    unittest.main()
