"""The list of homes, from what is kept with each: no home is opened that was listed since it was changed."""

from dataclasses import dataclass

from pydantic import TypeAdapter, ValidationError

from warmeter import __version__
from warmeter.core.building.checks.findings import findings_of
from warmeter.core.home.document import Home
from warmeter.core.sentence import in_unit
from warmeter.core.timegrid import LocalClock
from warmeter.service.app import App
from warmeter.store.homes import HomeLine, HomeNotFound, HomeUnreadable
from warmeter.web import format as show

AT_ONCE = 50


@dataclass(frozen=True, slots=True, kw_only=True)
class Listed:
    """What the list says of a home, kept until its next revision or version of Warmeter; ``why`` it cannot be read."""

    version: str
    room_count: int = 0
    place: str = ""
    zone: str = "UTC"
    country: str = ""
    finding: str = ""
    why: str = ""


@dataclass(frozen=True, slots=True, kw_only=True)
class ListedHome:
    """A home as a list shows it."""

    line: HomeLine
    listed: Listed
    as_of: str


_LISTED = TypeAdapter(Listed)


def listed_homes(app: App, lines: list[HomeLine]) -> list[ListedHome]:
    """Return homes as a list shows them; one that cannot be read says why."""
    found = []
    for line in lines:
        listed = _kept(line) or _listed_anew(app, line)
        as_of = show.moment(app.now_of(line.told_now_ms), LocalClock(listed.zone), listed.country)
        found.append(ListedHome(line=line, listed=listed, as_of=as_of))
    return found


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
        place=home.place.label,
        zone=home.time_zone,
        country=home.country,
        finding=in_unit(findings[0].sentence, home.units) if findings else "",
    )
