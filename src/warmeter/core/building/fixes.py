"""Mends that can be made in the home's document at once, one a kind of finding."""

from collections.abc import Callable
from dataclasses import replace

from warmeter.core.building.checks.zoning import warmest_at
from warmeter.core.building.room_envelope import home_plan, wall_of
from warmeter.core.errors import HomeError
from warmeter.core.finding import Finding
from warmeter.core.floor_plan.shape import bounds
from warmeter.core.home.devices import Device
from warmeter.core.home.document import Home
from warmeter.core.home.zones import CountedSensor, Sensing, Zone, zone_like
from warmeter.core.sentence import kelvin, sentence

Mend = Callable[[Home, tuple[str, ...], str], Home]


def _device(home: Home, device: Device) -> Home:
    return replace(home, devices=tuple(device if d.id == device.id else d for d in home.devices))


def _zone(home: Home, zone: Zone) -> Home:
    return replace(home, zones=tuple(zone if z.id == zone.id else z for z in home.zones))


def _own_timetable_off(home: Home, about: tuple[str, ...], _: str) -> Home:
    if about[0] in {h.id for h in home.heaters}:
        for key in about[2:]:
            zone = home.zone_of_id(key)
            own = zone.heater_ids
            if own is None:
                own = tuple(h.id for h in home.heaters if h.room_id in zone.room_ids)
            home = _zone(home, replace(zone, heater_ids=tuple(h for h in own if h != about[0])))
        return home
    return _device(home, replace(home.device(about[0]), own_timetable="off"))


def _ways_shut(home: Home, about: tuple[str, ...], _: str) -> Home:
    device = home.device(about[0])
    ways = tuple(replace(c, state="shut") if c.state == "open" else c for c in device.commands)
    return _device(home, replace(device, commands=ways))


def _wider_gap(home: Home, about: tuple[str, ...], _: str) -> Home:
    zone, level = home.zone_of_id(about[0]), home.level(about[1])
    cooling = warmest_at(home, zone, level.id) + home.gap.gap_k
    own = zone.numbers_at(level.id)
    if own is not None and own.cooling_c is not None:
        numbers = tuple(replace(n, cooling_c=cooling) if n.level_id == level.id else n for n in zone.numbers)
        return _zone(home, replace(zone, numbers=numbers))
    return replace(
        home, levels=tuple(replace(each, cooling_c=cooling) if each.id == level.id else each for each in home.levels)
    )


def _held_open(home: Home, about: tuple[str, ...], _: str) -> Home:
    return _device(home, replace(home.device(about[0]), is_held_open=True))


def _counting(home: Home, zone: Zone) -> Home:
    """Return a home whose zone counts the air sensors of its own rooms, their mean if several."""
    found = [
        d.id
        for d in home.devices
        if d.room_id in zone.room_ids and d.is_in_service and d.kind in ("air_sensor", "thermostat")
    ] or [d.id for d in home.devices if d.room_id in zone.room_ids and d.is_in_service and d.kind == "radiator_valve"]
    if not found:
        raise HomeError(f"{zone.name} has no sensor in its rooms yet; enter one under Devices")
    rule = Sensing(
        rule="one" if len(found) == 1 else "mean", sensors=tuple(CountedSensor(device_id=key) for key in found)
    )
    return _zone(home, replace(zone, sensing=(rule,)))


def _count_own(home: Home, about: tuple[str, ...], _: str) -> Home:
    zone_id = next((key for key in about if key in {z.id for z in home.zones}), "")
    return _counting(home, home.zone_of_id(zone_id))


def _own_zone(home: Home, about: tuple[str, ...], fresh_id: str) -> Home:
    zone, room = home.zone_of_id(about[0]), home.room(about[1])
    return zone_alone(home, zone, room.id, fresh_id)


def zone_alone(home: Home, zone: Zone, room_id: str, fresh_id: str) -> Home:
    """Return a home with a room of a zone made a zone of its own; sensors and heaters go with their rooms."""
    room = home.room(room_id)
    rest = tuple(key for key in zone.room_ids if key != room_id)
    devices = {d.id: d.room_id for d in home.devices}
    heaters = {h.id: h.room_id for h in home.heaters}

    def sensing(rooms: tuple[str, ...]) -> tuple[Sensing, ...]:
        kept = (
            replace(s, sensors=tuple(c for c in s.sensors if devices.get(c.device_id) in rooms)) for s in zone.sensing
        )
        return tuple(s for s in kept if s.sensors)

    def own_heaters(rooms: tuple[str, ...]) -> tuple[str, ...] | None:
        return None if zone.heater_ids is None else tuple(h for h in zone.heater_ids if heaters[h] in rooms)

    left = replace(zone, room_ids=rest, sensing=sensing(rest), heater_ids=own_heaters(rest))
    alone = replace(
        zone_like(zone, fresh_id),
        name=room.name,
        room_ids=(room_id,),
        sensing=sensing((room_id,)),
        heater_ids=own_heaters((room_id,)),
        owner_id=zone.owner_id if devices.get(zone.owner_id or "") == room_id else None,
    )
    zones = tuple(z if z.id != zone.id else left for z in home.zones if z.id != zone.id or rest)
    return replace(home, zones=(*zones, alone))


