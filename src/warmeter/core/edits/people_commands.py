"""Commands on people: who lives here, what bears witness to each, when presence is believed."""

from collections.abc import Iterable
from dataclasses import dataclass, replace
from datetime import date
from typing import Annotated

from annotated_types import Ge, Le, Len

from warmeter.core.edits.edit import UNSET, Edit, FieldsOf, Unset, Values
from warmeter.core.edits.floor_plan_edits import with_device
from warmeter.core.edits.home_edits import free_name, swapped
from warmeter.core.edits.ids import new_id
from warmeter.core.edits.timetable_edits import with_points, with_timetable
from warmeter.core.errors import HomeError
from warmeter.core.home.devices import Device
from warmeter.core.home.document import Home
from warmeter.core.home.part import Id, Name, Unit, Word
from warmeter.core.home.people import Occupant, PresencePractice, Witness, WitnessKind
from warmeter.core.home.timetables import ChangePoint, DayKey
from warmeter.core.home.witness_kinds import WITNESS_TRAITS
from warmeter.core.timetable.calendar import timetable_on
from warmeter.core.units import MIN_PER_DAY, S_PER_MIN

PERSON_FIELDS = ("name", "care")
WITNESS_FIELDS = ("machine_id", "on_w", "room_id", "within_s", "cancel_s", "trust_in", "trust_out")
PRACTICE_FIELDS = ("sure", "least_in_s", "least_out_s", "least_not_known_s", "way_max_s")
Stretches = Annotated[str, Len(0, 400)]
HoldMin = Annotated[float, Ge(1), Le(2880), Unit("min")]


def _with_person(home: Home, person: Occupant, summary: str, selected: str = "") -> Edit:
    return Edit(replace(home, people=swapped(home.people, person)), summary, selected or person.id)


def _with_witness(home: Home, person: Occupant, witness: Witness, summary: str) -> Edit:
    return _with_person(home, replace(person, witnesses=swapped(person.witnesses, witness)), summary, witness.id)


@dataclass(frozen=True, slots=True, kw_only=True)
class AddPerson:
    """Write down somebody who lives here."""

    name: Name

    def edit(self, home: Home) -> Edit:
        """Return the home with them."""
        person = Occupant(id=new_id(), name=self.name)
        return Edit(replace(home, people=(*home.people, person)), f"{person.name} added", person.id)


@dataclass(frozen=True, slots=True, kw_only=True)
class ChangePerson:
    """Type a person's name, and whether they cannot bear or tell heat and cold."""

    id: Id
    values: Annotated[Values, FieldsOf(Occupant, PERSON_FIELDS)]

    def edit(self, home: Home) -> Edit:
        """Return the home with them changed."""
        changed = replace(home.person(self.id), **dict(self.values))
        return _with_person(home, changed, f"{changed.name} changed")


@dataclass(frozen=True, slots=True, kw_only=True)
class RemovePerson:
    """Take a person out; what their devices told stays."""

    id: Id

    def edit(self, home: Home) -> Edit:
        """Return the home without them."""
        gone = home.person(self.id)
        left = tuple(p for p in home.people if p.id != gone.id)
        return Edit(replace(home, people=left), f"{gone.name} removed", "")


@dataclass(frozen=True, slots=True, kw_only=True)
class AddWitness:
    """Say what can tell of a person; a telephone, mattress or sensor that is not written down yet is, as theirs."""

    id: Id
    kind: WitnessKind
    machine_id: Word = ""

    def edit(self, home: Home) -> Edit:
        """Return the home with it."""
        person = home.person(self.id)
        home, device_ids = _devices_for(home, person, self.kind)
        machine_id = None
        if self.kind == "machine":
            if not home.appliances:
                raise HomeError("there is no appliance yet: add it under Signatures first")
            machine_id = home.appliance(self.machine_id or home.appliances[0].id).id
        witness = Witness(id=new_id(), kind=self.kind, device_ids=device_ids, machine_id=machine_id)
        grown = replace(person, witnesses=(*person.witnesses, witness))
        return _with_person(home, grown, f"{person.name}: {WITNESS_TRAITS[self.kind].label} added", witness.id)


