"""One device by another, or a room into another zone: every place that changes, done as one."""

from collections.abc import Iterator
from dataclasses import dataclass, replace
from datetime import date

from warmeter.core.building.checks.findings import findings_of
from warmeter.core.building.checks.zoning import AIR_SENSORS
from warmeter.core.errors import HomeError
from warmeter.core.home.devices import Device
from warmeter.core.home.document import Home
from warmeter.core.home.people import Witness
from warmeter.core.home.water import SensorReach
from warmeter.core.home.zones import Sensing, Zone


@dataclass(frozen=True, slots=True)
class Becomes:
    """A place that a change touches: what it is, what stands there, what will; empty is nothing."""

    place: str
    before: str
    after: str


def replaced(home: Home, old_id: str, new_id: str, on: date) -> Home:
    """Return a home in which one device stands in another's place everywhere.

    The old one is retired on a date and keeps its readings. The new one takes its room and spot if it has
    none, its heater, its calls as witness and switch, its chains, the zones that it owned, and its counting
    where it measures air.

    Raises
    ------
    HomeError
        If both are one device, or the new one is out of service.
    """
    old, new = home.device(old_id), home.device(new_id)
    if old_id == new_id:
        raise HomeError("a device cannot replace itself; choose another")
    if not new.is_in_service:
        raise HomeError(f"{new.name} is out of service; choose one that is in service")
    fresh = replace(
        new,
        room_id=new.room_id or old.room_id,
        at=new.at if new.room_id else old.at,
        drives_id=new.drives_id or old.drives_id,
        witness_id=new.witness_id or (old.witness_id if old.witness_id != new_id else None),
        fed_by_id=new.fed_by_id or (old.fed_by_id if old.fed_by_id != new_id else None),
    )
    retired = replace(old, retired_on=on, replaced_by_id=new_id)

    def named(key: str | None) -> str | None:
        return new_id if key == old_id else key

    devices = []
    for device in home.devices:
        if device.id == old_id:
            devices.append(retired)
        elif device.id == new_id:
            devices.append(fresh)
        else:
            devices.append(replace(device, witness_id=named(device.witness_id), fed_by_id=named(device.fed_by_id)))
    chains = tuple(
        replace(c, device_ids=tuple(dict.fromkeys(named(k) or k for k in c.device_ids))) for c in home.safety_chains
    )
    zones = tuple(_zone_with(zone, old_id, fresh) for zone in home.zones)
    points = tuple(
        replace(
            point,
            valve_ids=tuple(dict.fromkeys(named(key) or key for key in point.valve_ids)),
            reaches=_reaches_with(point.reaches, old_id, new_id),
        )
        for point in home.water_points
    )
    people = tuple(
        replace(person, witnesses=tuple(_witness_with(witness, old_id, new_id) for witness in person.witnesses))
        for person in home.people
    )
    return replace(home, devices=tuple(devices), safety_chains=chains, zones=zones, water_points=points, people=people)


def _witness_with(witness: Witness, old_id: str, new_id: str) -> Witness:
    """Return a witness made of a new device beside the old one, whose log still counts for its time."""
    if old_id not in witness.device_ids or new_id in witness.device_ids:
        return witness
    return replace(witness, device_ids=(*witness.device_ids, new_id))


def _reaches_with(reaches: tuple[SensorReach, ...], old_id: str, new_id: str) -> tuple[SensorReach, ...]:
    """Return what a point's water comes to, a new device in the place of an old one."""
    has_new = new_id in {reach.device_id for reach in reaches}
    return tuple(
        replace(reach, device_id=new_id) if reach.device_id == old_id else reach
        for reach in reaches
        if not (has_new and reach.device_id == old_id)
    )


def _zone_with(zone: Zone, old_id: str, new: Device) -> Zone:
    owner = new.id if zone.owner_id == old_id else zone.owner_id
    return replace(zone, owner_id=owner, sensing=tuple(_sensing_with(s, old_id, new) for s in zone.sensing))


def _sensing_with(sensing: Sensing, old_id: str, new: Device) -> Sensing:
    measures = new.kind in AIR_SENSORS or new.kind == "floor_probe"
    sensors = []
    for counted in sensing.sensors:
        if counted.device_id != old_id:
            sensors.append(counted)
        elif measures and new.id not in {c.device_id for c in sensing.sensors}:
            sensors.append(replace(counted, device_id=new.id))
    return replace(sensing, sensors=tuple(sensors))


def room_into_zone(home: Home, room_id: str, zone_id: str) -> Home:
    """Return a home with a room moved into another zone; an emptied zone goes, its own sensors with the room.

    Raises
    ------
    HomeError
        If room or zone is not there.
    """
    home.room(room_id)
    target = home.zone_of_id(zone_id)
    source = home.zone_of_room(room_id)
    if source is not None and source.id == zone_id:
        return home
    inside = {d.id for d in home.devices if d.room_id == room_id}
    mine = {h.id for h in home.heaters if h.room_id == room_id}
    zones = []
    for zone in home.zones:
        if zone.id == zone_id:
            heaters = target.heater_ids
            zones.append(
                replace(
                    zone,
                    room_ids=(*zone.room_ids, room_id),
                    heater_ids=None if heaters is None else (*heaters, *sorted(mine - set(heaters))),
                )
            )
            continue
        rest = tuple(key for key in zone.room_ids if key != room_id)
        if not rest:
            continue
        if source is not None and zone.id == source.id:
            kept = (replace(s, sensors=tuple(c for c in s.sensors if c.device_id not in inside)) for s in zone.sensing)
            heaters = zone.heater_ids
            zones.append(
                replace(
                    zone,
                    room_ids=rest,
                    sensing=tuple(s for s in kept if s.sensors),
                    heater_ids=None if heaters is None else tuple(h for h in heaters if h not in mine),
                    owner_id=None if zone.owner_id in inside else zone.owner_id,
                )
            )
        else:
            zones.append(zone)
    return replace(home, zones=tuple(zones))


