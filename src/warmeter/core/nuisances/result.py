"""What comes of a nuisance: a sentence, the numbers behind it, one bar a day, and what more would add."""

from dataclasses import dataclass
from datetime import date

from warmeter.core.figure import Figure
from warmeter.core.page_step import PageStep


@dataclass(frozen=True, slots=True, kw_only=True)
class FoundNumber:
    """A number that was found; None is not known."""

    label: str
    value: float | None
    unit: str = ""
    decimals: int = 0


@dataclass(frozen=True, slots=True, kw_only=True)
class DayBars:
    """One value a day from a date on; None where nothing is known of the day."""

    label: str
    unit: str
    first: date
    values: tuple[float | None, ...]


@dataclass(frozen=True, slots=True, kw_only=True)
class More:
    """What a next step would add, where, and the minutes of work."""

    title: str
    text: str
    step: PageStep
    minutes: int


@dataclass(frozen=True, slots=True, kw_only=True)
class NuisanceResult:
    """What is known now.

    Parameters
    ----------
    sentence : str
        The result in one or two sentences.
    is_answered : bool
        Whether it is a result; else the sentence says what is missing.
    facts : tuple of FoundNumber
        The numbers behind it.
    bars : DayBars or None
        One bar a day.
    more : tuple of More
        What would add to it.
    caution : str
        The usual caution, where it can hurt.
    figure : Figure or None
        How its main number was worked out.
    step : PageStep or None
        Where one goes on, if elsewhere than usual for its way in.
    """

    sentence: str
    is_answered: bool
    facts: tuple[FoundNumber, ...] = ()
    bars: DayBars | None = None
    more: tuple[More, ...] = ()
    caution: str = ""
    figure: Figure | None = None
    step: PageStep | None = None
