"""A home's document: the frozen classes that are stored, exported and edited as a whole.

``__post_init__`` refuses only what has no meaning; what is doubtful is saved and has findings
(``checks``). Ids are short, random and never reused; names are labels.
"""

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date
from decimal import Decimal
from typing import Annotated, ClassVar, Literal, Protocol, TypeVar

from annotated_types import Ge, Gt, Le, Len

from warmeter.core.errors import HomeError
from warmeter.core.tariff.structure import Rate
from warmeter.core.thermal.survey import MassClass
from warmeter.core.units import TemperatureUnit

FORMAT: Literal["warmeter-home/1"] = "warmeter-home/1"
DAY_MIN = 1440

Name = Annotated[str, Len(1, 80)]
Id = Annotated[str, Len(1, 24)]
SetpointC = Annotated[float, Ge(-30), Le(60)]
HeaterKind = Literal["electric_panel", "radiator", "warm_floor", "fan_unit"]
SourceKind = Literal["direct", "heat_pump"]
Built = Literal[
    "before_1920", "1920_1949", "1950_1977", "1978_1994", "1995_2006", "2007_2015", "2016_on", "very_low_energy"
]


class _HasId(Protocol):
    @property
    def id(self) -> str: ...


_Part = TypeVar("_Part", bound=_HasId)


class Document:
    """Base of every part of a home: unknown fields are refused, numbers are not taken from text."""

    __slots__ = ()
    __pydantic_config__: ClassVar[dict[str, object]] = {"extra": "forbid"}


@dataclass(frozen=True, slots=True, kw_only=True)
class Place(Document):
    """Where the home stands; degrees north and east."""

    latitude_deg: Annotated[float, Ge(-90), Le(90)]
    longitude_deg: Annotated[float, Ge(-180), Le(180)]
    label: Annotated[str, Len(0, 80)] = ""


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
class Room(Document):
    """A room as surveyed on one walk.

    ``outside_walls`` is how many of its walls face outdoors; roof and floor whether those do.
    """

    id: Id
    name: Name
    floor_area_m2: Annotated[float, Gt(0), Le(2000)]
    height_m: Annotated[float, Ge(1), Le(20)]
    built: Built
    mass_class: MassClass
    outside_walls: Annotated[int, Ge(0), Le(4)] = 2
    has_roof: bool = False
    has_ground_floor: bool = False


@dataclass(frozen=True, slots=True, kw_only=True)
class Source(Document):
    """Where heat comes from; a heat pump's COP is straight between (outdoor °C, COP) points."""

    id: Id
    name: Name
    kind: SourceKind
    cop_points: tuple[tuple[float, float], ...] = ()

    def __post_init__(self) -> None:
        if self.kind == "heat_pump" and not self.cop_points:
            raise HomeError(f"the heat pump {self.name!r} needs its COP at one outdoor temperature or more")
        outdoors = [point[0] for point in self.cop_points]
        if outdoors != sorted(set(outdoors)):
            raise HomeError(f"the COP points of {self.name!r} must stand in rising outdoor temperature")
        if any(not 0 < cop <= 15 for _, cop in self.cop_points):
            raise HomeError(f"a COP of {self.name!r} must be above 0 and at most 15")


@dataclass(frozen=True, slots=True, kw_only=True)
class Heater(Document):
    """What heats a room.

    ``rated_heat_w`` is its heat when on; ``band_k`` the thermostat's band; ``step_k`` and ``step_min``
    the finest setting that its own controls take.
    """

    id: Id
    room_id: Id
    name: Name
    kind: HeaterKind
    source_id: Id
    rated_heat_w: Annotated[float, Gt(0), Le(100_000)]
    band_k: Annotated[float, Ge(0.1), Le(5)] = 0.4
    min_on_min: Annotated[int, Ge(0), Le(120)] = 2
    min_off_min: Annotated[int, Ge(0), Le(120)] = 2
    step_k: Annotated[float, Ge(0.1), Le(2)] = 0.5
    step_min: Annotated[int, Ge(1), Le(60)] = 15


@dataclass(frozen=True, slots=True, kw_only=True)
class Level(Document):
    """What people do, and the heating setpoint that goes with it [°C]."""

    id: Id
    name: Name
    heating_c: SetpointC


@dataclass(frozen=True, slots=True, kw_only=True)
class ChangePoint(Document):
    """From this minute of the day on: a level, or a setpoint of the block's own [°C]."""

    start_min: Annotated[int, Ge(0), Le(1439)]
    level_id: Id
    own_setpoint_c: SetpointC | None = None


@dataclass(frozen=True, slots=True, kw_only=True)
class Zone(Document):
    """Rooms that share a timetable, with its day as change points (the first at minute 0)."""

    id: Id
    name: Name
    room_ids: tuple[Id, ...]
    day: tuple[ChangePoint, ...]

    def __post_init__(self) -> None:
        starts = [point.start_min for point in self.day]
        if not starts or starts[0] != 0 or starts != sorted(set(starts)):
            raise HomeError(f"the day of {self.name!r} must begin at 00:00 and its times must rise")