def _zone_for_room(home: Home, about: tuple[str, ...], fresh_id: str) -> Home:
    room = home.room(about[0])
    if not home.zones:
        raise HomeError("there is no zone yet whose day could be taken; add a room, which brings one")
    like = home.zones[0]
    alone = Zone(id=fresh_id, name=room.name, room_ids=(room.id,), timetables=zone_like(like, fresh_id).timetables)
    return replace(home, zones=(*home.zones, alone))


def _trimmed(home: Home, about: tuple[str, ...], _fresh: str) -> Home:
    """Return a home with an opening put into its wall, as wide and high as that allows."""
    opening = home.opening(about[0])
    room = home.room(opening.room_id)
    box = bounds(room.rects)
    corner = box.x_m if opening.side in ("up", "down") else box.y_m
    wall, _ = wall_of(home, opening)
    walls = [w for w in home_plan(home)[room.id].walls if w.side == opening.side]
    if not walls:
        raise HomeError("that side has no wall any more; move the opening to another side or remove it")
    middle = opening.along_m + corner
    if wall is None:
        wall = min(walls, key=lambda w: min(abs(w.stretch.start_m - middle), abs(w.stretch.end_m - middle)))
    width = min(opening.width_m, wall.stretch.length_m)
    middle = min(max(middle, wall.stretch.start_m + width / 2), wall.stretch.end_m - width / 2)
    sill = opening.sill_m if opening.kind == "window" else 0.0
    height = min(opening.height_m, room.height_m - min(sill, room.height_m - 0.1))
    fitted = replace(opening, width_m=round(width, 3), along_m=round(middle - corner, 3), height_m=round(height, 3))
    return replace(home, openings=tuple(fitted if o.id == opening.id else o for o in home.openings))


def _widened(home: Home, about: tuple[str, ...], _: str) -> Home:
    """Return a home whose level saves by 2 K against In use, in the season that it did not."""
    level, in_use = home.level(about[0]), home.in_use
    if in_use is None:
        raise HomeError("no level is one that others save against")
    if about[1] == "heating":
        wider = replace(level, heating_c=in_use.heating_c - WIDER_K)
    else:
        wider = replace(level, cooling_c=(in_use.cooling_c or in_use.heating_c) + WIDER_K)
    return replace(home, levels=tuple(wider if each.id == level.id else each for each in home.levels))


def _day_away(home: Home, about: tuple[str, ...], _: str) -> Home:
    zone = home.zone_of_id(about[0])
    timetable = zone.timetable(about[1])
    kept = replace(timetable, days=tuple(d for d in timetable.days if d.of != about[2]))
    return _zone(home, replace(zone, timetables=tuple(kept if t.id == kept.id else t for t in zone.timetables)))


WIDER_K = 2.0
MENDS: dict[str, tuple[str, Mend]] = {
    "controlled twice": ("Note its own timetable as off", _own_timetable_off),
    "open way": ("Note it as shut", _ways_shut),
    "heat meets cool": ("Widen to the gap", _wider_gap),
    "saves nothing": (sentence("Widen it by {}", kelvin(WIDER_K)), _widened),
    "day for nobody": ("Remove this day", _day_away),
    "valve fights thermostat": ("Note it as held open", _held_open),
    "no sensor": ("Count its rooms' sensors", _count_own),
    "counted from elsewhere": ("Count its own rooms' sensors", _count_own),
    "not counted": ("Let it count", _count_own),
    "clashing needs": ("Make it a zone of its own", _own_zone),
    "room in no zone": ("Make it a zone of its own", _zone_for_room),
    "opening off its wall": ("Trim it to its wall", _trimmed),
}


def fix_label(finding: Finding) -> str:
    """Return what the button of a finding's mend says; empty where a person has to go there."""
    if finding.kind == "controlled twice" and len(finding.about) > 2:
        return "Let the first control it"
    return MENDS[finding.kind][0] if finding.kind in MENDS else ""


def fixed(home: Home, kind: str, about: tuple[str, ...], fresh_id: str) -> Home:
    """Return a home with a finding mended; ``fresh_id`` names what has to be made new.

    Raises
    ------
    HomeError
        If this kind cannot be mended from here, or what it speaks of is gone.
    """
    if kind not in MENDS or not about:
        raise HomeError("this has to be corrected at its place")
    return MENDS[kind][1](home, about, fresh_id)
