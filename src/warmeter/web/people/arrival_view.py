"""Warm on arrival, drawn: share of arrivals that are warm and hours warm for nobody by distance; ways as ready strings."""

from dataclasses import dataclass
from math import log

from warmeter.core.home.document import Home
from warmeter.core.warmup.warm_arrival import FEWEST_TO_PROPOSE, ArrivalWay, WarmArrival
from warmeter.service.presence.arrival import RoomArrival
from warmeter.web import format as show

LEFT, RIGHT, TOP, BOX = 40, 44, 26, 170
HEIGHT = TOP + BOX + 34
NAMES = {
    "kept": "Kept warm all along",
    "clock": "By the usual hour",
    "on_the_way": "As soon as on the way",
    "arrival": "On arrival only",
}


@dataclass(frozen=True, slots=True, kw_only=True)
class ArrivalRow:
    """A way with its share of warm arrivals, what was missing, hours warm for nobody, heat and money more than none."""

    name: str
    warm: str
    warm_range: str
    short: str
    early: str
    heat: str
    more: str
    money: str
    is_best: bool
    is_short: bool


@dataclass(frozen=True, slots=True, kw_only=True)
class ArrivalPicture:
    """By distance: paths in px, ticks (place, word), the assurance asked, and the distance proposed."""

    width: int
    height: int
    box: tuple[int, int]
    ticks: list[tuple[float, str]]
    shares: list[tuple[float, str]]
    hours: list[tuple[float, str]]
    warm: str
    warm_dots: list[tuple[float, float]]
    early: str
    assurance_y: float
    proposed_x: float | None


@dataclass(frozen=True, slots=True, kw_only=True)
class ArrivalView:
    """The ways of a room, its picture, and what follows in words."""

    rows: list[ArrivalRow]
    picture: ArrivalPicture | None
    lead: str
    distance: str
    hold: str
    rests_on: str
    short_sign: str
    way_sign: str


def arrival_view(home: Home, arrival: RoomArrival, assurance: float, width: int) -> ArrivalView:
    """Return the picture and words of a room for a width [px]."""
    found = arrival.found
    best, least = found.best, found.ways[-1]
    return ArrivalView(
        rows=[_row(home, found, way, least, assurance, is_best=way == best) for way in found.ways],
        picture=_picture(home, found, assurance, width) if len(found.distances) > 1 else None,
        lead=_lead(home, arrival),
        distance=_distance(home, arrival, assurance),
        hold=_hold(home, found),
        rests_on=_rests_on(arrival),
        short_sign=show.difference_unit(home),
        way_sign="miles" if home.length_unit == "ft" else "km",
    )


def _row(
    home: Home, found: WarmArrival, way: ArrivalWay, least: ArrivalWay, assurance: float, *, is_best: bool
) -> ArrivalRow:
    return ArrivalRow(
        name=f"From {show.way_length(way.distance_m, home)} on"
        if way.distance_m is not None
        else NAMES[way.key] + _hours(found, way),
        warm=_percent(way.warm_share),
        warm_range=f"{100 * way.warm_range[0]:.0f} to {_percent(way.warm_range[1])}",
        short=show.difference(way.short_k, home),
        early=show.number(way.early_h_week, 1),
        heat=show.number(way.heat_kwh_week.value, 1),
        more="–" if way is least else show.number(found.more_kwh_week(way), 1, is_signed=True),
        money="–" if way is least else show.money(found.more_money_week(way), home.currency, is_signed=True),
        is_best=is_best,
        is_short=way.warm_share < assurance,
    )


def _hours(found: WarmArrival, way: ArrivalWay) -> str:
    """Return from when on it is warm by the clock, the lead before the usual hour."""
    starts = [start for k in (0, 5) if (start := found.clock_start_min(k)) is not None]
    if way.key != "clock" or not starts:
        return ""
    workday, day_off = map(show.clock_time, starts)
    return f", {workday}" if workday == day_off else f", {workday}; days off {day_off}"


