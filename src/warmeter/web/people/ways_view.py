"""Ways to know whether anybody is at home, side by side, as ready strings."""

from dataclasses import dataclass

import numpy as np

from warmeter.core.arrays import Flags, Ints
from warmeter.core.home.document import Home
from warmeter.core.home.people import WitnessKind
from warmeter.core.presence.household_presence import minutes_of
from warmeter.core.presence.ways import PresenceWay, ways_of
from warmeter.core.presence.witness_kinds import WITNESS_TRAITS
from warmeter.core.timegrid import LocalClock
from warmeter.core.timetable.day import blocks_between
from warmeter.service.presence.household import HomePresenceNow
from warmeter.web import format as show

WEEKS_A_YEAR, W_PER_KW = 52.18, 1000
DAY_MIN = (420, 1320)


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
    minutes = minutes_of(found.log.start_ms, found.log.end_ms)
    ways = ways_of(found.household, minutes, home.presence_practice.sure, _by_clock(home, minutes), [])
    worst = [max(getattr(w.score, name) for w in ways) for name in ("wrong_offs", "cold_arrivals", "wasted_h")]
    return [_row(home, way, power_w, per_kwh, worst, is_now=k == 0) for k, way in enumerate(ways)]


def _by_clock(home: Home, minutes: Ints) -> Flags | None:
    """Return whether by the timetable somebody is at home: by day a level that does not save, in any zone; at night always."""
    if not home.zones or home.in_use is None:
        return None
    clock, used = LocalClock(home.time_zone), np.zeros(minutes.size, dtype=bool)
    for zone in home.zones:
        blocks = blocks_between(home, zone, clock, int(minutes[0]), int(minutes[-1]) + 1)
        begins = np.array([b.from_ms for b in blocks], dtype=np.int64)
        saves = np.array([any(lv.id == b.level_id and lv.is_saving for lv in home.levels) for b in blocks])
        used |= ~saves[np.searchsorted(begins, minutes, side="right") - 1]
    _, of_day = clock.local_minutes(minutes)
    # At night a level that saves is for who sleeps.
    return used | (of_day < DAY_MIN[0]) | (of_day >= DAY_MIN[1])


def _row(
    home: Home, way: PresenceWay, power_w: float, per_kwh: float, worst: list[float], *, is_now: bool
) -> PresenceWayRow:
    score = way.score
    kwh = score.wasted_h * power_w / W_PER_KW
    kinds: list[WitnessKind] = [w.kind for p in home.people for w in p.witnesses] if is_now else []
    kinds = list(dict.fromkeys(kinds)) or ([way.kind] if way.kind is not None else [])
    values = (score.wrong_offs, score.cold_arrivals, score.wasted_h)
    return PresenceWayRow(
        name=way.name,
        wrong_offs=show.number(score.wrong_offs, 1),
        cold=show.number(score.cold_arrivals, 1),
        wasted=show.number(score.wasted_h, 1),
        dark=show.number(score.dark_h, 1),
        kwh=show.number(kwh, 1),
        money=show.money(kwh * per_kwh * WEEKS_A_YEAR, home.currency, 0),
        batteries=str(_batteries(home, kinds)),
        asks="; ".join(dict.fromkeys(WITNESS_TRAITS[kind].asks_of_people for kind in kinds)) or "keep to it",
        sees="; ".join(dict.fromkeys(WITNESS_TRAITS[kind].sees for kind in kinds)) or "nobody",
        is_now=is_now,
        is_worst=(values[0] == worst[0] > 0, values[1] == worst[1] > 0, values[2] == worst[2] > 0),
    )


def _batteries(home: Home, kinds: list[WitnessKind]) -> int:
    """Return on how many batteries a way hangs, telephones left out: people charge those."""
    named = {key for p in home.people for w in p.witnesses if w.kind in kinds for key in w.device_ids}
    fed = ("battery", "mains_and_battery")
    return sum(d.id in named and d.power in fed and d.kind != "telephone" for d in home.devices)
