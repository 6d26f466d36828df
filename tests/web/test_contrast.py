"""The tokens' contrast in both themes: 4.5 to 1 for text, 3 to 1 for marks."""

import re
import unittest
from pathlib import Path

import warmeter.web
from warmeter.web.page import STYLES

TOKENS = (Path(warmeter.web.__file__).parent / "static" / "css" / "tokens.css").read_text(encoding="utf-8")
GROUNDS = ("paper", "raised", "sunk")
TEXT = ("ink", "soft", "heat", "price", "power-text", "presence", "good", "warn", "danger-text")
MARKS = ("mark", "heat", "cool", "price", "power", "presence", "focus")


def theme(start: str) -> dict[str, str]:
    """Return the colours of a block of roles."""
    block = TOKENS[TOKENS.index(start) :]
    block = block[: block.index("}")]
    return dict(re.findall(r"--wm-([a-z-]+):(#[0-9A-Fa-f]{6})", block))


def luminance(colour: str) -> float:
    """Return the relative luminance of WCAG 2."""
    parts = [int(colour[k : k + 2], 16) / 255 for k in (1, 3, 5)]
    linear = [p / 12.92 if p <= 0.04045 else ((p + 0.055) / 1.055) ** 2.4 for p in parts]
    return 0.2126 * linear[0] + 0.7152 * linear[1] + 0.0722 * linear[2]


def contrast(one: str, other: str) -> float:
    """Return the contrast ratio."""
    high, low = sorted((luminance(one), luminance(other)), reverse=True)
    return (high + 0.05) / (low + 0.05)


class Contrast(unittest.TestCase):
    def test_text_and_marks_in_both_themes(self) -> None:
        self.assertAlmostEqual(contrast("#000000", "#FFFFFF"), 21.0)
        for name, start in (("day", ":root{\n"), ("night", ':root[data-theme="night"]')):
            colours = theme(start)
            for ground in GROUNDS:
                for roles, least in ((TEXT, 4.5), (MARKS, 3.0)):
                    for role in roles:
                        # A mark is never drawn on sunk ground.
                        if roles is MARKS and ground == "sunk":
                            continue
                        with self.subTest(theme=name, ground=ground, role=role):
                            self.assertGreaterEqual(contrast(colours[role], colours[ground]), least)
            self.assertGreaterEqual(contrast(colours["warn"], colours["warn-paper"]), 4.5)

    def test_no_colour_or_face_stands_outside_the_tokens(self) -> None:
        for path in (Path(warmeter.web.__file__).parent / "static" / "css").glob("*.css"):
            if path.name != "tokens.css":
                text = path.read_text(encoding="utf-8")
                self.assertEqual(re.findall(r"#[0-9A-Fa-f]{3,8}\b(?=[;} ])", text), [], path.name)
                self.assertNotIn('font-family: "', text, path.name)

    def test_every_class_that_is_drawn_has_a_style(self) -> None:
        web = Path(warmeter.web.__file__).parent
        sheets = "".join(path.read_text(encoding="utf-8") for path in (web / "static" / "css").glob("*.css"))
        styled = set(re.findall(r"\.(wm-[\w-]+)", sheets))
        for path in web.rglob("*.py"):
            if path != web / "floor_plan" / "file.py":  # a file of its own, with its own style
                text = path.read_text(encoding="utf-8")
                drawn = {name for words in re.findall(r'"(wm-[\w-]+(?: [\w-]+)*)"', text) for name in words.split()}
                self.assertEqual({n for n in drawn if n.startswith("wm-")} - styled, set(), path.name)

    def test_every_style_sheet_is_loaded_once_and_has_one_declaration_a_line(self) -> None:
        folder = Path(warmeter.web.__file__).parent / "static" / "css"
        self.assertEqual(sorted((*STYLES, "tokens")), sorted(path.stem for path in folder.glob("*.css")))
        for name in STYLES:
            for line in (folder / f"{name}.css").read_text(encoding="utf-8").splitlines():
                self.assertLessEqual(line.count(";"), 1, f"{name}: {line}")
                self.assertLessEqual(len(line), 120, f"{name}: {line}")
