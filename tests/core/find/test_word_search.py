"""Things found by the beginnings of their words."""

import unittest

from warmeter.core.find.word_search import Findable, found, plain

ROOMS = [
    Findable(sort="room", name="Kitchen"),
    Findable(sort="device", name="Kitchen air sensor", words="air sensor TH-2"),
    Findable(sort="room", name="Bäd oben"),
    Findable(sort="rule", name="Window in the kitchen", words="no heating out of it"),
]


class Words(unittest.TestCase):
    def names(self, asked: str) -> list[str]:
        return [entry.name for entry in found(ROOMS, asked)]

    def test_each_word_must_begin_one(self) -> None:
        self.assertEqual(self.names("kit sen"), ["Kitchen air sensor"])
        self.assertEqual(self.names("itchen"), [])
        self.assertEqual(self.names("room kit"), ["Kitchen"])

    def test_names_that_begin_so_come_first(self) -> None:
        self.assertEqual(self.names("kit"), ["Kitchen", "Kitchen air sensor", "Window in the kitchen"])

    def test_capitals_and_marks_do_not_matter(self) -> None:
        self.assertEqual(self.names("BAD"), ["Bäd oben"])
        self.assertEqual(plain("Élan"), "elan")

    def test_nothing_asked_finds_nothing_and_no_more_than_asked_for(self) -> None:
        self.assertEqual(self.names("  "), [])
        self.assertEqual(len(found(ROOMS, "kit", most=2)), 2)
