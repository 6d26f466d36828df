"""What is wrong with tariffs, in words, each with a letter for its place on the year."""

from collections.abc import Sequence
from dataclasses import dataclass
from string import ascii_lowercase

from warmeter.core.home.document import Home
from warmeter.core.home.tariffs import Tariff
from warmeter.core.tariff.tariff_findings import TariffFinding
from warmeter.core.units import MIN_PER_DAY
from warmeter.web import format as show

MOST_LETTERS = len(ascii_lowercase)


@dataclass(frozen=True, slots=True, kw_only=True)
class TariffFindingRow:
    """A finding: its letter, what it is in a word, the sentence, and the rate that could be put first."""

    letter: str
    word: str
    sentence: str
    raise_place: int | None = None
    to_place: int | None = None


def tariff_finding_rows(findings: Sequence[TariffFinding], home: Home) -> list[tuple[TariffFindingRow, TariffFinding]]:
    """Return findings in words, so many as there are letters."""
    return [
        (_row(letter, finding, home), finding)
        for letter, finding in zip(ascii_lowercase, findings[:MOST_LETTERS], strict=False)
    ]


def _row(letter: str, finding: TariffFinding, home: Home) -> TariffFindingRow:
    tariff = home.tariff(finding.tariff_id)
    when = _when(finding, home)
    hours = f"{show.clock_time(finding.from_min)} to {show.clock_time(finding.to_min)}"
    if finding.kind == "hole":
        is_whole = (finding.from_min, finding.to_min) == (0, MIN_PER_DAY)
        sentence = f"No rate of energy {when}{'' if is_whole else f', {hours}'}. Add one without limits at the end."
        return TariffFindingRow(letter=letter, word="Hole", sentence=sentence)
    if finding.kind == "overlap":
        low, high = _name(tariff, finding.rate), _name(tariff, finding.other)
        return TariffFindingRow(
            letter=letter,
            word="Overlap",
            sentence=f"{high} and {low} both claim {hours} {when}. The higher in the list holds.",
            raise_place=finding.rate,
            to_place=finding.other,
        )
    if finding.kind == "idle":
        sentence = (
            f"{_name(tariff, finding.rate)} never holds: those above match wherever it does. Move it up, or remove it."
        )
        return TariffFindingRow(letter=letter, word="Idle", sentence=sentence, raise_place=finding.rate, to_place=0)
    if finding.kind == "no_tariff":
        return TariffFindingRow(
            letter=letter, word="No tariff", sentence=f"No tariff is valid {when}. Nothing there is billed or planned."
        )
    other = home.tariff(finding.other_id)
    return TariffFindingRow(
        letter=letter,
        word="Two tariffs",
        sentence=f"{other.name} and {tariff.name} are both valid {when}; the lower in the list holds.",
    )


def _name(tariff: Tariff, place: int | None) -> str:
    return "" if place is None else f"{place + 1} {tariff.rates[place].name}"


def _when(finding: TariffFinding, home: Home) -> str:
    if finding.first is None or finding.last is None:
        return ""
    if finding.first == finding.last:
        return f"on {show.day_long(finding.first, home.country)}"
    span = (finding.last - finding.first).days + 1
    count = "" if finding.days == span else f" on {finding.days} days"
    return f"from {show.day_long(finding.first, home.country)} to {show.day_long(finding.last, home.country)}{count}"
