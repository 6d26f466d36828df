"""What changed between two looks at the list."""

import unittest
from dataclasses import replace

from warmeter.core.matters.changes import SeenLine, SeenList, changes_since

A = SeenLine(key="a", kind="money", sentence="A", width=40.0)
B = SeenLine(key="b", kind="waits", sentence="B")


class Changes(unittest.TestCase):
    def test_each_change_is_told_once_and_the_worst_first(self) -> None:
        before = SeenList(lines=(A, B, replace(A, key="c")))
        now = SeenList(lines=(replace(B, kind="danger"), replace(A, width=20.0), replace(A, key="d", sentence="D")))
        found = [(each.change, each.key) for each in changes_since(before, now)]
        self.assertEqual(found, [("worse", "b"), ("new", "d"), ("closer", "a"), ("gone", "c")])

    def test_the_same_list_has_not_changed(self) -> None:
        same = SeenList(lines=(A, B))
        self.assertEqual(changes_since(same, same), ())
        self.assertEqual(changes_since(same, replace(same, lines=(replace(A, width=38.0), B))), ())
