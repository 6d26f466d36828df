"""A line of the list of what matters, and a measurement that would narrow its money."""

from dataclasses import dataclass
from math import sqrt
from typing import Literal

from warmeter.core.figure import Figure
from warmeter.core.page_step import PageStep

MatterKind = Literal["danger", "wrong", "unknown", "money", "waits"]
LEAST_MONEY = 1.0  # of the home's currency a year; what is worth less is no line
KINDS: tuple[MatterKind, ...] = ("danger", "wrong", "unknown", "money", "waits")


@dataclass(frozen=True, slots=True, kw_only=True)
class MoneyDoubt:
    """One cause of doubt in a yearly amount, and how far it reaches down and up at 95 % [money a year], at least 0.

    Doubts of the same cause in several lines are one: they err together.
    """

    cause: str
    down: float
    up: float


@dataclass(frozen=True, slots=True, kw_only=True)
class YearlyMoney:
    """What a line is worth a year [the home's currency], by the causes of its doubt."""

    value: float
    doubts: tuple[MoneyDoubt, ...] = ()

    @property
    def low(self) -> float:
        """Lower end of its 95 % range."""
        return self.value - sqrt(sum(doubt.down**2 for doubt in self.doubts))

    @property
    def high(self) -> float:
        """Upper end of its 95 % range."""
        return self.value + sqrt(sum(doubt.up**2 for doubt in self.doubts))


@dataclass(frozen=True, slots=True, kw_only=True)
class MatterLine:
    """One thing that matters.

    Parameters
    ----------
    key : str
        Names it for good: the same thing has the same key tomorrow.
    kind : str
        Danger, wrong, unknown, worth money or waits.
    sentence, why : str
        What is so, and why or what would correct it.
    minutes : int
        Minutes of work.
    step, part_id : str
        Where it is done, and the part of the home that it is about ("" for none).
    money : YearlyMoney or None
        None where it has no amount.
    figure : Figure or None
        How the amount was worked out.
    """

    key: str
    kind: MatterKind
    sentence: str
    why: str
    minutes: int
    step: PageStep
    part_id: str = ""
    money: YearlyMoney | None = None
    figure: Figure | None = None


@dataclass(frozen=True, slots=True, kw_only=True)
class MeasureOffer:
    """A measurement that can be made: the doubts of some causes shrink to ``factor`` of themselves (0 to 1).

    ``days`` of logging pass by themselves; ``minutes`` are work.
    """

    key: str
    title: str
    how: str
    causes: tuple[str, ...]
    factor: float
    minutes: int
    step: PageStep
    part_id: str = ""
    days: int = 0
