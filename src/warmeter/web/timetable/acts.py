"""What can be done to a timetable, one act a form: read, change, and a sentence for its revision."""

from collections.abc import Mapping
from dataclasses import replace
from datetime import date

from warmeter.core.edits import home_edits, timetable_edits
from warmeter.core.edits.timetable_edits import SCOPES, BlockPlace, Scope
from warmeter.core.errors import HomeError
from warmeter.core.home.document import DAY_MIN, Home
from warmeter.core.home.timetables import ChangePoint, HandRule
from warmeter.core.timegrid import LocalClock
from warmeter.core.timetable.calendar import written_on
from warmeter.core.timetable.compare import name_of_key
from warmeter.core.units import MS_PER_MIN, celsius_from
from warmeter.web import format as show
from warmeter.web.forms import Fields
from warmeter.web.survey.acting import Act, Done, celsius, done_or_refuse

LOWEST_C, HIGHEST_C = 4.0, 32.0


def place_text(on: date, index: int) -> str:
    """Return a block's place as handles and forms carry it."""
    return f"{on:%Y%m%d}.{index}"


def _place(fields: Fields) -> BlockPlace:
    on, _, index = fields.texts.get("block", "").partition(".")
    try:
        return BlockPlace(date.fromisoformat(on), int(index))
    except ValueError as error:
        raise HomeError("this form names no block") from error


def day_of_fields(fields: Fields) -> date:
    """Return the day in view as the form carries it; ``HomeError`` without."""
    on = fields.day("day")
    if on is None:
        raise HomeError("this form names no day")
    return on


def _scope(fields: Fields) -> Scope:
    asked = fields.texts.get("scope", "plan")
    return next((scope for scope in SCOPES if scope == asked), "plan")


def _clock(fields: Fields, name: str) -> int:
    minute = fields.clock(name)
    done_or_refuse(fields)
    return minute


def _zone_name(home: Home, fields: Fields) -> str:
    return home.zone_of_id(fields.texts.get("zone_id", "")).name


def setpoint_typed(home: Home, fields: Fields, name: str) -> float:
    """Return a setpoint typed in the home's unit, or dragged in °C; ``WarmeterError`` outside 4 to 32 °C."""
    unit = "C" if fields.texts.get("unit") == "C" else home.temperature_unit
    low, high = (LOWEST_C, HIGHEST_C) if unit == "C" else (LOWEST_C * 1.8 + 32, HIGHEST_C * 1.8 + 32)
    value = fields.number(name, low, high, "°C" if unit == "C" else "°F")
    done_or_refuse(fields)
    return celsius_from(value, unit)


def _start(home: Home, fields: Fields) -> Done:
    place, minute, zone_id = _place(fields), _clock(fields, "start"), fields.texts.get("zone_id", "")
    return _moved(home, fields, zone_id, place, minute)


def _moved(home: Home, fields: Fields, zone_id: str, place: BlockPlace, minute: int) -> Done:
    return Done(
        timetable_edits.moved_start(home, zone_id, place, minute, _scope(fields)),
        f"{_zone_name(home, fields)}: block starts {show.clock_time(minute)}",
        fold=f"start-{zone_id}-{place.on}-{place.index}",
    )


def _wall(home: Home, fields: Fields, name: str) -> tuple[date, int]:
    """Return the local date and minute of a real minute of the strip in view."""
    minute = fields.whole(name, -60, 8 * DAY_MIN)
    done_or_refuse(fields)
    clock, first = LocalClock(home.time_zone), fields.day("strip_day")
    local = clock.local(clock.day(first or day_of_fields(fields)).start_ms + max(0, minute) * MS_PER_MIN)
    return local.date(), local.hour * 60 + local.minute


def _minute(home: Home, fields: Fields) -> Done:
    place, (on, wall) = _place(fields), _wall(home, fields, "minute")
    within = wall if on == place.on else (0 if on < place.on else DAY_MIN - 1)
    return _moved(home, fields, fields.texts.get("zone_id", ""), place, within)


def _setpoint(home: Home, fields: Fields) -> Done:
    place, zone_id = _place(fields), fields.texts.get("zone_id", "")
    value_c = setpoint_typed(home, fields, "setpoint")
    return Done(
        timetable_edits.own_setpoint(home, zone_id, place, value_c, _scope(fields)),
        f"{_zone_name(home, fields)}: own setpoint {show.temperature(value_c, home)} {show.temperature_unit(home)}",
        fold=f"top-{zone_id}-{place.on}-{place.index}",
    )


def _everywhere(home: Home, fields: Fields) -> Done:
    place, zone_id = _place(fields), fields.texts.get("zone_id", "")
    changed = timetable_edits.own_for_everywhere(home, zone_id, place)
    return Done(changed, f"{_zone_name(home, fields)}: a block's own setpoint made its level's number")


def _level(home: Home, fields: Fields) -> Done:
    place, zone_id, level_id = _place(fields), fields.texts.get("zone_id", ""), fields.texts.get("level_id", "")
    return Done(
        timetable_edits.set_level(home, zone_id, place, level_id, None, _scope(fields)),
        f"{_zone_name(home, fields)}: block is {home.level(level_id).name}",
        fold=f"level-{zone_id}-{place.on}-{place.index}",
    )


