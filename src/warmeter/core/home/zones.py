"""Levels and zones: what people do, and which rooms share a timetable, a sensor rule and limits."""

from dataclasses import dataclass, replace
from typing import Annotated

from annotated_types import Gt, Le, Len

from warmeter.core.errors import HomeError
from warmeter.core.home.part import Document, Id, Name, SetpointC, Text
from warmeter.core.home.timetables import ChangePoint, Fan, HandRule, Period, Timetable
from warmeter.core.sensing.calibration import CountRule
from warmeter.core.sentence import celsius, sentence

HAND = HandRule()


@dataclass(frozen=True, slots=True, kw_only=True)
class GuardLimits(Document):
    """Limits that no level undercuts [°C]: frost and damp below, heat above."""

    low_c: SetpointC = 10.0
    high_c: SetpointC = 30.0

    def __post_init__(self) -> None:
        if not self.low_c < self.high_c:
            raise HomeError(
                sentence(
                    "the lower protection limit must lie below the upper (got {} and {})",
                    celsius(self.low_c),
                    celsius(self.high_c),
                )
            )


@dataclass(frozen=True, slots=True, kw_only=True)
class Level(Document):
    """What people do, with the heating setpoint and, where there is cooling, the cooling limit [°C].

    ``is_saving`` says that the level is meant to save against the first that is not.
    """

    id: Id
    name: Name
    heating_c: SetpointC
    cooling_c: SetpointC | None = None
    fan: Fan = "auto"
    is_saving: bool = False


@dataclass(frozen=True, slots=True, kw_only=True)
class LevelNumbers(Document):
    """A zone's own numbers for a level; None leaves the home's [°C]."""

    level_id: Id
    heating_c: SetpointC | None = None
    cooling_c: SetpointC | None = None
    fan: Fan | None = None


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
    """Rooms that share timetables: the first holds where no entry of ``calendar`` does, of entries the last.

    ``owner_id`` is the one device that owns the timetable, None for Warmeter; ``heater_ids`` those that
    follow, None for all in its rooms; ``low_c`` and ``high_c`` the range allowed; ``guard`` its own limits;
    ``off_means`` what "off" really does here, ``off_c`` the temperature that it keeps, if it does.
    """

    id: Id
    name: Name
    room_ids: tuple[Id, ...]
    timetables: Annotated[tuple[Timetable, ...], Len(1, 20)]
    calendar: Annotated[tuple[Period, ...], Len(0, 60)] = ()
    numbers: Annotated[tuple[LevelNumbers, ...], Len(0, 30)] = ()
    hand: HandRule = HAND
    owner_id: Id | None = None
    heater_ids: tuple[Id, ...] | None = None
    sensing: Annotated[tuple[Sensing, ...], Len(0, 30)] = ()
    low_c: SetpointC | None = None
    high_c: SetpointC | None = None
    guard: GuardLimits | None = None
    off_means: Text = ""
    off_c: SetpointC | None = None

    def __post_init__(self) -> None:
        if self.low_c is not None and self.high_c is not None and not self.low_c < self.high_c:
            raise HomeError(
                sentence("the range of {!r} must rise (got {})", self.name, celsius(self.low_c, until=self.high_c))
            )
        levels = [s.level_id for s in self.sensing]
        if len(set(levels)) != len(levels):
            raise HomeError(f"the sensors of {self.name!r} are given twice for one level")
        numbered = [n.level_id for n in self.numbers]
        if len(set(numbered)) != len(numbered):
            raise HomeError(f"{self.name!r} has numbers of its own twice for one level")
        known = {t.id for t in self.timetables}
        if any(period.timetable_id not in known for period in self.calendar):
            raise HomeError(f"the calendar of {self.name!r} names a timetable that is not there")

    def sensing_at(self, level_id: str | None) -> Sensing | None:
        """Return which sensors count at a level: its own rule, else the one for every level."""
        by_level = {s.level_id: s for s in self.sensing}
        return by_level.get(level_id) or by_level.get(None)

    def timetable(self, timetable_id: str) -> Timetable:
        """Return a timetable by id; ``HomeError`` if it is not there."""
        for each in self.timetables:
            if each.id == timetable_id:
                return each
        raise HomeError(f"{self.name} has no such timetable any more")

    def numbers_at(self, level_id: str) -> LevelNumbers | None:
        """Return the zone's own numbers for a level, None if it has none."""
        return next((n for n in self.numbers if n.level_id == level_id), None)

    @property
    def all_points(self) -> tuple[ChangePoint, ...]:
        """Every change point of every timetable."""
        return tuple(point for timetable in self.timetables for point in timetable.all_points)

    @property
    def counted_ids(self) -> tuple[str, ...]:
        """Devices that count at some level, each once."""
        return tuple(dict.fromkeys(c.device_id for s in self.sensing for c in s.sensors))


def zone_like(zone: Zone, fresh_id: str) -> Zone:
    """Return a copy of a zone under another id, its timetables under ids made from it."""
    fresh = {timetable.id: f"{fresh_id}-t{place}" for place, timetable in enumerate(zone.timetables)}
    return replace(
        zone,
        id=fresh_id,
        timetables=tuple(replace(t, id=fresh[t.id]) for t in zone.timetables),
        calendar=tuple(replace(p, timetable_id=fresh[p.timetable_id]) for p in zone.calendar),
    )