@dataclass(frozen=True, slots=True, kw_only=True)
class Tariff(Document):
    """A time-of-use tariff: the first rate that matches decides; validity [from, to] in dates."""

    id: Id
    name: Name
    currency: Annotated[str, Len(3, 3)]
    rates: Annotated[tuple[Rate, ...], Len(1, 40)]
    standing_per_day: Decimal = Decimal(0)
    valid_from: date | None = None
    valid_to: date | None = None
    holidays: tuple[date, ...] = ()
    is_standard_time: bool = False


@dataclass(frozen=True, slots=True, kw_only=True)
class Appliance(Document):
    """A machine on a metering plug.

    ``threshold_w`` and ``wait_min`` are the finish setting in use; the run may lie between
    ``earliest_min`` and ``latest_end_min`` (beyond 1440 is next day) and is planned at ``start_min``.
    ``threshold_step_w`` and ``wait_step_min`` are the plug's own steps.
    """

    id: Id
    name: Name
    threshold_w: Annotated[float, Ge(0), Le(50_000)] | None = None
    wait_min: Annotated[float, Ge(0), Le(240)] | None = None
    earliest_min: Annotated[int, Ge(0), Le(1439)] = 0
    latest_end_min: Annotated[int, Ge(1), Le(2880)] = 1440
    start_min: Annotated[int, Ge(0), Le(1439)] = 1080
    start_step_min: Annotated[int, Ge(1), Le(120)] = 30
    threshold_step_w: Annotated[float, Gt(0), Le(100)] = 1.0
    wait_step_min: Annotated[float, Gt(0), Le(60)] = 1.0


@dataclass(frozen=True, slots=True, kw_only=True)
class Home(Document):
    """A home, whole. Each of its parts is named by id elsewhere."""

    id: Id
    name: Name
    place: Place
    zone: Annotated[str, Len(1, 64)]
    country: Annotated[str, Len(2, 2)]
    currency: Annotated[str, Len(3, 3)]
    temperature_unit: TemperatureUnit = "C"
    guard: GuardLimits = GuardLimits()
    rooms: tuple[Room, ...] = ()
    sources: tuple[Source, ...] = ()
    heaters: tuple[Heater, ...] = ()
    levels: tuple[Level, ...] = ()
    zones: tuple[Zone, ...] = ()
    tariffs: tuple[Tariff, ...] = ()
    appliances: tuple[Appliance, ...] = ()
    format: Literal["warmeter-home/1"] = FORMAT

    def __post_init__(self) -> None:
        parts = (self.rooms, self.sources, self.heaters, self.levels, self.zones, self.tariffs, self.appliances)
        ids = [part.id for group in parts for part in group]
        twice = sorted({i for i in ids if ids.count(i) > 1})
        if twice:
            raise HomeError(f"the id {twice[0]!r} stands twice")
        self._check_references()

    def _check_references(self) -> None:
        rooms, sources = {r.id for r in self.rooms}, {s.id for s in self.sources}
        levels = {level.id for level in self.levels}
        for heater in self.heaters:
            if heater.room_id not in rooms or heater.source_id not in sources:
                raise HomeError(f"the heater {heater.name!r} names a room or source that is not there")
        for zone in self.zones:
            if set(zone.room_ids) - rooms:
                raise HomeError(f"the zone {zone.name!r} names a room that is not there")
            if {point.level_id for point in zone.day} - levels:
                raise HomeError(f"the day of {zone.name!r} names a level that is not there")

    def room(self, room_id: str) -> Room:
        """Return a room by id; ``HomeError`` if it is not there."""
        return _by_id(self.rooms, room_id, "room")

    def level(self, level_id: str) -> Level:
        """Return a level by id; ``HomeError`` if it is not there."""
        return _by_id(self.levels, level_id, "level")

    def zone_of_id(self, zone_id: str) -> Zone:
        """Return a zone by id; ``HomeError`` if it is not there."""
        return _by_id(self.zones, zone_id, "zone")

    def appliance(self, appliance_id: str) -> Appliance:
        """Return an appliance by id; ``HomeError`` if it is not there."""
        return _by_id(self.appliances, appliance_id, "appliance")

    def source(self, source_id: str) -> Source:
        """Return a source by id; ``HomeError`` if it is not there."""
        return _by_id(self.sources, source_id, "source")

    def heater_of(self, room_id: str) -> Heater | None:
        """Return the heater of a room, if it has one."""
        return next((heater for heater in self.heaters if heater.room_id == room_id), None)

    def zone_of_room(self, room_id: str) -> Zone | None:
        """Return the zone that a room belongs to, if any."""
        return next((zone for zone in self.zones if room_id in zone.room_ids), None)

    def tariff_on(self, on: date) -> Tariff | None:
        """Return the tariff valid on a date, else the last one."""
        valid = [
            t
            for t in self.tariffs
            if (t.valid_from is None or t.valid_from <= on) and (t.valid_to is None or on <= t.valid_to)
        ]
        return valid[-1] if valid else (self.tariffs[-1] if self.tariffs else None)


def _by_id(parts: Sequence[_Part], wanted: str, kind: str) -> _Part:
    for part in parts:
        if part.id == wanted:
            return part
    raise HomeError(f"there is no {kind} {wanted!r} in this home")
