"""Acts on zones: rooms, owner, followers, sensors, ranges, guard, the gap between heating and cooling."""

from dataclasses import replace
from typing import get_args

from warmeter.core.building.fixes import fixed, zone_alone
from warmeter.core.building.replacing import room_into_zone
from warmeter.core.edits import floor_plan_edits
from warmeter.core.edits.home_edits import with_level
from warmeter.core.edits.ids import new_id
from warmeter.core.edits.level_edits import COOL_RANGE_C, apart
from warmeter.core.errors import HomeError
from warmeter.core.home.document import Home
from warmeter.core.home.zones import CountedSensor, GuardLimits, Sensing
from warmeter.core.sensing.calibration import CountRule
from warmeter.web.forms import Fields
from warmeter.web.survey.acting import Act, Done, Reader, celsius, done_or_refuse, maybe, one_of, text, typed_values
from warmeter.web.survey.plan_acts import fix

RULE_WORD = {
    "one": "one",
    "mean": "mean of",
    "weighted": "weighted mean of",
    "occupied": "those in used rooms of",
    "coldest": "coldest of",
    "warmest": "warmest of",
}
COUNT_RULES: tuple[str, ...] = get_args(CountRule)
ZONE: dict[str, Reader] = {
    "name": text(80, 1),
    "owner_id": one_of(lambda home: {d.id for d in home.devices}),
    "low_c": maybe(celsius(-30, 60)),
    "high_c": maybe(celsius(-30, 60)),
    "off_means": text(400),
    "off_c": maybe(celsius(-30, 60)),
}


def zone_set(home: Home, fields: Fields) -> Done:
    """Type a zone's name, owner, range, guard, and what off means."""
    zone = home.zone_of_id(fields.text("id", least=1))
    values = typed_values(home, fields, ZONE)
    if "guard_low" in fields.texts:
        if fields.texts["guard_low"].strip():
            low = celsius(-30, 60)(home, fields, "guard_low")
            done_or_refuse(fields)
            high = zone.guard.high_c if zone.guard else home.guard.high_c
            values["guard"] = GuardLimits(low_c=low, high_c=high)
        else:
            values["guard"] = None
    changed = replace(zone, **values)
    return Done(replace(home, zones=floor_plan_edits.swapped(home.zones, changed)), f"{changed.name} changed", zone.id)


def room_to(home: Home, fields: Fields) -> Done:
    """Move a room into a zone, or into one of its own."""
    room = home.room(fields.text("room", least=1))
    target = fields.text("zone")
    if not target:
        zone = home.zone_of_room(room.id)
        if zone is None:
            changed = fixed(home, "room in no zone", (room.id,), new_id())
        elif len(zone.room_ids) == 1:
            return Done(home, f"{room.name} is a zone of its own", zone.id)
        else:
            changed = zone_alone(home, zone, room.id, new_id())
        return Done(changed, f"{room.name} is a zone of its own", changed.zones[-1].id)
    return Done(room_into_zone(home, room.id, target), f"{room.name} joined to {home.zone_of_id(target).name}", target)


def follow(home: Home, fields: Fields) -> Done:
    """Let a heater follow a zone or not; all of its rooms' heaters follow until one is told not to."""
    zone, heater = home.zone_of_id(fields.text("id", least=1)), home.heater(fields.text("heater", least=1))
    own = zone.heater_ids
    if own is None:
        own = tuple(h.id for h in home.heaters if h.room_id in zone.room_ids)
    ids = tuple(h for h in own if h != heater.id) if heater.id in own else (*own, heater.id)
    every = {h.id for h in home.heaters if h.room_id in zone.room_ids}
    changed = replace(zone, heater_ids=None if set(ids) == every else ids)
    return Done(
        replace(home, zones=floor_plan_edits.swapped(home.zones, changed)), f"{zone.name}: who follows", zone.id
    )


def sensing(home: Home, fields: Fields) -> Done:
    """Say which sensors count for a zone at a level, and how; none gives the level back to the common rule."""
    zone = home.zone_of_id(fields.text("id", least=1))
    level_id = fields.text("level") or None
    if level_id:
        home.level(level_id)
    rule = fields.choice("rule", COUNT_RULES)
    done_or_refuse(fields)
    sensors = []
    for device in home.devices:
        weight = fields.texts.get(f"w_{device.id}", "").strip()
        if f"s_{device.id}" in fields.texts:
            value = fields.number(f"w_{device.id}", 0.01, 100) if weight else 1.0
            sensors.append(CountedSensor(device_id=device.id, weight=value))
    done_or_refuse(fields)
    others = tuple(s for s in zone.sensing if s.level_id != level_id)
    own = (Sensing(rule=rule, sensors=tuple(sensors), level_id=level_id),) if sensors else ()  # type: ignore[arg-type]
    if rule == "one" and len(sensors) > 1:
        raise HomeError("one sensor counts, but several are ticked; tick one, or choose how they count together")
    changed = replace(zone, sensing=(*others, *own))
    return Done(
        replace(home, zones=floor_plan_edits.swapped(home.zones, changed)), f"{zone.name}: which sensors count", zone.id
    )


def gap(home: Home, fields: Fields) -> Done:
    """Set how far heating and cooling keep apart, and why."""
    width = fields.number("gap", 0, 10, "K")
    done_or_refuse(fields)
    changed = replace(home.gap, gap_k=width, reason=fields.text("reason", most=400))
    return Done(replace(home, gap=changed), f"Heating and cooling keep {width:g} K apart")


def cooling(home: Home, fields: Fields) -> Done:
    """Set a level's cooling limit, or none; the heating setpoint gives way if the gap is not kept."""
    level = home.level(fields.text("level", least=1))
    limit = maybe(celsius(*COOL_RANGE_C))(home, fields, "cooling")
    done_or_refuse(fields)
    heating_c, cooling_c = apart(home, level.heating_c, limit, "cool")
    moved = "" if abs(heating_c - level.heating_c) < 1e-9 else ", and heating gives way"
    changed = replace(level, heating_c=heating_c, cooling_c=cooling_c)
    return Done(with_level(home, changed), f"{level.name}: cooling limit{moved}")


ACTS: dict[str, Act] = {
    "set": zone_set,
    "room-to": room_to,
    "follow": follow,
    "sensing": sensing,
    "gap": gap,
    "cooling": cooling,
    "fix": fix,
}
