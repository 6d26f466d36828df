"""Machines on metering plugs: what they are, the settings in use, and what a person said of their cycles."""

from dataclasses import dataclass
from typing import Annotated, Literal

from annotated_types import Ge, Gt, Le, Len

from warmeter.core.errors import HomeError
from warmeter.core.home.part import Document, Id, Name, Unit, Word
from warmeter.core.units import S_PER_DAY

MachineKind = Literal[
    "washer",
    "condenser_dryer",
    "heat_pump_dryer",
    "dishwasher",
    "fridge",
    "freezer",
    "kettle",
    "tub",
    "dehumidifier",
    "water_heater",
    "pump",
    "computer",
    "other",
]
# What starts and stops by itself: nobody starts a run of it, so none is planned, priced or cut.
CYCLES_BY_ITSELF: frozenset[MachineKind] = frozenset(
    {"fridge", "freezer", "tub", "dehumidifier", "water_heater", "pump"}
)
Asking = Literal["finished", "started", "idle", "left_on", "ran_today"]
Watts = Annotated[float, Ge(0), Le(50_000)]


@dataclass(frozen=True, slots=True, kw_only=True)
class ToldSetting(Document):
    """A setting in use: what it tells, its threshold [W], waiting time [s] and hysteresis [W].

    ``start_s`` is how long the power must stand at the threshold before a run begins: shorter ticks, such as of a drum
    that turns now and then, begin none [s].
    """

    tells: Asking
    threshold_w: Watts
    wait_s: Annotated[float, Ge(0), Le(7 * S_PER_DAY)]
    hysteresis_w: Watts = 0.0
    start_s: Annotated[float, Ge(0), Le(3600)] = 0.0


@dataclass(frozen=True, slots=True, kw_only=True)
class CycleMark(Document):
    """What a person says of a stretch of the log: one cycle, with its programme, or none. Truth from then on."""

    start_ms: Annotated[int, Ge(0)]
    end_ms: Annotated[int, Ge(1)]
    is_cycle: bool = True
    programme: Word = ""

    def __post_init__(self) -> None:
        if self.end_ms <= self.start_ms:
            raise HomeError("a run must end after it starts")


@dataclass(frozen=True, slots=True, kw_only=True)
class PhaseName(Document):
    """The name of phases whose mean power lies within [low, high) W."""

    name: Name
    low_w: Watts
    high_w: Watts

    def __post_init__(self) -> None:
        if self.high_w <= self.low_w:
            raise HomeError(f"the phase {self.name!r} must reach from a lower to a higher power")


@dataclass(frozen=True, slots=True, kw_only=True)
class Appliance(Document):
    """A machine on a metering plug.

    Parameters
    ----------
    kind : str
        What it is: says what cutting its plug would cost and which cautions stand beside it.
    settings : tuple of ToldSetting
        In use, one for each thing told.
    earliest_min, latest_end_min, start_min, start_step_min : int
        A run lies between the first two (beyond 1440 is next day) and is planned at the third [min].
    threshold_step_w, wait_step_min : float
        The plug's own steps.
    marks : tuple of CycleMark
        Cycles as a person corrected them; later ones win.
    phase_names : tuple of PhaseName
        Names of phases by their power.
    counted_since_ms : int or None
        From when on run time, starts and energy are counted; None is from the log's first reading [ms UTC].
    loses_clock, cools_down, locks_door, restarts_by_hand : bool or None
        What cutting the plug at the end would cost; None takes what is usual for its kind.
    """

    id: Id
    name: Name
    kind: MachineKind = "other"
    settings: Annotated[tuple[ToldSetting, ...], Len(0, 5)] = ()
    earliest_min: Annotated[int, Ge(0), Le(1439), Unit("time of day")] = 0
    latest_end_min: Annotated[int, Ge(1), Le(2880), Unit("time of day")] = 1440
    start_min: Annotated[int, Ge(0), Le(1439)] = 1080
    start_step_min: Annotated[int, Ge(1), Le(120)] = 30
    threshold_step_w: Annotated[float, Gt(0), Le(100)] = 1.0
    wait_step_min: Annotated[float, Gt(0), Le(60)] = 1.0
    marks: Annotated[tuple[CycleMark, ...], Len(0, 2000)] = ()
    phase_names: Annotated[tuple[PhaseName, ...], Len(0, 20)] = ()
    counted_since_ms: Annotated[int, Ge(0)] | None = None
    loses_clock: bool | None = None
    cools_down: bool | None = None
    locks_door: bool | None = None
    restarts_by_hand: bool | None = None

    def __post_init__(self) -> None:
        told = [s.tells for s in self.settings]
        if len(set(told)) < len(told):
            raise HomeError(f"{self.name!r} has two settings that tell the same")

    def setting(self, tells: Asking) -> ToldSetting | None:
        """Return the setting in use that tells something, None if there is none."""
        return next((s for s in self.settings if s.tells == tells), None)

    def programme_of(self, span: tuple[int, int]) -> str:
        """Return the programme that was last said of a stretch [ms UTC], "" if none was."""
        return next((m.programme for m in reversed(self.marks) if (m.start_ms, m.end_ms) == span), "")
