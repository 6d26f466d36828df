"""What a rule does, in words with slots."""

from dataclasses import replace
from typing import Any

from warmeter.core.edits.rule_defaults import SWITCHES
from warmeter.core.home.document import Home
from warmeter.core.home.rules import (
    Ask,
    Blinds,
    Dim,
    MarkFact,
    Rule,
    SetLevel,
    SetPoint,
    ShutOff,
    Step,
    Switch,
    Tell,
    TimedRun,
)
from warmeter.core.units import S_PER_DAY, celsius_to, kelvin_to
from warmeter.web import format as show
from warmeter.web.rules.question_words import group_slot, say_question, spoken_slot
from warmeter.web.rules.slot_types import Amount, Number, choice_slot, many_slot, seconds_slot, text_slot, yes_no_slot
from warmeter.web.rules.slots import Option, Removal, RuleSentence, Slot, seconds_text, value_text


def say_steps(told: RuleSentence, home: Home, rule: Rule) -> None:
    """Add the steps of a rule in order."""
    for number, step in enumerate(rule.then):
        path = f"then.{number}"
        if number:
            told.say("," if number + 1 < len(rule.then) else "and")
        if step.wait_s:
            told.say("after")
            told.leave(seconds_slot(f"{path}.wait", "how long after what comes before", step.wait_s, path, "wait_s"))
        _say(told, home, path, step, Removal(path) if len(rule.then) > 1 else None)


def _say(told: RuleSentence, home: Home, path: str, step: Step, removal: Removal | None) -> None:
    def who(options: list[Option], chosen: tuple[str, ...], field: str = "target_ids") -> Slot:
        return replace(many_slot(f"{path}.targets", "what it acts on", options, chosen, path, field), removal=removal)

    zones = [(zone.id, zone.name) for zone in home.zones]
    if isinstance(step, SetLevel):
        told.say("set")
        told.leave(who(zones, step.zone_ids, "zone_ids"))
        told.say("to")
        levels = [(level.id, level.name) for level in home.levels]
        told.leave(choice_slot(f"{path}.level", "the level", levels, step.level_id, path, "level_id"))
    elif isinstance(step, SetPoint):
        _say_setpoint(told, home, path, step, who(zones, step.zone_ids, "zone_ids"))
    elif isinstance(step, Switch):
        told.say("switch")
        told.leave(who(switchable(home), step.target_ids))
        on_off = {"on": {"is_on": True}, "off": {"is_on": False}}
        options = [("on", "on"), ("off", "off")]
        told.leave(choice_slot(f"{path}.on", "on or off", options, "on" if step.is_on else "off", path, on_off))
    elif isinstance(step, Blinds):
        told.say("move")
        told.leave(who([(d.id, d.name) for d in home.devices if d.kind == "blind_motor"], step.target_ids))
        told.say("down by")
        told.leave(_percent(f"{path}.down", step.down, path))
    elif isinstance(step, Dim):
        told.say("dim")
        told.leave(who([(d.id, d.name) for d in home.devices if d.kind == "lamp_switch"], step.target_ids))
        told.say("to")
        told.leave(_percent(f"{path}.share", step.share, path, "share", "how much of its light"))
        told.say("over")
        told.leave(seconds_slot(f"{path}.over", "how long it takes", step.over_s, path, "over_s", high=S_PER_DAY))
    elif isinstance(step, TimedRun):
        told.say("run")
        told.leave(who(switchable(home), step.target_ids))
        told.say("for")
        told.leave(seconds_slot(f"{path}.for", "how long it runs", step.for_s, path, "for_s", low=1, high=S_PER_DAY))
        told.say("with a hard stop")
    elif isinstance(step, ShutOff):
        told.say("shut off")
        told.leave(who(switchable(home), step.target_ids))
    elif isinstance(step, MarkFact):
        told.say("mark that")
        told.leave(replace(text_slot(f"{path}.word", "the fact", step.word, path, "word"), removal=removal))
        told.leave(yes_no_slot(f"{path}.is", "so or not", ("is so", "is not so"), step.is_true, path, "is_true"))
    elif isinstance(step, Tell):
        _say_tell(told, home, path, step, removal)
    elif isinstance(step, Ask):
        say_question(told, home, path, step, removal)


def switchable(home: Home) -> list[Option]:
    """Return what can be switched: relays, plugs and senders, heaters, machines."""
    found = [(d.id, d.name) for d in home.devices if d.kind in SWITCHES and d.is_in_service]
    return found + [(h.id, h.name) for h in home.heaters] + [(m.id, m.name) for m in home.appliances]


def _say_setpoint(told: RuleSentence, home: Home, path: str, step: SetPoint, who: Slot) -> None:
    sides = [("heating", "heating setpoint"), ("cooling", "cooling limit")]
    change_k, is_change = step.change_k or 0.0, step.change_k is not None
    told.say(("raise" if change_k > 0 else "lower") if is_change else "set")
    told.say("the")
    told.leave(choice_slot(f"{path}.side", "heating or cooling", sides, step.side, path, "side"))
    told.say("of")
    told.leave(who)
    told.say("by" if is_change else "to")
    unit = show.difference_unit(home) if is_change else show.temperature_unit(home)
    if is_change:
        value, type_ = kelvin_to(change_k, home.temperature_unit), Amount("change_k", "°C", is_difference=True)
        text = value_text(home, "°C", abs(change_k), is_difference=True)
    else:
        value, type_ = celsius_to(step.value_c or 0.0, home.temperature_unit), Amount("value_c", "°C")
        text = value_text(home, "°C", step.value_c or 0.0)
    told.leave(
        Slot(
            id=f"{path}.value",
            text=text,
            title="how much" if is_change else "the temperature",
            value=show.number(value, 1),
            hint=f"{unit}; below zero lowers" if is_change else unit,
            path=path,
            type=type_,
            is_number=True,
        )
    )


def _say_tell(told: RuleSentence, home: Home, path: str, step: Tell, removal: Removal | None) -> None:
    told.say("tell")
    told.leave(group_slot(home, path, step.group_id, removal))
    told.leave(spoken_slot(path, step.text, "what is told", "{rule}, {value}, {since} are filled in"))
    times = sorted({600, 900, 1800, 3600, 7200, 14_400} | ({step.repeat_s} if step.repeat_s else set()))
    again = [("once", "once"), *((str(s), f"again every {seconds_text(s)}") for s in times)]
    most = step.most if step.most > 1 else 10
    sets: dict[str, dict[str, Any]] = {str(s): {"repeat_s": s, "most": most} for s in times}
    sets["once"] = {"repeat_s": None, "most": 1}
    now = "once" if step.repeat_s is None else str(step.repeat_s)
    told.leave(choice_slot(f"{path}.repeat", "once or again", again, now, path, sets))
    if step.repeat_s is not None:
        told.say("at most")
        told.leave(
            Slot(
                id=f"{path}.most",
                text=f"{step.most} times",
                title="how often at most",
                value=str(step.most),
                hint="1 to 100",
                path=path,
                type=Number("most", 1, 100, is_whole=True),
                is_number=True,
            )
        )
        told.say("while it lasts")


def _percent(name: str, share: float, path: str, field: str = "down", title: str = "how far down") -> Slot:
    return Slot(
        id=name,
        text=f"{show.number(100 * share)} %",
        title=title,
        value=show.number(100 * share),
        hint="0 open to 100 closed" if field == "down" else "0 dark to 100 full",
        path=path,
        type=Number(field, 0, 100, "%", 100),
        is_number=True,
    )