def _split(home: Home, fields: Fields) -> Done:
    zone_id = fields.texts.get("zone_id", "")
    if "minute" in fields.texts:
        on, at = _wall(home, fields, "minute")
    else:
        place = _place(fields)
        points = written_on(home, home.zone_of_id(zone_id), place.on).points
        if not 0 <= place.index < len(points):
            raise HomeError("there is no such block any more")
        on = place.on
        end = points[place.index + 1].start_min if place.index + 1 < len(points) else DAY_MIN
        at = (points[place.index].start_min + end) // 10 * 5
    return Done(
        timetable_edits.split(home, zone_id, on, at, _scope(fields)),
        f"{_zone_name(home, fields)}: block split at {show.clock_time(at)}",
    )


def _merge(home: Home, fields: Fields) -> Done:
    place, zone_id = _place(fields), fields.texts.get("zone_id", "")
    return Done(
        timetable_edits.merged(home, zone_id, place, _scope(fields)),
        f"{_zone_name(home, fields)}: block merged with the one before",
    )


def _new_block(home: Home, fields: Fields) -> Done:
    zone_id, level_id = fields.texts.get("zone_id", ""), fields.texts.get("level_id", "")
    start, end = _clock(fields, "start"), fields.clock("end")
    own = setpoint_typed(home, fields, "setpoint") if fields.texts.get("setpoint", "").strip() else None
    done_or_refuse(fields)
    level = home.level(level_id)
    point = ChangePoint(start_min=start, level_id=level_id, own_setpoint_c=own)
    if end == 0:
        end = DAY_MIN if start else 0
    changed = timetable_edits.with_new_block(home, zone_id, day_of_fields(fields), point, end, _scope(fields))
    span = f"{show.clock_time(start)} to {show.clock_time(end % DAY_MIN)}"
    return Done(changed, f"{_zone_name(home, fields)}: {level.name} {span}")


def _copy(home: Home, fields: Fields) -> Done:
    on, zone_id = day_of_fields(fields), fields.texts.get("zone_id", "")
    keys = tuple(name.removeprefix("to_") for name in fields.texts if name.startswith("to_"))
    other = fields.texts.get("other", "").strip()
    keys = (*keys, other) if other else keys
    if not keys:
        raise HomeError("tick the days to copy this one to")
    names = ", ".join(name_of_key(home, key) for key in keys)
    changed = timetable_edits.copied_day(home, zone_id, on, keys)
    return Done(changed, f"{_zone_name(home, fields)}: day copied to {names}"[:400])


def _copy_zone(home: Home, fields: Fields) -> Done:
    on, zone_id = day_of_fields(fields), fields.texts.get("zone_id", "")
    ids = tuple(name.removeprefix("zone_") for name in fields.texts if name.startswith("zone_") and name != "zone_id")
    if not ids:
        raise HomeError("tick the zones to copy this timetable to")
    names = ", ".join(home.zone_of_id(key).name for key in ids)
    changed = timetable_edits.copied_zone(home, zone_id, ids, on)
    return Done(changed, f"{_zone_name(home, fields)}: timetable copied to {names}"[:400])


def _clear(home: Home, fields: Fields) -> Done:
    changed = timetable_edits.cleared(home, fields.texts.get("zone_id", ""), day_of_fields(fields), _scope(fields))
    return Done(changed, f"{_zone_name(home, fields)}: day cleared to one block")


def _hand_back(home: Home, fields: Fields) -> Done:
    key, zone_id = fields.texts.get("key", ""), fields.texts.get("zone_id", "")
    changed = timetable_edits.handed_back(home, zone_id, fields.texts.get("timetable_id", ""), key)
    return Done(changed, f"{_zone_name(home, fields)}: {name_of_key(home, key)} no longer written apart")


def _typed_c(home: Home, fields: Fields, name: str) -> float | None:
    """Return a temperature that may be left empty [°C]."""
    return celsius(-30.0, 60.0)(home, fields, name) if fields.texts.get(name, "").strip() else None


def _hand_rule(home: Home, fields: Fields) -> Done:
    zone = home.zone_of_id(fields.texts.get("zone_id", ""))
    low, high = _typed_c(home, fields, "low"), _typed_c(home, fields, "high")
    step = fields.number("step", 0.1, 10, "K", default=zone.hand.step_k)
    longest = fields.number("longest", 0.1, 720, "h", default=zone.hand.longest_h)
    empty = fields.whole("empty", 1, 1440) if fields.texts.get("empty", "").strip() else None
    done_or_refuse(fields)
    rule = HandRule(low_c=low, high_c=high, step_k=step, longest_h=longest, empty_min=empty)
    changed = timetable_edits.with_zone(home, replace(zone, hand=rule))
    return Done(changed, f"{zone.name}: what may be changed by hand", fold=f"hand-rule-{zone.id}")


def _run(home: Home, fields: Fields) -> Done:
    machine_id, minute = fields.texts.get("appliance_id", ""), fields.whole("minute", -60, 2 * DAY_MIN)
    done_or_refuse(fields)
    at = max(0, min(minute, DAY_MIN - 1))
    name = home.appliance(machine_id).name
    return Done(
        home_edits.planned_run(home, machine_id, at),
        f"{name}: run planned {show.clock_time(at)}",
        fold=f"run-{machine_id}",
    )


ACTS: Mapping[str, Act] = {
    "start": _start,
    "minute": _minute,
    "setpoint": _setpoint,
    "everywhere": _everywhere,
    "level": _level,
    "split": _split,
    "merge": _merge,
    "block": _new_block,
    "copy": _copy,
    "copy-zone": _copy_zone,
    "clear": _clear,
    "hand-back": _hand_back,
    "hand-rule": _hand_rule,
    "run": _run,
}
