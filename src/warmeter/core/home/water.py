"""Points where water can come out, what shuts it, and what would notice it."""

from dataclasses import dataclass
from datetime import date
from typing import Annotated, Literal

from annotated_types import Ge, Gt, Le, Len

from warmeter.core.home.part import Document, Id, Name, Spot, Text, Unit

WaterPointKind = Literal[
    "tap",
    "tub",
    "shower",
    "toilet",
    "washing_machine",
    "dishwasher",
    "water_heater",
    "boiler_filling",
    "sump",
    "condensate",
    "pool",
    "garden",
    "sprinkler",
]


@dataclass(frozen=True, slots=True, kw_only=True)
class SensorReach(Document):
    """A leak sensor that a point's water reaches, ``wet_s`` after the burst (None: as is usual where it stands) [s]."""

    device_id: Id
    wet_s: Annotated[float, Ge(0), Le(1_000_000)] | None = None


@dataclass(frozen=True, slots=True, kw_only=True)
class WaterPoint(Document):
    """A point where water can come out.

    ``flow_l_min`` is what flows when it bursts, ``leaks_year`` how many leaks a year are reckoned with (None: as is
    usual of its kind). ``valve_ids`` shut it, the nearest first, the main valve last. ``reaches`` are the leak sensors
    that its water comes to.
    """

    id: Id
    name: Name
    kind: WaterPointKind
    room_id: Id | None = None
    at: Spot | None = None
    is_warm: bool = False
    flow_l_min: Annotated[float, Gt(0), Le(1000), Unit("L/min")] | None = None
    leaks_year: Annotated[float, Ge(0), Le(10)] | None = None
    valve_ids: Annotated[tuple[Id, ...], Len(0, 10)] = ()
    reaches: Annotated[tuple[SensorReach, ...], Len(0, 40)] = ()


@dataclass(frozen=True, slots=True, kw_only=True)
class SelfTest(Document):
    """A test of an alarm path: seconds from wet to told, from told to shut; None where it did not come to it."""

    on: date
    told_s: Annotated[float, Ge(0), Le(100_000)] | None = None
    shut_s: Annotated[float, Ge(0), Le(100_000)] | None = None
    failed: Text = ""


@dataclass(frozen=True, slots=True, kw_only=True)
class WaterPractice(Document):
    """How soon people act on water, and what the ways of noticing it are set to.

    Somebody at home shuts it by hand after ``home_min``, from away after ``away_min``; where nothing tells it is seen
    after ``seen_h``. A valve that is stuck is noticed ``still_flowing_s`` later by the flow that goes on. A flow sensor
    tells after ``flow_min`` of more than ``flow_least_l_min`` without a pause; a nightly test of the pressure finds
    ``pressure_least_l_min`` and more. Alarm paths are tested every ``test_every_days``, and a valve that takes longer
    than ``shut_limit_s`` is worked on.
    """

    home_min: Annotated[float, Ge(0), Le(10_000)] = 5.0
    away_min: Annotated[float, Ge(0), Le(10_000)] = 45.0
    seen_h: Annotated[float, Ge(0), Le(1000)] = 12.0
    still_flowing_s: Annotated[float, Ge(0), Le(10_000)] = 45.0
    flow_min: Annotated[float, Gt(0), Le(1440)] = 20.0
    flow_least_l_min: Annotated[float, Gt(0), Le(100), Unit("L/min")] = 1.0
    pressure_least_l_min: Annotated[float, Gt(0), Le(100), Unit("L/min")] = 0.02
    test_every_days: Annotated[int, Ge(1), Le(3660)] = 31
    shut_limit_s: Annotated[float, Gt(0), Le(10_000)] = 30.0
