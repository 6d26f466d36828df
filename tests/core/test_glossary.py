"""The field's words: each stands once in the glossary, is defined where it says, and no public class has two meanings."""

import ast
import re
import unittest
from collections import Counter
from functools import cache
from pathlib import Path

import warmeter
from tests.sources import tree_of

ROOT = Path(warmeter.__file__).parent
GLOSSARY = ROOT.parents[1] / "docs" / "glossary.md"


@cache
def names_in(path: Path) -> frozenset[str]:
    """Return the names that a module defines at its top."""
    found: set[str] = set()
    for node in tree_of(path).body:
        if isinstance(node, ast.ClassDef | ast.FunctionDef):
            found.add(node.name)
        elif isinstance(node, ast.Assign):
            found |= {target.id for target in node.targets if isinstance(target, ast.Name)}
    return frozenset(found)


def rows() -> list[list[str]]:
    """Return the lines of the glossary, cell by cell."""
    terms, _, _ = GLOSSARY.read_text(encoding="utf-8").partition("\n## ")
    lines = [line for line in terms.splitlines() if line.startswith("| ")]
    return [[cell.strip() for cell in line.strip("|").split("|")] for line in lines[1:]]


class Glossary(unittest.TestCase):
    def test_each_term_stands_once_in_order_and_has_a_meaning(self) -> None:
        terms = [row[0].lower() for row in rows()]
        self.assertGreater(len(terms), 90)
        self.assertEqual(terms, sorted(set(terms)))
        self.assertTrue(all(len(row) == 5 and row[1] for row in rows()))

    def test_each_term_is_defined_where_it_says(self) -> None:
        for term, *_, place in rows():
            path, name = re.findall(r"`([^`]+)`", place)
            with self.subTest(term):
                self.assertIn(name, names_in(ROOT / path))

    def test_no_public_class_is_defined_twice(self) -> None:
        classes = Counter(
            node.name
            for path in ROOT.rglob("*.py")
            for node in tree_of(path).body
            if isinstance(node, ast.ClassDef) and not node.name.startswith("_")
        )
        self.assertEqual([name for name, count in classes.items() if count > 1], [])


if __name__ == "__main__":
    unittest.main()
