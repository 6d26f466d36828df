"""Faults planted into clean homes, one for each check, to judge whether it is found and nothing is invented."""

from collections.abc import Callable
from dataclasses import replace

from warmeter.core.building.checks.command import SENSING_KINDS
from warmeter.core.building.geometry import outside_wall_at, sun_on_spot
from warmeter.core.building.room_envelope import home_plan
from warmeter.core.floor_plan.shape import bounds, contains
from warmeter.core.home.devices import ControlPath, Device
from warmeter.core.home.document import Home
from warmeter.core.home.part import HasId, Spot
from warmeter.core.home.plant import Heater
from warmeter.core.home.rooms import Opening, Room, Thing
from warmeter.core.home.timetables import DayProfile
from warmeter.core.home.zones import GuardLimits, Sensing, Zone
from warmeter.simulators.planted import Planted
from warmeter.simulators.wiring_faults import WIRING_PLANTS

Plant = Callable[[Home], list[Planted]]


def _with_device(home: Home, device: Device) -> Home:
    return replace(home, devices=tuple(device if d.id == device.id else d for d in home.devices))


def _with_zone(home: Home, zone: Zone) -> Home:
    return replace(home, zones=tuple(zone if z.id == zone.id else z for z in home.zones))


def _with_room(home: Home, room: Room) -> Home:
    return replace(home, rooms=tuple(room if r.id == room.id else r for r in home.rooms))


def _with_heater(home: Home, heater: Heater) -> Home:
    return replace(home, heaters=tuple(heater if h.id == heater.id else h for h in home.heaters))


def _without(home: Home, part: HasId) -> Home:
    return replace(
        home,
        heaters=tuple(h for h in home.heaters if h.id != part.id),
        devices=tuple(replace(d, drives_id=None) if d.drives_id == part.id else d for d in home.devices),
    )


def rooms_overlap(home: Home) -> list[Planted]:
    """Push a room over its neighbour by half a metre."""
    found = []
    for room in home.rooms:
        shared = home_plan(home)[room.id].shared_m() if room.is_drawn else {}
        if not shared or home.openings_of(room.id):
            continue
        side = next(w.side for w in home_plan(home)[room.id].walls if w.beyond)
        dx = {"left": -0.5, "right": 0.5}.get(side, 0.0)
        dy = {"up": -0.5, "down": 0.5}.get(side, 0.0)
        rects = tuple(replace(r, x_m=r.x_m + dx, y_m=r.y_m + dy) for r in room.rects)
        moved = _with_room(home, replace(room, rects=rects))
        found.append(
            Planted(
                moved,
                room.id,
                frozenset(
                    {
                        "opening off its wall",
                        "sensor in the sun",
                        "heater too small",
                        "sensor on outside wall",
                        "floor too warm",
                    }
                ),
            )
        )
    return found or [_overlap_by_copy(home)]


def _overlap_by_copy(home: Home) -> Planted:
    """Draw a bare room over the corner of the first one."""
    first = home.rooms[0]
    box = bounds(first.rects)
    corner = replace(first.rects[0], x_m=box.x_m - 0.9, y_m=box.y_m - 0.9, width_m=1.2, depth_m=1.2)
    extra = replace(first, id="planted", name="Planted room", rects=(corner,), condition="unheated", overrules=())
    return Planted(replace(home, rooms=(*home.rooms, extra)), "planted")


def opening_off(home: Home) -> list[Planted]:
    """Make each window wider than its wall."""
    found = []
    for opening in home.openings:
        if opening.kind == "window":
            wide = replace(opening, width_m=25.0)
            found.append(
                Planted(
                    _opened(home, wide),
                    opening.id,
                    frozenset({"openings overlap", "sensor in the sun", "heater too small", "floor too warm"}),
                )
            )
    return found


def _opened(home: Home, opening: Opening) -> Home:
    return replace(home, openings=tuple(opening if o.id == opening.id else o for o in home.openings))


def openings_overlap(home: Home) -> list[Planted]:
    """Put a second, like opening over each door."""
    return [
        Planted(replace(home, openings=(*home.openings, replace(o, id="planted"))), "planted")
        for o in home.openings
        if o.kind == "door"
    ]


