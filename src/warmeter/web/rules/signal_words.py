"""Conditions on signals in words: what, how, how much, with how much hysteresis."""

from warmeter.core.home.document import Home
from warmeter.core.home.rule_conditions import Compared, InState, Moving, Silent
from warmeter.core.rule.parts import ConditionPlace
from warmeter.core.rule.signals import is_two_states
from warmeter.web.rules.slot_types import GONE, OneOf, Verb, seconds_slot, value_slot
from warmeter.web.rules.slots import Option, Removal, Sentence, Slot
from warmeter.web.rules.wording import RuleWording


def minus_slot(wording: RuleWording, path: str, condition: Compared | Moving) -> Slot:
    """Return the slot of what is taken away in a difference."""
    unit = wording.names.unit(condition.of)
    minus = condition.minus
    assert minus is not None  # only told of differences
    others = {
        f"{s.quantity}:{s.subject_id or ''}": (o.name, {"minus": s})
        for s, o in wording.signals.items()
        if o.unit == unit and s != condition.of
    }
    name = wording.names.name(minus)
    return Slot(
        id=f"{path}.minus",
        text=name,
        title="what is taken away from it",
        kind="choice",
        value=f"{minus.quantity}:{minus.subject_id or ''}",
        options=[(key, name) for key, (name, _) in others.items()],
        path=path,
        type=OneOf({key: sets for key, (_, sets) in others.items()}),
        removal=Removal(path, "minus"),
        is_wrong=name == GONE,
    )


def say_signal(
    told: Sentence, wording: RuleWording, place: ConditionPlace, condition: Compared | Moving | InState | Silent
) -> None:
    """Add the verb of a condition on a signal, and its numbers."""
    path, home, unit = place.path, wording.home, wording.names.unit(condition.of)
    told.leave(_verb(wording, place, condition))
    if isinstance(condition, Silent):
        told.leave(seconds_slot(f"{path}.for", "how long it is silent", condition.for_s, path, "for_s", low=1))
    elif isinstance(condition, Moving):
        told.leave(
            value_slot(home, unit, f"{path}.by", "by how much", condition.by, path, "by", is_difference=True, low=1e-6)
        )
        told.say("within")
        told.leave(seconds_slot(f"{path}.within", "within how long", condition.within_s, path, "within_s", low=1))
    elif isinstance(condition, Compared):
        _say_compared(told, home, unit, path, condition)
        if condition.hysteresis or place.part != "when":
            words, value = ("with no hysteresis", "with {} of hysteresis"), condition.hysteresis
            told.leave(
                value_slot(
                    home,
                    unit,
                    f"{path}.hysteresis",
                    "the hysteresis",
                    value,
                    path,
                    "hysteresis",
                    is_difference=True,
                    low=0.0,
                    words=words,
                )
            )


def _say_compared(told: Sentence, home: Home, unit: str, path: str, c: Compared) -> None:
    is_difference = c.minus is not None
    told.leave(
        value_slot(home, unit, f"{path}.value", "the value", c.value, path, "value", is_difference=is_difference)
    )
    if c.how == "between":
        told.say("and")
        high = c.high or 0.0
        told.leave(
            value_slot(home, unit, f"{path}.high", "the upper value", high, path, "high", is_difference=is_difference)
        )


_BECOMES = {"over": "goes over", "under": "falls under", "between": "comes between"}


_IS = {"over": "is over", "under": "is under", "between": "is between"}


def _verb(wording: RuleWording, place: ConditionPlace, condition: Compared | Moving | InState | Silent) -> Slot:
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

    return Slot(
        id=f"{place.path}.how",
        text=dict(options).get(value, value),
        title="how, and whether the crossing or the state is meant" if is_watch else "how",
        kind="choice",
        value=value,
        options=options,
        path=place.path,
        type=Verb(options, is_watch),
    )
