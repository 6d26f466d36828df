"""What to measure next: by how much each measurement would narrow a sum of uncertain items (Q3)."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from math import sqrt

from warmeter.core.errors import HomeError, OutOfRange, within

LEAST_NARROWING = 1e-9


@dataclass(frozen=True, slots=True, kw_only=True)
class UncertainItem:
    """An item of a sum: its value and the half of its 95 % width, at least 0, in one unit for all.

    Items of one group err together by the group's correlation; items of none err each by itself.
    """

    id: str
    value: float
    half: float
    group: str | None = None


@dataclass(frozen=True, slots=True, kw_only=True)
class Measurement:
    """What measuring does: the width of its items shrinks to ``factor`` of itself (0 to 1) for some minutes of work.

    ``has_own_error`` tells that what remains is the meter's own: the items leave their groups.
    """

    id: str
    items: tuple[str, ...]
    factor: float
    minutes: float
    has_own_error: bool = False


@dataclass(frozen=True, slots=True, kw_only=True)
class Narrowing:
    """Half width of the sum after a measurement, what it took off, and that by the minute of work."""

    id: str
    half_after: float
    narrowing: float
    per_minute: float


@dataclass(frozen=True, slots=True, kw_only=True)
class ValueOfMeasuring:
    """The sum with its half width, each measurement's narrowing in the order given, and the ids worth doing, best first."""

    total: float
    half: float
    rows: tuple[Narrowing, ...]
    order: tuple[str, ...]


def half_width(items: Sequence[UncertainItem], correlations: Mapping[str, float]) -> float:
    """Return half the 95 % width of a sum of items.

    Raises
    ------
    HomeError
        If an item names a group that has no correlation.

    Notes
    -----
    H² = Σ h² + 2 Σ ρ h_i h_j over pairs of one group (docs/methods Q3): with S the plain sum and Q the sum of squares
    of a group, its part is ρ S² + (1 − ρ) Q.
    """
    squares, plain = 0.0, dict.fromkeys(correlations, 0.0)
    for item in items:
        if item.group is None:
            squares += item.half**2
            continue
        if item.group not in correlations:
            raise HomeError(f"the group {item.group!r} has no correlation")
        squares += (1 - correlations[item.group]) * item.half**2
        plain[item.group] += item.half
    return sqrt(squares + sum(correlations[group] * each**2 for group, each in plain.items()))


def value_of_measuring(
    items: Sequence[UncertainItem], correlations: Mapping[str, float], measurements: Sequence[Measurement]
) -> ValueOfMeasuring:
    """Return what each measurement would take off the width of a sum.

    Parameters
    ----------
    items : sequence of UncertainItem
        What is summed; half widths at least 0.
    correlations : mapping of str to float
        Of each group, 0 to 1.
    measurements : sequence of Measurement
        An item that one names twice counts once.

    Raises
    ------
    OutOfRange
        If the minutes of a measurement are not above 0, or a correlation or factor lies outside 0 to 1.
    HomeError
        If an item or group is not there.

    Notes
    -----
    docs/methods Q3. Narrowings do not add: after one measurement the others are worth something else.
    """
    for name, correlation in correlations.items():
        within(f"correlation of {name}", correlation, 0.0, 1.0)
    half, known = half_width(items, correlations), {item.id for item in items}
    rows = []
    for each in measurements:
        within("factor", each.factor, 0.0, 1.0)
        if each.minutes <= 0:
            raise OutOfRange("minutes of work", each.minutes, 0.0, float("inf"), "min")
        missing = set(each.items) - known
        if missing:
            raise HomeError(f"the item {min(missing)!r} is not in the sum")
        after = half_width([_measured(item, each) for item in items], correlations)
        rows.append(
            Narrowing(id=each.id, half_after=after, narrowing=half - after, per_minute=(half - after) / each.minutes)
        )
    minutes = {each.id: each.minutes for each in measurements}
    worth = [row for row in rows if row.narrowing > LEAST_NARROWING]
    worth.sort(key=lambda row: (-round(row.per_minute, 9), minutes[row.id]))
    return ValueOfMeasuring(
        total=sum(item.value for item in items), half=half, rows=tuple(rows), order=tuple(row.id for row in worth)
    )


def _measured(item: UncertainItem, by: Measurement) -> UncertainItem:
    if item.id not in by.items:
        return item
    group = None if by.has_own_error else item.group
    return UncertainItem(id=item.id, value=item.value, half=by.factor * item.half, group=group)