def outside_room(home: Home) -> list[Planted]:
    """Put things far out of their rooms."""
    return [
        Planted(
            replace(
                home,
                things=tuple(replace(t, at=Spot(x_m=60.0, y_m=60.0)) if t.id == thing.id else t for t in home.things),
            ),
            thing.id,
        )
        for thing in home.things
    ]


def _on_ducts(home: Home) -> set[str]:
    """Return rooms with vents: what becomes of their other heaters is no fault."""
    return {key for system in home.ducts for key in system.room_ids}


def heater_small(home: Home) -> list[Planted]:
    """Take most of a room's heat away."""
    found = []
    for room in home.rooms:
        mine = home.heaters_of(room.id)
        if room.condition == "heated" and mine and room.id not in _on_ducts(home):
            weak = home
            for heater in mine:
                weak = _with_heater(weak, replace(heater, rated_heat_w=heater.rated_heat_w * 0.1))
            found.append(Planted(weak, room.id))
    return found


def room_without_heater(home: Home) -> list[Planted]:
    """Remove a room's only heater."""
    return [
        Planted(_without(home, home.heaters_of(r.id)[0]), r.id)
        for r in home.rooms
        if len(home.heaters_of(r.id)) == 1 and r.condition == "heated" and r.id not in _on_ducts(home)
    ]


def room_in_no_zone(home: Home) -> list[Planted]:
    """Take a room out of its zone."""
    found = []
    for zone in home.zones:
        if len(zone.room_ids) > 1:
            left = replace(zone, room_ids=zone.room_ids[1:])
            found.append(Planted(_with_zone(home, left), zone.room_ids[0], frozenset({"counted from elsewhere"})))
        else:
            rest = replace(home, zones=tuple(z for z in home.zones if z.id != zone.id))
            found.append(Planted(rest, zone.room_ids[0]))
    return found


def guard_low(home: Home) -> list[Planted]:
    """Lower the guard of each zone to 4 °C."""
    return [
        Planted(
            _with_zone(home, replace(z, guard=GuardLimits(low_c=4.0, high_c=30.0))),
            z.id,
            frozenset({"protection limits differ"}),
        )
        for z in home.zones
    ]


def currency(home: Home) -> list[Planted]:
    """Price the home in another currency."""
    tariffs = tuple(replace(t, currency="CHF") for t in home.tariffs)
    return [Planted(replace(home, tariffs=tariffs), home.tariffs[0].id)]


def no_tariff(home: Home) -> list[Planted]:
    """Take the tariffs away."""
    return [Planted(replace(home, tariffs=()), home.id)]


def controlled_twice(home: Home) -> list[Planted]:
    """Let each device that drives a heater run a timetable of its own."""
    return [
        Planted(_with_device(home, replace(d, own_timetable="running")), d.id)
        for d in home.devices
        if d.drives_id is not None and d.id not in {zone.owner_id for zone in home.zones}
    ]


def open_way(home: Home) -> list[Planted]:
    """Leave a way by the maker's service open."""
    way = ControlPath(way="maker_service", by="the maker", state="open")
    return [
        Planted(_with_device(home, replace(d, commands=(*d.commands, way))), d.id) for d in home.devices if d.drives_id
    ]


def blind(home: Home) -> list[Planted]:
    """Take the witness of a blind device away, or make a driving one blind."""
    return [
        Planted(_with_device(home, replace(d, is_two_way=False, witness_id=None)), d.id)
        for d in home.devices
        if d.drives_id or not d.is_two_way
    ]


def chain_internet(home: Home) -> list[Planted]:
    """Let one link of each chain need the internet."""
    return [
        Planted(_with_device(home, replace(home.device(key), works_without_internet=False)), chain.id)
        for chain in home.safety_chains
        for key in chain.device_ids
    ]


def chain_battery(home: Home) -> list[Planted]:
    """Put a chain's only sensor on a battery alone."""
    found = []
    for chain in home.safety_chains:
        devices = [home.device(key) for key in chain.device_ids]
        if sum(device.kind in SENSING_KINDS for device in devices) == 1:
            found.append(Planted(_with_device(home, replace(devices[0], power="battery")), chain.id))
    return found


