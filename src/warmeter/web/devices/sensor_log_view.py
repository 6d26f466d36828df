"""A sensor judged by its log, as ready strings."""

from dataclasses import dataclass

from warmeter.core.building.sensor_place import Verdict, plan_says
from warmeter.core.home.devices import Device
from warmeter.core.home.document import Home
from warmeter.core.sensing.drift import DRIFT_LIMIT_K, PER_30_DAYS, Drift
from warmeter.core.sensing.health import HealthFlag
from warmeter.core.sensing.placement import Spoilt, SpoiltBy
from warmeter.core.sentence import Sentence
from warmeter.core.timegrid import LocalClock
from warmeter.core.wording import clock_time
from warmeter.service.readings.sensor_log import SensorJudgement
from warmeter.web import format as show

CAUSE_WORDS: dict[SpoiltBy, str] = {
    "sun": "sun on it",
    "heater": "a heater near it",
    "outside_wall": "a cold wall behind it",
    "hand": "a hand, or something warm",
    "draught": "a draught, or airing",
    "stale": "the same for hours",
}
FLAG_WORDS: dict[HealthFlag, str] = {
    "stale": "silent for longer than it usually is",
    "stuck": "always the same, while heat or outdoors moved",
    "jump": "jumps faster than air can",
    "range": "readings that no room has",
}


@dataclass(frozen=True, slots=True, kw_only=True)
class SpoiltRow:
    """A cause that spoils readings, with what the plan says of it."""

    words: str
    hours: str
    often: str
    size: str
    when: str
    plan: Sentence | str
    verdict: Verdict


@dataclass(frozen=True, slots=True, kw_only=True)
class SensorLogView:
    """A sensor judged by its log: its health in words, and what spoils it."""

    health: str
    is_sound: bool
    days: int
    rows: list[SpoiltRow]
    drift: str
    is_drifting: bool
    limits: str


def sensor_log_view(
    home: Home, device: Device, found: SensorJudgement | None, clock: LocalClock
) -> SensorLogView | None:
    """Return what a sensor's log says of it; None without one."""
    if found is None:
        return None
    said = [FLAG_WORDS[flag] for flag in found.flags]
    last = show.moment(found.last_ms, clock, home.country)
    lacks = [
        words
        for words, is_there in (
            ("another sensor in the room, for a cold wall", found.beside),
            ("when the heater works", found.knows_heat),
        )
        if not is_there
    ]
    whose = "Its room's log, the only thermometer there. " if found.of_room else ""
    state = f"{'; '.join(said).capitalize()}." if said else "Nothing is wrong with its readings."
    return SensorLogView(
        health=f"{whose}Last heard {last}. {state}",
        is_sound=not said,
        days=found.days,
        rows=[_row(home, device, each, begins) for each, begins in zip(found.spoilt, found.begins_min, strict=True)],
        drift="" if found.drift is None else _drift_words(home, found.drift),
        is_drifting=found.drift is not None and found.drift.exceeds(DRIFT_LIMIT_K) and found.drift.is_one_way,
        limits=f"Its log cannot tell all: it lacks {' and '.join(lacks)}." if lacks else "",
    )


def _drift_words(home: Home, drift: Drift) -> str:
    """Return how a sensor moves against the room's others in thirty days."""

    def told(per_day: float) -> str:
        return show.difference(PER_30_DAYS * per_day, home, 1, is_signed=True)

    unit = show.difference_unit(home)
    return (
        f"Against the room's other sensors it moves {told(drift.slope_per_day)} {unit} in thirty days "
        f"({told(drift.low_per_day)} to {told(drift.high_per_day)})."
    )


def _row(home: Home, device: Device, each: Spoilt, begins: list[int]) -> SpoiltRow:
    says = plan_says(home, device, each.by)
    plural = "s" * (each.days != 1)
    ordered = sorted(begins)
    spread = ordered[len(ordered) // 10 : len(ordered) - len(ordered) // 10] if ordered else []
    return SpoiltRow(
        words=CAUSE_WORDS[each.by],
        hours=show.number(each.hours, 1 if each.hours < 10 else 0),
        often=f"{each.times} on {each.days} day{plural}" if each.times else f"{each.days} day{plural}",
        size="" if each.by == "stale" else show.difference(each.size_k, home, 1, is_signed=True),
        when=f"{clock_time(spread[0])} to {clock_time(spread[-1])}" if each.by == "sun" and spread else "",
        plan=says.words,
        verdict=says.verdict,
    )
