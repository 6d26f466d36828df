"""Conditions of a rule in words, with their slots: a slot for each place of a kind's phrase."""

from typing import Any, get_type_hints

from warmeter.core.edits.rule_defaults import condition_of
from warmeter.core.home.conditions.condition import Condition, Signal
from warmeter.core.home.conditions.of_signal import OfSignal, is_two_states
from warmeter.core.home.conditions.phrase import (
    ChoicePlace,
    DatePlace,
    FieldPlace,
    LevelsPlace,
    MinusPlace,
    PartPlace,
    Place,
    SubjectPlace,
    ValuePlace,
    VerbPlace,
)
from warmeter.core.home.document import Home
from warmeter.core.home.part import Unit, part_names
from warmeter.core.home.rules import Rule
from warmeter.core.rule.parts import ConditionPlace, Part, clauses_of, condition_at
from warmeter.web.rules.slot_types import (
    GONE,
    OneOf,
    Subject,
    Verb,
    choice_slot,
    date_slot,
    many_slot,
    minute_slot,
    number_slot,
    seconds_slot,
    text_slot,
    value_slot,
    weekdays_slot,
)
from warmeter.web.rules.slots import Option, Removal, RuleSentence, Slot
from warmeter.web.rules.wording import RuleWording

_BECOMES = {"over": "goes over", "under": "falls under", "between": "comes between"}
_IS = {"over": "is over", "under": "is under", "between": "is between"}


def say_clauses(told: RuleSentence, wording: RuleWording, part: Part) -> None:
    """Add a part's clauses, with *and* and *or* between."""
    for number, clause in enumerate(clauses_of(wording.rule, part)):
        if number:
            told.say("and")
        for k, condition in enumerate(clause):
            if k:
                told.say("or")
            _say(told, wording, ConditionPlace(part, number, k), condition)


def _say(told: RuleSentence, wording: RuleWording, place: ConditionPlace, condition: Condition) -> None:
    """Add a condition's phrase."""
    for each in condition.phrase():
        if isinstance(each, str):
            told.say(each)
        elif isinstance(each, PartPlace):
            inner = ConditionPlace(place.part, place.clause, place.number, each.sub)  # type: ignore[arg-type]
            part = condition_at(wording.rule, inner)
            if part is not None:
                _say(told, wording, inner, part)
        elif not _is_left_out(each, place, condition):
            told.leave(_slot(wording, place, condition, each))


def _is_left_out(each: Place, place: ConditionPlace, condition: Condition) -> bool:
    """Whether a place says nothing: no hysteresis where a rule is put back."""
    is_hysteresis = isinstance(each, ValuePlace) and each.field == "hysteresis"
    return is_hysteresis and place.part == "when" and not getattr(condition, "hysteresis", 0)


def _slot(wording: RuleWording, place: ConditionPlace, condition: Any, each: Place) -> Slot:
    """Return the slot of a place of a condition's phrase."""
    path = place.path
    if isinstance(each, SubjectPlace):
        return _subject_slot(wording, place, condition, each)
    if isinstance(each, VerbPlace):
        return _verb_slot(wording, place, condition, each.how)
    if isinstance(each, MinusPlace):
        return _minus_slot(wording, path, condition)
    if isinstance(each, ValuePlace):
        value, unit = getattr(condition, each.field) or 0.0, wording.names.unit(condition.of)
        return value_slot(
            wording.home,
            unit,
            f"{path}.{each.field}",
            each.title,
            value,
            path,
            each.field,
            is_difference=each.is_difference,
            low=each.low,
            words=each.words,
        )
    if isinstance(each, DatePlace):
        day, month = getattr(condition, each.day_field), getattr(condition, each.month_field)
        return date_slot(f"{path}.{each.key}", day, month, path, (each.day_field, each.month_field))
    if isinstance(each, LevelsPlace):
        levels = [(level.id, level.name) for level in wording.home.levels]
        return many_slot(
            f"{path}.levels", "levels", levels, getattr(condition, each.field), path, each.field, joint="or"
        )
    if isinstance(each, ChoicePlace):
        return _choice(path, condition, each)
    assert isinstance(each, FieldPlace)  # parts are told by the caller
    return _field_slot(path, condition, each)


def _key(field: str, key: str) -> str:
    """Return the name of a field's slot: its own, or the field's without its unit."""
    return key or (field.rsplit("_", 1)[0] if "_" in field else field)


def _field_slot(path: str, condition: Condition, each: FieldPlace) -> Slot:
    """Return the slot of a field, by its type."""
    value, name = getattr(condition, each.field), f"{path}.{_key(each.field, each.key)}"
    hint: Any = get_type_hints(type(condition), include_extras=True)[each.field]
    if each.field == "weekdays":
        return weekdays_slot(path, value)
    unit = next((note.sign for part in (hint, *getattr(hint, "__args__", ())) for note in _notes(part)), "")
    if unit == "time of day":
        low, high = int(each.low or 0), int(1439 if each.high is None else each.high)
        return minute_slot(name, each.title, value or low, path, each.field, low=low, high=high)
    if unit == "s":
        return seconds_slot(name, each.title, value or 0, path, each.field, low=int(_ends(hint)[0]))
    if unit:
        return number_slot(name, each.title, value, unit, path, each.field, _ends(hint))
    return text_slot(name, each.title, value, path, each.field)


