"""A room that is too warm: how long, why, and the setting that ends it, or that none does."""

from dataclasses import dataclass, replace
from itertools import pairwise

import numpy as np

from warmeter.core.arrays import Flags, Floats, Ints
from warmeter.core.building.heating import full_heat_w, typed_step_k
from warmeter.core.figure import Figure, Input
from warmeter.core.home.document import Home
from warmeter.core.home.rooms import Room
from warmeter.core.home.zones import Zone
from warmeter.core.matters.heat_money import kelvin_figure, rooms_money
from warmeter.core.matters.heat_year import kelvin_costs
from warmeter.core.matters.line import MoneyDoubt
from warmeter.core.nuisances.result import DayBars, FoundNumber, More, NuisanceResult
from warmeter.core.nuisances.warm_room import (
    WARM_K,
    WORKING_SHARE,
    WarmHours,
    minutes_to_come_down,
    warm_hours,
    warmest_hour,
)
from warmeter.core.sentence import Sentence, celsius, kelvin, sentence
from warmeter.core.thermal.room_fit import Estimate
from warmeter.core.timegrid import LocalClock
from warmeter.core.timetable.day import blocks_between
from warmeter.core.units import MIN_PER_DAY, MIN_PER_H, MS_PER_MIN, S_PER_MIN
from warmeter.core.wording import clock_time
from warmeter.service.app import App
from warmeter.service.matters.heat_evidence import asked_of, climate_year, heated_rooms
from warmeter.service.readings.room_logs import instants, means, room_series, series_of

STEP_MIN = 10
MOST_DAYS = 60
FEWEST_HOURS, SELDOM, FEWEST_FALLS = 24.0, 0.05, 3
TWO_SIDED = 1.96
CAUTION = "Valves, wiring and anything that burns: work on them is for a licensed person."
MORE = (
    More(title="Its windows, by their sides", text="At which hours the sun reaches in.", step="survey", minutes=10),
    More(
        title="What its heater gives", text="Whether it works while the room is too warm.", step="import_log", minutes=5
    ),
)


@dataclass(frozen=True, slots=True)
class _Log:
    """A room's log on a grid of ten minutes."""

    at_ms: Ints
    room_c: Floats
    asked_c: Floats
    fell: Flags
    working: Flags
    is_heat_known: bool


def warm_room_result(app: App, home: Home, room_id: str) -> NuisanceResult:
    """Return how long a room was too warm, why, and what would end it."""
    room, zone = home.room(room_id), home.zone_of_room(room_id)
    if zone is None:
        return NuisanceResult(sentence=f"{room.name} has no timetable to be warmer than.", is_answered=False)
    log = _log(app, home, zone, room_id)
    if log is None:
        return NuisanceResult(sentence="Import its temperature.", is_answered=False, caution=CAUTION)
    found = warm_hours(log.room_c, log.asked_c, log.working, log.fell, STEP_MIN / MIN_PER_H)
    bars = _bars(log, app.clock(home))
    facts = (
        FoundNumber(label="Hours heard", value=found.heard_h),
        FoundNumber(label="Over what is asked", value=found.over_h, unit="h"),
        FoundNumber(
            label="while its heater worked", value=found.by_cause["heated"] if log.is_heat_known else None, unit="h"
        ),
        FoundNumber(label="after what is asked fell", value=found.by_cause["stored"], unit="h"),
        FoundNumber(label="in other hours", value=found.by_cause["gains"], unit="h"),
    )
    if found.heard_h < FEWEST_HOURS:
        words = f"Only {found.heard_h:.0f} h of it were heard: a day at least is needed."
        return NuisanceResult(sentence=words, is_answered=False, facts=facts, bars=bars, caution=CAUTION)
    answer = NuisanceResult(
        sentence="", is_answered=True, facts=facts, bars=bars, more=MORE, caution=CAUTION, step="timetable"
    )
    cause = found.main_cause
    if cause is None or found.over_h < SELDOM * found.heard_h:
        words = sentence(
            "{} was more than {} over what is asked in {:.0f} of {:.0f} h: it is not too warm by its log. Ask less, or look "
            "at what the sensor sees.",
            room.name,
            kelvin(WARM_K),
            found.over_h,
            found.heard_h,
        )
        return replace(answer, sentence=words)
    begin = sentence(
        "{} was over what is asked in {:.0f} of {:.0f} h, by {} in the mean. ",
        room.name,
        found.over_h,
        found.heard_h,
        kelvin(found.mean_over_k[cause], 1),
    )
    if cause == "heated":
        words, figure = _heated(app, home, room, log, found)
    elif cause == "stored":
        words, figure = _stored(home, zone, app.clock(home), log)
    else:
        words, figure = _gains(app, home, log), None
    is_told = cause != "gains" or log.is_heat_known
    return replace(answer, sentence=sentence("{}{}", begin, words), figure=figure, is_answered=is_told)


