"""Tasks: phases with their sums, what waits for somebody, what is late on the first page."""

from dataclasses import replace
from datetime import date
from decimal import Decimal

from tests.drawn import drawn_home
from tests.web.test_pages import Case, plain_spaces
from warmeter.core.explain.roll_out import phases_of, waiting_for
from warmeter.core.home.document import Home
from warmeter.core.home.tasks import Task


class RollOut(Case):
    def test_sums_of_what_is_open_and_what_has_none(self) -> None:
        tasks = (
            Task(id="a", what="Valve", phase=2, priority=2, price=Decimal("120.50"), hours=1.5),
            Task(id="b", what="Wire", phase=2, priority=1, price=Decimal("80"), asked="A. Electrician"),
            Task(id="c", what="Probe", phase=1, hours=0.5),
            Task(id="d", what="Old", phase=2, price=Decimal("999"), hours=9.0, done_on=date(2026, 1, 3)),
        )
        first, second = phases_of(replace(drawn_home(), tasks=tasks))
        self.assertEqual((first.number, first.price, first.unpriced, first.hours), (1, Decimal(0), 1, 0.5))
        self.assertEqual([t.id for t in second.tasks], ["b", "a", "d"])
        self.assertEqual((second.price, second.hours), (Decimal("200.50"), 1.5))
        self.assertEqual((second.unpriced, second.untimed, second.done), (0, 1, 1))

    def test_what_waits_the_latest_first(self) -> None:
        def task(key: str, due: date | None, asked_on: date | None = None, done: bool = False) -> Task:
            asked = "" if key == "nobody" else "Somebody"
            return Task(
                id=key, what=key, asked=asked, due_on=due, asked_on=asked_on, done_on=date(2026, 1, 1) if done else None
            )

        tasks = (
            task("later", date(2026, 3, 10)),
            task("late", date(2026, 2, 20)),
            task("nobody", date(2026, 2, 1)),
            task("done", date(2026, 2, 1), done=True),
            task("undated", None, date(2026, 2, 1)),
        )
        found = waiting_for(replace(drawn_home(), tasks=tasks), date(2026, 3, 1))
        self.assertEqual([(t.id, days) for t, days in found], [("late", -9), ("later", 9), ("undated", 28)])


class TasksPage(Case):
    @classmethod
    def home(cls) -> Home:
        """Return two rooms."""
        return drawn_home(id="home1")

    def send(self, command: str, **values: str) -> int:
        base = self.client.get("/homes/home1/tasks").text.split('data-revision="')[1].split('"')[0]
        return int(self.client.post(f"/homes/home1/tasks/{command}", data={"base": base, **values}).status_code)

    def task(self) -> Task:
        return self.app.homes.load("home1")[0].tasks[0]

    def page(self) -> str:
        return plain_spaces(self.client.get(f"/homes/home1/tasks?at={self.task().id}").text)

    def test_from_what_is_to_be_done_to_its_proof(self) -> None:
        self.assertEqual(self.send("add", what="Sensor of the den moved", phase="2"), 200)
        key = self.task().id
        self.send("set", id=key, price="40", hours="1.5", asked="J. Hand", asked_on="2026-01-02", due_on="2026-01-09")
        self.send("chase", id=key, on="2026-01-12")
        page = self.page()
        self.assertTrue("Phase 2" in page)
        self.assertTrue("1 open, 0 done; £40; 1.5 h" in page)
        self.assertTrue("J. Hand" in page)
        self.assertTrue("again 12/01" in page)
        self.assertTrue("days late" in page)
        self.assertTrue("Sensor of the den moved was due on 09/01" in self.client.get("/homes/home1/matters").text)
        self.send("finish", id=key, on="2026-01-20", proof="invoice 17")
        self.assertEqual((self.task().done_on, self.task().proof), (date(2026, 1, 20), "invoice 17"))
        self.assertFalse("days late" in self.page())
        self.send("finish", id=key, undo="on")
        self.assertIsNone(self.task().done_on)

    def test_due_before_it_was_asked_is_refused(self) -> None:
        self.send("add", what="Wire")
        self.assertEqual(self.send("set", id=self.task().id, asked_on="2026-02-02", due_on="2026-02-01"), 422)
        self.assertIsNone(self.task().due_on)
