"""The days of a made-up person: rooms for skewed lengths, trips, nights; and guests, minute by minute."""

from dataclasses import dataclass, field
from typing import Literal

import numpy as np

from warmeter.core.arrays import Bytes
from warmeter.core.home.rooms import RoomUse
from warmeter.core.units import MIN_PER_DAY

Habit = Literal["office", "at home", "shifts", "school", "retired"]
Doing = Literal["out", "moving", "sitting", "still", "asleep"]
OUT = -1
ROOMS: tuple[tuple[str, str, RoomUse], ...] = (
    ("hall", "Hall", "hall"),
    ("kitchen", "Kitchen", "kitchen"),
    ("parlour", "Parlour", "living"),
    ("study", "Study", "office"),
    ("bedroom", "Bedroom", "sleeping"),
    ("bath", "Bath", "bath"),
)
PLACE = {key: k for k, (key, _, _) in enumerate(ROOMS)}
DOINGS: tuple[Doing, ...] = ("out", "moving", "sitting", "still", "asleep")


@dataclass(slots=True)
class Life:
    """A person's minutes while they are drawn."""

    habit: Habit
    stillness: float
    wakes_min: float
    sleeps_min: float
    home_days: frozenset[int]
    where: Bytes
    doing: Bytes
    left: list[int] = field(default_factory=list)
    came: list[int] = field(default_factory=list)


def drawn_life(rng: np.random.Generator, habit: Habit, weeks: int) -> Life:
    """Return a person's minutes over so many weeks, drawn by habit."""
    minutes = weeks * 7 * MIN_PER_DAY
    workdays = [int(d) for d in rng.permutation(5)[: int(rng.integers(0, 3))]] if habit == "office" else []
    life = Life(
        habit=habit,
        stillness=float(rng.uniform(0.2, 0.9)),
        wakes_min=float(rng.normal(410, 30)),
        sleeps_min=float(rng.normal(1370, 30)),
        home_days=frozenset(workdays),
        where=np.full(minutes, PLACE["bedroom"], dtype=np.int8),
        doing=np.full(minutes, DOINGS.index("asleep"), dtype=np.int8),
    )
    asleep_until = 0
    for day in range(7 * weeks):
        base = day * MIN_PER_DAY
        late = 60 if day % 7 >= 5 else 0
        wake = max(asleep_until, base + round(rng.normal(life.wakes_min + late, 15)))
        sleep = base + round(rng.normal(life.sleeps_min + late / 2, 25))
        trips = _trips(rng, life, day % 7, base)
        _live(rng, life, wake, min(sleep, minutes), trips)
        asleep_until = sleep
        _wakes_at_night(rng, life, sleep, minutes)
    return life


def _trips(rng: np.random.Generator, life: Life, weekday: int, base: int) -> list[tuple[int, int]]:
    """Return a day's times away [minute]."""
    trips: list[tuple[float, float]] = []
    is_off = weekday >= 5 or weekday in life.home_days
    if life.habit == "office" and not is_off:
        trips.append((rng.normal(490, 15), rng.normal(1060, 40)))
    elif life.habit == "school" and weekday < 5:
        trips.append((rng.normal(465, 6), rng.normal(870, 25)))
    elif life.habit == "shifts" and rng.random() < 0.65:
        trips.append(
            (rng.normal(780, 10), rng.normal(1310, 20)) if rng.random() < 0.5 else (430.0, rng.normal(940, 20))
        )
    else:
        trips += [(at, at + rng.lognormal(4.0, 0.6)) for at in rng.uniform(560, 1080, size=int(rng.integers(0, 3)))]
    if rng.random() < (0.35 if weekday >= 4 else 0.15):
        at = rng.normal(1150, 30)
        trips.append((at, at + rng.lognormal(4.8, 0.4)))
    found: list[tuple[int, int]] = []
    for begin, end in sorted(trips):
        begin, end = base + round(begin), base + round(end)
        if found and begin < found[-1][1] + 40:
            continue
        found.append((begin, max(begin + 8, end)))
    return found


