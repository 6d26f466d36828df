"""What a rule does, in words with slots."""

from collections.abc import Callable
from dataclasses import replace

from warmeter.core.edits.rule_defaults import SWITCHES
from warmeter.core.edits.rule_edits import with_step
from warmeter.core.home.document import Home
from warmeter.core.home.rules import Blinds, MarkFact, Rule, SetLevel, SetPoint, ShutOff, Step, Switch, Tell, TimedRun
from warmeter.core.units import celsius_from, celsius_to, kelvin_to
from warmeter.web import format as show
from warmeter.web.forms import Fields
from warmeter.web.rules.slot_types import choice_slot, many_slot, seconds_slot, text_slot
from warmeter.web.rules.slots import Option, Sentence, Slot, number_of, seconds_text, value_text

Put = Callable[[Step], Rule]
DAY_S = 86_400


def say_steps(told: Sentence, home: Home, rule: Rule) -> None:
    """Add the steps of a rule in order."""
    for number, step in enumerate(rule.then):
        if number:
            told.say("," if number + 1 < len(rule.then) else "and")
        if step.wait_s:
            told.say("after")
            told.leave(_wait(rule, number, step))
        _say(told, home, rule, number, step)


def _wait(rule: Rule, number: int, step: Step) -> Slot:
    return seconds_slot(
        f"then.{number}.wait",
        "how long after what comes before",
        step.wait_s,
        lambda s: with_step(rule, number, replace(step, wait_s=s)),
    )


def _say(told: Sentence, home: Home, rule: Rule, number: int, step: Step) -> None:
    key = f"then.{number}"
    removal = with_step(rule, number, None) if len(rule.then) > 1 else None

    def put(changed: Step) -> Rule:
        return with_step(rule, number, changed)

    def who(options: list[Option], chosen: tuple[str, ...], change: Callable[[tuple[str, ...]], Rule]) -> Slot:
        return replace(many_slot(f"{key}.targets", "what it acts on", options, chosen, change), removal=removal)

    zones = [(zone.id, zone.name) for zone in home.zones]
    if isinstance(step, SetLevel):
        told.say("set")
        told.leave(who(zones, step.zone_ids, lambda ids: put(replace(step, zone_ids=ids))))
        told.say("to")
        levels = [(level.id, level.name) for level in home.levels]
        told.leave(
            choice_slot(f"{key}.level", "the level", levels, step.level_id, lambda k: put(replace(step, level_id=k)))
        )
    elif isinstance(step, SetPoint):
        _say_setpoint(told, home, key, step, put, who)
    elif isinstance(step, Switch):
        told.say("switch")
        told.leave(who(switchable(home), step.target_ids, lambda ids: put(replace(step, target_ids=ids))))
        told.leave(
            choice_slot(
                f"{key}.on",
                "on or off",
                [("on", "on"), ("off", "off")],
                "on" if step.is_on else "off",
                lambda k: put(replace(step, is_on=k == "on")),
            )
        )
    elif isinstance(step, Blinds):
        told.say("move")
        blinds = [(d.id, d.name) for d in home.devices if d.kind == "blind_motor"]
        told.leave(who(blinds, step.target_ids, lambda ids: put(replace(step, target_ids=ids))))
        told.say("down by")
        told.leave(_percent(f"{key}.down", step.down, lambda v: put(replace(step, down=v))))
    elif isinstance(step, TimedRun):
        told.say("run")
        told.leave(who(switchable(home), step.target_ids, lambda ids: put(replace(step, target_ids=ids))))
        told.say("for")
        told.leave(
            seconds_slot(
                f"{key}.for", "how long it runs", step.for_s, lambda s: put(replace(step, for_s=s)), low=1, high=DAY_S
            )
        )
        told.say("with a hard stop")
    elif isinstance(step, ShutOff):
        told.say("shut off")
        told.leave(who(switchable(home), step.target_ids, lambda ids: put(replace(step, target_ids=ids))))
    elif isinstance(step, MarkFact):
        _say_mark(told, key, step, put, removal)
    elif isinstance(step, Tell):
        _say_tell(told, home, key, step, put, removal)


def _say_mark(told: Sentence, key: str, step: MarkFact, put: Put, removal: Rule | None) -> None:
    told.say("mark that")
    told.leave(
        replace(text_slot(f"{key}.word", "the fact", step.word, lambda t: put(replace(step, word=t))), removal=removal)
    )
    told.leave(
        choice_slot(
            f"{key}.is",
            "so or not",
            [("yes", "is so"), ("no", "is not so")],
            "yes" if step.is_true else "no",
            lambda k: put(replace(step, is_true=k == "yes")),
        )
    )


