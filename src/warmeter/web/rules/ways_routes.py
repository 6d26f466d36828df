"""The page of the ways to do what a starter does, all replayed on this home's log."""

from dataclasses import dataclass, replace
from datetime import timedelta
from typing import Annotated

from annotated_types import Ge, Le
from fastapi import APIRouter, Request
from fastapi.responses import Response

from warmeter.core.errors import HomeError
from warmeter.core.home.document import Home
from warmeter.core.home.part import Unit, Word
from warmeter.core.starters.catalogue import STARTERS
from warmeter.core.starters.rule_ways import COMPARED, starter_of
from warmeter.core.starters.starter import Starter
from warmeter.core.units import S_PER_MIN
from warmeter.service.app import App
from warmeter.service.rules.rule_saving import MOST_DAYS
from warmeter.service.rules.rule_ways import ways_replay
from warmeter.web import format as show
from warmeter.web.form_reader import read_query
from warmeter.web.page import Page, app_of, frame_of, is_fragment, render, units_of
from warmeter.web.rules.ways_view import WaysView, ways_view

router = APIRouter()


@dataclass(frozen=True, slots=True, kw_only=True)
class WaysAsked:
    """What is compared: a starter at a place over so many days; who is told comes so late; how the internet is."""

    starter: Word = ""
    place: Word = ""
    days: Annotated[int, Ge(1), Le(MOST_DAYS)] = 28
    comes_min: Annotated[float, Ge(0), Le(2880), Unit("min")] = 60.0
    away_h: Annotated[float, Ge(0), Le(730), Unit("h")] = 2.0
    link_s: Annotated[float, Ge(0), Le(600), Unit("s")] = 2.0


@dataclass(frozen=True, slots=True, kw_only=True)
class WaysPage(Page):
    """The ways of a starter at a place, or why there is nothing to compare."""

    home: Home
    query: dict[str, str]
    starters: list[Starter]
    starter: Starter | None
    places: list[tuple[str, str]]
    asked: WaysAsked
    view: WaysView | None
    missing: str
    most_days: int


@router.get("/homes/{home_id}/rules/ways", name="rules_ways")
def rules_ways(request: Request, home_id: str) -> Response:
    """Show the ways of a starter side by side."""
    app = app_of(request)
    home, revision = app.homes.load(home_id)
    starters = [s for s in STARTERS if s.key in COMPARED and s.places(home)]
    asked = read_query(WaysAsked, dict(request.query_params), units_of(request))
    keys = [s.key for s in starters]
    key = asked.starter if asked.starter in keys else next(iter(keys), "")
    starter = starter_of(key) if key else None
    places = [] if starter is None else starter.places(home)
    place = asked.place if asked.place in dict(places) else next((i for i, _ in places), "")
    asked = replace(asked, starter=key, place=place)
    view, missing = _compared(app, home, asked)
    page = WaysPage(
        frame=frame_of(request, home, revision, "rules"),
        home=home,
        query={"starter": key, "place": place, "days": str(asked.days), "comes_min": f"{asked.comes_min:g}"}
        | {"away_h": f"{asked.away_h:g}", "link_s": f"{asked.link_s:g}"},
        starters=starters,
        starter=starter,
        places=places,
        asked=asked,
        view=view,
        missing=missing,
        most_days=MOST_DAYS,
    )
    return render(request, "rules/_ways.html" if is_fragment(request) else "rules/ways.html", page)


def _compared(app: App, home: Home, asked: WaysAsked) -> tuple[WaysView | None, str]:
    """Return the table, or why there is none."""
    bounds = app.readings.bounds(home.id)
    if not asked.starter:
        return None, ""
    if bounds is None:
        return None, "There is no log yet: import one, and every way is replayed on it."
    clock = app.clock(home)
    last = clock.local(app.heard_until_ms(home.id)).date()
    start = max(clock.instant(last - timedelta(days=asked.days - 1), 0), bounds[0])
    try:
        found = ways_replay(
            app,
            home,
            asked.starter,
            asked.place,
            start_ms=start,
            end_ms=app.heard_until_ms(home.id) + 1,
            comes_s=round(asked.comes_min * S_PER_MIN),
        )
    except HomeError as error:
        return None, show.error_words(error, home.units)
    return ways_view(home, found, asked.away_h, asked.link_s), ""