@dataclass(frozen=True, slots=True, kw_only=True)
class ChangeWitness:
    """Type how a witness is understood, how long its word stands [min; "" as usual]."""

    id: Id
    witness_id: Id
    values: Annotated[Values, FieldsOf(Witness, WITNESS_FIELDS)]
    hold_in_min: HoldMin | Unset | None = UNSET
    hold_out_min: HoldMin | Unset | None = UNSET

    def edit(self, home: Home) -> Edit:
        """Return the home with it changed."""
        person, witness = _witness(home, self.id, self.witness_id)
        values = dict(self.values)
        for key in ("machine_id", "room_id"):
            if key in values:
                values[key] = values[key] or None
        for name, minutes in (("hold_in_s", self.hold_in_min), ("hold_out_s", self.hold_out_min)):
            if not isinstance(minutes, Unset):
                values[name] = None if minutes is None else round(minutes * S_PER_MIN)
        changed = replace(witness, **values)
        return _with_witness(home, person, changed, f"{person.name}: {WITNESS_TRAITS[changed.kind].label} changed")


@dataclass(frozen=True, slots=True, kw_only=True)
class KeepWitnessPrivate:
    """Keep a witness out of the home's file, or let it into it again; an archive holds everything."""

    id: Id
    witness_id: Id
    is_private: bool = True

    def edit(self, home: Home) -> Edit:
        """Return the home with it so."""
        person, witness = _witness(home, self.id, self.witness_id)
        how = "kept out of the home's file" if self.is_private else "let into the home's file"
        changed = replace(witness, is_private=self.is_private)
        return _with_witness(home, person, changed, f"{person.name}: {WITNESS_TRAITS[witness.kind].label} {how}")


@dataclass(frozen=True, slots=True, kw_only=True)
class MakeWitnessOf:
    """Say that a witness is made of a device too, or not any more."""

    id: Id
    witness_id: Id
    device_id: Id
    out: bool = False

    def edit(self, home: Home) -> Edit:
        """Return the home with it so."""
        person, witness = _witness(home, self.id, self.witness_id)
        device = home.device(self.device_id)
        others = tuple(key for key in witness.device_ids if key != device.id)
        changed = replace(witness, device_ids=others if self.out else (*others, device.id))
        how = "no longer tells" if self.out else "tells"
        return _with_witness(home, person, changed, f"{device.name} {how} of {person.name}")


@dataclass(frozen=True, slots=True, kw_only=True)
class RemoveWitness:
    """Take a witness back; its devices and their logs stay."""

    id: Id
    witness_id: Id

    def edit(self, home: Home) -> Edit:
        """Return the home without it."""
        person, gone = _witness(home, self.id, self.witness_id)
        left = replace(person, witnesses=tuple(w for w in person.witnesses if w.id != gone.id))
        return _with_person(home, left, f"{person.name}: {WITNESS_TRAITS[gone.kind].label} taken back")


@dataclass(frozen=True, slots=True, kw_only=True)
class ChangePresencePractice:
    """Type from which probability on presence is believed, and how long it must last."""

    values: Annotated[Values, FieldsOf(PresencePractice, PRACTICE_FIELDS)]

    def edit(self, home: Home) -> Edit:
        """Return the home with it."""
        return Edit(
            replace(home, presence_practice=replace(home.presence_practice, **dict(self.values))),
            "when presence is believed changed",
        )


@dataclass(frozen=True, slots=True, kw_only=True)
class ChangeIdleTime:
    """Set how long after its sensors' off a room is empty; "" as usual for what it is for."""

    room_id: Id
    idle_s: Annotated[int, Ge(0), Le(86_400), Unit("s")] | None

    def edit(self, home: Home) -> Edit:
        """Return the home with it set."""
        room = home.room(self.room_id)
        changed = replace(home, rooms=swapped(home.rooms, replace(room, idle_s=self.idle_s)))
        how = "as usual" if self.idle_s is None else f"{self.idle_s / S_PER_MIN:g} min after its sensor's off"
        return Edit(changed, f"{room.name} is empty {how}", room.id)


