"""One thing has one word: nothing that is shown says what the glossary replaces."""

import ast
import re
import unittest
from collections.abc import Iterator
from pathlib import Path
from typing import get_args

import warmeter
from tests.core.test_glossary import GLOSSARY
from tests.sources import tree_of
from warmeter.core.thermal.room_fit import ModelKind

ROOT = Path(warmeter.__file__).parent
HEADING = "## Words that screens do not say"
# What reads like one of the words and is another: a trade's term, this computer, a kind of appliance by its name.
OTHER_THINGS = re.compile(
    r"short cycl\w+|duty cycle\w*|washing machines?|coffee machines?|of this machine|stand-in \w+", re.I
)
JINJA = re.compile(r"\{#.*?#\}|\{%.*?%\}|\{\{.*?\}\}", re.S)
SAID_IN_TAGS = re.compile(r'(?:title|aria-label|placeholder)="([^"]*)"')
# Kinds that stored results carry, which pages name anew, and what people may type.
KEYS = frozenset({*get_args(ModelKind), "warm floor"})
# Modules whose strings are read by machines or by those who work on the code: words of logs, proofs, stand-ins.
NOT_SHOWN = ("cli", "simulators", "store", "core/readings/column_words.py", "core/readings/column_values.py")


def replaced_words() -> list[tuple[str, str]]:
    """Return each word that is not said, with what is said instead."""
    text = GLOSSARY.read_text(encoding="utf-8").partition(HEADING)[2]
    cells = [line.strip("|").split("|") for line in text.splitlines() if line.startswith("| ")][1:]
    return [(word.strip(), instead.strip()) for left, instead in cells for word in left.split(",")]


def shown_by_template(path: Path) -> str:
    """Return what a template shows: its text, and what its tags say to hand and ear."""
    bare = JINJA.sub(" … ", path.read_text(encoding="utf-8"))
    said = " . ".join(SAID_IN_TAGS.findall(bare))
    return " ".join(f"{re.sub(r'<[^>]*>', ' ', bare)} . {said}".split())


def shown_by_module(path: Path) -> Iterator[str]:
    """Yield a module's strings that are words for people: no docstring, no key."""
    tree = tree_of(path)
    silent = {id(node.value) for node in ast.walk(tree) if isinstance(node, ast.Expr)}
    for node in ast.walk(tree):
        if isinstance(node, ast.Constant) and isinstance(node.value, str) and id(node) not in silent:
            yield from {node.value} - KEYS if " " in node.value else ()


class Words(unittest.TestCase):
    def setUp(self) -> None:
        self.words = replaced_words()
        self.said = re.compile("|".join(rf"\b{re.escape(word)}\b" for word, _ in self.words), re.I)

    def assert_plain(self, where: str, text: str) -> None:
        found = self.said.search(OTHER_THINGS.sub("", text))
        if found:
            instead = next(new for word, new in self.words if word.lower() == found.group().lower())
            self.fail(f"{where} says “{found.group()}” in “{text[:160]}”; the glossary says: {instead}")

    def test_the_glossary_replaces_words(self) -> None:
        self.assertGreater(len(self.words), 35)
        with self.assertRaises(AssertionError):
            self.assert_plain("a page", "Read in a log of this machine's night.")

    def test_templates(self) -> None:
        for path in sorted((ROOT / "web" / "templates").rglob("*.html")):
            with self.subTest(path.name):
                self.assert_plain(path.name, shown_by_template(path))

    def test_sentences_of_modules(self) -> None:
        for path in sorted(ROOT.rglob("*.py")):
            place = path.relative_to(ROOT).as_posix()
            if place.startswith(NOT_SHOWN):
                continue
            for text in shown_by_module(path):
                with self.subTest(place):
                    self.assert_plain(place, text)

    def test_the_guide(self) -> None:
        text = (ROOT.parents[1] / "docs" / "guide.md").read_text(encoding="utf-8")
        for line in re.sub(r"`[^`]*`", "", text).splitlines():
            self.assert_plain("docs/guide.md", line)


if __name__ == "__main__":
    unittest.main()
