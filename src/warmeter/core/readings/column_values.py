"""What the cells of a column say: numbers or words, their range, whether they count up, and how evenly they come."""

from collections import Counter
from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime
from itertools import pairwise
from typing import Literal

import numpy as np

from warmeter.core.arrays import Floats
from warmeter.core.errors import ReadingError
from warmeter.core.quantity import QUANTITIES
from warmeter.core.readings.column_words import unit_named
from warmeter.core.readings.csvlog import NO_READING, number, without_unit
from warmeter.core.readings.state_words import STATE_WORDS, is_state_word
from warmeter.core.units import array_to_stored

Course = Literal["counts", "counts each day", "rises at times", "varies"]
FEWEST_OF_COUNTER = 8
PLAIN = frozenset({"on", "off", "true", "false", "yes", "no", "ein", "aus"})
RISING_SHARE = 0.2
RISES_A_DAY = 5
BEGINS_ANEW = 0.1  # after a reset a counter stands below this share of where it was
FEWEST_RISES = 3
LEAST_SHARE = 0.95  # so many of the values lie in a range, or the range is not theirs

# Where nearly all readings of a home lie, in the stored unit; outside, a column is doubted.
USUAL_RANGE: dict[str, tuple[float, float]] = {
    "room_temperature": (5.0, 40.0),
    "outdoor_temperature": (-40.0, 50.0),
    "outdoor_forecast": (-40.0, 50.0),
    "setpoint": (4.0, 35.0),
    "floor_temperature": (5.0, 45.0),
    "water_temperature": (5.0, 95.0),
    "relative_humidity": (2.0, 100.0),
    "outdoor_humidity": (2.0, 100.0),
    "co2": (300.0, 10_000.0),
    "radio_strength": (-120.0, -5.0),
}


@dataclass(frozen=True, slots=True, kw_only=True)
class ColumnValues:
    """The filled cells of a column.

    Parameters
    ----------
    numbers : array, shape (cell,)
        Those that are numbers, in the order of the file.
    words : frozenset of str
        Those that are not, lower case.
    filled : int
        How many cells are filled.
    unit : str
        The unit that stands behind the numbers, "" where none does or several do.
    course : str
        How the numbers go on from line to line.
    is_even : bool
        Whether more than half of the distances between lines are the same.
    """

    numbers: Floats
    words: frozenset[str]
    filled: int
    unit: str
    course: Course
    is_even: bool

    @property
    def are_two_states(self) -> bool:
        """Whether nothing but 0 and 1, or words for them, stand in the cells."""
        return self.filled > 0 and set(self.numbers.tolist()) <= {0.0, 1.0} and all(map(is_state_word, self.words))

    def states_of(self) -> tuple[str, ...]:
        """Return the quantities of states all of whose words are known; none where numbers or plain yes and no stand."""
        if self.numbers.size or not self.words or self.words <= PLAIN:
            return ()
        return tuple(key for key, codes in STATE_WORDS.items() if self.words <= set(codes))

    def lies_within(self, quantity: str, unit: str) -> bool:
        """Return whether nearly all numbers, in a unit, are what readings of a quantity usually are."""
        stored = array_to_stored(self.numbers, quantity=quantity, unit=unit)
        known = QUANTITIES[quantity]
        low, high = USUAL_RANGE.get(quantity, (known.low, known.high))
        return bool(((stored >= low) & (stored <= high)).mean() >= LEAST_SHARE) if stored.size else False

    @property
    def largest(self) -> float:
        """Largest number without regard to its sign; 0 without numbers."""
        return float(np.abs(self.numbers).max()) if self.numbers.size else 0.0


def column_values(cells: Sequence[str], walls: Sequence[datetime], decimal: str) -> ColumnValues:
    """Return what the cells of a column say.

    Parameters
    ----------
    cells : sequence of str
        In the order of the file, empty ones too.
    walls : sequence of datetime
        The local time of each cell's line.
    decimal : str
        Decimal sign.
    """
    numbers, words, at, units = [], set(), [], set()
    stripped = [(text.strip(), wall) for text, wall in zip(cells, walls, strict=True)]
    filled = [(text, wall) for text, wall in stripped if text.lower() not in NO_READING]
    for text, wall in filled:
        plain, behind = without_unit(text)
        unit = unit_named(behind)
        try:
            numbers.append(number(plain if unit else text, decimal))
        except ReadingError:
            words.add(text.lower())
            continue
        units.add(unit)
        at.append(wall)
    if len(at) > 1 and at[0] > at[-1]:
        numbers, at = numbers[::-1], at[::-1]
    values = np.array(numbers, dtype=np.float64)
    return ColumnValues(
        numbers=values,
        words=frozenset(words),
        filled=len(filled),
        unit=next(iter(units)) if len(units) == 1 else "",
        course=_course(values, at),
        is_even=_is_even([wall for _, wall in filled]),
    )


def _course(values: Floats, at: Sequence[datetime]) -> Course:
    """Return how numbers go on: counting up throughout, anew each day, or neither."""
    steps = np.diff(values)
    rises, falls = steps > 0, np.flatnonzero(steps < 0)
    if not rises.any() or values.min() < 0:
        return "varies"
    if not falls.size:
        is_clear = values.size >= FEWEST_OF_COUNTER and rises.sum() >= FEWEST_RISES
        return "counts" if is_clear else "rises at times"
    on_new_days = all(at[k].date() != at[k + 1].date() for k in falls.tolist())
    anew = bool((values[falls + 1] <= BEGINS_ANEW * values[falls]).all())
    # What is used in each step rises through a day too, but not again and again.
    often = values.size >= FEWEST_OF_COUNTER and rises.sum() >= max(RISES_A_DAY * falls.size, RISING_SHARE * steps.size)
    return "counts each day" if on_new_days and anew and often else "varies"


def _is_even(walls: Sequence[datetime]) -> bool:
    steps = [abs((b - a).total_seconds()) for a, b in pairwise(walls) if a != b]
    return bool(steps) and max(Counter(steps).values()) * 2 > len(steps)