def switchable(home: Home) -> list[Option]:
    """Return what can be switched: relays, plugs and senders, heaters, machines."""
    found = [(d.id, d.name) for d in home.devices if d.kind in SWITCHES and d.is_in_service]
    return found + [(h.id, h.name) for h in home.heaters] + [(m.id, m.name) for m in home.appliances]


def _say_setpoint(
    told: Sentence,
    home: Home,
    key: str,
    step: SetPoint,
    put: Put,
    who: Callable[[list[Option], tuple[str, ...], Callable[[tuple[str, ...]], Rule]], Slot],
) -> None:
    zones = [(zone.id, zone.name) for zone in home.zones]
    sides = [("heating", "heating setpoint"), ("cooling", "cooling limit")]
    is_change = step.change_k is not None
    told.say(("raise" if (step.change_k or 0) > 0 else "lower") if is_change else "set")
    told.say("the")
    told.leave(choice_slot(f"{key}.side", "heating or cooling", sides, step.side, lambda k: put(replace(step, side=k))))
    told.say("of")
    told.leave(who(zones, step.zone_ids, lambda ids: put(replace(step, zone_ids=ids))))
    told.say("by" if is_change else "to")
    unit = show.difference_unit(home) if is_change else show.temperature_unit(home)
    if step.change_k is not None:
        value = kelvin_to(step.change_k, home.temperature_unit)
        text = value_text(home, "°C", abs(step.change_k), is_difference=True)
    else:
        value = celsius_to(step.value_c or 0.0, home.temperature_unit)
        text = value_text(home, "°C", step.value_c or 0.0)

    def change(fields: Fields) -> Rule:
        low, high = (-36.0, 36.0) if is_change else (-30.0, 140.0)
        typed = number_of(fields.texts.get("value", ""), low=low, high=high, unit=unit)
        if is_change:
            return put(replace(step, change_k=typed if home.temperature_unit == "C" else typed / 1.8))
        return put(replace(step, value_c=celsius_from(typed, home.temperature_unit)))

    hint = f"{unit}; below zero lowers" if is_change else unit
    told.leave(
        Slot(
            id=f"{key}.value",
            text=text,
            title="how much" if is_change else "the temperature",
            value=show.number(value, 1),
            hint=hint,
            change=change,
            is_number=True,
        )
    )


def _say_tell(told: Sentence, home: Home, key: str, step: Tell, put: Put, removal: Rule | None) -> None:
    told.say("tell")
    chains = [(chain.id, chain.name) for chain in home.notification_groups]
    told.leave(
        replace(
            choice_slot(f"{key}.chain", "whom", chains, step.group_id, lambda k: put(replace(step, group_id=k))),
            removal=removal,
        )
    )
    told.leave(
        Slot(
            id=f"{key}.text",
            text=f"“{step.text}”" if step.text else "its name",
            title="what is told; {rule}, {value} and {since} are filled in",
            kind="long",
            value=step.text,
            hint="{rule}, {value}, {since} are filled in",
            change=lambda fields: put(replace(step, text=fields.text("value", most=400))),
        )
    )
    again = [
        ("once", "once"),
        *((str(s), f"again every {seconds_text(s)}") for s in (600, 900, 1800, 3600, 7200, 14_400)),
    ]
    value = "once" if step.repeat_s is None else str(step.repeat_s)
    if value not in dict(again):
        again.append((value, f"again every {seconds_text(step.repeat_s or 0)}"))

    def changed(chosen: str) -> Rule:
        if chosen == "once":
            return put(replace(step, repeat_s=None, most=1))
        return put(replace(step, repeat_s=int(chosen), most=step.most if step.most > 1 else 10))

    told.leave(choice_slot(f"{key}.repeat", "once or again", again, value, changed))
    if step.repeat_s is not None:
        told.say("at most")
        told.leave(
            Slot(
                id=f"{key}.most",
                text=f"{step.most} times",
                title="how often at most",
                value=str(step.most),
                hint="1 to 100",
                change=lambda fields: put(
                    replace(step, most=int(number_of(fields.texts.get("value", ""), low=1, high=100)))
                ),
                is_number=True,
            )
        )
        told.say("while it lasts")


def _percent(name: str, share: float, change: Callable[[float], Rule]) -> Slot:
    return Slot(
        id=name,
        text=f"{show.number(100 * share)} %",
        title="how far down",
        value=show.number(100 * share),
        hint="0 open to 100 closed",
        change=lambda fields: change(number_of(fields.texts.get("value", ""), low=0, high=100, unit="%") / 100),
        is_number=True,
    )
