"""Abbreviations of the trade are explained on the pages on which they stand."""

import re
import unittest
from pathlib import Path

import warmeter
from warmeter.web.abbreviations import MEANING, abbr

TEMPLATES = Path(warmeter.__file__).parent / "web" / "templates"


class Abbreviations(unittest.TestCase):
    def test_each_says_what_it_means(self) -> None:
        for short, meaning in MEANING.items():
            self.assertGreater(len(meaning.split()), 1)
            self.assertRegex(str(abbr(short)), rf'^<abbr title="[^"]+">{re.escape(short)}</abbr>$')

    def test_a_template_that_shows_one_explains_it(self) -> None:
        bare = re.compile(r"(?<=>)[^<>{}]*\b(COP|EER|ESPI)\b")
        for path in TEMPLATES.rglob("*.html"):
            text = path.read_text(encoding="utf-8")
            for short in bare.findall(text):
                self.assertIn(f'abbr("{short}")', text, path.name)


if __name__ == "__main__":
    unittest.main()
