"""What can be done to levels: the home's numbers, a zone's own, the gap."""

from collections.abc import Mapping
from dataclasses import replace
from typing import get_args

from warmeter.core.edits import level_edits, timetable_edits
from warmeter.core.edits.home_edits import with_level
from warmeter.core.home.document import Home
from warmeter.core.home.timetables import Fan
from warmeter.core.home.zones import Level, LevelNumbers
from warmeter.web import format as show
from warmeter.web.forms import Fields
from warmeter.web.survey.acting import Act, Done, celsius, done_or_refuse

FANS: tuple[str, ...] = get_args(Fan)


def _typed(home: Home, fields: Fields, name: str, ends: tuple[float, float]) -> float | None:
    """Return a typed temperature [°C], None if the field is empty."""
    if not fields.texts.get(name, "").strip():
        return None
    value = celsius(*ends)(home, fields, name)
    done_or_refuse(fields)
    return float(value)


def _level(home: Home, fields: Fields) -> Level:
    return home.level(fields.texts.get("level", ""))


def _heating(home: Home, fields: Fields) -> Done:
    level = _level(home, fields)
    asked = _typed(home, fields, "heating", level_edits.HEAT_RANGE_C)
    heating_c, cooling_c = level_edits.apart(home, level.heating_c if asked is None else asked, level.cooling_c, "heat")
    moved = "" if cooling_c == level.cooling_c else ", and cooling gives way"
    changed = replace(level, heating_c=heating_c, cooling_c=cooling_c)
    return Done(
        with_level(home, changed), f"{level.name}: heating {_shown(home, heating_c)}{moved}", fold=f"lv-{level.id}"
    )


def _cooling(home: Home, fields: Fields) -> Done:
    level = _level(home, fields)
    limit = _typed(home, fields, "cooling", level_edits.COOL_RANGE_C)
    heating_c, cooling_c = level_edits.apart(home, level.heating_c, limit, "cool")
    moved = "" if heating_c == level.heating_c else ", and heating gives way"
    changed = replace(level, heating_c=heating_c, cooling_c=cooling_c)
    what = "none" if cooling_c is None else _shown(home, cooling_c)
    return Done(with_level(home, changed), f"{level.name}: cooling limit {what}{moved}", fold=f"lvc-{level.id}")


def _shown(home: Home, value_c: float) -> str:
    return f"{show.temperature(value_c, home)} {show.temperature_unit(home)}"


def _name(home: Home, fields: Fields) -> Done:
    level, name = _level(home, fields), fields.text("name", least=1)
    done_or_refuse(fields)
    return Done(with_level(home, replace(level, name=name)), f"Level {level.name} is called {name}")


def _fan(home: Home, fields: Fields) -> Done:
    level, fan = _level(home, fields), fields.choice("fan", FANS)
    done_or_refuse(fields)
    return Done(with_level(home, replace(level, fan=fan)), f"{level.name}: fan {fan}")  # type: ignore[arg-type]


def _saving(home: Home, fields: Fields) -> Done:
    level = _level(home, fields)
    changed = replace(level, is_saving=not level.is_saving)
    return Done(with_level(home, changed), f"{level.name} is {'' if changed.is_saving else 'not '}meant to save")


def _add(home: Home, fields: Fields) -> Done:
    name = fields.text("name", least=1)
    done_or_refuse(fields)
    return Done(level_edits.with_new_level(home, name), f"Level {name} added")


def _remove(home: Home, fields: Fields) -> Done:
    level = _level(home, fields)
    return Done(level_edits.without_level(home, level.id), f"Level {level.name} removed")


def _up(home: Home, fields: Fields) -> Done:
    level = _level(home, fields)
    return Done(level_edits.level_moved(home, level.id, -1), f"Level {level.name} moved up")


def _own(home: Home, fields: Fields) -> Done:
    zone, level = home.zone_of_id(fields.texts.get("zone_id", "")), _level(home, fields)
    own = zone.numbers_at(level.id) or LevelNumbers(level_id=level.id)
    if "heating" in fields.texts:
        own = replace(own, heating_c=_typed(home, fields, "heating", level_edits.HEAT_RANGE_C))
    if "cooling" in fields.texts:
        own = replace(own, cooling_c=_typed(home, fields, "cooling", level_edits.COOL_RANGE_C))
    if "fan" in fields.texts:
        fan = fields.texts["fan"]
        own = replace(own, fan=fan if fan in FANS else None)  # type: ignore[arg-type]
    heating = level.heating_c if own.heating_c is None else own.heating_c
    cooling = level.cooling_c if own.cooling_c is None else own.cooling_c
    heat_c, cool_c = level_edits.apart(home, heating, cooling, "cool" if "cooling" in fields.texts else "heat")
    own = replace(
        own,
        heating_c=own.heating_c if heat_c == heating else heat_c,
        cooling_c=own.cooling_c if cool_c == cooling else cool_c,
    )
    changed = timetable_edits.with_numbers(home, zone.id, own)
    return Done(changed, f"{zone.name}: own numbers at {level.name}", fold=f"own-{zone.id}-{level.id}")


def _gap(home: Home, fields: Fields) -> Done:
    width, reason = fields.number("gap", 0, 10, "K"), fields.text("reason", most=400)
    done_or_refuse(fields)
    changed = replace(home.gap, gap_k=width, reason=reason)
    return Done(replace(home, gap=changed), f"Heating and cooling keep {width:g} K apart")


LEVEL_ACTS: Mapping[str, Act] = {
    "lv-heating": _heating,
    "lv-cooling": _cooling,
    "lv-name": _name,
    "lv-fan": _fan,
    "lv-saving": _saving,
    "lv-add": _add,
    "lv-remove": _remove,
    "lv-up": _up,
    "lv-own": _own,
    "lv-gap": _gap,
}
