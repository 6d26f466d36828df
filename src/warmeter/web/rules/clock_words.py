"""Conditions on clock, calendar and sky in words."""

from collections.abc import Callable
from dataclasses import replace
from typing import cast

from warmeter.core.home.rule_conditions import AtTime, Condition, Dark, Dates, Evening, Hours, Which
from warmeter.core.home.rules import Rule
from warmeter.web.rules.slot_types import angle_slot, choice_slot, date_slot, minute_slot, weekdays_slot
from warmeter.web.rules.slots import Sentence, Slot

Put = Callable[[Condition], Rule]
FirstSlot = Callable[[str], Slot]
USUAL_EVENING_MIN = 1260


def say_clock(told: Sentence, key: str, condition: Condition, put: Put, first_slot: FirstSlot) -> bool:
    """Add a condition on clock, calendar or sky; return whether it is one."""
    if isinstance(condition, Hours):
        _say_hours(told, key, condition, put, first_slot)
    elif isinstance(condition, AtTime):
        _say_at(told, key, condition, put, first_slot)
    elif isinstance(condition, Dates):
        _say_dates(told, key, condition, put, first_slot)
    elif isinstance(condition, Dark):
        _say_dark(told, key, condition, put, first_slot)
    elif isinstance(condition, Evening):
        _say_evening(told, key, condition, put, first_slot)
    else:
        return False
    return True


def _say_hours(told: Sentence, key: str, c: Hours, put: Put, first_slot: FirstSlot) -> None:
    told.leave(first_slot("the clock"))
    told.say("shows")
    told.leave(minute_slot(f"{key}.from", "from when", c.from_min, lambda m: put(replace(c, from_min=m))))
    told.say("to")
    told.leave(minute_slot(f"{key}.until", "until when", c.until_min, lambda m: put(replace(c, until_min=m))))
    told.leave(weekdays_slot(key, c.weekdays, lambda days: put(replace(c, weekdays=days))))


def _say_at(told: Sentence, key: str, c: AtTime, put: Put, first_slot: FirstSlot) -> None:
    told.leave(first_slot("the clock"))
    told.say("strikes")
    told.leave(minute_slot(f"{key}.at", "when", c.at_min, lambda m: put(replace(c, at_min=m))))
    told.leave(weekdays_slot(key, c.weekdays, lambda days: put(replace(c, weekdays=days))))


def _say_dates(told: Sentence, key: str, c: Dates, put: Put, first_slot: FirstSlot) -> None:
    told.leave(first_slot("the date"))
    told.say("lies from")
    told.leave(
        date_slot(f"{key}.first", c.from_day, c.from_month, lambda d, m: put(replace(c, from_day=d, from_month=m)))
    )
    told.say("to")
    told.leave(
        date_slot(f"{key}.last", c.until_day, c.until_month, lambda d, m: put(replace(c, until_day=d, until_month=m)))
    )


def _say_dark(told: Sentence, key: str, c: Dark, put: Put, first_slot: FirstSlot) -> None:
    told.leave(first_slot("it"))
    options = [("dark", "is dark"), ("light", "is light")]
    now = "dark" if c.is_dark else "light"
    told.leave(choice_slot(f"{key}.how", "dark or light", options, now, lambda k: put(replace(c, is_dark=k == "dark"))))
    told.say("(sun under")
    told.leave(angle_slot(f"{key}.below", c.below_deg, lambda v: put(replace(c, below_deg=v))))
    told.say(")")


def _say_evening(told: Sentence, key: str, c: Evening, put: Put, first_slot: FirstSlot) -> None:
    clock_min = c.clock_min or USUAL_EVENING_MIN

    def which(chosen: str) -> Rule:
        own = None if chosen == "dark" else clock_min
        return put(replace(c, which=cast(Which, chosen), clock_min=own))

    told.leave(first_slot("the evening"))
    told.say("has begun, by")
    options = [
        ("dark", "dark"),
        ("clock", "the clock"),
        ("first", "the first of dark and clock"),
        ("last", "the last of dark and clock"),
    ]
    told.leave(choice_slot(f"{key}.which", "when it begins", options, c.which, which))
    if c.which != "dark":
        told.say("at")
        told.leave(
            minute_slot(
                f"{key}.clock",
                "clock time of its beginning",
                clock_min,
                lambda m: put(replace(c, clock_min=max(m, 720))),
            )
        )
    told.say("until")
    told.leave(minute_slot(f"{key}.until", "its end", c.until_min, lambda m: put(replace(c, until_min=min(m, 720)))))
