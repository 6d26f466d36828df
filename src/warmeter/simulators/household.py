"""A made-up household: people with habits, visits, forgotten telephones, still readers, pets; what was heard, and the truth.

Shares no form with the estimate: people move through rooms minute by minute for lengths drawn from skewed
distributions, and each witness has its own ways of being late, silent and wrong.
"""

from dataclasses import dataclass
from datetime import UTC, datetime, timedelta

import numpy as np

from warmeter.core.arrays import Bytes
from warmeter.core.home.document import Home
from warmeter.core.home.part import part_names
from warmeter.core.units import MIN_PER_DAY, MS_PER_S
from warmeter.simulators.household_devices import Heard, Installed
from warmeter.simulators.household_life import OUT, PLACE, Habit, drawn_guests, drawn_life

MONDAY = datetime(2026, 1, 5, tzinfo=UTC)


@dataclass(frozen=True, slots=True, kw_only=True)
class Household:
    """A household's weeks.

    Parameters
    ----------
    home : Home
        Rooms, devices, people with their witnesses.
    heard : mapping
        By quantity and subject: reports as (instants [ms UTC], values).
    start_ms, minutes : int
        What it covers; from a Monday, UTC.
    where : mapping of str to (minute,) int8 array
        By person: place of the room, ``OUT`` away.
    guests_in : (minute,) int8 array
        Place of the room in which guests are, ``OUT`` if none are there.
    """

    home: Home
    heard: Heard
    start_ms: int
    minutes: int
    where: dict[str, Bytes]
    guests_in: Bytes

    def is_home(self) -> Bytes:
        """Return 1 in each minute in which somebody is at home, guests too."""
        there = np.stack([*self.where.values(), self.guests_in])
        return np.asarray((there != OUT).any(axis=0), dtype=np.int8)

    def is_in(self, room_id: str) -> Bytes:
        """Return 1 in each minute in which somebody is in a room."""
        there = np.stack([*self.where.values(), self.guests_in])
        return np.asarray((there == PLACE[room_id]).any(axis=0), dtype=np.int8)


def household(seed: int, weeks: int = 4) -> Household:
    """Return the household of a seed: who lives there, what is installed, and its weeks."""
    rng = np.random.default_rng(seed)
    minutes = weeks * 7 * MIN_PER_DAY
    count = int(rng.choice([1, 1, 2, 2, 3, 4]))
    habits: list[Habit] = list(rng.choice(["office", "office", "office", "at home", "shifts", "retired"], size=count))
    if count >= 3:
        habits[-1] = "school"
    lives = [drawn_life(rng, habit, weeks) for habit in habits]
    guests = drawn_guests(rng, lives, minutes)
    start_ms = round(MONDAY.timestamp() * MS_PER_S)
    installed = Installed(rng, lives, guests, start_ms)
    home = installed.home(seed, habits)
    return Household(
        home=home,
        heard=installed.heard,
        start_ms=start_ms,
        minutes=minutes,
        where={person.id: life.where for person, life in zip(home.people, lives, strict=True)},
        guests_in=guests,
    )


def log_csv(heard: Heard, home: Home) -> str:
    """Return what was heard as a table: a time, and a column by device and appliance, filled where it spoke."""
    names = part_names(home.devices, home.appliances)
    ending = {"is_open": "door", "is_moving": "motion", "is_home": "", "is_in": "presence", "is_in_bed": "in bed"}
    ending["distance_m"] = "distance (m)"
    keys = list(heard)
    heads = [f"{names[subject]} {ending.get(quantity, 'power (W)')}".strip() for quantity, subject in keys]
    rows: dict[int, dict[int, float]] = {}
    for place, key in enumerate(keys):
        for at, value in zip(heard[key][0].tolist(), heard[key][1].tolist(), strict=True):
            rows.setdefault(at, {})[place] = value
    lines = [",".join(["time (UTC)", *heads])]
    for at in sorted(rows):
        cells = [f"{rows[at][k]:g}" if k in rows[at] else "" for k in range(len(keys))]
        moment = datetime.fromtimestamp(0, UTC) + timedelta(milliseconds=at)
        lines.append(",".join([moment.strftime("%Y-%m-%dT%H:%M:%SZ"), *cells]))
    return "\n".join(lines) + "\n"