def _notes(hint: Any) -> list[Unit]:
    return [note for note in getattr(hint, "__metadata__", ()) if isinstance(note, Unit)]


def _ends(hint: Any) -> tuple[float, float]:
    """Return the least and the most that a field may be."""
    notes = getattr(hint, "__metadata__", ())
    low, high = (next((getattr(n, end) for n in notes if hasattr(n, end)), None) for end in ("ge", "le"))
    return (0.0 if low is None else low), (1e6 if high is None else high)


def _choice(path: str, condition: Condition, each: ChoicePlace) -> Slot:
    """Return the slot of a field of few values; a yes or no has the keys ``yes`` and ``no``."""
    keys = {value: {True: "yes", False: "no"}.get(value, str(value)) for value in each.words}
    options = [(keys[value], words) for value, words in each.words.items()]
    sets = {keys[value]: {each.field: value, **each.sets.get(value, {})} for value in each.words}
    now = keys[getattr(condition, each.field)]
    return choice_slot(f"{path}.{_key(each.field, each.key)}", each.title, options, now, path, sets)


def _subject_slot(wording: RuleWording, place: ConditionPlace, condition: Condition, each: SubjectPlace) -> Slot:
    subjects = wording.names.subjects
    options = subjects if place.sub else (*subjects, ("sequence", "one thing, then another"))
    text = each.text
    if each.signal is not None:
        text = wording.names.name(each.signal)
    elif each.part_id is not None:
        home = wording.home
        text = part_names(home.appliances, home.devices, home.zones).get(each.part_id, GONE)
    return Slot(
        id=f"{place.path}.of",
        text=text,
        title="what is looked at",
        kind="choice",
        value=condition.subject,
        options=options,
        path=place.path,
        type=Subject(options),
        removal=_removal(wording.rule, place),
        is_wrong=text == GONE,
    )


def _removal(rule: Rule, place: ConditionPlace) -> Removal | None:
    """Return what goes with a condition, None where something must stand."""
    is_last_watch = place.part == "watch" and sum(len(clause) for clause in rule.watch) == 1
    if place.sub in ("first", "then") or (is_last_watch and not place.sub):
        return None
    return Removal(place.path)


def condition_on(home: Home, before: Condition, key: str) -> Condition:
    """Return the condition on what was chosen; the same kind of thing keeps verb and numbers."""
    if key == before.subject:
        return before
    kind, _, rest = key.partition(":")
    kept = None
    if kind == "signal" and isinstance(before, OfSignal):
        quantity, _, subject = rest.partition(":")
        kept = before.on_signal(Signal(quantity=quantity, subject_id=subject or None))
    elif rest and kind == before.subject.partition(":")[0]:
        kept = before.on_other(rest)
    return condition_of(home, key) if kept is None else kept


def _minus_slot(wording: RuleWording, path: str, condition: Any) -> Slot:
    """Return the slot of what is taken away in a difference."""
    unit, minus = wording.names.unit(condition.of), condition.minus
    others = {
        f"{s.quantity}:{s.subject_id or ''}": (o.name, {"minus": s})
        for s, o in wording.signals.items()
        if o.unit == unit and s != condition.of
    }
    name = wording.names.name(minus)
    return Slot(
        id=f"{path}.minus",
        text=name,
        title="what is subtracted from it",
        kind="choice",
        value=f"{minus.quantity}:{minus.subject_id or ''}",
        options=[(key, name) for key, (name, _) in others.items()],
        path=path,
        type=OneOf({key: sets for key, (_, sets) in others.items()}),
        removal=Removal(path, "minus"),
        is_wrong=name == GONE,
    )


def _verb_slot(wording: RuleWording, place: ConditionPlace, condition: OfSignal, how: str) -> Slot:
    """Return the slot that says how: in the watch it also says whether a crossing or the state is meant."""
    signal, rule = condition.of, wording.rule
    known = wording.signals.get(signal)
    no, yes = known.states if known and known.states else ("no", "yes")
    is_watch = place.part == "watch" and not place.sub
    plain: list[tuple[str, str, str]] = (
        [("on", f"changes to {yes}", f"is {yes}"), ("off", f"changes to {no}", f"is {no}")]
        if is_two_states(signal)
        else [(key, _BECOMES[key], _IS[key]) for key in _BECOMES]
    )
    options: list[Option] = []
    if is_watch or place.sub:
        options += [(f"{key}:becomes", becomes) for key, becomes, _ in plain]
    if not place.sub:
        options += [(f"{key}:is", state) for key, _, state in plain]
    if not is_two_states(signal):
        options += [("rising:", "rises by"), ("falling:", "falls by")]
    options.append(("silent:", "sends no data for"))
    reading = rule.reading if is_watch else "becomes" if place.sub else "is"
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
