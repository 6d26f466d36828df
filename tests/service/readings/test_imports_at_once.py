"""Several files at once, into one home and into others: all are taken, none waits for ever, the sum is right."""

import unittest
from concurrent.futures import ThreadPoolExecutor
from dataclasses import replace
from threading import Barrier

from hypothesis import given, settings
from hypothesis import strategies as st

from tests.homes import small_home
from tests.served import fresh_app
from warmeter.service.app import App, Person
from warmeter.service.homes import editing
from warmeter.service.readings import logs
from warmeter.store.engine import DatabaseBusy, in_transaction
from warmeter.store.readings import Merged

ANN = Person("Ann")
HOMES = ("home1", "home2", "home3")
START_MS = 1_767_225_600_000  # 2026-01-01, in London
AT_ONCE = 8
# (home, first ten minutes since the 1st, how many, value): files that overlap, days apart too.
FILES = st.lists(
    st.tuples(st.sampled_from(HOMES), st.integers(0, 600), st.integers(3, 300), st.integers(15, 25)),
    min_size=AT_ONCE,
    max_size=AT_ONCE,
)


def log_of(first: int, count: int, value: int) -> str:
    """Return a log of one room, ten minutes apart."""
    times = [divmod(first + k, 144) for k in range(count)]
    lines = [f"2026-01-{day + 1:02} {m // 6:02}:{m % 6}0,{value}" for day, m in times]
    return "\n".join(["time,Study °C", *lines])


class AtOnce(unittest.TestCase):
    def make_homes(self) -> App:
        app = fresh_app()
        for name in HOMES:
            editing.create_home(app, replace(small_home(), id=name), ANN)
        return app

    def take_all(self, app: App, files: list[tuple[str, int, int, int]]) -> list[Merged]:
        """Read all files in, begun at one instant."""
        start = Barrier(len(files))

        def take(file: tuple[str, int, int, int]) -> Merged:
            home_id, *rest = file
            upload = logs.keep_upload(app, "log.csv", [log_of(*rest).encode()])
            home, _ = app.homes.load(home_id)
            plan = logs.proposal(app, home, upload).suggested
            start.wait()
            return logs.take(app, home_id, upload, plan, ANN)

        with ThreadPoolExecutor(len(files)) as pool:
            return list(pool.map(take, files))

    @settings(max_examples=12, deadline=None, derandomize=True)
    @given(FILES)
    def test_eight_files_at_once_are_all_taken_and_each_reading_once(
        self, files: list[tuple[str, int, int, int]]
    ) -> None:
        app = self.make_homes()
        merged = self.take_all(app, files)
        for home_id in HOMES:
            offered: dict[int, set[float]] = {}
            for _, first, count, value in (f for f in files if f[0] == home_id):
                for k in range(first, first + count):
                    offered.setdefault(k, set()).add(float(value))
            stored = {}
            for series in app.readings.series(home_id):
                found = app.readings.readings(series.id)
                tens = ((found.at_ms - START_MS) // 600_000).tolist()
                stored = dict(zip(tens, found.value.tolist(), strict=True))
            self.assertEqual(set(stored), set(offered))
            self.assertTrue(all(value in offered[k] for k, value in stored.items()))
            mine = [m for f, m in zip(files, merged, strict=True) if f[0] == home_id]
            self.assertEqual(sum(m.added for m in mine), len(offered))
            self.assertEqual(app.homes.load(home_id)[1], 1 + sum(m.added > 0 for m in mine))

    def test_a_transaction_that_others_end_is_tried_again_and_at_last_told(self) -> None:
        app, tries = self.make_homes(), []

        def always_in_the_way(_: object) -> None:
            tries.append(1)
            raise DatabaseBusy

        with self.assertRaises(DatabaseBusy):
            in_transaction(app.engine, always_in_the_way)
        self.assertEqual(len(tries), 4)


if __name__ == "__main__":
    unittest.main()
