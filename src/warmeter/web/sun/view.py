"""Sun and blinds as ready strings and a picture: windows on a day, what blinds spare on a log's own days."""

from dataclasses import dataclass
from datetime import date

import numpy as np

from warmeter.core.arrays import Floats, Ints
from warmeter.core.emitters.split_unit import RATED_OUTDOOR_C
from warmeter.core.explain.sun_figures import day_grid, energy_kwh
from warmeter.core.floor_plan.walls import compass
from warmeter.core.home.document import Home
from warmeter.core.home.rooms import BlindPlace, Opening, Room
from warmeter.core.sentence import Sentence, celsius, sentence
from warmeter.core.shading.blind_days import BlindUse, UseOutcome
from warmeter.core.shading.room_windows import (
    BLIND_LETS,
    SkyOverTime,
    WindowGains,
    gain_ends,
    sky_at,
    window_gains,
    window_plane,
)
from warmeter.core.timegrid import LocalClock
from warmeter.core.units import MIN_PER_DAY
from warmeter.core.wording import clock_time, day_short
from warmeter.service.shading.blind_outcome import BlindOutcome
from warmeter.web import format as show

PLACE_WORDS: dict[BlindPlace, str] = {
    "none": "none",
    "inside": "inside",
    "between": "between panes",
    "outside": "outside",
}
USE_WORDS: dict[BlindUse, str] = {"as_logged": "as it was", "never": "never down", "in_the_sun": "down in the sun"}
LEFT_PX, CURVE_PX, TOP_PX, FOOT_PX = 44, 150, 8, 18
TICK_HOURS = (0, 6, 12, 18, 24)


@dataclass(frozen=True, slots=True, kw_only=True)
class WindowRow:
    """A window: where it faces, its blind, when the sun stands on it, what comes in on the day."""

    opening: Opening
    room: str
    room_id: str
    faces: str
    area_m2: float
    lets: str
    usual_lets: str
    motors: list[tuple[str, str]]
    now: str
    sunlit: str
    up_key: str
    up_kwh: str
    down_key: str
    down_kwh: str


@dataclass(frozen=True, slots=True, kw_only=True)
class SunDay:
    """A room's sun over a day: blinds up as a line, down as an area [px]."""

    width: int
    height: int
    ticks: list[tuple[float, str]]
    levels: list[tuple[float, str]]
    up: str
    down: str
    words: str


@dataclass(frozen=True, slots=True, kw_only=True)
class UseRow:
    """What a way of using the blinds makes of the log's days."""

    words: str
    sun: str
    hot: str
    hot_range: str
    warmest: str
    cooling: str


@dataclass(frozen=True, slots=True, kw_only=True)
class SparedView:
    """What blinds spare on a log's own days."""

    days: str
    limit: Sentence | str
    rows: list[UseRow]
    sentence: Sentence | str
    learnt: str
    is_learnt: bool


def window_rows(home: Home, on: date, positions: dict[str, float | None]) -> list[WindowRow]:
    """Return every window in an outside wall under a clear sky on a date; ``positions`` are how far blinds are down [%]."""
    at = day_grid(home, on)
    sky = sky_at(home, at)
    found = []
    motors = [(d.id, d.name) for d in home.devices if d.kind == "blind_motor" and d.is_in_service]
    for room in home.rooms:
        for opening in home.openings_of(room.id):
            plane, gains = window_plane(home, opening), window_gains(home, opening, sky)
            if plane is None or gains is None:
                continue
            usual = BLIND_LETS[opening.blind][0]
            low, high = gain_ends(opening)
            down = energy_kwh(gains.down_w)
            position = positions.get(opening.id)
            has_blind = opening.blind != "none"
            found.append(
                WindowRow(
                    opening=opening,
                    room=room.name,
                    room_id=room.id,
                    faces=f"{compass(plane.bearing_deg)} {plane.bearing_deg:.0f}°",
                    area_m2=plane.area_m2,
                    lets="" if opening.blind_lets is None else f"{opening.blind_lets:g}",
                    usual_lets=f"{usual:g}" if has_blind else "",
                    motors=motors,
                    now="" if not has_blind else "not known" if position is None else f"{position:.0f} %",
                    sunlit=_sunlit(home, at, gains.is_sunlit),
                    up_key=f"up.{on}.{opening.id}",
                    up_kwh=show.number(energy_kwh(gains.up_w), 1),
                    down_key=f"down.{on}.{opening.id}" if has_blind else "",
                    down_kwh=f"{show.number(down, 1)} ({show.number(down * low, 1)} to {show.number(down * high, 1)})",
                )
            )
    return found


def _sunlit(home: Home, at: Ints, sunlit: Floats) -> str:
    """Return from when to when the beam stands on a window, each stretch of the day."""
    lit = np.flatnonzero(sunlit > 0)
    if not lit.size:
        return "no"
    _, minute = LocalClock(home.time_zone).local_minutes(at)
    half = int(minute[1] - minute[0]) // 2
    parts = np.split(lit, np.flatnonzero(np.diff(lit) > 1) + 1)
    ends = [(int(minute[part[0]]) - half, (int(minute[part[-1]]) + half) % MIN_PER_DAY) for part in parts]
    return ", ".join(f"{clock_time(begin)} to {clock_time(end)}" for begin, end in ends)


