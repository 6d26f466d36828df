"""Pages are sent again while nothing that they show has changed, and never afterwards."""

from dataclasses import replace
from unittest import mock

from tests.edited import save_change
from tests.web.test_pages import Case
from warmeter.service.app import Person
from warmeter.store.homes import HomeStore
from warmeter.web.kept_pages import KeptPages

ANN = Person("Ann")
PAGE = "/homes/home1/revisions"


class KeptPagesCase(Case):
    def drawn(self, path: str = PAGE, **cookies: str) -> tuple[str, bool]:
        """Return a page, and whether it was drawn for this."""
        with mock.patch.object(HomeStore, "recent", autospec=True, side_effect=HomeStore.recent) as frame:
            self.client.cookies.update(cookies)
            return self.client.get(path).text, frame.called

    def test_an_unchanged_page_is_not_drawn_twice(self) -> None:
        first, was_drawn = self.drawn()
        again, was_drawn_again = self.drawn()
        self.assertEqual((first, was_drawn, was_drawn_again), (again, True, False))

    def test_another_process_sends_what_the_first_drew(self) -> None:
        first, _ = self.drawn()
        self.client.app.state.pages = KeptPages(self.app)  # type: ignore[attr-defined]
        self.assertEqual(self.drawn(), (first, False))

    def test_whatever_changes_has_it_drawn_anew(self) -> None:
        work = self.app.work
        job_id = work.enqueue("home1", "fit", "study", 1, 0)
        for name, change in (
            ("an edit", lambda: save_change(self.app, "home1", 1, ANN, "x", lambda h: replace(h, name="New"))),
            ("a revision's name", lambda: self.app.homes.set_name("home1", 1, "first")),
            ("an event", lambda: self.app.events.add("home1", "hand", "z", 0, "{}", 1)),
            ("now", lambda: self.app.homes.set_as_of("home1", 5)),
            ("a job queued", lambda: work.enqueue("home1", "fit", "study", 1, 0)),
            ("a job stopped", lambda: work.ask_stop(job_id)),
            ("a job ended", lambda: work.end(job_id, "done", "Fitted")),
        ):
            self.drawn()
            self.assertFalse(self.drawn()[1], name)
            change()
            self.assertTrue(self.drawn()[1], name)

    def test_readings_have_it_drawn_anew(self) -> None:
        self.drawn()
        self.with_logs()
        self.assertTrue(self.drawn()[1])

    def test_each_name_window_and_address_has_its_own(self) -> None:
        self.drawn()
        for path, cookies in ((PAGE, {"wm_name": "Ben"}), (PAGE, {"wm_width": "900"}), (f"{PAGE}?old=1", {})):
            self.assertTrue(self.drawn(path, **cookies)[1], (path, cookies))
        self.assertIn("Ben", self.drawn(wm_name="Ben")[0])

    def test_a_home_taken_away_is_not_shown_any_more(self) -> None:
        self.drawn()
        self.app.homes.take_away("home1", 5)
        self.assertEqual(self.client.get(PAGE).status_code, 404)

    def test_how_far_a_job_is_is_never_kept(self) -> None:
        self.with_logs()
        job_id = self.app.work.enqueue("home1", "fit", "study", 1, 0)
        self.app.work.begin(job_id)
        path = "/homes/home1/warmup?room=study"
        for share in (10, 20):
            self.app.work.tell(job_id, share / 100, "Fitting")
            self.assertIn(f">{share} %<", self.client.get(path).text)