def lamp_switch(home: Home) -> list[Planted]:
    """Hang a commanded lamp behind an unblocked switch."""
    room = home.rooms[0]
    switch = Device(id="planted-switch", name="Planted switch", kind="wall_switch", room_id=room.id)
    lamp = Device(id="planted", name="Planted lamp", kind="lamp_switch", room_id=room.id, fed_by_id=switch.id)
    return [Planted(replace(home, devices=(*home.devices, switch, lamp)), "planted")]


def guard_differs(home: Home) -> list[Planted]:
    """Read another frost limit in each device that drives a heater."""
    return [Planted(_with_device(home, replace(d, guard_c=16.0)), d.id) for d in home.devices if d.drives_id]


def valve_fights(home: Home) -> list[Planted]:
    """Let a thermostat lead each zone, with a valve in its room that closes by itself."""
    found = []
    for zone in home.zones:
        counted = [home.device(key) for key in zone.counted_ids]
        if not counted:
            continue
        led = _with_device(home, replace(counted[0], kind="thermostat"))
        valves = [d for d in led.devices if d.kind == "radiator_valve" and d.room_id == counted[0].room_id]
        if not valves:
            valve = Device(id="planted", name="Planted valve", kind="radiator_valve", room_id=counted[0].room_id)
            led, valves = replace(led, devices=(*led.devices, valve)), [valve]
        others = tuple(replace(d, is_held_open=True) if d in valves[1:] else d for d in led.devices)
        found.append(Planted(replace(led, devices=others), valves[0].id))
    return found


def no_sensor(home: Home) -> list[Planted]:
    """Let nothing count for each zone."""
    return [Planted(_with_zone(home, replace(z, sensing=())), z.id, frozenset({"not counted"})) for z in home.zones]


def clashing(home: Home) -> list[Planted]:
    """Put a cool and a warm room into one zone."""
    warm = max((z for z in home.zones), key=lambda z: home.room(z.room_ids[0]).design_c or 0.0)
    cool = min((z for z in home.zones), key=lambda z: home.room(z.room_ids[0]).design_c or 0.0)
    rooms = replace(warm, room_ids=(*warm.room_ids, *cool.room_ids), sensing=_both(warm, cool))
    zones = tuple(rooms if z.id == warm.id else z for z in home.zones if z.id != cool.id)
    far = replace(home.room(cool.room_ids[0]), design_c=12.0)
    return [Planted(_with_room(replace(home, zones=zones), far), warm.id, frozenset({"heater too small"}))]


def _both(a: Zone, b: Zone) -> tuple[Sensing, ...]:
    sensors = tuple(c for z in (a, b) for s in z.sensing for c in s.sensors)
    return (Sensing(rule="mean", sensors=sensors),)


def meets(home: Home) -> list[Planted]:
    """Let cooling begin a kelvin over the heating setpoint, where there is cooling."""
    found = []
    for level in home.levels:
        if level.cooling_c is None:
            continue
        levels = tuple(replace(x, cooling_c=x.heating_c + 1.0) if x.id == level.id else x for x in home.levels)
        used = [z for z in home.zones if any(p.level_id == level.id for p in z.all_points)]
        found += [Planted(replace(home, levels=levels), z.id, frozenset({"saves nothing"})) for z in used]
    return found


def _asking(zone: Zone, setpoint_c: float) -> Zone:
    """Return a zone whose first block asks a setpoint of its own."""
    first, *others = zone.timetables
    usual = (replace(first.usual[0], own_setpoint_c=setpoint_c), *first.usual[1:])
    return replace(zone, timetables=(replace(first, usual=usual), *others))


def below_guard(home: Home) -> list[Planted]:
    """Ask for less than the guard."""
    found = []
    for zone in home.zones:
        found.append(Planted(_with_zone(home, replace(_asking(zone, 5.0), low_c=None)), zone.id))
    return found


def beyond_range(home: Home) -> list[Planted]:
    """Ask for more than a zone's range."""
    found = []
    for zone in home.zones:
        hot = _asking(zone, (zone.high_c or 22.0) + 2.0)
        if zone.high_c is not None:
            found.append(Planted(_with_zone(home, hot), zone.id, frozenset({"heat meets cool"})))
    return found


