"""A home from the short form: place, rooms with heaters, first levels, a machine."""

from dataclasses import replace
from typing import Any

from warmeter.core.edits.ids import new_id
from warmeter.core.errors import TimeError
from warmeter.core.home.document import Home, Place
from warmeter.core.home.machines import Appliance
from warmeter.core.home.plant import Heater, Source, SplitUnit
from warmeter.core.home.presets import BUILT, FIRST_DAY, FIRST_KINDS, FIRST_LEVELS, HEATER_LABEL, MASS_LABEL
from warmeter.core.home.rooms import Described, Room
from warmeter.core.home.timetables import every_day
from warmeter.core.home.zones import GuardLimits, Zone
from warmeter.core.timegrid import LocalClock
from warmeter.core.units import TEMPERATURE_UNITS, celsius_from
from warmeter.web.forms import Fields

MOST_ROOMS = 3
CURRENCIES = ("GBP", "EUR", "USD", "CHF", "SEK", "NOK", "DKK", "PLN", "CZK", "CAD", "AUD", "NZD", "JPY")
COP_AT_C = (-7, 2, 7, 12)


def read_home(fields: Fields) -> Home | None:
    """Return the home that a form describes, None if it has errors (they stand in ``fields``)."""
    zone = fields.text("zone", least=1, most=64, what="The time zone")
    try:
        LocalClock(zone)
    except TimeError:
        fields.errors["zone"] = "This is no time zone; write one such as Europe/London"
    unit = fields.choice("temperature_unit", TEMPERATURE_UNITS)
    low, high = (-22, 140) if unit == "F" else (-30, 60)
    guard_low = celsius_from(fields.number("guard_low", low, high, default=10 if unit == "C" else 50), unit)
    guard_high = celsius_from(fields.number("guard_high", low, high, default=30 if unit == "C" else 86), unit)
    if not guard_low < guard_high:
        fields.errors["guard_low"] = "The lower guard limit must lie below the upper"
    source = _source(fields)
    # A home to be drawn begins without rooms.
    rooms, heaters = ((), ()) if fields.texts.get("empty") else _rooms(fields, source.id)
    name = fields.text("name", least=1, what="The home's name")
    place = Place(
        latitude_deg=fields.number("latitude", -90, 90, "°"), longitude_deg=fields.number("longitude", -180, 180, "°")
    )
    machine = fields.text("appliance", most=80)
    currency = fields.choice("currency", CURRENCIES)
    country = fields.text("country", least=2, most=2, what="The country, as two letters,").upper()
    if fields.errors:
        return None
    levels = tuple(replace(level, id=new_id()) for level in FIRST_LEVELS)
    by_old = {old.id: new.id for old, new in zip(FIRST_LEVELS, levels, strict=True)}
    day = tuple(replace(point, level_id=by_old[point.level_id]) for point in FIRST_DAY)
    return Home(
        id=new_id(),
        name=name,
        place=place,
        time_zone=zone,
        country=country,
        currency=currency,
        temperature_unit="F" if unit == "F" else "C",
        guard=GuardLimits(low_c=guard_low, high_c=guard_high),
        rooms=rooms,
        sources=(source,),
        heaters=heaters,
        levels=levels,
        day_kinds=tuple(replace(kind, id=new_id()) for kind in FIRST_KINDS),
        zones=tuple(
            Zone(id=new_id(), name=room.name, room_ids=(room.id,), timetables=every_day(new_id(), *day))
            for room in rooms
        ),
        appliances=(Appliance(id=new_id(), name=machine),) if machine else (),
    )


def _source(fields: Fields) -> Source:
    kind = fields.choice("source", ("direct", "heat_pump"))
    if kind == "direct":
        return Source(id=new_id(), name="Direct electric", kind="direct")
    points = []
    for outdoor in COP_AT_C:
        key = f"cop_{outdoor}"
        if fields.texts.get(key, "").strip():
            points.append((float(outdoor), fields.number(key, 0.5, 15)))
    if not points:
        fields.errors["cop_7"] = "Give the COP at one outdoor temperature or more"
        points = [(7.0, 3.0)]
    return Source(id=new_id(), name="Heat pump", kind="heat_pump", cop_points=tuple(points))


def _rooms(fields: Fields, source_id: str) -> tuple[tuple[Room, ...], tuple[Heater, ...]]:
    rooms, heaters = [], []
    for k in range(1, MOST_ROOMS + 1):
        if k > 1 and not fields.texts.get(f"room{k}_name", "").strip():
            continue
        room, heater = read_room(fields, f"room{k}_", source_id)
        rooms.append(room)
        heaters.append(heater)
    return tuple(rooms), tuple(heaters)


def read_room(
    fields: Fields, prefix: str, source_id: str, room_id: str = "", heater: Heater | None = None
) -> tuple[Room, Heater]:
    """Return a room and its heater from fields that share a prefix."""
    room = Room(
        id=room_id or new_id(),
        name=fields.text(f"{prefix}name", least=1, what="The room's name") or "Room",
        height_m=fields.number(f"{prefix}height", 1, 20, "m"),
        built=fields.choice(f"{prefix}built", BUILT),
        mass_class=fields.choice(f"{prefix}mass", MASS_LABEL),
        described=Described(
            floor_area_m2=fields.number(f"{prefix}area", 1, 2000, "m²"),
            outside_walls=fields.whole(f"{prefix}walls", 0, 4, default=2),
            has_roof=fields.is_on(f"{prefix}roof"),
            has_ground_floor=fields.is_on(f"{prefix}ground"),
        ),
    )
    kind = fields.choice(f"{prefix}heater", HEATER_LABEL)
    rated = fields.number(f"{prefix}watts", 50, 100_000, "W")
    told: dict[str, Any] = {
        "kind": kind,
        "rated_heat_w": rated,
        "split": (heater.split if heater else None) or (SplitUnit() if kind == "split_unit" else None),
        "step_k": fields.number(f"{prefix}step_k", 0.1, 2, default=0.5),
        "step_min": fields.whole(f"{prefix}step_min", 1, 60, default=15),
        "min_on_min": fields.whole(f"{prefix}min_on", 0, 120, default=2),
        "min_off_min": fields.whole(f"{prefix}min_off", 0, 120, default=2),
    }
    if heater is not None:
        return room, replace(heater, **told)
    name = f"{room.name} {HEATER_LABEL[kind]}"[:80]
    return room, Heater(id=new_id(), room_id=room.id, name=name, source_id=source_id, **told)
