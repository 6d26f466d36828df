"""The wiring sheet: each room, the sensors that count, the zone, the heaters that follow, and who commands."""

from collections.abc import Mapping
from dataclasses import dataclass

from warmeter.core.building.heating import heater_output_w
from warmeter.core.building.room_envelope import floor_area_m2
from warmeter.core.home.devices import Device
from warmeter.core.home.document import Home
from warmeter.core.home.rooms import Room
from warmeter.core.home.zones import Zone
from warmeter.web import format as show
from warmeter.web.links import link

ROW_PX, TOP_PX = 31, 34
OWNER_X, OFF_PX = 716, 220
AIR = ("thermostat", "air_sensor", "radiator_valve", "floor_probe")


@dataclass(frozen=True, slots=True, kw_only=True)
class WireRow:
    """One room of the sheet."""

    y: float
    room: str
    area: str
    sensor: str
    where: str
    mark: str
    is_counted: bool
    is_guard_only: bool
    heater: str
    output: str
    follows: bool
    flag: str
    jump: str


@dataclass(frozen=True, slots=True, kw_only=True)
class ZoneBox:
    """A zone's bracket pair over its rooms."""

    id: str
    name: str
    note: str
    y: float
    height: float
    off: str
    is_on: bool
    flags: str
    nodes: list[tuple[float, float, bool]]


@dataclass(frozen=True, slots=True, kw_only=True)
class WiringSheet:
    """The whole sheet."""

    width: int
    height: float
    rows: list[WireRow]
    zones: list[ZoneBox]
    owners: list[tuple[float, str]]
    off_x: float


def wiring_sheet(home: Home, flags: dict[str, str], *, width: int, at: str = "") -> WiringSheet:
    """Return the sheet of a home; ``flags`` are letters of findings by part, ``at`` the zone chosen."""
    grouped = [(zone, [home.room(key) for key in zone.room_ids]) for zone in home.zones]
    loose = [r for r in home.rooms if r.condition == "heated" and home.zone_of_room(r.id) is None]
    owners = _owners(home)
    step = max(48, min(76, (width - 180 - OWNER_X) // max(1, len(owners))))
    columns = {key: OWNER_X + 16 + k * step for k, (key, _) in enumerate(owners)}
    rows, boxes, y = [], [], float(TOP_PX)
    for zone, rooms in grouped:
        start = y
        for room in rooms:
            rows.append(_row(home, zone, room, y, flags))
            y += ROW_PX
        boxes.append(_box(home, zone, start, y, columns, flags, at))
    for room in loose:
        rows.append(_row(home, None, room, y, flags))
        y += ROW_PX
    off_x = columns[owners[-1][0]] + 48
    return WiringSheet(
        width=max(width, int(off_x) + OFF_PX),
        height=y + 6,
        rows=rows,
        zones=boxes,
        owners=[(columns[key], show.shortened(name, 15)) for key, name in owners],
        off_x=off_x,
    )


def _owners(home: Home) -> list[tuple[str, str]]:
    """Return who owns, or commands by a timetable of its own: Warmeter first."""
    found = {"": "Warmeter"}
    for zone in home.zones:
        if zone.owner_id:
            found[zone.owner_id] = home.device(zone.owner_id).name
    for device in home.devices:
        if device.own_timetable == "running" and device.drives_id and device.is_in_service:
            found.setdefault(device.id, device.name)
    return list(found.items())


def _sensors(home: Home, zone: Zone | None, room: Room) -> tuple[list[Device], bool]:
    """Return the sensors of a room, those that count for its zone first, and whether any does."""
    inside = [d for d in home.devices_in(room.id) if d.kind in AIR]
    counted = set(zone.counted_ids) if zone else set()
    inside.sort(key=lambda d: d.id not in counted)
    return inside, any(d.id in counted for d in inside)


def _row(home: Home, zone: Zone | None, room: Room, y: float, flags: dict[str, str]) -> WireRow:
    sensors, is_counted = _sensors(home, zone, room)
    heaters = home.heaters_of(room.id)
    following = home.following(zone) if zone else ()
    output = sum(heater_output_w(home, h, outdoor_c=home.design.outdoor_c) for h in heaters)
    first = sensors[0] if sensors else None
    where = ""
    if first is not None and first.calibrations:
        where = f"{show.difference(first.calibrations[-1].offset, home, is_signed=True)} {show.difference_unit(home)} taken in"
    elif first is not None:
        where = "counts" if is_counted else "not counted"
    if len(sensors) > 1:
        where += f", {len(sensors) - 1} more"
    flag = next((flags[d.id] for d in sensors if d.id in flags), flags.get(room.id, ""))
    return WireRow(
        y=y,
        room=show.shortened(room.name, 14),
        area=show.area(floor_area_m2(home, room), home),
        sensor=show.shortened(first.name, 24) if first else "no sensor",
        where=where,
        mark="" if first is None else "grid" if first.kind == "floor_probe" else "cross",
        is_counted=is_counted,
        is_guard_only=first is not None and not is_counted,
        heater=f"{len(heaters)} heater{'s' * (len(heaters) != 1)}" if heaters else "no heater",
        output=show.number(output) if heaters else "",
        follows=any(h.id in following for h in heaters),
        flag=flag,
        jump=link("devices", home.id, at=first.id) if first else link("survey", home.id, at=room.id, pane="inside"),
    )


def _box(
    home: Home, zone: Zone, start: float, end: float, columns: Mapping[str, float], flags: dict[str, str], at: str
) -> ZoneBox:
    following = set(home.following(zone))
    middle = (start + end - ROW_PX) / 2 + 15
    nodes = [(columns[zone.owner_id or ""], middle, True)]
    for device in home.devices:
        other = device.own_timetable == "running" and device.is_in_service and device.drives_id in following
        if other and device.id != zone.owner_id:
            nodes.append((columns[device.id], middle, False))
    low = "" if zone.low_c is None else show.temperature(zone.low_c, home, 0)
    high = "" if zone.high_c is None else show.temperature(zone.high_c, home, 0)
    span = f"{low} to {high} {show.temperature_unit(home)}, " if low and high else ""
    return ZoneBox(
        id=zone.id,
        name=show.shortened(zone.name, 19),
        note=f"{span}limit {show.temperature(home.guard_of(zone).low_c, home, 0)}",
        y=start,
        height=end - start,
        off=show.shortened(zone.off_means, 34) or "not said",
        is_on=zone.id == at,
        flags=flags.get(zone.id, ""),
        nodes=nodes,
    )
