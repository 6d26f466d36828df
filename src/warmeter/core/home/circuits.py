"""Electric circuits with what hangs on them, mats of warm floors, and what was measured on both."""

from dataclasses import dataclass
from datetime import date
from typing import Annotated, Literal

from annotated_types import Ge, Gt, Le, Len

from warmeter.core.home.part import Document, Id, Name, Word

OhmStage = Literal["before", "laid", "covered", "later"]
FloorCover = Literal["tile", "stone", "vinyl", "laminate", "timber", "carpet"]
TripCurve = Literal["", "B", "C", "D"]


@dataclass(frozen=True, slots=True, kw_only=True)
class OhmReading(Document):
    """What a meter read on a mat: its ohms, and megohms between its wire and its screen, where that was measured."""

    on: date
    stage: OhmStage
    ohm: Annotated[float, Gt(0), Le(100_000)]
    insulation_mohm: Annotated[float, Ge(0), Le(100_000)] | None = None


@dataclass(frozen=True, slots=True, kw_only=True)
class HeatingMat(Document):
    """A mat or cable in a floor; ``ohm_expected`` is what its plate says (None: volts squared by watts)."""

    id: Id
    name: Name
    room_id: Id | None = None
    power_w: Annotated[float, Gt(0), Le(20_000)]
    area_m2: Annotated[float, Gt(0), Le(500)] | None = None
    cover: FloorCover = "tile"
    ohm_expected: Annotated[float, Gt(0), Le(100_000)] | None = None
    readings: Annotated[tuple[OhmReading, ...], Len(0, 200)] = ()


@dataclass(frozen=True, slots=True, kw_only=True)
class TripTest(Document):
    """A test of a fault-current device: in how many milliseconds it tripped, None where it did not."""

    on: date
    trip_ms: Annotated[float, Ge(0), Le(10_000)] | None


@dataclass(frozen=True, slots=True, kw_only=True)
class Circuit(Document):
    """A circuit of the board.

    Volts are those between phase and neutral, of three phases those between two of them. ``residual_ma`` is what the
    fault-current device trips at (None: there is none), ``control_a`` what the thermostat or relay channel may carry,
    ``board_modules`` how wide it is on the board. Heaters, machines and mats hang on it; ``other_w`` is what runs three
    hours or more besides. ``probe_ohm`` and ``spare_probe_ohm`` are what the floor's probes read on ``probe_read_on``.
    """

    id: Id
    name: Name
    volts_v: Annotated[float, Ge(12), Le(1000)] = 230.0
    phases: Literal[1, 3] = 1
    power_factor: Annotated[float, Gt(0), Le(1)] = 1.0
    rating_a: Annotated[float, Gt(0), Le(630)] = 16.0
    curve: TripCurve = "B"
    residual_ma: Annotated[float, Gt(0), Le(1000)] | None = 30.0
    control_a: Annotated[float, Gt(0), Le(630)] | None = None
    board_modules: Annotated[int, Ge(0), Le(36)] = 1
    other_w: Annotated[float, Ge(0), Le(100_000)] = 0.0
    heater_ids: Annotated[tuple[Id, ...], Len(0, 40)] = ()
    appliance_ids: Annotated[tuple[Id, ...], Len(0, 40)] = ()
    mats: Annotated[tuple[HeatingMat, ...], Len(0, 40)] = ()
    trip_tests: Annotated[tuple[TripTest, ...], Len(0, 200)] = ()
    probe_ohm: Annotated[float, Gt(0), Le(1_000_000)] | None = None
    spare_probe_ohm: Annotated[float, Gt(0), Le(1_000_000)] | None = None
    probe_read_on: date | None = None


@dataclass(frozen=True, slots=True, kw_only=True)
class ElectricalPractice(Document):
    """What the local code and the makers ask, as the person who answers for it chose.

    Loads of three hours or more may take ``continuous_factor`` of a circuit's rating. A mat's ohms may lie
    ``ohm_under_pct`` under and ``ohm_over_pct`` over what is expected [%], its insulation is at least
    ``insulation_least_mohm``. A fault-current device trips within ``trip_limit_ms`` and is tested every
    ``trip_every_days``. The board has room for ``board_modules`` (None: nobody counted), a relay module has
    ``relay_channels`` of ``relay_channel_a`` each. ``chosen_by`` says who chose.
    """

    continuous_factor: Annotated[float, Gt(0), Le(1)] = 0.8
    chosen_by: Word = ""
    ohm_under_pct: Annotated[float, Ge(0), Le(50)] = 5.0
    ohm_over_pct: Annotated[float, Ge(0), Le(50)] = 10.0
    insulation_least_mohm: Annotated[float, Ge(0), Le(10_000)] = 1.0
    trip_limit_ms: Annotated[float, Gt(0), Le(10_000)] = 300.0
    trip_every_days: Annotated[int, Ge(1), Le(3660)] = 183
    board_modules: Annotated[int, Ge(1), Le(500)] | None = None
    relay_channels: Annotated[int, Ge(1), Le(64)] = 8
    relay_channel_a: Annotated[float, Gt(0), Le(100)] = 10.0
