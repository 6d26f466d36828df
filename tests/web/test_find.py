"""Find: what a home holds, its lines, revisions, methods and help, by words."""

import re

from tests.web.test_pages import Case, plain_spaces


class Finding(Case):
    def rows(self, asked: str) -> list[tuple[str, str, str]]:
        """Return (sort, address, name) of what some words lead to."""
        text = plain_spaces(self.client.get("/homes/home1/find", params={"q": asked}).text)
        return re.findall(r'<td class="wm-soft-text">([^<]+)</td>\s*<td><a href="([^"]+)">([^<]+)</a>', text)

    def test_each_sort_is_found_and_its_link_leads_there(self) -> None:
        for asked, sort in (
            ("study", "room"),
            ("washer", "appliance"),
            ("panel", "heater"),
            ("waits log power", "what matters"),
            ("tariff", "page"),
            ("described", "revision"),
            ("night floor", "method"),
            ("what to record", "guide"),
            ("water where", "bothers me"),
        ):
            rows = [row for row in self.rows(asked) if row[0] == sort]
            self.assertTrue(rows, asked)
            self.assertEqual(self.client.get(rows[0][1].replace("&amp;", "&")).status_code, 200, rows[0])

    def test_nothing_found_says_so(self) -> None:
        text = self.client.get("/homes/home1/find", params={"q": "zzzz"}).text
        self.assertIn("Nothing here has a word", text)

    def test_words_with_signs_are_words_only(self) -> None:
        text = self.client.get("/homes/home1/find", params={"q": '<"study">'}).text
        self.assertNotIn('<"study">', text)
        self.assertTrue("Study" in text)
