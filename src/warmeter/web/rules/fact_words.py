"""Conditions on people, machines, facts and levels in words."""

from warmeter.core.home.document import Home
from warmeter.core.home.part import part_names
from warmeter.core.home.rule_conditions import AtLevel, Condition, Fact, Happens, MachineDoes, RanToday
from warmeter.web.rules.clock_words import FirstSlot
from warmeter.web.rules.slot_types import (
    GONE,
    choice_slot,
    many_slot,
    minute_slot,
    seconds_slot,
    text_slot,
    yes_no_slot,
)
from warmeter.web.rules.slots import Option, Sentence

DOES: list[Option] = [
    ("finished", "has finished"),
    ("runs", "runs"),
    ("idle", "does not run"),
    ("left_on", "was left on"),
]
COUNTS: list[Option] = [("started", "started"), ("ended", "ended a run"), ("ran", "run")]


def say_fact(told: Sentence, home: Home, path: str, condition: Condition, first_slot: FirstSlot) -> None:
    """Add a condition on what happens, what a machine does, a fact or a zone's level."""
    names = part_names(home.appliances, home.devices, home.zones)
    if isinstance(condition, Happens):
        _say_happens(told, path, condition, first_slot, names)
    elif isinstance(condition, MachineDoes):
        told.leave(first_slot(names.get(condition.appliance_id, GONE)))
        told.leave(choice_slot(f"{path}.does", "what it does", DOES, condition.does, path, "does"))
    elif isinstance(condition, RanToday):
        told.leave(first_slot(names.get(condition.appliance_id, GONE)))
        _say_ran(told, path, condition)
    elif isinstance(condition, Fact):
        told.leave(first_slot("it"))
        words = "is marked that", "is not marked that"
        told.leave(yes_no_slot(f"{path}.is", "marked or not", words, condition.is_true, path, "is_true"))
        told.leave(text_slot(f"{path}.word", "the fact", condition.word, path, "word"))
    elif isinstance(condition, AtLevel):
        told.leave(first_slot(names.get(condition.zone_id, GONE)))
        told.leave(yes_no_slot(f"{path}.is", "at or not", ("is at", "is not at"), condition.is_at, path, "is_at"))
        levels = [(level.id, level.name) for level in home.levels]
        told.leave(many_slot(f"{path}.levels", "levels", levels, condition.level_ids, path, "level_ids", joint="or"))


def _say_happens(told: Sentence, path: str, c: Happens, first_slot: FirstSlot, names: dict[str, str]) -> None:
    if c.event == "button":
        told.leave(first_slot(names.get(c.subject_id or "", GONE)))
        told.say("is pressed")
        return
    told.leave(first_slot("somebody"))
    told.say("states")
    told.leave(text_slot(f"{path}.word", "what is stated", c.word, path, "word"))


def _say_ran(told: Sentence, path: str, c: RanToday) -> None:
    told.leave(yes_no_slot(f"{path}.has", "whether", ("has", "has not"), c.has, path, "has"))
    told.leave(choice_slot(f"{path}.counts", "what counts", COUNTS, c.counts, path, "counts"))
    if c.counts == "ran":
        told.say("for at least")
        told.leave(seconds_slot(f"{path}.least", "at least how long", c.least_s, path, "least_s"))
    told.say("since")
    told.leave(minute_slot(f"{path}.reset", "hour from which it counts", c.reset_min, path, "reset_min"))
