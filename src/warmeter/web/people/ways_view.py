"""Ways to know whether anybody is at home, side by side, as ready strings."""

from dataclasses import dataclass

from warmeter.core.home.document import Home
from warmeter.core.home.witness_kinds import WITNESS_TRAITS
from warmeter.core.presence.household_presence import minutes_of
from warmeter.core.presence.ways import PresenceWay, ways_of
from warmeter.service.presence.household import HomePresenceNow
from warmeter.web import format as show


@dataclass(frozen=True, slots=True, kw_only=True)
class PresenceWayRow:
    """A way with how it does a week, what it wastes, its batteries, what it asks of people, and who sees what."""

    name: str
    wrong_offs: str
    cold: str
    wasted: str
    dark: str
    kwh: str
    money: str
    batteries: str
    asks: str
    sees: str
    is_now: bool
    is_worst: tuple[bool, bool, bool]


def way_rows(home: Home, found: HomePresenceNow, power_w: float, per_kwh: float) -> list[PresenceWayRow]:
    """Return the ways of a home's people on its log; ``power_w`` is what is on while somebody is taken to be in [W]."""
    ways = ways_of(home, found.household, minutes_of(found.log.start_ms, found.log.end_ms), power_w, per_kwh)
    worst = [max(getattr(w.score, name) for w in ways) for name in ("wrong_offs", "cold_arrivals", "wasted_h")]
    return [_row(home, way, worst, is_now=k == 0) for k, way in enumerate(ways)]


def _row(home: Home, way: PresenceWay, worst: list[float], *, is_now: bool) -> PresenceWayRow:
    score = way.score
    values = (score.wrong_offs, score.cold_arrivals, score.wasted_h)
    return PresenceWayRow(
        name=way.name,
        wrong_offs=show.number(score.wrong_offs, 1),
        cold=show.number(score.cold_arrivals, 1),
        wasted=show.number(score.wasted_h, 1),
        dark=show.number(score.dark_h, 1),
        kwh=show.number(way.wasted_kwh_week, 1),
        money=show.money(way.wasted_a_year, home.currency, 0),
        batteries=str(way.batteries),
        asks="; ".join(dict.fromkeys(WITNESS_TRAITS[kind].asks_of_people for kind in way.kinds)) or "keep to it",
        sees="; ".join(dict.fromkeys(WITNESS_TRAITS[kind].sees for kind in way.kinds)) or "nobody",
        is_now=is_now,
        is_worst=(values[0] == worst[0] > 0, values[1] == worst[1] > 0, values[2] == worst[2] > 0),
    )
