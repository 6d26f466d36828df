"""A home's document: the frozen classes that are stored, exported and edited as a whole.

``__post_init__`` refuses only what has no meaning; what is doubtful is saved and has findings
(``core/building``). Ids are short, random and never reused; names are labels.
"""

from collections import Counter
from collections.abc import Iterable, Sequence
from dataclasses import dataclass, replace
from datetime import date
from typing import Annotated, Literal, TypeVar

from annotated_types import Ge, Le, Len

from warmeter.core.errors import HomeError
from warmeter.core.home.checklists import Checklist
from warmeter.core.home.circuits import Circuit, ElectricalPractice
from warmeter.core.home.day_plans import (
    PLAN,
    HumidityBand,
    PlannedDay,
    PlanPractice,
    WantedCharge,
    WantedHours,
    WantedRun,
    WaterStore,
)
from warmeter.core.home.devices import Device, SafetyChain
from warmeter.core.home.ducts import DuctSystem
from warmeter.core.home.links import LINK, CommandMapping, LinkSettings, MessageMapping
from warmeter.core.home.machines import Appliance
from warmeter.core.home.occasions import Occasion, check_exceptions
from warmeter.core.home.part import Document, HasId, Id, Name, Note, Text, Unit, is_usable_id
from warmeter.core.home.people import Occupant, PresencePractice
from warmeter.core.home.plant import Heater, Source
from warmeter.core.home.put_aside import PutAside
from warmeter.core.home.rooms import Opening, Room, Storey, Thing
from warmeter.core.home.rules import NotificationGroup, Rule
from warmeter.core.home.tariffs import Carrier, CurrencyChange, Tariff, TypedBill, TypedMeter, tariffs_in_force
from warmeter.core.home.tasks import Task
from warmeter.core.home.timetables import DayKind, Fan, SpecialDay
from warmeter.core.home.water import WaterPoint, WaterPractice
from warmeter.core.home.zones import GuardLimits, Level, Zone
from warmeter.core.timegrid import LocalClock
from warmeter.core.units import LengthUnit, TemperatureUnit, Units

FORMAT: Literal["warmeter-home/13"] = "warmeter-home/13"
Shelter = Literal["none", "some", "heavy"]

GUARD = GuardLimits()
ELECTRICAL = ElectricalPractice()
WATER = WaterPractice()
PRESENCE = PresencePractice()
_Part = TypeVar("_Part", bound=HasId)


@dataclass(frozen=True, slots=True, kw_only=True)
class Place(Document):
    """Where the home stands; degrees north and east."""

    latitude_deg: Annotated[float, Ge(-90), Le(90)]
    longitude_deg: Annotated[float, Ge(-180), Le(180)]
    label: Annotated[str, Len(0, 80)] = ""


@dataclass(frozen=True, slots=True, kw_only=True)
class Design(Document):
    """What losses are worked out for.

    ``outdoor_c`` is the coldest design day, ``outdoor_from`` where it comes from ("" where nobody has said),
    ``annual_mean_c`` the year's mean [°C]; ``bridge_w_m2k`` what
    thermal bridges add to outside U-values; ``shelter`` from wind; ``ground_factor`` 1.0, or 1.15 where
    ground water stands within a metre below the floor. ``north_deg`` is the bearing of the plan's upper edge.
    """

    outdoor_c: Annotated[float, Ge(-60), Le(25), Unit("°C")] = -5.0
    outdoor_from: Text = ""
    annual_mean_c: Annotated[float, Ge(-20), Le(35), Unit("°C")] = 10.0
    bridge_w_m2k: Annotated[float, Ge(0), Le(1)] = 0.1
    shelter: Shelter = "some"
    ground_factor: Annotated[float, Ge(1), Le(1.5)] = 1.0
    north_deg: Annotated[float, Ge(0), Le(360)] = 0.0


@dataclass(frozen=True, slots=True, kw_only=True)
class HeatCoolGap(Document):
    """How far heating setpoint and cooling limit keep apart [K], and why so far."""

    gap_k: Annotated[float, Ge(0), Le(10)] = 2.5
    reason: Text = "both hystereses and the sensors' error"


