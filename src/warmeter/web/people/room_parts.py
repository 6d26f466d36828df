"""The parts of the page of people that look at one room: use, wait, warm on arrival."""

from dataclasses import dataclass, replace
from datetime import date
from typing import Annotated

from annotated_types import Ge, Le
from fastapi import Request

from warmeter.core.errors import NotKnowable
from warmeter.core.forecast.tariff_year import mean_price
from warmeter.core.home.document import Home
from warmeter.core.home.part import Unit, Word
from warmeter.core.home.rooms import Room
from warmeter.core.presence.idle_time import IdlePrices
from warmeter.core.presence.room_outcomes import profiles_of, room_with_log, wait_of
from warmeter.service.app import App
from warmeter.service.presence.arrival import ArrivalAsked, room_arrival
from warmeter.service.presence.household import HomePresenceNow
from warmeter.web import format as show
from warmeter.web.form_reader import read_query
from warmeter.web.page import units_of
from warmeter.web.people.arrival_view import ArrivalView, arrival_view
from warmeter.web.people.use_view import UseView, use_view
from warmeter.web.people.wait_view import WaitView, wait_view

ROOM_PARTS = ("use", "wait", "arrival")
ROOM_KEYS = ("power_w", "wrong_off", "per_kwh", "used", "between", "assurance", "outdoor_c")
# Where the home has no tariff [currency/kWh].
USUAL_PRICE = 0.3


@dataclass(frozen=True, slots=True, kw_only=True)
class RoomAsked:
    """What is asked of a room.

    What hangs on it [W], what a wrong off and a kWh cost, levels in use and between; how many arrivals shall be warm
    [%], and how cold it is outdoors where no log tells [°C].
    """

    power_w: Annotated[float, Ge(0), Le(20_000), Unit("W")] = 90.0
    wrong_off: Annotated[float, Ge(0), Le(1000)] = 0.05
    per_kwh: Annotated[float, Ge(0), Le(1000)] | None = None
    used: Word = ""
    between: Word = ""
    assurance: Annotated[int, Ge(51), Le(99)] = 90
    outdoor_c: Annotated[float, Ge(-50), Le(40), Unit("°C")] = 5.0


def room_asked(home: Home, room: Room | None, request: Request, on: date) -> RoomAsked:
    """Return what the address asks, with the home's own price, and usual levels, where it does not say."""
    typed = {k: v for k, v in request.query_params.items() if k in ROOM_KEYS}
    asked = read_query(RoomAsked, typed, units_of(request))
    price = mean_price(home, on) if asked.per_kwh is None else asked.per_kwh
    saving = [level.id for level in home.levels if level.is_saving]
    ids = [level.id for level in home.levels]
    used = "" if home.in_use is None else home.in_use.id
    if room is not None and room.use == "sleeping" and saving:
        used = saving[0]
    between = saving[-1] if saving else ""
    return replace(
        asked,
        per_kwh=USUAL_PRICE if price is None else round(float(price), 4),
        used=asked.used if asked.used in ids else used,
        between=asked.between if asked.between in ids else between,
    )


def rooms_of_part(home: Home, found: HomePresenceNow | None, part: str) -> list[Room]:
    """Return the rooms that a part can look at: those that a log tells of, for an arrival those that are heated."""
    if part == "arrival":
        can = [room for room in home.rooms if home.heater_of(room.id) and home.zone_of_room(room.id)]
        return can if found is not None and home.people else []
    told = set() if found is None else {room.room_id for room in found.rooms}
    return [room for room in home.rooms if room.id in told]


def room_use_view(
    home: Home, found: HomePresenceNow | None, room: Room | None, asked: RoomAsked, width: int
) -> UseView | None:
    """Return when a room is used; None without a log of it."""
    own = None if found is None or room is None else room_with_log(found.rooms, room.id)
    if own is None or found is None:
        return None
    levels = (asked.used, asked.between) if asked.used and asked.between else None
    return use_view(home, profiles_of(home, found.log, own, levels), width)


def room_wait_view(
    home: Home, found: HomePresenceNow | None, room: Room | None, asked: RoomAsked, width: int
) -> WaitView | None:
    """Return how long a room may wait; None without a log of it."""
    own = None if found is None or room is None else room_with_log(found.rooms, room.id)
    if own is None or found is None:
        return None
    prices = IdlePrices(wrong_off=asked.wrong_off, power_w=asked.power_w, per_kwh=asked.per_kwh or 0.0)
    outcome = wait_of(home, found.log, own, prices)
    return None if outcome is None else wait_view(home, outcome, width)


def room_arrival_view(
    app: App, home: Home, found: HomePresenceNow, room: Room, asked: RoomAsked, width: int
) -> tuple[ArrivalView | None, str]:
    """Return whether a room is warm on arrival, or why that cannot be said."""
    if not asked.used or not asked.between:
        return None, "Two levels are needed: one for while somebody is in, one that saves. Enter them under Timetable."
    wanted = ArrivalAsked(
        room_id=room.id,
        warm_id=asked.used,
        away_id=asked.between,
        assurance=asked.assurance / 100,
        outdoor_c=asked.outdoor_c,
    )
    try:
        arrival = room_arrival(app, home, found, wanted)
    except NotKnowable as error:
        return None, show.error_words(error, home.units)
    return arrival_view(home, arrival, asked.assurance / 100, width), ""
