"""A sentence that names a step leads there, and the page behind it leads back to where one was."""

import re
from dataclasses import replace

from tests.homes import small_home
from tests.web.test_pages import Case, plain_spaces
from warmeter.core.home.document import Home
from warmeter.store.homes import Change


class StepLinks(Case):
    @classmethod
    def home(cls) -> Home:
        """Return a home without a tariff, whose room has no log."""
        return replace(small_home(), tariffs=())

    def ways(self, path: str) -> dict[str, str]:
        """Return where the words of a page's sentences lead that take one back."""
        page = plain_spaces(self.client.get(f"/homes/home1/{path}").text)
        return {word: url for url, word in re.findall(r'<a href="([^"]*back=[^"]*)">([A-Z][\w, -]*)</a>', page)}

    def test_what_a_step_lacks_leads_there_and_back(self) -> None:
        for path, word, target in (
            ("survey", "Tariff", "/homes/home1/tariff"),
            ("warmup", "Import", "/homes/home1/import"),
        ):
            with self.subTest(path):
                ways = self.ways(path)
                self.assertIn(word, ways)
                self.assertTrue(ways[word].startswith(f"{target}?back="), ways[word])
                there = plain_spaces(self.client.get(ways[word].replace("&amp;", "&")).text)
                self.assertIn(f'href="/homes/home1/{path}"', there.replace("&amp;", "&"))

    def test_words_of_a_person_are_never_markup(self) -> None:
        home, base = self.app.homes.load("home1")
        named = replace(home.rooms[0], name='<b onclick="x">under Tariff</b>')
        self.app.homes.save(
            replace(home, rooms=(named,)), Change(base=base, author="Ann", summary="x", at_ms=self.app.now_ms())
        )
        for path in ("survey", "zones?pane=checks", "warmup", "matters"):
            self.assertNotIn('<b onclick="x">', self.client.get(f"/homes/home1/{path}").text)
