"""Conditions on signals in words: what, how, how much, with how much hysteresis."""

from collections.abc import Callable
from dataclasses import replace
from typing import cast

from warmeter.core.home.rule_conditions import Compared, Condition, InState, Moving, Signal, Silent
from warmeter.core.home.rules import Reading, Rule
from warmeter.core.rule.parts import ConditionPlace
from warmeter.core.rule.signals import is_two_states, looked_at
from warmeter.web.forms import Fields
from warmeter.web.rules.slot_types import GONE, seconds_slot
from warmeter.web.rules.slots import Option, Sentence, Slot, one_of, typed_value, value_text
from warmeter.web.rules.wording import RuleWording


def minus_slot(wording: RuleWording, key: str, condition: Compared | Moving, put: Callable[[Condition], Rule]) -> Slot:
    """Return the slot of what is taken away in a difference."""
    unit = wording.names.unit(condition.of)
    options = [
        (f"{s.quantity}:{s.subject_id or ''}", o.name)
        for s, o in wording.signals.items()
        if o.unit == unit and s != condition.of
    ]
    minus = condition.minus
    assert minus is not None  # only told of differences

    def change(fields: Fields) -> Rule:
        quantity, _, subject = one_of(options, fields.texts.get("value", "")).partition(":")
        return put(replace(condition, minus=Signal(quantity=quantity, subject_id=subject or None)))

    return Slot(
        id=f"{key}.minus",
        text=wording.names.name(minus),
        title="what is taken away from it",
        kind="choice",
        value=f"{minus.quantity}:{minus.subject_id or ''}",
        options=options,
        change=change,
        removal=put(replace(condition, minus=None)),
        is_wrong=wording.names.name(minus) == GONE,
    )


def say_signal(
    told: Sentence,
    wording: RuleWording,
    place: ConditionPlace,
    condition: Compared | Moving | InState | Silent,
    put: Callable[[Condition], Rule],
) -> None:
    """Add the verb of a condition on a signal, and its numbers."""
    key = place.key
    told.leave(_verb(wording, place, condition, put))
    if isinstance(condition, Silent):
        told.leave(
            _time(f"{key}.for", "how long it is silent", condition.for_s, lambda s: put(replace(condition, for_s=s)))
        )
    elif isinstance(condition, Moving):
        _say_moving(told, wording, key, condition, put)
    elif isinstance(condition, Compared):
        _say_compared(told, wording, key, condition, put)
        if condition.hysteresis or place.part != "when":
            _say_hysteresis(told, wording, key, condition, put)


def _time(name: str, title: str, seconds: int, change: Callable[[int], Rule]) -> Slot:
    return seconds_slot(name, title, seconds, change, low=1)


def _say_moving(told: Sentence, wording: RuleWording, key: str, c: Moving, put: Callable[[Condition], Rule]) -> None:
    told.leave(
        value_slot(
            wording,
            f"{key}.by",
            "by how much",
            c.of,
            c.by,
            lambda v: put(replace(c, by=v)),
            is_difference=True,
            low=1e-6,
        )
    )
    told.say("within")
    told.leave(_time(f"{key}.within", "within how long", c.within_s, lambda s: put(replace(c, within_s=s))))


def _say_compared(
    told: Sentence, wording: RuleWording, key: str, c: Compared, put: Callable[[Condition], Rule]
) -> None:
    is_difference = c.minus is not None
    told.leave(
        value_slot(
            wording,
            f"{key}.value",
            "the value",
            c.of,
            c.value,
            lambda v: put(replace(c, value=v)),
            is_difference=is_difference,
        )
    )
    if c.how == "between":
        told.say("and")
        told.leave(
            value_slot(
                wording,
                f"{key}.high",
                "the upper value",
                c.of,
                c.high or 0.0,
                lambda v: put(replace(c, high=v)),
                is_difference=is_difference,
            )
        )


def _say_hysteresis(
    told: Sentence, wording: RuleWording, key: str, condition: Compared, put: Callable[[Condition], Rule]
) -> None:
    told.leave(
        value_slot(
            wording,
            f"{key}.hysteresis",
            "the hysteresis",
            condition.of,
            condition.hysteresis,
            lambda v: put(replace(condition, hysteresis=v)),
            is_difference=True,
            low=0.0,
            words=("with no hysteresis", "with {} of hysteresis"),
        )
    )


_BECOMES = {"over": "goes over", "under": "falls under", "between": "comes between"}


_IS = {"over": "is over", "under": "is under", "between": "is between"}


def _verb(
    wording: RuleWording,
    place: ConditionPlace,
    condition: Compared | Moving | InState | Silent,
    put: Callable[[Condition], Rule],
) -> Slot:
    """Return the slot that says how: in the watch it also says whether a crossing or the state is meant."""
    signal, rule = condition.of, wording.rule
    found = wording.signals.get(signal)
    no, yes = found.states if found and found.states else ("no", "yes")
    is_watch = place.part == "watch" and not place.sub
    plain: list[tuple[str, str, str]] = (
        [("on", f"changes to {yes}", f"is {yes}"), ("off", f"changes to {no}", f"is {no}")]
        if is_two_states(signal)
        else [(how, _BECOMES[how], _IS[how]) for how in ("over", "under", "between")]
    )
    options: list[Option] = []
    if is_watch or place.sub:
        options += [(f"{how}:becomes", becomes) for how, becomes, _ in plain]
    if not place.sub:
        options += [(f"{how}:is", state) for how, _, state in plain]
    if not is_two_states(signal):
        options += [("rising:", "rises by"), ("falling:", "falls by")]
    options.append(("silent:", "is not heard for"))
    reading = rule.reading if is_watch else "becomes" if place.sub else "is"
    how = (
        condition.how
        if isinstance(condition, Compared | Moving)
        else "silent"
        if isinstance(condition, Silent)
        else "on"
        if condition.is_on
        else "off"
    )
    value = f"{how}:" if how in ("rising", "falling", "silent") else f"{how}:{reading}"

    def change(fields: Fields) -> Rule:
        chosen, _, meant = one_of(options, fields.texts.get("value", "")).partition(":")
        changed = put(looked_at(signal, chosen, condition))
        return replace(changed, reading=cast(Reading, meant)) if is_watch and meant else changed

    return Slot(
        id=f"{place.key}.how",
        text=dict(options).get(value, value),
        title="how, and whether the crossing or the state is meant" if is_watch else "how",
        kind="choice",
        value=value,
        options=options,
        change=change,
    )


def value_slot(
    wording: RuleWording,
    name: str,
    title: str,
    signal: Signal,
    value: float,
    change: Callable[[float], Rule],
    *,
    is_difference: bool = False,
    low: float = -1e6,
    words: tuple[str, str] = ("", ""),
) -> Slot:
    """Return a slot of a value of a signal in the home's unit; ``words`` are told around it, for 0 and for others."""
    home, unit = wording.home, wording.names.unit(signal)
    text = value_text(home, unit, value, is_difference=is_difference)
    shown = (words[0] if value == 0 else words[1].format(text)) if words[1] else text
    return Slot(
        id=name,
        text=shown,
        title=title,
        value=text,
        hint=f"a number in {text.split(' ')[-1]}" if " " in text else "a number",
        change=lambda fields: change(
            typed_value(home, unit, fields.texts.get("value", ""), is_difference=is_difference, low=low)
        ),
        is_number=not words[1],
    )
