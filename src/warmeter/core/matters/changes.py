"""What changed between two looks at a home's list: new, worse, closer and gone lines."""

from dataclasses import dataclass
from typing import Literal

from warmeter.core.matters.line import KINDS, MatterKind
from warmeter.core.matters.ranking import Matters
from warmeter.core.sentence import in_unit
from warmeter.core.units import Units

ChangeKind = Literal["worse", "new", "closer", "gone"]
ORDER: tuple[ChangeKind, ...] = ("worse", "new", "closer", "gone")
CLOSER = 0.9  # a range that shrank to less than so much of what it was has come closer


@dataclass(frozen=True, slots=True, kw_only=True)
class SeenLine:
    """A line as it was seen: key, kind, sentence, and the width of its money's range, None without money."""

    key: str
    kind: MatterKind
    sentence: str
    width: float | None = None


@dataclass(frozen=True, slots=True, kw_only=True)
class SeenList:
    """A list as it was seen."""

    lines: tuple[SeenLine, ...]


@dataclass(frozen=True, slots=True, kw_only=True)
class ListChange:
    """One change of the list; ``key`` names its line."""

    change: ChangeKind
    key: str
    sentence: str


def seen_of(found: Matters, units: Units) -> SeenList:
    """Return a list as a browser sees it."""
    return SeenList(
        lines=tuple(
            SeenLine(
                key=line.key,
                kind=line.kind,
                sentence=in_unit(line.sentence, units),
                width=None if line.money is None else line.money.high - line.money.low,
            )
            for line in found.lines
        )
    )


def changes_since(before: SeenList, now: SeenList) -> tuple[ListChange, ...]:
    """Return what changed from one look to the next: what got worse first, then what is new, closer and gone.

    Worse is a line that moved to a graver kind; closer one whose range of money shrank by a tenth or more.
    """
    was, stands = {line.key: line for line in before.lines}, {line.key: line for line in now.lines}
    found = []
    for line in now.lines:
        old = was.get(line.key)
        if old is None:
            found.append(ListChange(change="new", key=line.key, sentence=line.sentence))
        elif KINDS.index(line.kind) < KINDS.index(old.kind):
            found.append(ListChange(change="worse", key=line.key, sentence=line.sentence))
        elif old.width and line.width is not None and line.width < CLOSER * old.width:
            found.append(ListChange(change="closer", key=line.key, sentence=line.sentence))
    found += [
        ListChange(change="gone", key=line.key, sentence=line.sentence)
        for line in before.lines
        if line.key not in stands
    ]
    return tuple(sorted(found, key=lambda each: ORDER.index(each.change)))
