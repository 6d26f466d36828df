"""Topics and patterns: the examples of MQTT 3.1.1, 4.7, and what is no pattern."""

import unittest

from warmeter.core.errors import ReadingError
from warmeter.core.link.topic_pattern import check_pattern, check_topic, is_matching, level_of


class Patterns(unittest.TestCase):
    def test_the_examples_of_the_standard(self) -> None:
        for pattern, topic, expected in (
            ("sport/tennis/player1/#", "sport/tennis/player1", True),
            ("sport/tennis/player1/#", "sport/tennis/player1/ranking", True),
            ("sport/tennis/player1/#", "sport/tennis/player1/score/wimbledon", True),
            ("sport/tennis/+", "sport/tennis/player1", True),
            ("sport/tennis/+", "sport/tennis/player1/ranking", False),
            ("sport/+", "sport", False),
            ("sport/+", "sport/", True),
            ("+/+", "/finance", True),
            ("/+", "/finance", True),
            ("+", "/finance", False),
            ("#", "$SYS/load", False),
            ("+/monitor/Clients", "$SYS/monitor/Clients", False),
            ("$SYS/#", "$SYS/load", True),
            ("home/kitchen", "home/Kitchen", False),
        ):
            with self.subTest(pattern=pattern, topic=topic):
                self.assertIs(is_matching(pattern, topic), expected)

    def test_what_is_no_pattern_is_refused_with_what_to_do(self) -> None:
        for pattern in ("home/room#", "home/#/x", "home/ro+m", "", "a\nb", "x" * 201, "/".join("a" * 30)):
            with self.subTest(pattern), self.assertRaises(ReadingError):
                check_pattern(pattern)
        with self.assertRaisesRegex(ReadingError, "one topic"):
            check_topic("home/+/set")
        check_topic("home/kitchen/set")

    def test_a_word_by_its_place(self) -> None:
        self.assertEqual([level_of("a/b/c", k) for k in (0, 2, 3)], ["a", "c", ""])
