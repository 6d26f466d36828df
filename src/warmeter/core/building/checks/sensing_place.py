"""Checks of where sensors stand and count, what stands too near a heater, and floors."""

from collections.abc import Iterator

from warmeter.core.building.geometry import box_distance_m, heater_box, on_plan, outside_wall_at, sun_on_spot, thing_box
from warmeter.core.building.heating import floor_check, room_output_w
from warmeter.core.building.losses import loss_of
from warmeter.core.emitters.warm_floor import LIMIT_C
from warmeter.core.finding import Finding
from warmeter.core.home.devices import Device
from warmeter.core.home.document import Home
from warmeter.core.sentence import Measure, celsius, kelvin, sentence

NEAR_HEATER_M = 1.0
RULES = {
    "sensor near heater": sentence(
        "A sensor that counts hangs {} or more from every heater; a valve's own sensor does not count alone.",
        Measure(1.0, "m", 0),
    ),
    "sensor on outside wall": "A sensor that counts does not hang on an outside wall.",
    "sensor in the sun": "The sun does not reach a sensor that counts, at any hour that its windows' orientation allows.",
    "counted from elsewhere": "A sensor counts for the zone in whose rooms it stands.",
    "not counted": "An air sensor in a zone's room counts for that zone at some level.",
    "too close to heater": "Furniture and curtains keep a heater's clearance.",
    "floor too warm": "The surface of underfloor heating stays at or under its limit at its design load, and no limit typed is above the standard's.",
}


def place_findings(home: Home) -> Iterator[Finding]:
    """Yield what is doubtful about places."""
    counted = {key: zone for zone in home.zones for key in zone.counted_ids}
    for device in home.devices:
        if device.id in counted and device.is_in_service and device.room_id is not None and device.at is not None:
            yield from _sensor(home, device)
    yield from _counting(home)
    yield from _clearance(home)
    yield from _floors(home)


def _sensor(home: Home, device: Device) -> Iterator[Finding]:
    room = home.room(device.room_id or "")
    if not room.is_drawn or device.at is None or device.kind == "floor_probe":
        return
    x, y = on_plan(room, device.at)
    for heater in home.heaters_of(room.id):
        box = heater_box(room, heater)
        if box is None or heater.kind == "warm_floor":
            continue
        away = box_distance_m(box, (x, y, x, y))
        if away < NEAR_HEATER_M - 1e-9:
            yield Finding(
                kind="sensor near heater",
                severity="warning",
                place=device.id,
                sentence=sentence(
                    "{} hangs {} from {}: it reads {} high while that heats.",
                    device.name,
                    Measure(round(away, 1), "m", 1),
                    heater.name,
                    kelvin(1, until=5),
                ),
                fix=sentence(
                    "Move it to an inside wall, {} high, well away from every heater.", Measure(1.2, "m", 1, until=1.5)
                ),
                about=(device.id, heater.id),
            )
    if outside_wall_at(home, room, device.at) is not None:
        yield Finding(
            kind="sensor on outside wall",
            severity="warning",
            place=device.id,
            sentence=sentence(
                "{} hangs on an outside wall of {}: it reads {} low in winter.",
                device.name,
                room.name,
                kelvin(0.5, until=2),
            ),
            fix="Move it to an inside wall.",
            about=(device.id, room.id),
        )
    for lit in sun_on_spot(home, room, device.at):
        yield Finding(
            kind="sensor in the sun",
            severity="warning",
            place=device.id,
            sentence=sentence(
                "The sun can reach {} from {}: it reads {} high then.", device.name, lit.sentence, kelvin(2, until=10)
            ),
            fix="Move it out of the window's light, or count another at those hours.",
            about=(device.id, lit.opening_id),
        )


def _counting(home: Home) -> Iterator[Finding]:
    for zone in home.zones:
        for key in zone.counted_ids:
            device = home.device(key)
            if device.room_id not in zone.room_ids or not device.is_in_service:
                where = home.room(device.room_id).name if device.room_id else "no room"
                why = f"stands in {where}" if device.is_in_service else "is out of service"
                yield Finding(
                    kind="counted from elsewhere",
                    severity="warning",
                    place=device.id,
                    sentence=f"{device.name} counts for {zone.name} but {why}.",
                    fix="Let a sensor of its own rooms count instead.",
                    about=(device.id, zone.id),
                )
    for device in home.devices:
        if device.kind not in ("air_sensor", "thermostat") or not device.is_in_service or device.room_id is None:
            continue
        own = home.zone_of_room(device.room_id)
        measures_air = not device.quantities or "room_temperature" in device.quantities
        if own is not None and measures_air and device.id not in own.counted_ids:
            yield Finding(
                kind="not counted",
                severity="note",
                place=device.id,
                sentence=f"{device.name} stands in {own.name} and has no effect there at any level.",
                fix="Let it count, or say in a note why not.",
                about=(device.id, own.id),
            )


def _clearance(home: Home) -> Iterator[Finding]:
    for thing in home.things:
        room = home.room(thing.room_id)
        if thing.kind not in ("furniture", "curtain") or not room.is_drawn:
            continue
        for heater in home.heaters_of(room.id):
            box = heater_box(room, heater)
            if box is None or heater.kind in ("warm_floor", "split_unit"):
                continue
            away = box_distance_m(box, thing_box(room, thing))
            if away < heater.clearance_m - 1e-9:
                yield Finding(
                    kind="too close to heater",
                    severity="danger" if heater.kind == "electric_panel" else "warning",
                    place=thing.id,
                    sentence=(
                        f"{thing.name} stands {100 * away:.0f} cm from {heater.name}, "
                        f"which needs {100 * heater.clearance_m:.0f} cm."
                    ),
                    fix="Move it away before anything heats by itself.",
                    about=(thing.id, heater.id),
                )


def _floors(home: Home) -> Iterator[Finding]:
    for heater in home.heaters:
        if heater.kind != "warm_floor":
            continue
        room = home.room(heater.room_id)
        standard = LIMIT_C["bath" if room.use == "bath" else "occupied"]
        if heater.surface_limit_c is not None and heater.surface_limit_c > standard + 1e-9:
            yield Finding(
                kind="floor too warm",
                severity="danger",
                place=heater.id,
                sentence=sentence(
                    "{} may reach {}; the limit there is {}.",
                    heater.name,
                    celsius(heater.surface_limit_c),
                    celsius(standard),
                ),
                fix=sentence("Set its limit to {} or what the cover's maker allows.", celsius(standard)),
                about=(heater.id, room.id),
            )
        given = room_output_w(home, room.id)
        need = loss_of(home, room).safe_w
        load = need * min(heater.rated_heat_w, given) / given if given > 0 else need
        found = floor_check(home, heater, min(load, heater.rated_heat_w))
        if not found.is_within:
            yield Finding(
                kind="floor too warm",
                severity="warning",
                place=heater.id,
                sentence=(
                    sentence(
                        "{} would need {} at its surface on the design day; its limit is {}.",
                        heater.name,
                        celsius(found.surface_c, 1),
                        celsius(found.limit_c),
                    )
                ),
                fix="Add another heater, or let the room be cooler on such days.",
                about=(heater.id, room.id),
            )
