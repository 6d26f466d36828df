"""Conditions on people, machines, facts and levels in words."""

from dataclasses import replace
from typing import cast

from warmeter.core.home.document import Home
from warmeter.core.home.part import part_names
from warmeter.core.home.rule_conditions import AtLevel, Condition, Counts, Does, Fact, Happens, MachineDoes, RanToday
from warmeter.web.rules.clock_words import FirstSlot, Put
from warmeter.web.rules.slot_types import GONE, choice_slot, many_slot, minute_slot, seconds_slot, text_slot
from warmeter.web.rules.slots import Option, Sentence

DOES: list[Option] = [
    ("finished", "has finished"),
    ("runs", "runs"),
    ("idle", "does not run"),
    ("left_on", "was left on"),
]
COUNTS: list[Option] = [("started", "started"), ("ended", "ended a run"), ("ran", "run")]


def say_fact(told: Sentence, home: Home, key: str, condition: Condition, put: Put, first_slot: FirstSlot) -> None:
    """Add a condition on what happens, what a machine does, a fact or a zone's level."""
    names = part_names(home.appliances, home.devices, home.zones)
    if isinstance(condition, Happens):
        _say_happens(told, key, condition, put, first_slot, names)
    elif isinstance(condition, MachineDoes):
        told.leave(first_slot(names.get(condition.appliance_id, GONE)))
        told.leave(
            choice_slot(
                f"{key}.does",
                "what it does",
                DOES,
                condition.does,
                lambda k: put(replace(condition, does=cast(Does, k))),
            )
        )
    elif isinstance(condition, RanToday):
        told.leave(first_slot(names.get(condition.appliance_id, GONE)))
        _say_ran(told, key, condition, put)
    elif isinstance(condition, Fact):
        _say_fact(told, key, condition, put, first_slot)
    elif isinstance(condition, AtLevel):
        told.leave(first_slot(names.get(condition.zone_id, GONE)))
        _say_level(told, home, key, condition, put)


def _say_happens(told: Sentence, key: str, c: Happens, put: Put, first_slot: FirstSlot, names: dict[str, str]) -> None:
    if c.event == "button":
        told.leave(first_slot(names.get(c.subject_id or "", GONE)))
        told.say("is pressed")
        return
    told.leave(first_slot("somebody"))
    told.say("states")
    told.leave(text_slot(f"{key}.word", "what is stated", c.word, lambda text: put(replace(c, word=text))))


def _say_ran(told: Sentence, key: str, c: RanToday, put: Put) -> None:
    has = [("yes", "has"), ("no", "has not")]
    now = "yes" if c.has else "no"
    told.leave(choice_slot(f"{key}.has", "whether", has, now, lambda k: put(replace(c, has=k == "yes"))))
    told.leave(
        choice_slot(f"{key}.counts", "what counts", COUNTS, c.counts, lambda k: put(replace(c, counts=cast(Counts, k))))
    )
    if c.counts == "ran":
        told.say("for at least")
        told.leave(seconds_slot(f"{key}.least", "at least how long", c.least_s, lambda s: put(replace(c, least_s=s))))
    told.say("since")
    told.leave(
        minute_slot(f"{key}.reset", "hour from which it counts", c.reset_min, lambda m: put(replace(c, reset_min=m)))
    )


def _say_fact(told: Sentence, key: str, c: Fact, put: Put, first_slot: FirstSlot) -> None:
    told.leave(first_slot("it"))
    options = [("yes", "is marked that"), ("no", "is not marked that")]
    now = "yes" if c.is_true else "no"
    told.leave(choice_slot(f"{key}.is", "marked or not", options, now, lambda k: put(replace(c, is_true=k == "yes"))))
    told.leave(text_slot(f"{key}.word", "the fact", c.word, lambda text: put(replace(c, word=text))))


def _say_level(told: Sentence, home: Home, key: str, c: AtLevel, put: Put) -> None:
    options = [("yes", "is at"), ("no", "is not at")]
    now = "yes" if c.is_at else "no"
    told.leave(choice_slot(f"{key}.is", "at or not", options, now, lambda k: put(replace(c, is_at=k == "yes"))))
    levels = [(level.id, level.name) for level in home.levels]
    told.leave(
        many_slot(
            f"{key}.levels", "levels", levels, c.level_ids, lambda ids: put(replace(c, level_ids=ids)), joint="or"
        )
    )
