"""Windows, panels, circuits, points of water, people, ducts and checklists rid of parts that go, or handed to another room."""

from collections.abc import Collection
from dataclasses import replace

from warmeter.core.home.devices import Device
from warmeter.core.home.document import Home
from warmeter.core.home.ducts import DuctSystem
from warmeter.core.home.people import Occupant


def without_mentions(home: Home, gone: Collection[str]) -> Home:
    """Return a home whose windows, panels, circuits, points of water, witnesses, ducts and checklists name none of some parts.

    Mats and points stay, in no room; a vent goes with its room, a checklist with what it is about.
    """
    return replace(
        home,
        openings=tuple(replace(o, blind_motor_id=None) if o.blind_motor_id in gone else o for o in home.openings),
        devices=tuple(_device_without(device, gone) for device in home.devices),
        circuits=tuple(
            replace(
                circuit,
                heater_ids=tuple(key for key in circuit.heater_ids if key not in gone),
                appliance_ids=tuple(key for key in circuit.appliance_ids if key not in gone),
                mats=tuple(replace(m, room_id=None) if m.room_id in gone else m for m in circuit.mats),
            )
            for circuit in home.circuits
        ),
        water_points=tuple(
            replace(
                point,
                room_id=None if point.room_id in gone else point.room_id,
                at=None if point.room_id in gone else point.at,
                valve_ids=tuple(key for key in point.valve_ids if key not in gone),
                reaches=tuple(reach for reach in point.reaches if reach.device_id not in gone),
            )
            for point in home.water_points
        ),
        people=tuple(_person_without(person, gone) for person in home.people),
        tasks=tuple(replace(t, about_id=None) if t.about_id in gone else t for t in home.tasks),
        ducts=tuple(_ducts_without(system, gone) for system in home.ducts),
        checklists=tuple(checklist for checklist in home.checklists if checklist.about_id not in gone),
    )


def _device_without(device: Device, gone: Collection[str]) -> Device:
    if not device.panel:
        return device
    functions = (
        replace(
            function,
            lamp_sensor_id=None if function.lamp_sensor_id in gone else function.lamp_sensor_id,
            presser_id=None if function.presser_id in gone else function.presser_id,
        )
        for function in device.panel
    )
    return replace(device, panel=tuple(functions))


def _person_without(person: Occupant, gone: Collection[str]) -> Occupant:
    """Return a person whose witnesses are made of nothing that goes; one that goes with its machine or last device."""
    left = []
    for witness in person.witnesses:
        devices = tuple(key for key in witness.device_ids if key not in gone)
        if witness.machine_id in gone or (witness.device_ids and not devices):
            continue
        room_id = None if witness.room_id in gone else witness.room_id
        left.append(replace(witness, device_ids=devices, room_id=room_id))
    return replace(person, witnesses=tuple(left))


def _ducts_without(system: DuctSystem, gone: Collection[str]) -> DuctSystem:
    choices = (
        replace(choice, room_ids=rooms)
        for choice in system.choices
        if (rooms := tuple(key for key in choice.room_ids if key not in gone))
    )
    return replace(
        system,
        thermostat_room_id=None if system.thermostat_room_id in gone else system.thermostat_room_id,
        vents=tuple(vent for vent in system.vents if vent.room_id not in gone),
        choices=tuple(choices),
    )


def with_mats_moved(home: Home, room_id: str, into: str) -> Home:
    """Return a home in which the mats and vents of a room lie in another."""
    circuits = tuple(
        replace(c, mats=tuple(replace(m, room_id=into) if m.room_id == room_id else m for m in c.mats))
        for c in home.circuits
    )
    checklists = tuple(replace(each, about_id=into) if each.about_id == room_id else each for each in home.checklists)
    ducts = tuple(
        replace(system, vents=tuple(replace(v, room_id=into) if v.room_id == room_id else v for v in system.vents))
        for system in home.ducts
    )
    return replace(home, circuits=circuits, checklists=checklists, ducts=ducts)
