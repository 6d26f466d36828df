"""What each gap costs, as a table by room, with both ways and their numbers."""

from dataclasses import dataclass

from markupsafe import Markup

from warmeter.core.home.document import Home
from warmeter.core.timegrid import LocalClock
from warmeter.core.warmup.gaps import GapFigures, Way
from warmeter.service.forecast.gaps import RoomGaps, SetbackStrategy
from warmeter.web import format as show
from warmeter.web.abbreviations import abbr


@dataclass(frozen=True, slots=True, kw_only=True)
class WayCell:
    """One way through a gap in words: setpoint, draw, cost, lead, lowest temperature."""

    name: str
    asked: str
    kwh: str
    cost: str
    saved: str
    span: str
    lowest: str
    lead: str
    is_best: bool


@dataclass(frozen=True, slots=True, kw_only=True)
class GapRow:
    """A gap with its three ways."""

    key: str
    title: str
    pays: str
    ways: list[WayCell]


@dataclass(frozen=True, slots=True, kw_only=True)
class RoomBlock:
    """A room with its gaps and what the numbers say of both ways."""

    name: str
    zone_id: str
    drawn: str
    gaps: list[GapRow]
    winner: str
    saved: str
    span: str
    sure: str
    reason: str


def gaps_view(home: Home, clock: LocalClock, found: list[RoomGaps]) -> list[RoomBlock]:
    """Return every room's gaps."""
    return [_room(home, clock, room) for room in found if room.gaps]


def _room(home: Home, clock: LocalClock, room: RoomGaps) -> RoomBlock:
    strategy, in_watts = room.strategy, room.is_in_watts
    return RoomBlock(
        name=room.room.name,
        zone_id=room.zone.id,
        drawn=f"kWh of {room.fuel}" if room.fuel else Markup("kWh {}").format(abbr("el.")),
        gaps=[_gap(home, clock, room, k, figures, in_watts) for k, figures in enumerate(room.gaps)],
        winner="" if strategy is None else _winner(strategy),
        saved="" if strategy is None else _saved(home, strategy),
        span=""
        if strategy is None
        else f"{_amount(home, strategy, strategy.saved.low)} to {_amount(home, strategy, strategy.saved.high)}",
        sure="" if strategy is None else f"{100 * strategy.sure:.0f} %",
        reason="" if strategy is None else strategy.reason,
    )


def _winner(strategy: SetbackStrategy) -> str:
    """Return which school wins, "" without a difference that could be shown."""
    if abs(strategy.saved.value) < _least(strategy):
        return "Neither"
    return "Set back" if strategy.setback_wins else "Always the same"


def _saved(home: Home, strategy: SetbackStrategy) -> str:
    """Return what the winner saves a day; without a winner, what the difference stays under."""
    value = abs(strategy.saved.value)
    return _amount(home, strategy, value if value >= _least(strategy) else 2 * _least(strategy))


def _least(strategy: SetbackStrategy) -> float:
    """Return the smallest difference a day worth a verdict, in money or kWh."""
    return 0.005 if strategy.is_money else 0.05


def _amount(home: Home, strategy: SetbackStrategy, value: float) -> str:
    return show.money(value, home.currency) if strategy.is_money else f"{show.number(value, 2)} kWh"


def _gap(home: Home, clock: LocalClock, room: RoomGaps, place: int, figures: GapFigures, in_watts: bool) -> GapRow:
    gap, unit = figures.gap, show.temperature_unit(home)
    begin, end = clock.local(gap.from_ms), clock.local(gap.until_ms)
    since = f"{begin:%H:%M}" if begin.date() == end.date() else f"{begin:%a %H:%M}"
    hours = show.duration(gap.minutes)
    pays = figures.pays_from_min
    ways = [("held", figures.hold), (gap.level_name, figures.setback), ("off", figures.off)]
    costs = [way.cost[0] if way.cost is not None else way.drawn_kwh[0] for _, way in ways]
    best = int(min(range(3), key=lambda k: costs[k]))
    return GapRow(
        key=f"gap.{room.room.id}.{place}",
        title=f"{since} to {end:%H:%M}, {hours}, then {show.temperature(gap.warm_c, home)} {unit}",
        pays="" if not in_watts else ("not within three days" if pays is None else f"from {show.duration(pays)}"),
        ways=[_way(home, figures, name, way, k == best, in_watts) for k, (name, way) in enumerate(ways)],
    )


def _way(home: Home, figures: GapFigures, name: str, way: Way, is_best: bool, in_watts: bool) -> WayCell:
    lead = "" if way.lead is None else show.lead_time(way.lead, home)
    saved = figures.saved_cost(way) if way is not figures.hold else None
    return WayCell(
        name=name,
        asked=show.temperature(way.asked_c, home),
        kwh=show.number(float(way.drawn_kwh[0]), 2) if in_watts else "–",
        cost="" if way.cost is None or not in_watts else show.money(float(way.cost[0]), home.currency),
        saved="" if saved is None or not in_watts else show.money(saved.value, home.currency, is_signed=True),
        span=""
        if saved is None or not in_watts
        else f"{show.money(saved.low, home.currency)} to {show.money(saved.high, home.currency)}",
        lowest=show.temperature(way.lowest_c, home),
        lead=lead,
        is_best=is_best and in_watts,
    )
