"""Cells of tables that are written: a text that a spreadsheet would take for a formula is written as text.

The usual way is an apostrophe before it; reading takes it off again, so that what comes back is what was there.
"""

import csv
import re
from collections.abc import Iterable, Sequence

_FORMULA = re.compile(r"'*[=+\-@\t\r]")
_QUOTED = re.compile(r"'+[=+\-@\t\r]")
_NUMBER = re.compile(r"[+-]?\d+([.,]\d+)?([eE][+-]?\d+)?")


class _Lines:
    """What the standard writer writes into."""

    def __init__(self) -> None:
        self.lines: list[str] = []

    def write(self, line: str) -> int:
        """Keep a line."""
        self.lines.append(line)
        return len(line)


def csv_text(rows: Iterable[Sequence[object]], line_end: str = "\n") -> str:
    """Return rows as CSV, no text of which is a formula."""
    out = _Lines()
    writer = csv.writer(out, lineterminator=line_end)
    for row in rows:
        writer.writerow([_written(cell) for cell in row])
    return "".join(out.lines)


def cell_text(cell: str) -> str:
    """Return a read cell's text as it was before ``csv_text``, without spaces around it."""
    text = cell.strip()
    return text[1:] if _QUOTED.match(text) else text


def _written(cell: object) -> object:
    is_formula = isinstance(cell, str) and _FORMULA.match(cell) and not _NUMBER.fullmatch(cell)
    return f"'{cell}" if is_formula else cell
