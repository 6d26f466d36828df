"""Checks of zones: sensors, clashing needs, heating against cooling, ranges and guard."""

from collections.abc import Iterator

from warmeter.core.building.room_envelope import design_c
from warmeter.core.finding import Finding
from warmeter.core.home.document import Home
from warmeter.core.home.zones import Zone
from warmeter.core.sentence import celsius, kelvin, sentence
from warmeter.core.timetable.day import setpoint_of

CLASH_K = 2.0
AIR_SENSORS = ("thermostat", "air_sensor", "radiator_valve")
RULES = {
    "no sensor": "A zone has an air sensor that counts at every level that its day uses.",
    "clashing needs": sentence(
        "Rooms of one zone want temperatures within {} of each other on the design day.", kelvin(CLASH_K)
    ),
    "heat meets cool": "Where a zone can heat and cool, its cooling limit is the gap or more above its heating setpoint, at every level.",
    "below protection limit": "A setpoint lies above the lower protection limit.",
    "beyond range": "A setpoint lies within the zone's allowed range.",
    "no register": "Devices are entered before zones are believed.",
}


def zone_findings(home: Home) -> Iterator[Finding]:
    """Yield what is doubtful about zones."""
    if not any(d.is_in_service for d in home.devices):
        if home.rooms:
            yield Finding(
                kind="no register",
                severity="note",
                place=home.id,
                sentence="No device is saved yet, so nobody can say who commands what.",
                fix="Enter them under Survey, Devices.",
                about=(home.id,),
            )
    else:
        for zone in home.zones:
            yield from _sensors(home, zone)
    for zone in home.zones:
        yield from _needs(home, zone)
        yield from _gap(home, zone)
        yield from _asked(home, zone)


def _sensors(home: Home, zone: Zone) -> Iterator[Finding]:
    used = list(dict.fromkeys(point.level_id for point in zone.all_points))
    bare = []
    for level_id in used:
        sensing = zone.sensing_at(level_id)
        heard = [home.device(c.device_id) for c in sensing.sensors] if sensing else []
        if not any(d.kind in AIR_SENSORS and d.is_in_service for d in heard):
            bare.append(home.level(level_id).name)
    if bare:
        at = "" if len(bare) == len(used) else f" at {', '.join(bare)}"
        yield Finding(
            kind="no sensor",
            severity="warning",
            place=zone.id,
            sentence=f"No air sensor counts for {zone.name}{at}.",
            fix="Let a sensor of its rooms count, or add one.",
            about=(zone.id,),
        )


def _needs(home: Home, zone: Zone) -> Iterator[Finding]:
    rooms = [home.room(key) for key in zone.room_ids]
    rooms = [room for room in rooms if room.condition == "heated"]
    if len(rooms) < 2:
        return
    cool, warm = min(rooms, key=design_c), max(rooms, key=design_c)
    if design_c(warm) - design_c(cool) > CLASH_K + 1e-9:
        yield Finding(
            kind="clashing needs",
            severity="warning",
            place=zone.id,
            sentence=(
                sentence(
                    "In {}, {} wants {} and {} {}.",
                    zone.name,
                    warm.name,
                    celsius(design_c(warm)),
                    cool.name,
                    celsius(design_c(cool)),
                )
            ),
            fix=f"Make {cool.name} a zone of its own, or trim its valve.",
            about=(zone.id, cool.id, warm.id),
        )


def can_cool(home: Home, zone: Zone) -> bool:
    """Return whether something in a zone's rooms cools: a split unit, or a coil on ducts that reach them."""
    on_ducts = {key for system in home.ducts if system.cooling_w is not None for key in system.room_ids}
    return bool(on_ducts & set(zone.room_ids)) or any(
        h.split is not None and h.split.cooling_w is not None for h in home.heaters if h.room_id in zone.room_ids
    )


def warmest_at(home: Home, zone: Zone, level_id: str) -> float:
    """Return the highest heating setpoint that a zone asks at a level, own setpoints among them [°C]."""
    own_points = [p for p in zone.all_points if p.level_id == level_id and not p.is_preheat]
    owns = [p.own_setpoint_c for p in own_points if p.own_setpoint_c is not None]
    return max([home.heating_c(zone, level_id), *owns])


def _gap(home: Home, zone: Zone) -> Iterator[Finding]:
    if not can_cool(home, zone):
        return
    for level_id in dict.fromkeys(point.level_id for point in zone.all_points):
        level, cool = home.level(level_id), home.cooling_c(zone, level_id)
        heat = warmest_at(home, zone, level_id)
        if cool is not None and cool - heat < home.gap.gap_k - 1e-9:
            yield Finding(
                kind="heat meets cool",
                severity="warning",
                place=zone.id,
                sentence=(
                    sentence(
                        "In {} at {}, heating goes to {} and cooling begins at {}: less than {} apart.",
                        zone.name,
                        level.name,
                        celsius(heat),
                        celsius(cool),
                        kelvin(home.gap.gap_k),
                    )
                ),
                fix=sentence("Let cooling begin at {}.", celsius(heat + home.gap.gap_k)),
                about=(zone.id, level.id),
            )


def _asked(home: Home, zone: Zone) -> Iterator[Finding]:
    guard = home.guard_of(zone)
    asked = [setpoint_of(home, zone, point) for point in zone.all_points]
    if min(asked) < guard.low_c:
        yield Finding(
            kind="below protection limit",
            severity="note",
            place=zone.id,
            sentence=f"{zone.name} asks for less than the lower protection limit; the protection limit holds instead.",
            fix="Raise the setpoint to the protection limit.",
            about=(zone.id,),
        )
    low = zone.low_c if zone.low_c is not None else min(asked)
    high = zone.high_c if zone.high_c is not None else max(asked)
    beyond = [value for value in asked if not low - 1e-9 <= value <= high + 1e-9]
    if beyond:
        yield Finding(
            kind="beyond range",
            severity="warning",
            place=zone.id,
            sentence=sentence(
                "{} asks for {}; its range is {}.", zone.name, celsius(beyond[0]), celsius(low, until=high)
            ),
            fix="Change the setpoint or the range.",
            about=(zone.id,),
        )