def _picture(home: Home, found: WarmArrival, assurance: float, width: int) -> ArrivalPicture:
    metres = [way.distance_m or 0.0 for way in found.distances]
    low, high = log(metres[0]), log(metres[-1])
    top = max(1.0, *(way.early_h_week for way in found.distances))

    def x(distance_m: float) -> float:
        return round(LEFT + (width - LEFT - RIGHT) * (log(distance_m) - low) / (high - low), 1)

    def y(share: float) -> float:
        return round(TOP + BOX * (1 - share), 1)

    rows = [(x(m), way) for m, way in zip(metres, found.distances, strict=True)]
    return ArrivalPicture(
        width=width,
        height=HEIGHT,
        box=(TOP, TOP + BOX),
        ticks=[(x(m), show.way_number(m, home)) for m in metres],
        shares=[(y(share), f"{100 * share:.0f}") for share in (0.0, 0.5, 1.0)],
        hours=[(y(share), show.number(share * top, 1)) for share in (0.0, 0.5, 1.0)],
        warm="M" + "L".join(f"{at} {y(way.warm_share)}" for at, way in rows),
        warm_dots=[(at, y(way.warm_share)) for at, way in rows],
        early="M" + "L".join(f"{at} {y(way.early_h_week / top)}" for at, way in rows),
        assurance_y=y(assurance),
        proposed_x=None if found.proposed is None else x(found.proposed.distance_m or metres[0]),
    )


def _percent(share: float) -> str:
    return f"{100 * share:.0f} %"


def _lead(home: Home, arrival: RoomArrival) -> str:
    lead = arrival.found.lead
    if lead.best is None or lead.low is None:
        return f"It does not get from {_both(home, arrival)} in time at all."
    high = None if lead.high is None else show.duration(lead.high)
    span = show.lead_span(show.duration(lead.low), high)
    return f"From {_both(home, arrival)} it takes {show.duration(lead.best)}, {span}."


def _both(home: Home, arrival: RoomArrival) -> str:
    low, high = (show.temperature(value, home) for value in (arrival.away_c, arrival.warm_c))
    return f"{low} to {high} {show.temperature_unit(home)}"


def _distance(home: Home, arrival: RoomArrival, assurance: float) -> str:
    """Return from which distance it is early enough, in words."""
    found = arrival.found
    if not arrival.has_distance:
        return (
            "No telephone tells its distance: import a column of it, or let a telephone be a witness that does. By the "
            "clock it can be held all the same."
        )
    if found.proposed is not None:
        share = f"{_percent(found.proposed.warm_share)} of arrivals warm"
        hours = show.number(found.proposed.early_h_week, 1)
        return f"From {show.way_length(found.proposed.distance_m or 0.0, home)} on it is early enough: {share}, {hours} h a week for nobody."
    if found.arrivals < FEWEST_TO_PROPOSE:
        return f"{found.arrivals} arrivals are too few to propose a way: {FEWEST_TO_PROPOSE} at least."
    if not found.distances:
        return "Nobody was ever far enough away for a distance to tell anything."
    top = max(found.distances, key=lambda way: way.warm_share)
    best = f"{_percent(top.warm_share)} warm from {show.way_length(top.distance_m or 0.0, home)} on"
    return f"No distance is early enough for {_percent(assurance)}: at best {best}. The way home is shorter than the warm-up."


def _hold(home: Home, found: WarmArrival) -> str:
    """Return what a hold to the usual hour costs, in words."""
    clock = next((way for way in found.ways if way.key == "clock"), None)
    if clock is None:
        return "There is no usual hour yet: four arrivals at least, and a room that warms up in time."
    kwh, more = show.number(found.more_kwh_week(clock), 1), found.more_money_week(clock)
    cost = "" if more is None else f", {show.money(more, home.currency)}"
    warm = _percent(clock.warm_share)
    return f"A hold to the usual hour costs {kwh} kWh{cost} a week more than starting on arrival; {warm} of arrivals are warm."


def _rests_on(arrival: RoomArrival) -> str:
    room = "as fitted" if arrival.is_fitted else "as surveyed, not fitted: ranges are wide"
    outdoor = "as logged" if arrival.is_outdoor_logged else "as typed above, no log of it"
    days = show.number(7 * arrival.found.weeks)
    few = arrival.found.arrivals
    return f"{few} arrival{'s' * (few != 1)} in {days} days, which is why shares have ranges; the room {room}; outdoors {outdoor}."