@dataclass(frozen=True, slots=True, kw_only=True)
class TakeProfile:
    """Write a zone's day of a kind from when it is really used: a level within stretches of the day, another between.

    ``stretches`` are "465-495 1200-1440", minutes of the day.
    """

    zone_id: Id
    of: DayKey
    used_level_id: Id
    else_level_id: Id
    stretches: Stretches
    on: date

    def edit(self, home: Home) -> Edit:
        """Return the home with it written."""
        zone = home.zone_of_id(self.zone_id)
        for level_id in (self.used_level_id, self.else_level_id):
            home.level(level_id)
        blocks = stretches_read(self.stretches)
        points = [] if blocks[0][0] == 0 else [ChangePoint(start_min=0, level_id=self.else_level_id)]
        for begin, until in blocks:
            points.append(ChangePoint(start_min=begin, level_id=self.used_level_id))
            if until < MIN_PER_DAY:
                points.append(ChangePoint(start_min=until, level_id=self.else_level_id))
        timetable = with_points(timetable_on(zone, self.on), self.of, tuple(points))
        name = next((kind.name for kind in home.day_kinds if kind.id == self.of), self.of)
        return Edit(with_timetable(home, zone, timetable), f"{zone.name}: {name} written from when it is used", zone.id)


def stretches_text(blocks: Iterable[tuple[int, int]]) -> str:
    """Return stretches of the day as a command carries them.

    Examples
    --------
    >>> stretches_read(stretches_text([(465, 495), (1200, 1440)]))
    [(465, 495), (1200, 1440)]
    """
    return " ".join(f"{begin}-{until}" for begin, until in blocks)


def stretches_read(text: str) -> list[tuple[int, int]]:
    """Return the stretches of a text, rising; ``HomeError`` if there is none, or one that lies in no day."""
    found = []
    for part in text.split():
        begin, _, until = part.partition("-")
        if not (begin.isdecimal() and until.isdecimal() and 0 <= int(begin) < int(until) <= MIN_PER_DAY):
            raise HomeError(f"{part!r} is no stretch of a day in minutes, such as 465-495")
        found.append((int(begin), int(until)))
    if not found:
        raise HomeError("no stretch of the day is taken: there would be nothing to write")
    return sorted(found)


def _witness(home: Home, person_id: str, witness_id: str) -> tuple[Occupant, Witness]:
    person = home.person(person_id)
    found = next((w for w in person.witnesses if w.id == witness_id), None)
    if found is None:
        raise HomeError("this witness is not there any more")
    return person, found


def _devices_for(home: Home, person: Occupant, kind: WitnessKind) -> tuple[Home, tuple[str, ...]]:
    """Return a home with the devices that a new witness of a person is made of, and which those are.

    Doors and motion sensors are those that are there; a telephone or mattress is one that is nobody's yet, else a new one.
    """
    there = [d for d in home.devices if d.is_in_service]
    taken = {key for p in home.people for w in p.witnesses for key in w.device_ids}
    if kind == "door_motion":
        doors = _front_doors(home, there)
        return home, tuple(d.id for d in (*doors, *(d for d in there if d.kind == "motion")))
    if kind in ("motion", "presence_sensor"):
        return home, tuple(d.id for d in there if d.kind == kind)
    if kind not in ("telephone", "mattress"):
        return home, ()
    free = [d for d in there if d.kind == kind and d.id not in taken]
    own = next((d for d in free if person.name.lower() in d.name.lower()), free[0] if free else None)
    if own is None:
        home = with_device(home, "telephone" if kind == "telephone" else "mattress", None)
        made = home.devices[-1]
        names = {d.name for d in home.devices}
        own = replace(made, name=free_name(names, f"{person.name} {WITNESS_TRAITS[kind].label}"[:80]))
        home = replace(home, devices=swapped(home.devices, own))
    return home, (own.id,)


def _front_doors(home: Home, there: list[Device]) -> list[Device]:
    """Return the contacts by which people come and go: those called a door, else those in a hall, else all."""
    contacts = [d for d in there if d.kind == "contact"]
    halls = {room.id for room in home.rooms if room.use == "hall"}
    named = [d for d in contacts if "door" in d.name.lower()]
    return named or [d for d in contacts if d.room_id in halls] or contacts
