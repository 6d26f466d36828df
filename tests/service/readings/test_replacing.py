"""Values that differ from stored ones: kept or taken, and every take-back exact, against a stack of values per instant."""

import random
import unittest
from dataclasses import replace

from tests.homes import small_home
from tests.served import fresh_app
from warmeter.core.errors import NotKnowable
from warmeter.service.app import Person
from warmeter.service.homes import editing
from warmeter.service.readings import logs

ANN = Person("Ann")
HOUR_MS, FIRST_MS = 3_600_000, 1_767_571_200_000  # 5 January 2026, 00:00 UTC


class Stacks:
    """Of each hour the values that stand over each other, the topmost last, each with its import."""

    def __init__(self) -> None:
        self.stacks: dict[int, list[tuple[str, float]]] = {}
        self.aside: dict[str, list[tuple[int, float]]] = {}

    def put(self, name: str, values: list[tuple[int, float]], *, replaces: bool, comes_back: bool = False) -> None:
        """Lay an import's values on the stacks."""
        for hour, value in values:
            stack = self.stacks.setdefault(hour, [])
            if not stack or (replaces and stack[-1][1] != value):
                stack.append((name, value))
            elif comes_back and len(stack) == 1 and stack[-1][1] != value:
                stack.insert(0, (name, value))

    def take(self, name: str) -> None:
        """Take an import's values out of every stack."""
        self.aside[name] = []
        for hour, stack in self.stacks.items():
            self.aside[name] += [(hour, value) for owner, value in stack if owner == name]
            stack[:] = [each for each in stack if each[0] != name]

    def seen(self) -> list[tuple[int, float]]:
        """Return what stands on top."""
        return sorted((hour, stack[-1][1]) for hour, stack in self.stacks.items() if stack)


class Replacing(unittest.TestCase):
    def setUp(self) -> None:
        self.app = fresh_app()
        editing.create_home(self.app, small_home(), ANN)

    def brought(self, name: str, values: list[tuple[int, float]], *, replaces: bool) -> int:
        """Import a log of room temperatures by the hour; return its id, or 0 if it brought nothing."""
        lines = [f"{FIRST_MS + hour * HOUR_MS},{value}" for hour, value in values]
        upload = logs.keep_log(self.app, f"{name}.csv", ["\n".join(["time,study temperature °C", *lines]).encode()])
        home, _ = self.app.homes.load("home1")
        mapping = replace(logs.proposal(self.app, home, upload).suggested, replaces=replaces)
        merged = logs.take(self.app, "home1", upload, mapping, ANN)
        return merged.import_id if merged.added else 0

    def stored(self) -> list[tuple[int, float]]:
        """Return what the home's log holds, by the hour."""
        found: list[tuple[int, float]] = []
        for series in self.app.readings.series("home1"):
            held = self.app.readings.readings(series.id)
            found += zip(((held.at_ms - FIRST_MS) // HOUR_MS).tolist(), held.value.tolist(), strict=True)
        return sorted(found)

    def test_a_series_whose_log_was_taken_back_meanwhile_says_so(self) -> None:
        taken = self.brought("a", [(0, 20.0), (1, 20.5)], replaces=False)
        series = self.app.readings.series("home1")[0]
        logs.take_back(self.app, "home1", taken, ANN)
        with self.assertRaisesRegex(NotKnowable, "taken back just now"):
            self.app.readings.span(series.id)

    def test_a_different_value_is_kept_or_taken_as_asked_and_the_old_one_returns(self) -> None:
        first = [(hour, 20.0) for hour in range(60)]
        second = [(hour, 21.5 if hour % 3 == 0 else 20.0) for hour in range(30, 80)]
        self.brought("a", first, replaces=False)
        self.brought("b", second, replaces=False)
        kept = first + [(hour, value) for hour, value in second if hour >= 60]
        self.assertEqual(self.stored(), kept)
        taken = self.brought("c", second, replaces=True)
        self.assertEqual(self.stored(), first[:30] + second)
        (newest, *_) = self.app.homes.revisions("home1")
        self.assertEqual(newest.summary, "Imported 10 readings from c.csv, 10 of them in place of others")
        self.assertEqual(logs.take_back(self.app, "home1", taken, ANN), 10)
        self.assertEqual(self.stored(), kept)
        self.assertEqual(logs.bring_back(self.app, "home1", taken, ANN).replaced, 10)
        self.assertEqual(self.stored(), first[:30] + second)

    def test_any_order_of_imports_and_take_backs_is_that_of_a_stack(self) -> None:
        for seed in (41, 42, 43):
            self.setUp()
            draw, model = random.Random(seed), Stacks()
            standing: dict[str, tuple[int, bool]] = {}
            away: dict[str, tuple[int, bool]] = {}
            for step in range(24):
                act = draw.choice(["import", "import", "back", "again"])
                if act == "import":
                    name, replaces = f"log{step}", draw.random() < 0.7
                    begin = draw.randrange(40)
                    hours = range(begin, begin + draw.randint(12, 30))
                    values = [(hour, float(draw.choice([19, 20, 21]))) for hour in hours]
                    number = self.brought(name, values, replaces=replaces)
                    model.put(name, values, replaces=replaces)
                    if number:
                        standing[name] = (number, replaces)
                elif act == "back" and standing:
                    name = draw.choice(list(standing))
                    away[name] = standing.pop(name)
                    logs.take_back(self.app, "home1", away[name][0], ANN)
                    model.take(name)
                elif act == "again" and away:
                    name = draw.choice(list(away))
                    number, replaces = away.pop(name)
                    if model.aside[name]:
                        standing[name] = (number, replaces)
                        logs.bring_back(self.app, "home1", number, ANN)
                        model.put(name, model.aside.pop(name), replaces=replaces, comes_back=True)
                self.assertEqual(self.stored(), model.seen(), f"seed {seed}, step {step}: {act}")


if __name__ == "__main__":
    unittest.main()