@dataclass(frozen=True, slots=True, kw_only=True)
class Consequences:
    """What a change of a home brings: rows that differ, devices that nothing asks for any more, findings before and after."""

    rows: tuple[Becomes, ...]
    idle: tuple[str, ...]
    findings: tuple[tuple[str, int, int], ...]


def consequences(before: Home, after: Home) -> Consequences:
    """Return what a change brings; only kinds of finding whose number differs are told."""
    was, now = findings_by_kind(before), findings_by_kind(after)
    kinds = sorted({*was, *now})
    return Consequences(
        rows=tuple(differences(before, after)),
        idle=tuple(no_longer_needed(before, after)),
        findings=tuple((kind, was.get(kind, 0), now.get(kind, 0)) for kind in kinds if was.get(kind) != now.get(kind)),
    )


def differences(before: Home, after: Home) -> list[Becomes]:
    """Return every place that differs between two homes in who counts, drives, witnesses, feeds and owns."""
    return [row for row in _places(before, after) if row.before != row.after]


def _places(before: Home, after: Home) -> Iterator[Becomes]:
    names_before, names_after = _names(before), _names(after)
    was, now = {z.id: z for z in before.zones}, {z.id: z for z in after.zones}
    for key in dict.fromkeys((*was, *now)):
        a, b = was.get(key), now.get(key)
        name = (b or a).name  # type: ignore[union-attr]
        yield Becomes(
            f"rooms of {name}",
            _list(a.room_ids if a else (), names_before),
            _list(b.room_ids if b else (), names_after),
        )
        yield Becomes(f"what controls {name}", _owner(a, names_before), _owner(b, names_after))
        levels = {s.level_id: s for z in (a, b) if z for s in z.sensing}
        for level_id in levels:
            word = before.level(level_id).name if level_id else "every level"
            yield Becomes(
                f"counts for {name} at {word}",
                _counting(a, level_id, names_before),
                _counting(b, level_id, names_after),
            )
    old = {d.id: d for d in before.devices}
    for device in after.devices:
        known = old.get(device.id)
        for word, was_id, now_id in (
            ("drives", known.drives_id if known else None, device.drives_id),
            ("is witnessed by", known.witness_id if known else None, device.witness_id),
            ("is fed by", known.fed_by_id if known else None, device.fed_by_id),
            ("stands in", known.room_id if known else None, device.room_id),
        ):
            yield Becomes(
                f"{device.name} {word}", names_before.get(was_id or "", ""), names_after.get(now_id or "", "")
            )
        state = "in service" if device.is_in_service else "retired, keeps its readings"
        yield Becomes(device.name, "" if known is None else "in service" if known.is_in_service else "retired", state)
    chains = {c.id: c for c in before.safety_chains}
    for chain in after.safety_chains:
        yield Becomes(
            f"chain {chain.name}",
            _list(chains[chain.id].device_ids if chain.id in chains else (), names_before),
            _list(chain.device_ids, names_after),
        )


def _names(home: Home) -> dict[str, str]:
    rooms, heaters = {r.id: r.name for r in home.rooms}, {h.id: h.name for h in home.heaters}
    return rooms | heaters | {d.id: d.name for d in home.devices}


def _list(keys: tuple[str, ...] | None, names: dict[str, str]) -> str:
    return ", ".join(names.get(key, "gone") for key in keys or ())


def _owner(zone: Zone | None, names: dict[str, str]) -> str:
    if zone is None:
        return ""
    return names.get(zone.owner_id, "gone") if zone.owner_id else "Warmeter"


def _counting(zone: Zone | None, level_id: str | None, names: dict[str, str]) -> str:
    sensing = next((s for s in zone.sensing if s.level_id == level_id), None) if zone else None
    if sensing is None or not sensing.sensors:
        return ""
    listed = _list(tuple(c.device_id for c in sensing.sensors), names)
    return listed if sensing.rule == "one" else f"{sensing.rule} of {listed}"


def no_longer_needed(before: Home, after: Home) -> list[str]:
    """Return names of devices in service that nothing asks for after a change but something did before."""

    def used(home: Home) -> set[str]:
        found = {key for z in home.zones for key in (*z.counted_ids, z.owner_id) if key}
        found |= {key for c in home.safety_chains for key in c.device_ids}
        found |= {k for d in home.devices if d.is_in_service for k in (d.witness_id, d.fed_by_id) if k}
        return found | {d.id for d in home.devices if d.is_in_service and d.drives_id}

    idle = used(before) - used(after)
    return [d.name for d in after.devices if d.id in idle]


def findings_by_kind(home: Home) -> dict[str, int]:
    """Return how many findings of each kind a home has, notes left out."""
    found: dict[str, int] = {}
    for finding in findings_of(home):
        if finding.severity != "note":
            found[finding.kind] = found.get(finding.kind, 0) + 1
    return found
