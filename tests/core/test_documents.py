"""The documents agree with the code: links, commands, methods, quantities."""

import re
import unittest

from tests.places import ROOT
from warmeter.cli.parser import parser
from warmeter.cli.vectors import METHODS
from warmeter.core.quantity import QUANTITIES
from warmeter.core.units import UNITS_OF


def text_of(name: str) -> str:
    """Return a document's text."""
    return (ROOT / name).read_text(encoding="utf-8")


class Documents(unittest.TestCase):
    def test_links_lead_somewhere(self) -> None:
        for path in [
            ROOT / "README.md",
            ROOT / "CONTRIBUTING.md",
            ROOT / "THIRD-PARTY.md",
            *(ROOT / "docs").rglob("*.md"),
        ]:
            for link in re.findall(r"\]\(([^)#]+)\)", path.read_text(encoding="utf-8")):
                self.assertTrue((path.parent / link).exists(), f"{path.name}: {link}")

    def test_a_newcomer_is_led_to_files_that_are_there(self) -> None:
        places = re.findall(r"`([\w/]+(?:\.py|/))`", text_of("CONTRIBUTING.md"))
        self.assertGreater(len(places), 30)
        for place in places:
            found = [base / place for base in (ROOT, ROOT / "src" / "warmeter") if (base / place).exists()]
            self.assertTrue(
                found or place in ("routes.py", "rules.py", "view.py", "rule_finding.py", "all_rules.py"), place
            )

    def test_every_picture_is_linked_and_there_are_under_twenty(self) -> None:
        pictures = sorted((ROOT / "docs" / "screenshots").glob("*.png"))
        self.assertTrue(5 <= len(pictures) < 20)
        for picture in pictures:
            self.assertIn(f"docs/screenshots/{picture.name}", text_of("README.md"))

    def test_every_command_stands_in_the_readme(self) -> None:
        commands = next(a.choices for a in parser()._actions if a.dest == "command")
        for command in commands or ():
            self.assertIn(command, text_of("README.md"))

    def test_every_method_has_its_place_in_the_methods(self) -> None:
        text = text_of("docs/methods/README.md")
        for method in METHODS:
            letter, number = re.match(r"([A-Z])(\d+)\.", method).groups()  # type: ignore[union-attr]
            spans = re.findall(rf"{letter}(\d+)(?: to {letter}(\d+))?", text)
            self.assertTrue(any(int(a) <= int(number) <= int(b or a) for a, b in spans), method)

    def test_documents_wrap_at_120_and_decisions_are_numbered_and_dated(self) -> None:
        for path in (ROOT / "README.md", ROOT / "CONTRIBUTING.md", *(ROOT / "docs").rglob("*.md")):
            is_code = False
            for number, line in enumerate(path.read_text(encoding="utf-8").splitlines(), 1):
                is_code ^= line.startswith("```")
                if not is_code and not line.startswith(("|", "    ")):
                    self.assertLessEqual(len(line), 120, f"{path.name}:{number}")
        found = re.findall(r"^- \*\*D(\d+), 2\d{3}-\d\d-\d\d\. ", text_of("docs/decisions.md"), re.MULTILINE)
        self.assertEqual([int(n) for n in found], list(range(1, len(found) + 1)))
        self.assertEqual(text_of("docs/decisions.md").count("\n- "), len(found), "each decision has its number")

    def test_every_quantity_has_units_a_meaning_and_a_range(self) -> None:
        for key, quantity in QUANTITIES.items():
            self.assertEqual(quantity.key, key)
            self.assertIn(quantity.unit, UNITS_OF[key])
            self.assertLess(quantity.low, quantity.high)
            self.assertTrue(quantity.meaning.endswith("."))

    def test_no_document_names_a_machine_or_an_address(self) -> None:
        for path in [
            ROOT / "README.md",
            ROOT / "CONTRIBUTING.md",
            *(ROOT / "docs").rglob("*.md"),
            *(ROOT / "requirements").glob("*"),
        ]:
            text = path.read_text(encoding="utf-8")
            self.assertIsNone(re.search(r"(?<!\w)/(work|home|root)/|https?://(?!127\.0\.0\.1)", text), path.name)