def sun_day(home: Home, room: Room, on: date, width: int) -> SunDay | None:
    """Return a room's clear day in a picture of a width [px]; None without a window in an outside wall."""
    at = day_grid(home, on)
    sky: SkyOverTime = sky_at(home, at)
    found: list[WindowGains] = [g for o in home.openings_of(room.id) if (g := window_gains(home, o, sky)) is not None]
    if not found:
        return None
    up, down = (np.sum([getattr(each, name) for each in found], axis=0) for name in ("up_w", "down_w"))
    top = max(float(up.max()), 1.0)
    each_w = next(step for step in (50, 100, 200, 500, 1000, 2000, 5000, 1e9) if top / step <= 4)
    inner, height = width - LEFT_PX - 8, TOP_PX + CURVE_PX + FOOT_PX

    def x(place: float) -> float:
        return round(LEFT_PX + inner * place, 1)

    def y(value: float) -> float:
        return round(TOP_PX + CURVE_PX * (1 - value / top), 1)

    middles = (np.arange(at.size) + 0.5) / at.size

    def path(values: Floats) -> str:
        return "M" + "L".join(f"{x(m)} {y(v)}" for m, v in zip(middles.tolist(), values.tolist(), strict=True))

    base = y(0.0)
    has_blind = any(each.opening.blind != "none" for each in found)
    kept = f", {energy_kwh(down):.1f} kWh with all wholly down" if has_blind else ""
    return SunDay(
        width=width,
        height=height,
        ticks=[(x(hour / 24), f"{hour:02d}") for hour in TICK_HOURS],
        levels=[(y(value), show.number(value)) for value in np.arange(0, top + 1, each_w).tolist()],
        up=path(up),
        down=f"{path(down)}L{x(float(middles[-1]))} {base}L{x(float(middles[0]))} {base}Z",
        words=f"{room.name} on a clear {day_short(on, home.country)}: {energy_kwh(up):.1f} kWh with blinds up{kept}; at its "
        f"most {top:.0f} W at {_at_most(home, at, up)}.",
    )


def _at_most(home: Home, at: Ints, watts: Floats) -> str:
    _, minute = LocalClock(home.time_zone).local_minutes(at)
    return clock_time(int(minute[int(watts.argmax())]))


def spared_view(home: Home, room: Room, found: BlindOutcome) -> SparedView:
    """Return what a room's blinds spare, in words and rows."""
    by_use = {each.use: each for each in found.uses}
    never, sunlit = by_use["never"], by_use["in_the_sun"]
    learnt = found.learnt
    cooler = next((h for h in home.heaters if h.room_id == room.id and h.split is not None), None)
    words: Sentence | str = sentence(
        "Down wherever the sun stands on its windows, {} is over {} for {:.0f} h instead of {:.0f} h with them never down; "
        "holding {} then takes {:.1f} kWh less heat away.",
        room.name,
        celsius(found.limit_c),
        sunlit.hot_h.value,
        never.hot_h.value,
        celsius(found.limit_c),
        max(0.0, never.cooling_kwh.value - sunlit.cooling_kwh.value),
    )
    if cooler is not None and cooler.split is not None:
        spared = max(0.0, never.cooling_kwh.value - sunlit.cooling_kwh.value) / cooler.split.eer
        words = sentence(
            "{} At the EER of {} ({:g} at {}) that is {:.1f} kWh of electricity.",
            words,
            cooler.name,
            cooler.split.eer,
            celsius(RATED_OUTDOOR_C["cool"]),
            spared,
        )
    return SparedView(
        days=f"{day_short(found.first, home.country)} to {day_short(found.last, home.country)}",
        limit=sentence("over {}", celsius(found.limit_c)),
        rows=[_use_row(home, each) for each in found.uses],
        sentence=words,
        learnt=found.not_learnt
        if learnt is None
        else f"Its blinds let {100 * learnt.lets.value:.0f} % ({100 * learnt.lets.low:.0f} to {100 * learnt.lets.high:.0f} %) of the "
        f"sun through, by {learnt.up_days} sunny days with them up and {learnt.down_days} with them down. The sun that came in was "
        f"{100 * learnt.sun.value:.0f} % of what windows and sky are reckoned to let in.",
        is_learnt=learnt is not None,
    )


def _use_row(home: Home, found: UseOutcome) -> UseRow:
    hot, cool = found.hot_h, found.cooling_kwh
    return UseRow(
        words=USE_WORDS[found.use],
        sun=show.number(found.sun_kwh, 1),
        hot=show.number(hot.value),
        hot_range=f"{show.number(hot.low)} to {show.number(hot.high)}",
        warmest=show.temperature(found.warmest_c.value, home),
        cooling=f"{show.number(cool.value, 1)} ({show.number(cool.low, 1)} to {show.number(cool.high, 1)})",
    )
