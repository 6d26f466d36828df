"""The home: out when the last has left, in when the first is on the way, held in by whoever is seen."""

import unittest

import numpy as np

from warmeter.core.presence.home_presence import HomePresence, PersonTrack, home_presence
from warmeter.core.presence.presence_states import PresenceState
from warmeter.core.truth.truth import FALSE, TRUE, UNKNOWN, from_changes

S, END = 1000, 10_000
AT_ONCE: dict[PresenceState, int] = {"in": 0, "out": 0, "not_known": 0}


def person(name: str, *changes: tuple[int, int], way: tuple[tuple[int, bool], ...] = ()) -> PersonTrack:
    at = np.array([t * S for t, _ in changes], dtype=np.int64)
    value = np.array([word for _, word in changes], dtype=np.int8)
    return PersonTrack(
        name=name, state=from_changes(at, value, 0, END * S), way_reports=tuple((t * S, told) for t, told in way)
    )


def home(*persons: PersonTrack, **more: list[tuple[int, int]]) -> HomePresence:
    stretches = {key: [(a * S, b * S) for a, b in rows] for key, rows in more.items()}
    return home_presence(
        persons,
        guests=stretches.get("guests", []),
        seen=stretches.get("seen", []),
        way_max_ms=1800 * S,
        least_ms=AT_ONCE,
        initial="not_known",
        start_ms=0,
        end_ms=END * S,
    )


def told(found: HomePresence) -> list[tuple[int, int, str | None]]:
    rows = zip(found.state.at_ms.tolist(), found.state.value.tolist(), found.by, strict=True)
    return [(t // S, v, by) for t, v, by in rows]


class Home(unittest.TestCase):
    def test_it_is_out_with_the_last_and_in_with_the_first_on_the_way(self) -> None:
        orla = person("Orla", (0, TRUE), (1000, FALSE), (6000, TRUE), way=((5000, True),))
        bram = person("Bram", (0, TRUE), (2000, FALSE))
        self.assertEqual(
            told(home(orla, bram)), [(0, TRUE, "Orla"), (2000, FALSE, "Bram"), (5000, TRUE, "on the way: Orla")]
        )

    def test_a_way_that_is_taken_back_or_too_old_is_over(self) -> None:
        gone = person("Orla", (0, FALSE), way=((1000, True), (1200, False), (4000, True)))
        self.assertEqual(
            [row[:2] for row in told(home(gone))],
            [(0, FALSE), (1000, TRUE), (1200, FALSE), (4000, TRUE), (5800, FALSE)],
        )

    def test_one_who_is_not_known_keeps_the_home_from_out(self) -> None:
        found = home(person("Orla", (0, FALSE)), person("Bram", (0, UNKNOWN), (3000, FALSE)))
        self.assertEqual(told(found), [(0, UNKNOWN, "Bram"), (3000, FALSE, "Bram")])

    def test_guests_and_whoever_is_seen_hold_it_in_and_nobody_makes_it_known(self) -> None:
        away = person("Orla", (0, FALSE))
        self.assertEqual(
            told(home(away, guests=[(100, 200)], seen=[(300, 400)])),
            [
                (0, FALSE, "Orla"),
                (100, TRUE, "guests"),
                (200, FALSE, "Orla"),
                (300, TRUE, "somebody seen"),
                (400, FALSE, "Orla"),
            ],
        )
        self.assertEqual(told(home()), [(0, UNKNOWN, None)])


if __name__ == "__main__":
    unittest.main()