def _log(app: App, home: Home, zone: Zone, room_id: str) -> _Log | None:
    inside = room_series(app, home, "room_temperature", room_id)
    if not inside:
        return None
    spans = [app.readings.span(s.id) for s in inside]
    last = max(high for _, high in spans)
    first = max(min(low for low, _ in spans), last - MOST_DAYS * MIN_PER_DAY * MS_PER_MIN)
    at = np.arange(first, last + 1, STEP_MIN * MS_PER_MIN, dtype=np.int64)
    asked, fell = asked_of(home, zone, app.clock(home), at)
    given = room_series(app, home, "heat_w", room_id)
    heat = means(app, given, first, float(STEP_MIN * S_PER_MIN), at.size)
    with np.errstate(invalid="ignore"):
        working = heat > WORKING_SHARE * full_heat_w(home, room_id)
    return _Log(at, instants(app, home, inside, at), asked, fell, working, bool((~np.isnan(heat)).any()))


def _bars(log: _Log, clock: LocalClock) -> DayBars:
    """Return how far the room was over what is asked, by day [K·h]."""
    day, _ = clock.local_minutes(log.at_ms)
    first = clock.local(int(log.at_ms[0])).date()
    heard, place = ~np.isnan(log.room_c), (day - day[0]).astype(int)
    over = np.maximum(0.0, np.nan_to_num(log.room_c - log.asked_c) - WARM_K) * heard * STEP_MIN / MIN_PER_H
    sums, counts = np.bincount(place, weights=over), np.bincount(place, weights=heard)
    values = tuple(float(each) if count else None for each, count in zip(sums, counts, strict=True))
    return DayBars(
        label=sentence("Over what is asked by more than {}", kelvin(WARM_K)), unit="K·h", first=first, values=values
    )


def _heated(app: App, home: Home, room: Room, log: _Log, found: WarmHours) -> tuple[Sentence | str, Figure | None]:
    """Return what its own control asks too much, and a year's money of it where its heat has a price."""
    step_k = typed_step_k(home, room.id)
    lower_k = max(step_k, round(found.mean_over_k["heated"] / step_k) * step_k)
    words = sentence(
        "Its heater worked in {:.0f} h of them: its own control asks more than the timetable. Set it {} lower",
        found.by_cause["heated"],
        kelvin(lower_k, 1),
    )
    climate = climate_year(app, home)
    priced = next((each for each in heated_rooms(app, home, climate) if each.room_id == room.id), None)
    if priced is None:
        return sentence("{}.", words), None
    excess = _daily_excess(log)
    each_k = kelvin_costs(priced, climate)
    money = rooms_money(climate, (priced,), lambda one: excess.value * kelvin_costs(one, climate), form=0.0)
    days = MoneyDoubt(cause="days", down=each_k * (excess.value - excess.low), up=each_k * (excess.high - excess.value))
    money = replace(money, doubts=(*money.doubts, days))
    told = sentence(
        "{}: that saves {:.0f} ({:.0f} to {:.0f}) {} a year.",
        words,
        money.value,
        max(0.0, money.low),
        money.high,
        home.currency,
    )
    return told, kelvin_figure("too-warm", priced, climate, excess.value, money)


