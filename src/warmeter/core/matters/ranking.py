"""The list in its order, the sum of its money, and what to measure next."""

from collections.abc import Collection, Iterable, Sequence
from dataclasses import dataclass, replace

from warmeter.core.matters.line import KINDS, MatterLine, MeasureOffer
from warmeter.core.matters.value_of_measuring import Measurement, UncertainItem, half_width, value_of_measuring
from warmeter.core.sentence import sentence

# Doubts of one cause are one thing that nobody knows: they err together, wholly.
SAME_CAUSE = 1.0
LEAST_NARROWING = 0.01  # of the sum's width; less is not worth a line


@dataclass(frozen=True, slots=True, kw_only=True)
class MoneySum:
    """A sum of yearly amounts with its 95 % range."""

    value: float
    low: float
    high: float

    @property
    def width(self) -> float:
        """From the lower to the upper end."""
        return self.high - self.low


@dataclass(frozen=True, slots=True, kw_only=True)
class MeasureNext:
    """A measurement with the sum's range after it, by how much that is narrower, and the keys of the lines it feeds."""

    offer: MeasureOffer
    after: MoneySum
    narrower: float
    feeds: tuple[str, ...]


@dataclass(frozen=True, slots=True, kw_only=True)
class Matters:
    """What matters in a home: open lines in their order, those put aside, the sum of the open ones.

    ``measures`` begins with what narrows most a minute; ``together`` is the sum's range after the first three.
    """

    lines: tuple[MatterLine, ...]
    aside: tuple[MatterLine, ...]
    total: MoneySum
    measures: tuple[MeasureNext, ...]
    together: MoneySum

    @property
    def minutes(self) -> int:
        """Minutes of work of all open lines."""
        return sum(line.minutes for line in self.lines)


def ranked(lines: Iterable[MatterLine]) -> tuple[MatterLine, ...]:
    """Return lines in their order: by kind, then by best estimate, then by work."""

    def place(line: MatterLine) -> tuple[int, bool, float, int, str]:
        value = 0.0 if line.money is None else line.money.value
        return KINDS.index(line.kind), line.money is None, -value, line.minutes, line.key

    return tuple(sorted(_folded(lines), key=place))


def _folded(lines: Iterable[MatterLine]) -> list[MatterLine]:
    """Return lines with those of one key as one: what the others say stands under the first."""
    found: dict[str, MatterLine] = {}
    for line in lines:
        first = found.get(line.key)
        found[line.key] = line if first is None else replace(first, why=sentence("{} {}", first.why, line.sentence))
    return list(found.values())


def money_sum(lines: Iterable[MatterLine], factors: dict[str, float] | None = None) -> MoneySum:
    """Return the sum of the lines' money; ``factors`` has what a measured cause's doubt shrinks to (0 to 1)."""
    lines, shrunk = tuple(lines), factors or {}
    causes = {doubt.cause: SAME_CAUSE for line in lines if line.money for doubt in line.money.doubts}
    value = sum(line.money.value for line in lines if line.money)
    down, up = (half_width(_shrunk(_items(lines, is_up=is_up), shrunk), causes) for is_up in (False, True))
    return MoneySum(value=value, low=value - down, high=value + up)


def matters_of(lines: Iterable[MatterLine], offers: Sequence[MeasureOffer], put_aside: Collection[str] = ()) -> Matters:
    """Return what matters: lines in order, those put aside by key, and what to measure next (docs/methods Q3)."""
    every = ranked(lines)
    kept = tuple(line for line in every if line.key not in put_aside)
    measures = _measures(kept, offers)
    first = {cause: each.offer.factor for each in reversed(measures[:3]) for cause in each.offer.causes}
    return Matters(
        lines=kept,
        aside=tuple(line for line in every if line.key in put_aside),
        total=money_sum(kept),
        measures=measures,
        together=money_sum(kept, first),
    )


def _items(lines: Sequence[MatterLine], *, is_up: bool) -> list[UncertainItem]:
    """Return each doubt of each line as an item of the sum: what its line is worth stands with the first."""
    return [
        UncertainItem(
            id=f"{line.key} {doubt.cause}",
            value=0.0 if place else line.money.value,
            half=doubt.up if is_up else doubt.down,
            group=doubt.cause,
        )
        for line in lines
        if line.money
        for place, doubt in enumerate(line.money.doubts)
    ]


def _shrunk(items: Sequence[UncertainItem], factors: dict[str, float]) -> list[UncertainItem]:
    return [
        UncertainItem(id=i.id, value=i.value, half=i.half * factors.get(i.group or "", 1.0), group=i.group)
        for i in items
    ]


def _measures(lines: Sequence[MatterLine], offers: Sequence[MeasureOffer]) -> tuple[MeasureNext, ...]:
    """Return the measurements that narrow the sum, by what they narrow a minute of work."""
    causes = {doubt.cause: SAME_CAUSE for line in lines if line.money for doubt in line.money.doubts}
    asked = [
        Measurement(
            id=offer.key,
            items=tuple(item.id for item in _items(lines, is_up=True) if item.group in offer.causes),
            factor=offer.factor,
            minutes=offer.minutes,
        )
        for offer in offers
    ]
    total = money_sum(lines)
    down, up = (value_of_measuring(_items(lines, is_up=is_up), causes, asked) for is_up in (False, True))
    found = []
    for offer, below, above in zip(offers, down.rows, up.rows, strict=True):
        narrower = below.narrowing + above.narrowing
        if narrower < LEAST_NARROWING * total.width or narrower <= 0:
            continue
        feeds = tuple(
            line.key for line in lines if line.money and {d.cause for d in line.money.doubts} & set(offer.causes)
        )
        after = MoneySum(value=total.value, low=total.value - below.half_after, high=total.value + above.half_after)
        found.append(MeasureNext(offer=offer, after=after, narrower=narrower, feeds=feeds))
    return tuple(sorted(found, key=lambda each: (-each.narrower / each.offer.minutes, each.offer.minutes)))