def _live(rng: np.random.Generator, life: Life, wake: int, sleep: int, trips: list[tuple[int, int]]) -> None:
    """Draw a day from waking to falling asleep."""
    at = wake
    for begin, end in [*trips, (sleep, sleep)]:
        at = _at_home(rng, life, at, min(begin, life.where.size))
        if begin >= life.where.size:
            return
        if end > begin and at >= begin:
            life.where[begin : min(end, life.where.size)] = OUT
            life.doing[begin : min(end, life.where.size)] = DOINGS.index("out")
            life.left.append(begin)
            if end < life.where.size:
                life.came.append(end)
            at = min(end, life.where.size)


def _at_home(rng: np.random.Generator, life: Life, begin: int, end: int) -> int:
    """Draw what is done at home over [begin, end): rooms for skewed lengths, through the hall between them."""
    at, room = begin, ""
    while at < end:
        hour = at % MIN_PER_DAY / 60
        works = (
            life.habit == "office" and life.home_days and 9 <= hour < 17 and (at // MIN_PER_DAY) % 7 in life.home_days
        )
        weights = {
            "kitchen": 0.3 if hour < 9 or 12 <= hour < 14 or 18 <= hour < 20 else 0.12,
            "parlour": 0.15 if hour < 17 else 0.5,
            "study": 0.6 if works else 0.12,
            "bath": 0.14,
            "bedroom": 0.06,
        }
        weights.pop(room, None)
        keys = list(weights)
        share = np.array([weights[k] for k in keys])
        room = str(rng.choice(keys, p=share / share.sum()))
        middle, spread = {"kitchen": (2.8, 0.6), "bath": (2.0, 0.6), "bedroom": (2.3, 0.7)}.get(room, (3.7, 0.8))
        length = max(2, round(rng.lognormal(middle, spread)))
        until = min(end, at + length)
        life.where[at : min(until, at + 1)] = PLACE["hall"]
        life.where[at + 1 : until] = PLACE[room]
        doing = np.full(until - at, DOINGS.index("sitting"), dtype=np.int8)
        if room in ("kitchen", "bath", "bedroom"):
            doing[:] = np.where(rng.random(doing.size) < 0.7, DOINGS.index("moving"), DOINGS.index("sitting"))
        elif rng.random() < life.stillness:
            doing[:] = DOINGS.index("still")
            doing[rng.random(doing.size) < 0.03] = DOINGS.index("moving")
        doing[:2] = DOINGS.index("moving")
        doing[-1:] = DOINGS.index("moving")
        life.doing[at:until] = doing
        at = until
    if 0 < end < life.where.size and end > begin:
        life.where[end - 1] = PLACE["hall"]
        life.doing[end - 1] = DOINGS.index("moving")
    return max(at, begin)


def _wakes_at_night(rng: np.random.Generator, life: Life, sleep: int, minutes: int) -> None:
    """Draw a way to the bath at night."""
    at = sleep + int(rng.integers(90, 330))
    if rng.random() < 0.4 and at + 5 < minutes:
        life.where[at] = life.where[at + 4] = PLACE["hall"]
        life.where[at + 1 : at + 4] = PLACE["bath"]
        life.doing[at : at + 5] = DOINGS.index("moving")


def drawn_guests(rng: np.random.Generator, lives: list[Life], minutes: int) -> Bytes:
    """Draw visits: evenings in the parlour while somebody is in; now and then a stay while all are out."""
    found = np.full(minutes, OUT, dtype=np.int8)
    there = np.stack([life.where for life in lives])
    for day in range(minutes // MIN_PER_DAY):
        begin = day * MIN_PER_DAY + int(rng.normal(1110, 40))
        end = begin + int(rng.lognormal(5.0, 0.3))
        is_met = bool((there[:, begin : begin + 10] != OUT).any()) if end < minutes else False
        if rng.random() < 0.12 and is_met:
            found[begin:end] = PLACE["parlour"]
    return found