def saves_nothing(home: Home) -> list[Planted]:
    """Let a level meant to save ask as much as In use, in winter and in summer."""
    found: list[Planted] = []
    in_use = home.in_use
    if in_use is None:
        return found
    for level in home.levels:
        if not level.is_saving:
            continue
        changes = [replace(level, heating_c=in_use.heating_c)]
        if level.cooling_c is not None and in_use.cooling_c is not None:
            changes.append(replace(level, cooling_c=in_use.cooling_c))
        for changed in changes:
            levels = tuple(changed if x.id == level.id else x for x in home.levels)
            brings = frozenset({"heat meets cool", "beyond range"})
            found.append(Planted(replace(home, levels=levels), level.id, brings))
    return found


def day_for_nobody(home: Home) -> list[Planted]:
    """Write a day for a kind of day that is not there."""
    found = []
    for zone in home.zones:
        first, *others = zone.timetables
        lost = replace(first, days=(*first.days, DayProfile(of="gone", points=first.usual)))
        found.append(Planted(_with_zone(home, replace(zone, timetables=(lost, *others))), zone.id))
    return found


def no_register(home: Home) -> list[Planted]:
    """Forget all devices."""
    zones = tuple(replace(z, sensing=(), owner_id=None) for z in home.zones)
    openings = tuple(replace(o, blind_motor_id=None) for o in home.openings)
    bare = replace(home, devices=(), safety_chains=(), zones=zones, water_points=(), openings=openings)
    return [Planted(bare, home.id)]


def _counted_air(home: Home) -> list[Device]:
    ids = {key for z in home.zones for key in z.counted_ids}
    return [d for d in home.devices if d.id in ids and d.kind == "air_sensor" and d.at is not None]


def near_heater(home: Home) -> list[Planted]:
    """Hang each sensor that counts half a metre from a heater."""
    found = []
    for device in _counted_air(home):
        heaters = [h for h in home.heaters_of(device.room_id or "") if h.at is not None and h.kind != "warm_floor"]
        if not heaters or heaters[0].at is None:
            continue
        box = bounds(home.room(device.room_id or "").rects)
        at = heaters[0].at
        y = at.y_m + 0.5 if at.y_m < box.depth_m / 2 else at.y_m - 0.5
        moved = replace(device, at=Spot(x_m=at.x_m, y_m=round(y, 2), z_m=1.4))
        found.append(
            Planted(_with_device(home, moved), device.id, frozenset({"sensor in the sun", "sensor on outside wall"}))
        )
    return found


def on_outside(home: Home) -> list[Planted]:
    """Hang each sensor that counts on an outside wall, far from heaters."""
    found = []
    for device in _counted_air(home):
        room = home.room(device.room_id or "")
        box = bounds(room.rects)
        for wall in home_plan(home)[room.id].walls:
            if wall.beyond or wall.stretch.length_m < 0.5:
                continue
            along = wall.stretch.end_m - 0.1
            flat = wall.side in ("up", "down")
            x, y = (along, wall.stretch.at_m) if flat else (wall.stretch.at_m, along)
            spot = Spot(x_m=round(x - box.x_m, 2), y_m=round(y - box.y_m, 2), z_m=1.4)
            if outside_wall_at(home, room, spot) is not None:
                moved = _with_device(home, replace(device, at=spot))
                found.append(Planted(moved, device.id, frozenset({"sensor near heater", "sensor in the sun"})))
                break
    return found


def in_sun(home: Home) -> list[Planted]:
    """Hang each sensor where its room's windows let the sun in, if there is such a place."""
    found = []
    for device in _counted_air(home):
        room = home.room(device.room_id or "")
        box = bounds(room.rects)
        spots = (
            Spot(x_m=round(box.width_m * a, 2), y_m=round(box.depth_m * b, 2), z_m=1.4)
            for a in (0.2, 0.35, 0.5, 0.65, 0.8)
            for b in (0.3, 0.5, 0.7)
        )
        lit = next(
            (s for s in spots if contains(room.rects, box.x_m + s.x_m, box.y_m + s.y_m) and sun_on_spot(home, room, s)),
            None,
        )
        if lit is not None:
            moved = _with_device(home, replace(device, at=lit))
            found.append(Planted(moved, device.id, frozenset({"sensor near heater"})))
    return found


