"""What matters in a home in a few words: for the status line, the spine and the list of homes."""

from dataclasses import dataclass
from datetime import date
from math import isnan

from pydantic import TypeAdapter, ValidationError

from warmeter.core.building.checks.findings import findings_of
from warmeter.core.home.document import Home
from warmeter.core.matters.all_lines import quick_lines
from warmeter.core.matters.evidence import HomeEvidence
from warmeter.core.matters.line import KINDS, MatterKind, MatterLine
from warmeter.core.matters.ranking import Matters
from warmeter.core.sentence import in_unit
from warmeter.service.app import App
from warmeter.service.matters.week_cost import WeekCost, week_cost
from warmeter.service.readings.outdoor_year import daily_means_c, year_around


@dataclass(frozen=True, slots=True, kw_only=True)
class ToldLine:
    """A line as others tell of it: its kind, and its sentence in the home's unit."""

    kind: MatterKind
    sentence: str


@dataclass(frozen=True, slots=True, kw_only=True)
class MattersSummary:
    """What was last worked out: how many lines stand open, the worst, what waits, and the sum.

    ``rest_open`` and ``rest_worst`` are of those lines that the document alone does not show; ``value`` is None without
    any amount. ``year_means_c`` are the outdoor means of the days of the year from ``year_first`` on, None where not
    known [°C].
    """

    open: int
    worst: ToldLine | None
    waits: str
    value: float | None
    low: float | None
    high: float | None
    rest_open: int
    rest_worst: ToldLine | None
    year_first: date | None = None
    year_means_c: tuple[int | None, ...] = ()
    week: WeekCost | None = None


@dataclass(frozen=True, slots=True, kw_only=True)
class OpenLines:
    """How many lines stand open and are put aside, and the worst of them; None if none is open."""

    open: int
    aside: int
    worst: ToldLine | None


_SUMMARY = TypeAdapter(MattersSummary)


def logged_subjects(app: App, home: Home) -> frozenset[str]:
    """Return the ids of rooms, appliances and devices of which anything was heard."""
    stands = {device.id: device.room_id for device in home.devices}
    subjects = {s.record.subject for s in app.readings.series(home.id)}
    return frozenset(stands.get(subject) or subject for subject in subjects) | subjects


def read_summary(text: str | None) -> MattersSummary | None:
    """Return a summary that was kept, None if there is none or it is of another version."""
    try:
        return None if text is None else _SUMMARY.validate_json(text)
    except ValidationError:
        return None


def lines_of(home: Home, found: Matters) -> OpenLines:
    """Return what stands open of a list that was just worked out."""
    worst = _told(home, found.lines[0]) if found.lines else None
    return OpenLines(open=len(found.lines), aside=len(found.aside), worst=worst)


def keep_summary(app: App, home: Home, found: Matters) -> None:
    """Keep what was worked out of a home for the status line and lists, if it says something else than what was kept."""
    today = app.clock(home).local(app.as_of_ms(home.id)).date()
    quick = {line.key for line in _quick(app, home, today)}
    rest = [line for line in found.lines if line.key not in quick]
    has_money = any(line.money for line in found.lines)
    first, days = year_around(home, today)
    means = daily_means_c(app, home, first, days).tolist()
    summary = MattersSummary(
        open=len(found.lines),
        worst=_told(home, found.lines[0]) if found.lines else None,
        waits=next((in_unit(line.sentence, home.units) for line in found.lines if line.kind == "waits"), ""),
        value=found.total.value if has_money else None,
        low=found.total.low if has_money else None,
        high=found.total.high if has_money else None,
        rest_open=len(rest),
        rest_worst=_told(home, rest[0]) if rest else None,
        year_first=first,
        year_means_c=tuple(None if isnan(mean) else round(mean) for mean in means),
        week=week_cost(app, home),
    )
    text = _SUMMARY.dump_json(summary).decode()
    if app.matters.kept([home.id]).get(home.id) != text:
        app.matters.keep(home.id, text)


def open_lines(app: App, home: Home) -> OpenLines:
    """Return what stands open: what the document shows now, and the rest as it was last worked out."""
    today = app.clock(home).local(app.as_of_ms(home.id)).date()
    aside = {each.key for each in home.put_aside if each.holds_on(today)}
    quick = [line for line in _quick(app, home, today) if line.key not in aside]
    kept = read_summary(app.matters.kept([home.id]).get(home.id))
    candidates = [_told(home, quick[0])] if quick else []
    if kept is not None and kept.rest_worst is not None:
        candidates.append(kept.rest_worst)
    return OpenLines(
        open=len(quick) + (0 if kept is None else kept.rest_open),
        aside=len(aside),
        worst=min(candidates, key=lambda told: KINDS.index(told.kind), default=None),
    )


def _quick(app: App, home: Home, today: date) -> tuple[MatterLine, ...]:
    logged = logged_subjects(app, home)
    return quick_lines(HomeEvidence(home=home, today=today, findings=tuple(findings_of(home)), logged=logged))


def _told(home: Home, line: MatterLine) -> ToldLine:
    return ToldLine(kind=line.kind, sentence=in_unit(line.sentence, home.units)[:200])
