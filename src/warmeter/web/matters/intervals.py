"""Ranges of money on one axis for a whole list, as ready coordinates."""

from collections.abc import Sequence
from dataclasses import dataclass
from math import floor, log10

from warmeter.core.matters.line import YearlyMoney
from warmeter.core.matters.ranking import MoneySum
from warmeter.web import format as show

WIDTH, PADDING = 120, 6
MOST_TICKS = 4
_NICE = (1.0, 2.0, 5.0, 10.0)


@dataclass(frozen=True, slots=True)
class AmountTick:
    """A tick of the axis: its place [px] and number; ``is_zero`` for the line of nothing."""

    x: float
    text: str
    is_zero: bool


@dataclass(frozen=True, slots=True)
class Interval:
    """A range [px]: its ends, its best estimate, and whether it holds nought."""

    x1: float
    x2: float
    x: float
    is_open: bool


@dataclass(frozen=True, slots=True)
class AmountAxis:
    """One axis of money for several ranges: from ``low`` over so many px a unit."""

    low: float
    per_unit: float
    ticks: tuple[AmountTick, ...]

    def place(self, value: float) -> float:
        """Return where an amount stands [px]."""
        return round(PADDING + (value - self.low) * self.per_unit, 1)

    def interval(self, money: YearlyMoney | MoneySum) -> Interval:
        """Return an amount's range on the axis."""
        return Interval(
            self.place(money.low), self.place(money.high), self.place(money.value), money.low <= 0 <= money.high
        )


def axis_of(amounts: Sequence[YearlyMoney | MoneySum], width: int = WIDTH) -> AmountAxis:
    """Return an axis that holds nought and every range."""
    low = min([0.0, *(each.low for each in amounts)])
    high = max([1.0, *(each.high for each in amounts)])
    per_unit = (width - 2 * PADDING) / (high - low)
    step = _step((high - low) / MOST_TICKS)
    first = -floor(-low / step)
    ticks = []
    value = first * step
    while value <= high + 1e-9:
        ticks.append(
            AmountTick(
                round(PADDING + (value - low) * per_unit, 1), show.number(value, 0), is_zero=abs(value) < step / 2
            )
        )
        value += step
    return AmountAxis(low, per_unit, tuple(ticks))


def _step(least: float) -> float:
    """Return the least of 1, 2, 5 times a power of ten, and at least 1, that is no smaller than asked."""
    power = 10.0 ** floor(log10(max(least, 1.0)))
    return next(nice * power for nice in _NICE if nice * power >= max(least, 1.0) - 1e-9)