def _daily_excess(log: _Log) -> Estimate:
    """Return by how much the room is over what is asked while its heater works, spread over all hours [K]."""
    heard = ~np.isnan(log.room_c)
    over = np.where(heard & log.working & (log.room_c > log.asked_c), np.nan_to_num(log.room_c - log.asked_c), 0.0)
    day = (log.at_ms - log.at_ms[0]) // (MIN_PER_DAY * MS_PER_MIN)
    counts = np.bincount(day, weights=heard)
    means_k = np.bincount(day, weights=over)[counts > 0] / counts[counts > 0]
    spread = float(means_k.std(ddof=1)) if means_k.size > 1 else float(means_k[0])
    mean, half = float(means_k.mean()), TWO_SIDED * spread / means_k.size**0.5
    return Estimate(value=mean, low=max(0.0, mean - half), high=mean + half)


def _stored(home: Home, zone: Zone, clock: LocalClock, log: _Log) -> tuple[Sentence | str, Figure | None]:
    """Return how early the warm period would have to end for the room to be down when the cool one begins."""
    came = minutes_to_come_down(log.room_c, log.asked_c, STEP_MIN)
    down = np.array([each for each in came if each is not None])
    blocks = blocks_between(home, zone, clock, int(log.at_ms[0]), int(log.at_ms[-1]) + 1)
    falls = [
        (block.start_min, block.setpoint_c)
        for before, block in pairwise(blocks)
        if block.setpoint_c < before.setpoint_c - WARM_K
    ]
    if down.size < FEWEST_FALLS or 2 * down.size < len(came) or not falls:
        return (
            f"It keeps its warmth after what is asked fell: on {len(came) - down.size} of {len(came)} times it had not "
            "come down before more was asked again. Asking less before, or shutting a door or opening a window, ends it.",
            None,
        )
    start_min, low_c = max(set(falls), key=falls.count)
    low, middle, high = np.quantile(down, (0.1, 0.5, 0.9)).tolist()
    words = sentence(
        "It keeps its warmth: after {} it takes {:.0f} min ({:.0f} to {:.0f} on {} evenings) to come down to {}. To be there "
        "by then, end its warm period at {}; from there on it is cooler than asked now.",
        clock_time(start_min),
        middle,
        low,
        high,
        str(down.size),
        celsius(low_c),
        clock_time(round(start_min - middle) % MIN_PER_DAY),
    )
    figure = Figure(
        key="too-warm",
        title="How early its warm period would end",
        unit="min",
        value=middle,
        low=low,
        high=high,
        decimals=0,
        formula="middle of the times from a fall of what is asked until the room is within half a kelvin of it",
        substituted=", ".join(f"{each:.0f}" for each in np.sort(down)),
        method="measured in its log",
        inputs=(
            Input(symbol="n", name="evenings", value=float(down.size), unit="", decimals=0, origin="measured"),
            Input(
                symbol="m",
                name="not down in time",
                value=float(len(came) - down.size),
                unit="",
                decimals=0,
                origin="measured",
            ),
        ),
        note="The range holds eight evenings of ten. On colder days it is shorter, on milder ones longer.",
    )
    return words, figure


def _gains(app: App, home: Home, log: _Log) -> str:
    """Return when sun and people warm it, and whether air from outdoors would have cooled it."""
    if not log.is_heat_known:
        return "What its heater gave then is not known, so neither is why. Import its heat or its plug's watts."
    _, minute = app.clock(home).local_minutes(log.at_ms)
    with np.errstate(invalid="ignore"):
        over = (log.room_c - log.asked_c > WARM_K) & ~log.working & ~log.fell
    hour = warmest_hour(log.room_c, log.asked_c, over, minute / MIN_PER_H)
    outdoor = instants(app, home, series_of(app, home.id, "outdoor_temperature", ""), log.at_ms)
    heard = over & ~np.isnan(outdoor)
    cooler = 100 * float((outdoor < log.room_c - 1)[heard].mean()) if heard.any() else None
    air = (
        "Whether a window would have cooled it is not known: no temperature outdoors."
        if cooler is None
        else f"Outdoors was cooler in {cooler:.0f} % of those hours, so a window would have cooled it then."
    )
    return (
        f"Its heater did not work then; it is warmest from {clock_time(hour * MIN_PER_H)} to {clock_time((hour + 1) % 24 * MIN_PER_H)}: sun, people or "
        f"what runs in it. No setting of the heater ends that: shade it or let air in. {air}"
    )
