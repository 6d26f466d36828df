"""The way from a converter's counts to a temperature: reference, divider, thermistor."""

from dataclasses import dataclass
from itertools import pairwise
from typing import Annotated, Literal

from annotated_types import Ge, Gt, Le

from warmeter.core.errors import HomeError
from warmeter.core.home.part import Document, Unit

RawUnit = Literal["counts", "volt", "ohm"]
FixedSide = Literal["supply", "ground"]
ThermistorC = Annotated[float, Ge(-60), Le(300), Unit("°C")]
Ohm = Annotated[float, Gt(0), Le(100_000_000)]


@dataclass(frozen=True, slots=True, kw_only=True)
class ThermistorPoint(Document):
    """A point of a thermistor's table."""

    at_c: ThermistorC
    ohm: Annotated[float, Ge(1), Le(100_000_000)]


@dataclass(frozen=True, slots=True, kw_only=True)
class RawChain(Document):
    """A sensor's chain.

    The log carries ``reads``. Counts are those of a converter of ``bits`` against ``reference_v``; the divider hangs
    between ``supply_v`` and ground, its fixed resistor on ``fixed_side``. The thermistor has ``r25_ohm`` at 25 °C and
    ``beta_k``, or three ``points`` of its table, which then count. ``tolerance_pct`` is that of the fixed resistor and
    of the thermistor. ``checked_raw`` was read when a reference showed ``checked_c``.
    """

    reads: RawUnit = "counts"
    bits: Annotated[int, Ge(6), Le(24)] = 10
    reference_v: Annotated[float, Gt(0), Le(50)] = 3.3
    supply_v: Annotated[float, Gt(0), Le(50)] = 3.3
    fixed_ohm: Ohm = 10_000.0
    fixed_side: FixedSide = "supply"
    r25_ohm: Ohm = 10_000.0
    beta_k: Annotated[float, Ge(1000), Le(8000)] = 3950.0
    points: tuple[ThermistorPoint, ...] = ()
    tolerance_pct: Annotated[float, Ge(0), Le(20)] = 1.0
    low_c: ThermistorC = 0.0
    high_c: ThermistorC = 40.0
    checked_raw: float | None = None
    checked_c: ThermistorC | None = None

    def __post_init__(self) -> None:
        if self.points and (len(self.points) != 3 or len({(p.at_c, p.ohm) for p in self.points}) != 3):
            raise HomeError("a thermistor has three different points of its table, or none")
        ordered = sorted(self.points, key=lambda point: point.at_c)
        if any(a.ohm <= b.ohm for a, b in pairwise(ordered)):
            raise HomeError("a thermistor's ohms fall as it warms; look at its points again")
        if self.low_c >= self.high_c:
            raise HomeError("the range of a sensor ends above where it begins")
