"""Conditions on clock, calendar and sky in words."""

from collections.abc import Callable

from warmeter.core.home.rule_conditions import AtTime, Condition, Dark, Dates, Evening, Hours
from warmeter.web.rules.slot_types import angle_slot, choice_slot, date_slot, minute_slot, weekdays_slot, yes_no_slot
from warmeter.web.rules.slots import Sentence, Slot

FirstSlot = Callable[[str], Slot]
USUAL_EVENING_MIN = 1260


def say_clock(told: Sentence, path: str, condition: Condition, first_slot: FirstSlot) -> bool:
    """Add a condition on clock, calendar or sky; return whether it is one."""
    if isinstance(condition, Hours):
        _say_hours(told, path, condition, first_slot)
    elif isinstance(condition, AtTime):
        _say_at(told, path, condition, first_slot)
    elif isinstance(condition, Dates):
        _say_dates(told, path, condition, first_slot)
    elif isinstance(condition, Dark):
        _say_dark(told, path, condition, first_slot)
    elif isinstance(condition, Evening):
        _say_evening(told, path, condition, first_slot)
    else:
        return False
    return True


def _say_hours(told: Sentence, path: str, c: Hours, first_slot: FirstSlot) -> None:
    told.leave(first_slot("the clock"))
    told.say("shows")
    told.leave(minute_slot(f"{path}.from", "from when", c.from_min, path, "from_min"))
    told.say("to")
    told.leave(minute_slot(f"{path}.until", "until when", c.until_min, path, "until_min"))
    told.leave(weekdays_slot(path, c.weekdays))


def _say_at(told: Sentence, path: str, c: AtTime, first_slot: FirstSlot) -> None:
    told.leave(first_slot("the clock"))
    told.say("strikes")
    told.leave(minute_slot(f"{path}.at", "when", c.at_min, path, "at_min"))
    told.leave(weekdays_slot(path, c.weekdays))


def _say_dates(told: Sentence, path: str, c: Dates, first_slot: FirstSlot) -> None:
    told.leave(first_slot("the date"))
    told.say("lies from")
    told.leave(date_slot(f"{path}.first", c.from_day, c.from_month, path, ("from_day", "from_month")))
    told.say("to")
    told.leave(date_slot(f"{path}.last", c.until_day, c.until_month, path, ("until_day", "until_month")))


def _say_dark(told: Sentence, path: str, c: Dark, first_slot: FirstSlot) -> None:
    told.leave(first_slot("it"))
    told.leave(yes_no_slot(f"{path}.how", "dark or light", ("is dark", "is light"), c.is_dark, path, "is_dark"))
    told.say("(sun under")
    told.leave(angle_slot(f"{path}.below", c.below_deg, path, "below_deg"))
    told.say(")")


def _say_evening(told: Sentence, path: str, c: Evening, first_slot: FirstSlot) -> None:
    clock_min = c.clock_min or USUAL_EVENING_MIN
    told.leave(first_slot("the evening"))
    told.say("has begun, by")
    options = [
        ("dark", "dark"),
        ("clock", "the clock"),
        ("first", "the first of dark and clock"),
        ("last", "the last of dark and clock"),
    ]
    sets = {key: {"which": key, "clock_min": None if key == "dark" else clock_min} for key, _ in options}
    told.leave(choice_slot(f"{path}.which", "when it begins", options, c.which, path, sets))
    if c.which != "dark":
        told.say("at")
        told.leave(minute_slot(f"{path}.clock", "clock time of its beginning", clock_min, path, "clock_min", low=720))
    told.say("until")
    told.leave(minute_slot(f"{path}.until", "its end", c.until_min, path, "until_min", high=720))