@dataclass(frozen=True, slots=True, kw_only=True)
class DayWeather(Document):
    """The lowest and highest outdoor temperature that a person expects on a date [°C]; refused the wrong way round."""

    on: date
    low_c: Annotated[float, Ge(-60), Le(60), Unit("°C")]
    high_c: Annotated[float, Ge(-60), Le(60), Unit("°C")]

    def __post_init__(self) -> None:
        if self.low_c > self.high_c:
            raise HomeError("the lowest temperature of a day is no higher than its highest")


@dataclass(frozen=True, slots=True, kw_only=True)
class Home(Document):
    """A home, whole. Each of its parts is named by id elsewhere."""

    id: Id
    name: Name
    place: Place
    time_zone: Annotated[str, Len(1, 64)]
    country: Annotated[str, Len(2, 2)]
    currency: Annotated[str, Len(3, 3)]
    temperature_unit: TemperatureUnit = "C"
    length_unit: LengthUnit = "m"
    guard: GuardLimits = GUARD
    design: Design = Design()
    gap: HeatCoolGap = HeatCoolGap()
    storeys: tuple[Storey, ...] = ()
    rooms: tuple[Room, ...] = ()
    openings: tuple[Opening, ...] = ()
    things: tuple[Thing, ...] = ()
    sources: tuple[Source, ...] = ()
    heaters: tuple[Heater, ...] = ()
    devices: tuple[Device, ...] = ()
    safety_chains: tuple[SafetyChain, ...] = ()
    levels: tuple[Level, ...] = ()
    day_kinds: Annotated[tuple[DayKind, ...], Len(0, 40)] = ()
    special_days: Annotated[tuple[SpecialDay, ...], Len(0, 1000)] = ()
    day_weather: Annotated[tuple[DayWeather, ...], Len(0, 1000)] = ()
    zones: tuple[Zone, ...] = ()
    tariffs: Annotated[tuple[Tariff, ...], Len(0, 60)] = ()
    currency_changes: Annotated[tuple[CurrencyChange, ...], Len(0, 10)] = ()
    meters: Annotated[tuple[TypedMeter, ...], Len(0, 60)] = ()
    typed_bills: Annotated[tuple[TypedBill, ...], Len(0, 500)] = ()
    plan_practice: PlanPractice = PLAN
    wanted_runs: Annotated[tuple[WantedRun, ...], Len(0, 500)] = ()
    wanted_charges: Annotated[tuple[WantedCharge, ...], Len(0, 200)] = ()
    wanted_hours: Annotated[tuple[WantedHours, ...], Len(0, 200)] = ()
    water_stores: Annotated[tuple[WaterStore, ...], Len(0, 20)] = ()
    humidity_bands: Annotated[tuple[HumidityBand, ...], Len(0, 20)] = ()
    planned_days: Annotated[tuple[PlannedDay, ...], Len(0, 120)] = ()
    appliances: tuple[Appliance, ...] = ()
    notification_groups: Annotated[tuple[NotificationGroup, ...], Len(0, 40)] = ()
    rules: Annotated[tuple[Rule, ...], Len(0, 500)] = ()
    notes: tuple[Note, ...] = ()
    put_aside: Annotated[tuple[PutAside, ...], Len(0, 1000)] = ()
    circuits: Annotated[tuple[Circuit, ...], Len(0, 200)] = ()
    electrical_practice: ElectricalPractice = ELECTRICAL
    water_points: Annotated[tuple[WaterPoint, ...], Len(0, 200)] = ()
    water_practice: WaterPractice = WATER
    checklists: Annotated[tuple[Checklist, ...], Len(0, 500)] = ()
    ducts: Annotated[tuple[DuctSystem, ...], Len(0, 10)] = ()
    tasks: Annotated[tuple[Task, ...], Len(0, 500)] = ()
    people: Annotated[tuple[Occupant, ...], Len(0, 40)] = ()
    occasions: Annotated[tuple[Occasion, ...], Len(0, 60)] = ()
    presence_practice: PresencePractice = PRESENCE
    link: LinkSettings = LINK
    message_mappings: Annotated[tuple[MessageMapping, ...], Len(0, 2000)] = ()
    command_mappings: Annotated[tuple[CommandMapping, ...], Len(0, 1000)] = ()
    format: Literal["warmeter-home/13"] = FORMAT

    def __post_init__(self) -> None:
        twice = [key for key, count in Counter(part.id for part in self.parts()).items() if count > 1]
        if twice:
            raise HomeError(f"the id {min(twice)!r} stands twice")
        odd = next((key for key in (self.id, *(part.id for part in self.parts())) if not is_usable_id(key)), None)
        if odd is not None:
            raise HomeError(
                f"the id {odd!r} cannot stand in an address: it may hold no / ? # % \\ and no control letter"
            )
        LocalClock(self.time_zone)  # an unknown zone is refused here, not by the first page that needs it
        self._check_references()

    @property
    def units(self) -> Units:
        """The units in which it is shown."""
        return Units(self.temperature_unit, self.length_unit)

    def parts(self) -> Iterable[HasId]:
        """Yield every part that has an id."""
        groups: tuple[Sequence[HasId], ...] = (
            self.storeys,
            self.rooms,
            self.openings,
            self.things,
            self.sources,
            self.heaters,
            self.devices,
            self.safety_chains,
            self.levels,
            self.day_kinds,
            self.zones,
            tuple(timetable for zone in self.zones for timetable in zone.timetables),
            self.tariffs,
            self.meters,
            self.typed_bills,
            self.wanted_runs,
            self.wanted_charges,
            self.wanted_hours,
            self.water_stores,
            self.humidity_bands,
            self.appliances,
            self.notification_groups,
            self.rules,
            self.notes,
            self.circuits,
            tuple(mat for circuit in self.circuits for mat in circuit.mats),
            self.water_points,
            self.checklists,
            self.ducts,
            self.tasks,
            self.people,
            self.occasions,
            tuple(witness for person in self.people for witness in person.witnesses),
            tuple(vent for system in self.ducts for vent in system.vents),
            tuple(function for device in self.devices for function in device.panel),
            self.message_mappings,
            self.command_mappings,
            tuple(channel for group in self.notification_groups for channel in group.channels),
        )
        for group in groups:
            yield from group

    def _check_references(self) -> None:
        rooms, sources = _ids(self.rooms), _ids(self.sources)
        heaters, devices, levels = _ids(self.heaters), _ids(self.devices), _ids(self.levels)
        storeys = _ids(self.storeys)
        for room in self.rooms:
            _known(room.storey_id, storeys, f"the room {room.name!r}", "storey")
        for opening in self.openings:
            _known(opening.room_id, rooms, f"the {opening.kind} {opening.id!r}", "room")
            _known(opening.blind_motor_id, devices, f"the {opening.kind} {opening.id!r}", "device")
        for thing in self.things:
            _known(thing.room_id, rooms, f"{thing.name!r}", "room")
        for heater in self.heaters:
            if heater.room_id not in rooms or heater.source_id not in sources:
                raise HomeError(f"the heater {heater.name!r} names a room or source that is not there")
        for device in self.devices:
            what = f"the device {device.name!r}"
            _known(device.room_id, rooms, what, "room")
            _known(device.drives_id, heaters, what, "heater")
            for other in (device.witness_id, device.fed_by_id, device.replaced_by_id):
                _known(other, devices, what, "device")
            for function in device.panel:
                for other in (function.lamp_sensor_id, function.presser_id):
                    _known(other, devices, f"the lamp {function.name!r} of {device.name!r}", "device")
        for chain in self.safety_chains:
            for each in chain.device_ids:
                _known(each, devices, f"the alarm path {chain.name!r}", "device")
        for zone in self.zones:
            what = f"the zone {zone.name!r}"
            for each in zone.room_ids:
                _known(each, rooms, what, "room")
            for each in zone.heater_ids or ():
                _known(each, heaters, what, "heater")
            for one in (zone.owner_id, *zone.counted_ids):
                _known(one, devices, what, "device")
            named = (
                *(p.level_id for p in zone.all_points),
                *(s.level_id for s in zone.sensing),
                *(n.level_id for n in zone.numbers),
            )
            for level in named:
                _known(level, levels, f"the timetable, a number or a sensor rule of {zone.name!r}", "level")
        self._check_wires_and_pipes(rooms, heaters, devices)
        for person in self.people:
            for witness in person.witnesses:
                what = f"a witness of {person.name!r}"
                for each in witness.device_ids:
                    _known(each, devices, what, "device")
                _known(witness.machine_id, _ids(self.appliances), what, "machine")
                _known(witness.room_id, rooms, what, "room")
        kinds = _ids(self.day_kinds)
        for special in self.special_days:
            _known(special.kind_id, kinds, f"the date {special.on}", "kind of day")
        for occasion in self.occasions:
            _known(occasion.kind_id, kinds, f"{occasion.name!r}", "kind of day")
            _known(occasion.about_id, devices, f"{occasion.name!r}", "device")
        check_exceptions(self.occasions)
        runs = _ids(self.wanted_runs)
        for run in self.wanted_runs:
            _known(run.appliance_id, _ids(self.appliances), f"the run of {run.on}", "machine")
            _known(run.after_id, runs, f"the run of {run.on}", "run")
        for quiet in self.plan_practice.quiet:
            _known(quiet.room_id, rooms, "quiet hours", "room")
        self._check_links_and_groups(rooms, devices)

    @property
    def command_targets(self) -> tuple[Device | Heater | Appliance | WaterStore | HumidityBand, ...]:
        """What can be commanded: devices, heaters, appliances, and what the plan of the day switches."""
        return (*self.devices, *self.heaters, *self.appliances, *self.water_stores, *self.humidity_bands)

    def _check_links_and_groups(self, rooms: set[str], devices: set[str]) -> None:
        subjects = rooms | devices | _ids(self.appliances) | _ids(self.people)
        for mapping in self.message_mappings:
            _known(mapping.subject_id or None, subjects, f"the messages of {mapping.topic!r}", "part of the home")
        for command in self.command_mappings:
            _known(command.target_id, _ids(self.command_targets), f"the command to {command.topic!r}", "device")
        groups = _ids(self.notification_groups)
        _known(self.link.group_id, groups, "the link", "group")
        for group in self.notification_groups:
            what = f"the group {group.name!r}"
            _known(group.next_group_id, groups, what, "group")
            for channel in group.channels:
                _known(channel.device_id, devices, what, "device")
                _known(channel.person_id, _ids(self.people), what, "person")

    def _check_wires_and_pipes(self, rooms: set[str], heaters: set[str], devices: set[str]) -> None:
        machines = _ids(self.appliances)
        for circuit in self.circuits:
            what = f"the circuit {circuit.name!r}"
            for each in circuit.heater_ids:
                _known(each, heaters, what, "heater")
            for each in circuit.appliance_ids:
                _known(each, machines, what, "machine")
            for mat in circuit.mats:
                _known(mat.room_id, rooms, f"the mat {mat.name!r}", "room")
        for system in self.ducts:
            what = f"the ducts {system.name!r}"
            _known(system.source_id, _ids(self.sources), what, "source")
            named = (
                *(vent.room_id for vent in system.vents),
                *(key for choice in system.choices for key in choice.room_ids),
            )
            for place in (system.thermostat_room_id, *named):
                _known(place, rooms, what, "room")
        for point in self.water_points:
            what = f"the point of water {point.name!r}"
            _known(point.room_id, rooms, what, "room")
            for each in (*point.valve_ids, *(reach.device_id for reach in point.reaches)):
                _known(each, devices, what, "device")

    def room(self, room_id: str) -> Room:
        """Return a room by id; ``HomeError`` if it is not there."""
        return _by_id(self.rooms, room_id, "room")

    def storey(self, storey_id: str) -> Storey:
        """Return a storey by id; ``HomeError`` if it is not there."""
        return _by_id(self.storeys, storey_id, "storey")

    def opening(self, opening_id: str) -> Opening:
        """Return a window or door by id; ``HomeError`` if it is not there."""
        return _by_id(self.openings, opening_id, "window or door")

    def thing(self, thing_id: str) -> Thing:
        """Return a thing by id; ``HomeError`` if it is not there."""
        return _by_id(self.things, thing_id, "thing")

    def heater(self, heater_id: str) -> Heater:
        """Return a heater by id; ``HomeError`` if it is not there."""
        return _by_id(self.heaters, heater_id, "heater")

    def device(self, device_id: str) -> Device:
        """Return a device by id; ``HomeError`` if it is not there."""
        return _by_id(self.devices, device_id, "device")

    def level(self, level_id: str) -> Level:
        """Return a level by id; ``HomeError`` if it is not there."""
        return _by_id(self.levels, level_id, "level")

    def heating_c(self, zone: Zone, level_id: str) -> float:
        """Return a level's heating setpoint in a zone: the zone's own number, else the home's [°C]."""
        own = zone.numbers_at(level_id)
        return self.level(level_id).heating_c if own is None or own.heating_c is None else own.heating_c

    def cooling_c(self, zone: Zone, level_id: str) -> float | None:
        """Return a level's cooling limit in a zone, None where neither zone nor home has one [°C]."""
        own = zone.numbers_at(level_id)
        return self.level(level_id).cooling_c if own is None or own.cooling_c is None else own.cooling_c

    def is_by_infrared(self, heater_id: str) -> bool:
        """Whether a heater is reached by infra-red only: it takes what its remote takes, and nothing comes back."""
        driving = [d for d in self.devices if d.drives_id == heater_id and d.is_in_service]
        return bool(driving) and all(d.kind == "infrared_sender" for d in driving)

    def fan_of(self, zone: Zone, level_id: str) -> Fan:
        """Return a level's fan in a zone: the zone's own, else the home's."""
        own = zone.numbers_at(level_id)
        return self.level(level_id).fan if own is None or own.fan is None else own.fan

    @property
    def in_use(self) -> Level | None:
        """The level that others are meant to save against: the first that is not meant to save."""
        return next((level for level in self.levels if not level.is_saving), None)

    @property
    def heats_with_electricity(self) -> bool:
        """Whether a source of its heat draws from its meter."""
        return any(source.kind in ("direct", "heat_pump") for source in self.sources)

    def zone_of_id(self, zone_id: str) -> Zone:
        """Return a zone by id; ``HomeError`` if it is not there."""
        return _by_id(self.zones, zone_id, "zone")

    def appliance(self, appliance_id: str) -> Appliance:
        """Return an appliance by id; ``HomeError`` if it is not there."""
        return _by_id(self.appliances, appliance_id, "appliance")

    def rule(self, rule_id: str) -> Rule:
        """Return a rule by id; ``HomeError`` if it is not there."""
        return _by_id(self.rules, rule_id, "rule")

    def circuit(self, circuit_id: str) -> Circuit:
        """Return a circuit by id; ``HomeError`` if it is not there."""
        return _by_id(self.circuits, circuit_id, "circuit")

    def water_point(self, point_id: str) -> WaterPoint:
        """Return a point of water by id; ``HomeError`` if it is not there."""
        return _by_id(self.water_points, point_id, "point of water")

    def duct_system(self, system_id: str) -> DuctSystem:
        """Return a duct system by id; ``HomeError`` if it is not there."""
        return _by_id(self.ducts, system_id, "duct system")

    def person(self, person_id: str) -> Occupant:
        """Return a person by id; ``HomeError`` if they are not there."""
        return _by_id(self.people, person_id, "person")

    def source(self, source_id: str) -> Source:
        """Return a source by id; ``HomeError`` if it is not there."""
        return _by_id(self.sources, source_id, "source")

    def heater_of(self, room_id: str) -> Heater | None:
        """Return the leading heater of a room, the strongest by its plate, if it has one."""
        return max(self.heaters_of(room_id), key=lambda heater: heater.rated_heat_w, default=None)

    def heaters_of(self, room_id: str) -> tuple[Heater, ...]:
        """Return all heaters of a room."""
        return tuple(heater for heater in self.heaters if heater.room_id == room_id)

    def devices_in(self, room_id: str) -> tuple[Device, ...]:
        """Return the devices in service in a room."""
        return tuple(d for d in self.devices if d.room_id == room_id and d.is_in_service)

    def openings_of(self, room_id: str) -> tuple[Opening, ...]:
        """Return the windows and doors of a room."""
        return tuple(o for o in self.openings if o.room_id == room_id)

    def zone_of_room(self, room_id: str) -> Zone | None:
        """Return the zone that a room belongs to, if any."""
        return next((zone for zone in self.zones if room_id in zone.room_ids), None)

    def guard_of(self, zone: Zone | None) -> GuardLimits:
        """Return the guard limits that hold in a zone: its own, else the home's."""
        return self.guard if zone is None or zone.guard is None else zone.guard

    def following(self, zone: Zone) -> tuple[str, ...]:
        """Return ids of the heaters that follow a zone: named, else all in its rooms."""
        if zone.heater_ids is not None:
            return zone.heater_ids
        return tuple(h.id for h in self.heaters if h.room_id in zone.room_ids)

    def tariffs_of(self, carrier: Carrier = "electricity") -> tuple[Tariff, ...]:
        """Return the tariffs of a carrier that are no offers, with the holidays of the home's calendar."""
        return tuple(self.with_holidays(tariff) for tariff in tariffs_in_force(self.tariffs, carrier))

    @property
    def newest_tariff(self) -> Tariff | None:
        """The last tariff of electricity in the list that is no offer."""
        return next(iter(tariffs_in_force(self.tariffs)[-1:]), None)

    def tariff_on(self, on: date, carrier: Carrier = "electricity") -> Tariff | None:
        """Return the tariff valid on a date, else the last one, with the holidays of the home's calendar."""
        every = tariffs_in_force(self.tariffs, carrier)
        found = next((t for t in reversed(every) if t.is_valid_on(on)), every[-1] if every else None)
        return None if found is None else self.with_holidays(found)

    def with_holidays(self, tariff: Tariff) -> Tariff:
        """Return a tariff with the holidays of the home's calendar."""
        known = {day for occasion in self.occasions if occasion.kind == "holidays" for day in occasion.dates}
        if known <= set(tariff.holidays):
            return tariff
        return replace(tariff, holidays=tuple(sorted(known | set(tariff.holidays))))

    def tariff(self, tariff_id: str) -> Tariff:
        """Return a tariff by id; ``HomeError`` if it is not there."""
        return _by_id(self.tariffs, tariff_id, "tariff")

    def meter(self, meter_id: str) -> TypedMeter:
        """Return a meter with typed readings by id; ``HomeError`` if it is not there."""
        return _by_id(self.meters, meter_id, "meter")

    def wanted_run(self, run_id: str) -> WantedRun:
        """Return a wanted run by id; ``HomeError`` if it is not there."""
        return _by_id(self.wanted_runs, run_id, "wanted run")

    def typed_bill(self, bill_id: str) -> TypedBill:
        """Return a typed bill by id; ``HomeError`` if it is not there."""
        return _by_id(self.typed_bills, bill_id, "bill")


def _ids(parts: Sequence[HasId]) -> set[str]:
    return {part.id for part in parts}


def _known(wanted: str | None, there: set[str], what: str, kind: str) -> None:
    if wanted is not None and wanted not in there:
        raise HomeError(f"{what} names a {kind} that is not there")


def _by_id(parts: Sequence[_Part], wanted: str, kind: str) -> _Part:
    for part in parts:
        if part.id == wanted:
            return part
    raise HomeError(f"there is no {kind} {wanted!r} in this home")
