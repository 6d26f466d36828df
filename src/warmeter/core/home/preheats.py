"""Rooms in the plan of the day: which zones may be warmed or cooled ahead, and what came of planning them."""

from dataclasses import dataclass
from typing import Annotated

from annotated_types import Ge, Le, Len

from warmeter.core.errors import HomeError
from warmeter.core.home.part import Document, Id, InstantMs, SetpointC, Unit


@dataclass(frozen=True, slots=True, kw_only=True)
class PreheatZone(Document):
    """A zone that may be warmed or cooled ahead.

    Parameters
    ----------
    beyond_k : float
        How far beyond what people ask its rooms may be warmed, or cooled.
    most_changes : int
        Changes of temperature a day that its device holds.
    """

    zone_id: Id
    beyond_k: Annotated[float, Ge(0), Le(6), Unit("K")] = 2.0
    most_changes: Annotated[int, Ge(2), Le(48)] = 12


@dataclass(frozen=True, slots=True, kw_only=True)
class PreheatBlock(Document):
    """A stretch [from, until) in which a zone is heated, or cooled, ahead [°C]."""

    from_ms: InstantMs
    until_ms: InstantMs
    setpoint_c: SetpointC | None = None
    cooling_c: SetpointC | None = None

    def __post_init__(self) -> None:
        if self.until_ms <= self.from_ms:
            raise HomeError("a pre-heat must end after it begins")
        if (self.setpoint_c is None) == (self.cooling_c is None):
            raise HomeError("a pre-heat has a setpoint, or a cooling limit")


@dataclass(frozen=True, slots=True, kw_only=True)
class ZoneFigures(Document):
    """What a zone takes over a plan.

    Parameters
    ----------
    cost : float
        Of what its rooms draw, what is left in their walls at the end counted at the mean price [currency].
    drawn_kwh : float
        What they draw.
    off_k : float
        How far a room lies off what people ask at most, a mean over a slot.
    peak_kw : float
        The most that they draw, a mean over a slot.
    """

    cost: float
    drawn_kwh: float
    off_k: float
    peak_kw: float


@dataclass(frozen=True, slots=True, kw_only=True)
class PlannedPreheat(Document):
    """A zone's part of a plan: its blocks, and its figures as written, as the plan promises, and as simulation says.

    ``cost_low`` and ``cost_high`` are the simulation's 95 % range; ``unreached_k`` is by how much what people ask
    cannot be kept by any heat.
    """

    zone_id: Id
    blocks: Annotated[tuple[PreheatBlock, ...], Len(0, 60)] = ()
    written: ZoneFigures
    promised: ZoneFigures
    simulated: ZoneFigures
    cost_low: float
    cost_high: float
    unreached_k: float = 0.0
