"""What changed in a home's list since a browser was last there."""

from dataclasses import dataclass

from pydantic import TypeAdapter, ValidationError

from warmeter.core.home.document import Home
from warmeter.core.matters.changes import ListChange, SeenList, changes_since, seen_of
from warmeter.core.matters.ranking import Matters
from warmeter.core.units import MS_PER_MIN
from warmeter.service.app import App
from warmeter.store.matters import Visit

SAME_VISIT_MS = 30 * MS_PER_MIN
_SEEN = TypeAdapter(SeenList)


@dataclass(frozen=True, slots=True, kw_only=True)
class SinceLastVisit:
    """When the browser was last there [ms UTC], None if never, and what changed since."""

    at_ms: int | None
    changes: tuple[ListChange, ...]


def since_last_visit(app: App, home: Home, browser: str, found: Matters) -> SinceLastVisit:
    """Return what changed since a browser's visit before this one, and keep what it sees now.

    Looks within half an hour of one another are one visit.
    """
    now_ms, now = app.now_ms(), seen_of(found, home.units)
    visit = app.matters.visit(home.id, browser)
    if visit is None:
        last_ms, last = None, None
    elif now_ms - visit.seen_ms > SAME_VISIT_MS:
        last_ms, last = visit.seen_ms, visit.seen
    else:
        last_ms, last = visit.last_ms, visit.last
    app.matters.keep_visit(
        home.id, browser, Visit(seen_ms=now_ms, seen=_SEEN.dump_json(now).decode(), last_ms=last_ms, last=last)
    )
    before = _read(last)
    return (
        SinceLastVisit(at_ms=None, changes=())
        if before is None
        else SinceLastVisit(at_ms=last_ms, changes=changes_since(before, now))
    )


def _read(text: str | None) -> SeenList | None:
    try:
        return None if text is None else _SEEN.validate_json(text)
    except ValidationError:
        return None
