"""What undo and redo would take, told from the newest revisions alone, is what the whole history says."""

import random
import unittest
from contextlib import suppress
from dataclasses import replace
from unittest import mock

from tests.edited import save_change
from tests.homes import becoming, small_home
from tests.served import fresh_app
from warmeter.service.app import Person
from warmeter.service.homes import editing
from warmeter.store import homes
from warmeter.store.homes import NothingToUndo

ANN = Person("Ann")


class RecentHistory(unittest.TestCase):
    def test_the_newest_revisions_tell_the_ends_of_the_whole_history(self) -> None:
        for seed in range(4):
            app, rng = fresh_app(), random.Random(seed)
            editing.create_home(app, small_home(), ANN)
            with mock.patch.object(homes, "RECENT", 5):
                for k in range(45):
                    base = app.homes.load("home1")[1]
                    act = rng.choice(("edit", "undo", "undo", "undo", "redo"))
                    with suppress(NothingToUndo):
                        if act == "edit":
                            named = replace(small_home(), name=f"N{k}")
                            save_change(app, "home1", base, ANN, f"{k}", becoming(named))
                        else:
                            (editing.undo if act == "undo" else editing.redo)(app, "home1", base, ANN)
                    newest, recent = app.homes.recent("home1")
                    whole = app.homes.history("home1")
                    self.assertEqual(newest[0], app.homes.revisions("home1")[0])
                    self.assertEqual(recent.done[-1:], whole.done[-1:], (seed, k, act))
                    self.assertEqual(recent.undone[-1:], whole.undone[-1:], (seed, k, act))

    def test_the_newest_named_revision_is_found_among_the_others(self) -> None:
        app = fresh_app()
        editing.create_home(app, small_home(), ANN)
        self.assertIsNone(app.homes.newest_named("home1"))
        for k in range(3):
            save_change(app, "home1", k + 1, ANN, f"{k}", lambda h, k=k: replace(h, name=f"N{k}"))  # type: ignore[misc]
        for number in (1, 3):
            app.homes.set_name("home1", number, f"as of {number}")
        found = app.homes.newest_named("home1")
        assert found is not None
        self.assertEqual((found.number, found.name), (3, "as of 3"))
        self.assertEqual([r.number for r in app.homes.revisions("home1", most=2)], [4, 3])


if __name__ == "__main__":
    unittest.main()
