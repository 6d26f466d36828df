"""The list of homes, from what is kept with each: no home is opened that was listed since it was changed."""

from collections.abc import Mapping
from dataclasses import dataclass

from pydantic import TypeAdapter, ValidationError

from warmeter import __version__
from warmeter.core.building.checks.findings import findings_of
from warmeter.core.home.document import Home
from warmeter.core.home.plant import SourceKind
from warmeter.core.saving.like_for_like import LikeForLike
from warmeter.core.sentence import in_unit
from warmeter.core.timegrid import LocalClock
from warmeter.service.app import App
from warmeter.service.matters.summary import MattersSummary, ToldLine, read_summary
from warmeter.service.matters.week_cost import WeekCost
from warmeter.store.homes import HomeLine, HomeNotFound, HomeUnreadable
from warmeter.web import format as show
from warmeter.web.ribbon import YearPaths, year_paths

AT_ONCE, YEAR_PX = 50, 1
SOURCE_WORD: Mapping[SourceKind, str] = {"direct": "direct electric", "heat_pump": "heat pump", "boiler": "boiler"}


@dataclass(frozen=True, slots=True, kw_only=True)
class Listed:
    """What the list says of a home, kept until its next revision or version of Warmeter; ``why`` it cannot be read."""

    version: str
    room_count: int = 0
    zone_count: int = 0
    place: str = ""
    sources: str = ""
    currency: str = ""
    zone: str = "UTC"
    country: str = ""
    finding: str = ""
    findings: int = 0
    why: str = ""


@dataclass(frozen=True, slots=True, kw_only=True)
class WeekView:
    """What the last week cost, the week before, the difference, and how the weather differed."""

    cost: str
    before: str
    more: str
    weather: str


@dataclass(frozen=True, slots=True, kw_only=True)
class ListedHome:
    """A home as a list shows it; ``year`` and ``week`` are None until what matters in it was worked out."""

    line: HomeLine
    listed: Listed
    as_of: str
    words: str
    open: int
    worst: ToldLine | None
    waits: str
    in_sight: str
    year: YearPaths | None
    caret_x: float
    week: WeekView | None


_LISTED = TypeAdapter(Listed)


def listed_homes(app: App, lines: list[HomeLine]) -> list[ListedHome]:
    """Return homes as a list shows them; one that cannot be read says why."""
    kept = app.matters.kept([line.id for line in lines])
    found = []
    for line in lines:
        listed = _kept(line) or _listed_anew(app, line)
        found.append(_row(app, line, listed, read_summary(kept.get(line.id))))
    return found


def _row(app: App, line: HomeLine, listed: Listed, summary: MattersSummary | None) -> ListedHome:
    now_ms, clock = app.now_of(line.told_now_ms), LocalClock(listed.zone)
    rooms = f"{listed.room_count} room{'s' * (listed.room_count != 1)}"
    worst = None if not listed.finding else ToldLine(kind="wrong", sentence=listed.finding)
    year, place = None, 0
    if summary is not None and summary.year_first is not None:
        year = year_paths(summary.year_means_c, YEAR_PX)
        place = (clock.local(now_ms).date() - summary.year_first).days
    return ListedHome(
        line=line,
        listed=listed,
        as_of=show.moment(now_ms, clock, listed.country),
        words=", ".join(word for word in (listed.place, listed.sources, rooms) if word),
        open=listed.findings if summary is None else summary.open,
        worst=worst if summary is None else summary.worst,
        waits="" if summary is None else summary.waits,
        in_sight=_in_sight(listed, summary),
        year=year,
        caret_x=place * YEAR_PX + 0.5,
        week=None if summary is None or summary.week is None else _week(listed, summary.week),
    )


def _in_sight(listed: Listed, summary: MattersSummary | None) -> str:
    if summary is None or not summary.value or summary.low is None or summary.high is None:
        return ""
    return f"{show.money(summary.value, listed.currency, 0)} a year in sight"


def _week(listed: Listed, week: WeekCost) -> WeekView:
    words = []
    if week.colder is not None:
        share = round(100 * abs(week.colder))
        words.append(f"{share} % {'colder' if week.colder > 0 else 'milder'}" if share else "as cold")
    if week.like is not None:
        words.append(_like_for_like(week.like, listed.currency))
    return WeekView(
        cost=show.money(week.cost, listed.currency),
        before=show.money(week.cost_before, listed.currency),
        more=show.money(week.cost - week.cost_before, listed.currency, is_signed=True),
        weather="; ".join(words),
    )


def _like_for_like(like: LikeForLike, currency: str) -> str:
    """Return a difference without the weather's share, with its range; about the same where that holds nought."""
    if like.low <= 0 <= like.high:
        ends = f"{show.money(like.low, currency, 0, is_signed=True)} to {show.money(like.high, currency, 0, is_signed=True)}"
        return f"like for like the same ({ends})"
    low, high = sorted((abs(like.low), abs(like.high)))
    ends = f"{show.money(low, currency)} to {show.money(high, currency)}"
    return f"like for like {show.money(abs(like.more), currency)} {'more' if like.more > 0 else 'less'} ({ends})"


def _kept(line: HomeLine) -> Listed | None:
    """Return what was kept, None if it is of another revision or version."""
    if line.listed is None or line.listed_revision != line.revision:
        return None
    try:
        listed = _LISTED.validate_json(line.listed)
    except ValidationError:
        return None
    return listed if listed.version == __version__ else None


def _listed_anew(app: App, line: HomeLine) -> Listed:
    try:
        home, revision = app.homes.load(line.id)
    except HomeUnreadable as error:
        return Listed(version=__version__, why=error.why)
    except HomeNotFound:
        return Listed(version=__version__, why="it was removed just now")
    listed = _listed(home)
    app.homes.keep_listed(line.id, revision, _LISTED.dump_json(listed).decode())
    return listed


def _listed(home: Home) -> Listed:
    findings = [f for f in findings_of(home) if f.severity != "note"]
    return Listed(
        version=__version__,
        room_count=len(home.rooms),
        zone_count=len(home.zones),
        sources=", ".join(dict.fromkeys(SOURCE_WORD[source.kind] for source in home.sources)),
        currency=home.currency,
        place=home.place.label,
        zone=home.time_zone,
        country=home.country,
        finding=in_unit(findings[0].sentence, home.units) if findings else "",
        findings=len(findings),
    )
