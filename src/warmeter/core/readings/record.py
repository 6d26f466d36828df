"""The series record: what a column of numbers is, and on which clock (kept for good)."""

from dataclasses import dataclass
from typing import Literal

import numpy as np

from warmeter.core.arrays import Floats, Ints
from warmeter.core.errors import ReadingError, UnitError
from warmeter.core.quantity import QUANTITIES
from warmeter.core.units import S_PER_H, UNITS_OF, array_to_stored, is_energy

Kind = Literal["instant", "mean", "sum", "counter", "daily", "held"]
ENERGY_KINDS: tuple[Kind, ...] = ("sum", "counter", "daily")
Stamp = Literal["start", "end", "instant"]

KIND_WORDS: dict[Kind, str] = {
    "instant": "the value at that instant",
    "mean": "the mean of the step",
    "sum": "the sum of the step",
    "counter": "a counter that only rises",
    "daily": "a counter that begins at 0 each day",
    "held": "holds until the next (report on change)",
}
USUAL_HOLD_S: dict[Kind, int] = {
    "instant": S_PER_H,
    "mean": S_PER_H,
    "sum": S_PER_H,
    "counter": 6 * S_PER_H,
    "daily": 6 * S_PER_H,
    "held": 6 * S_PER_H,
}


@dataclass(frozen=True, slots=True, kw_only=True)
class SeriesRecord:
    """What a series is.

    Parameters
    ----------
    quantity, unit : str
        Key of the quantity and the unit as imported.
    kind, stamp : str
        What a value stands for, and whether its time is the step's start, end, or an instant.
    step_s : int
        Usual distance between readings; 0 for report on change [s].
    longest_hold_s : int
        A reading speaks for no longer than this [s].
    subject : str
        Id of the room or appliance; empty for outdoors.
    """

    quantity: str
    unit: str
    kind: Kind
    stamp: Stamp
    step_s: int
    longest_hold_s: int
    subject: str

    def __post_init__(self) -> None:
        if self.quantity not in QUANTITIES:
            raise ReadingError(f"{self.quantity!r} is no quantity that Warmeter knows")
        if self.unit not in UNITS_OF[self.quantity]:
            raise UnitError(f"{self.unit} does not measure {QUANTITIES[self.quantity].label}")
        if is_energy(self.unit) != (self.kind in ENERGY_KINDS):
            raise ReadingError(
                f"{self.unit} and {KIND_WORDS[self.kind]} do not go together: energies are sums or counters, "
                "powers and temperatures are not"
            )
        if self.longest_hold_s <= 0:
            raise ReadingError("a reading must speak for more than 0 s")


@dataclass(frozen=True, slots=True)
class Readings:
    """Readings of one series, times rising [ms UTC]; raw in its unit until ``in_stored_unit``."""

    at_ms: Ints
    value: Floats

    def between(self, start_ms: int, end_ms: int) -> "Readings":
        """Return the readings of [start, end)."""
        low, high = np.searchsorted(self.at_ms, [start_ms, end_ms])
        return Readings(self.at_ms[low:high], self.value[low:high])

    def in_stored_unit(self, record: SeriesRecord) -> "Readings":
        """Return raw readings in the quantity's stored unit, energies in J; a counter that rolled over goes on."""
        raw = {"counter": unrolled, "daily": continued}.get(record.kind, np.asarray)(self.value)
        return Readings(self.at_ms, array_to_stored(raw, quantity=record.quantity, unit=record.unit))

    @property
    def last_ms(self) -> int | None:
        """Time of the last reading."""
        return int(self.at_ms[-1]) if self.at_ms.size else None


def continued(daily: Floats) -> Floats:
    """Return a counter that begins at 0 each day as one that goes on, shape as given, in the unit of the file.

    Notes
    -----
    After a fall it has counted from nought: what was used between the last reading before and that instant is in no
    file, so a day can come out low by as much.

    Examples
    --------
    >>> continued(np.array([3.0, 5.0, 0.5, 1.0])).tolist()
    [3.0, 5.0, 5.5, 6.0]
    """
    if daily.size < 2:
        return daily
    before = np.where(np.diff(daily) < 0, daily[:-1], 0.0)
    return np.asarray(daily + np.concatenate([[0.0], np.cumsum(before)]), dtype=np.float64)


def unrolled(counter: Floats) -> Floats:
    """Return a counter with its roll-overs added on, shape as given, in the unit of the file.

    Notes
    -----
    A fall from the last tenth below a power of ten (100 or more) into the first tenth above zero is a roll-over:
    the register was full. Any other fall is a reset, and stays a fall: nothing is known of that step.

    Examples
    --------
    >>> unrolled(np.array([99.5, 99.9, 0.3, 0.1])).tolist()
    [99.5, 99.9, 100.3, 100.1]
    """
    if counter.size < 2:
        return counter
    before, after = counter[:-1], counter[1:]
    top = 10.0 ** np.ceil(np.log10(np.maximum(before, 1.0) + 1e-9))
    rolled = (after < before) & (top >= 100) & (before > 0.9 * top) & (after < 0.1 * top)
    return np.asarray(counter + np.concatenate([[0.0], np.cumsum(np.where(rolled, top, 0.0))]), dtype=np.float64)
