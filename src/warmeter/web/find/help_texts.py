"""The guide and the methods as pages: their sections, read from the documents that ship with Warmeter."""

import re
from dataclasses import dataclass
from functools import cache
from pathlib import Path

DOCS = Path(__file__).parents[4] / "docs"
_HEADING = re.compile(r"^(#{2,3}) (.+)$")
_ROW = re.compile(r"^\| (.+?) \| (.+?) \| (.+?) \|$")


@dataclass(frozen=True, slots=True, kw_only=True)
class HelpSection:
    """A section of the guide or a method: its anchor, heading and text."""

    anchor: str
    heading: str
    text: str


@cache
def guide() -> tuple[HelpSection, ...]:
    """Return the guide's sections."""
    return tuple(_sections((DOCS / "guide.md").read_text(encoding="utf-8")))


@cache
def methods() -> tuple[HelpSection, ...]:
    """Return the methods, one a row of their table: what is done, and its limits."""
    rows = [_ROW.match(line) for line in (DOCS / "methods" / "README.md").read_text(encoding="utf-8").splitlines()]
    return tuple(
        HelpSection(anchor=_anchor(row[1]), heading=_plain(row[1]), text=_plain(f"{row[2]}. Limits: {row[3]}."))
        for row in rows
        if row is not None and not set(row[1]) <= set("-: ") and row[1] != "label"
    )


def _sections(text: str) -> list[HelpSection]:
    found: list[HelpSection] = []
    heading, lines = "", list[str]()
    for line in [*text.splitlines(), "## "]:
        match = _HEADING.match(line)
        if match is None and line != "## ":
            lines.append(line)
            continue
        if heading:
            found.append(HelpSection(anchor=_anchor(heading), heading=heading, text=_plain("\n".join(lines)).strip()))
        heading, lines = ("" if match is None else match[2]), []
    return found


def _anchor(heading: str) -> str:
    return re.sub(r"[^a-z0-9]+", "-", heading.lower()).strip("-")


def _plain(text: str) -> str:
    """Return a text without its marks of emphasis and links."""
    text = re.sub(r"!?\[([^\]]*)\]\([^)]*\)", r"\1", text)
    return re.sub(r"(\*\*|`)", "", text)