def from_elsewhere(home: Home) -> list[Planted]:
    """Carry a sensor that counts into another zone's room."""
    found = []
    for device in _counted_air(home):
        other = next(z for z in home.zones if device.room_id not in z.room_ids)
        moved = replace(device, room_id=other.room_ids[0], at=None)
        found.append(Planted(_with_device(home, moved), device.id, frozenset({"not counted"})))
    return found


def not_heard(home: Home) -> list[Planted]:
    """Hang up a second sensor that nothing counts."""
    return [
        Planted(
            replace(
                home,
                devices=(
                    *home.devices,
                    Device(id="planted", name="Planted sensor", kind="air_sensor", room_id=zone.room_ids[0]),
                ),
            ),
            "planted",
        )
        for zone in home.zones
    ]


def too_close(home: Home) -> list[Planted]:
    """Push a cupboard against each heater that needs clearance."""
    found = []
    for heater in home.heaters:
        if heater.at is None or heater.kind in ("warm_floor", "split_unit"):
            continue
        thing = Thing(
            id="planted",
            room_id=heater.room_id,
            name="Planted cupboard",
            kind="furniture",
            at=heater.at,
            width_m=0.4,
            depth_m=0.2,
        )
        found.append(Planted(replace(home, things=(*home.things, thing)), "planted"))
    return found


def floor_warm(home: Home) -> list[Planted]:
    """Type a surface limit above the standard's, or lay a floor where there is none."""
    floors = [h for h in home.heaters if h.kind == "warm_floor"]
    if floors:
        return [Planted(_with_heater(home, replace(h, surface_limit_c=39.0)), h.id) for h in floors]
    room = next(r for r in home.rooms if r.condition == "heated")
    floor = Heater(
        id="planted",
        room_id=room.id,
        name="Planted floor",
        kind="warm_floor",
        source_id=home.sources[0].id,
        rated_heat_w=100.0,
        surface_limit_c=36.0,
    )
    return [Planted(replace(home, heaters=(*home.heaters, floor)), "planted")]


def _alone(plant: Callable[[Home], Planted]) -> Plant:
    return lambda home: [plant(home)]


PLANTS: dict[str, Plant] = {
    "rooms overlap": lambda home: [_overlap_by_copy(home), *rooms_overlap(home)],
    "opening off its wall": opening_off,
    "openings overlap": openings_overlap,
    "outside its room": outside_room,
    "room without heater": room_without_heater,
    "heater too small": heater_small,
    "room in no zone": room_in_no_zone,
    "protection limit low": guard_low,
    "currency": currency,
    "no tariff": no_tariff,
    "no sensor": no_sensor,
    "clashing needs": clashing,
    "heat meets cool": meets,
    "below protection limit": below_guard,
    "beyond range": beyond_range,
    "saves nothing": saves_nothing,
    "day for nobody": day_for_nobody,
    "no register": no_register,
    "controlled twice": controlled_twice,
    "open way": open_way,
    "no feedback, no witness": blind,
    "alarm path needs internet": chain_internet,
    "alarm path on one battery": chain_battery,
    "switched off by hand": lamp_switch,
    "protection limits differ": guard_differs,
    "valve fights thermostat": valve_fights,
    "sensor near heater": near_heater,
    "sensor on outside wall": on_outside,
    "sensor in the sun": in_sun,
    "counted from elsewhere": from_elsewhere,
    "not counted": not_heard,
    "too close to heater": too_close,
    "floor too warm": floor_warm,
    **{kind: _alone(plant) for kind, plant in WIRING_PLANTS.items()},
}


def as_found(home: Home) -> Home:
    """Return the bindery with what the walk found wrong and nobody has mended yet."""
    found = {
        "dv-valve-bedroom": {"own_timetable": "running"},
        "dv-bindery": {"at": Spot(x_m=5.2, y_m=0.9, z_m=1.4)},
        "dv-leak": {"power": "battery"},
        "dv-valve-loft": {"guard_c": 6.0},
    }
    devices = tuple(replace(d, **found.get(d.id, {})) for d in home.devices)  # type: ignore[arg-type]
    return replace(home, devices=devices)
