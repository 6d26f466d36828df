"""Levels and zones: what people do, and which rooms share a timetable, a sensor rule and limits."""

from dataclasses import dataclass
from typing import Annotated

from annotated_types import Ge, Gt, Le, Len

from warmeter.core.errors import HomeError
from warmeter.core.home.part import Document, Id, Name, SetpointC, Text
from warmeter.core.sensing.calibration import CountRule


@dataclass(frozen=True, slots=True, kw_only=True)
class GuardLimits(Document):
    """Limits that no level undercuts [°C]: frost and damp below, heat above."""

    low_c: SetpointC = 10.0
    high_c: SetpointC = 30.0

    def __post_init__(self) -> None:
        if not self.low_c < self.high_c:
            raise HomeError(
                f"the lower guard limit must lie below the upper (got {self.low_c:g} °C and {self.high_c:g} °C)"
            )


@dataclass(frozen=True, slots=True, kw_only=True)
class Level(Document):
    """What people do, with the heating setpoint and, where there is cooling, the cooling limit [°C]."""

    id: Id
    name: Name
    heating_c: SetpointC
    cooling_c: SetpointC | None = None


@dataclass(frozen=True, slots=True, kw_only=True)
class ChangePoint(Document):
    """From this minute of the day on: a level, or a setpoint of the block's own [°C]."""

    start_min: Annotated[int, Ge(0), Le(1439)]
    level_id: Id
    own_setpoint_c: SetpointC | None = None


@dataclass(frozen=True, slots=True, kw_only=True)
class CountedSensor(Document):
    """A sensor that counts, with its weight where weights are used."""

    device_id: Id
    weight: Annotated[float, Gt(0), Le(100)] = 1.0


@dataclass(frozen=True, slots=True, kw_only=True)
class Sensing(Document):
    """Which sensors count while a level holds (``level_id`` None: at every level without its own), and how."""

    rule: CountRule
    sensors: Annotated[tuple[CountedSensor, ...], Len(0, 40)]
    level_id: Id | None = None


@dataclass(frozen=True, slots=True, kw_only=True)
class Zone(Document):
    """Rooms that share a timetable, with its day as change points (the first at minute 0).

    ``owner_id`` is the one device that owns the timetable, None for Warmeter; ``heater_ids`` those that
    follow, None for all in its rooms; ``low_c`` and ``high_c`` the range allowed; ``guard`` its own limits;
    ``off_means`` what "off" really does here, ``off_c`` the temperature that it keeps, if it does.
    """

    id: Id
    name: Name
    room_ids: tuple[Id, ...]
    day: tuple[ChangePoint, ...]
    owner_id: Id | None = None
    heater_ids: tuple[Id, ...] | None = None
    sensing: Annotated[tuple[Sensing, ...], Len(0, 30)] = ()
    low_c: SetpointC | None = None
    high_c: SetpointC | None = None
    guard: GuardLimits | None = None
    off_means: Text = ""
    off_c: SetpointC | None = None

    def __post_init__(self) -> None:
        starts = [point.start_min for point in self.day]
        if not starts or starts[0] != 0 or starts != sorted(set(starts)):
            raise HomeError(f"the day of {self.name!r} must begin at 00:00 and its times must rise")
        if self.low_c is not None and self.high_c is not None and not self.low_c < self.high_c:
            raise HomeError(f"the range of {self.name!r} must rise (got {self.low_c:g} to {self.high_c:g} °C)")
        levels = [s.level_id for s in self.sensing]
        if len(set(levels)) != len(levels):
            raise HomeError(f"the sensors of {self.name!r} are given twice for one level")

    def sensing_at(self, level_id: str | None) -> Sensing | None:
        """Return which sensors count at a level: its own rule, else the one for every level."""
        by_level = {s.level_id: s for s in self.sensing}
        return by_level.get(level_id) or by_level.get(None)

    @property
    def counted_ids(self) -> tuple[str, ...]:
        """Devices that count at some level, each once."""
        return tuple(dict.fromkeys(c.device_id for s in self.sensing for c in s.sensors))
