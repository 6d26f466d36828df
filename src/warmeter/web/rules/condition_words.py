"""Conditions of a rule in words, with their blanks."""

from collections.abc import Callable
from dataclasses import dataclass, replace
from typing import cast

from warmeter.core.home.conditions import (
    AtLevel,
    AtTime,
    Compared,
    Condition,
    Counts,
    Dark,
    Dates,
    Evening,
    Fact,
    Happens,
    Hours,
    InState,
    MachineDoes,
    Moving,
    RanToday,
    Signal,
    Silent,
    Which,
)
from warmeter.core.home.conditions import Sequence as InSequence
from warmeter.core.home.document import Home
from warmeter.core.home.rules import Reading, Rule
from warmeter.core.quantity import QUANTITIES
from warmeter.core.rule.parts import Part, Place, clauses_of, with_condition
from warmeter.core.rule.signals import Offered, is_two_states, looked_at, offered
from warmeter.service.rule_defaults import condition_of
from warmeter.web.forms import Fields
from warmeter.web.rules.blanks import Blank, Option, Sentence, one_of, typed_value, value_text
from warmeter.web.rules.typed_blanks import (
    GONE,
    angle_blank,
    choice_blank,
    date_blank,
    many_blank,
    minute_blank,
    seconds_blank,
    text_blank,
    weekdays_blank,
)


@dataclass(frozen=True, slots=True)
class Names:
    """What a home's rules can name: its signals, and what a condition's first blank offers; made once a page."""

    home: Home
    signals: dict[Signal, Offered]
    subjects: tuple[Option, ...]

    def name(self, signal: Signal) -> str:
        """Return a signal's name, or that it is gone."""
        found = self.signals.get(signal)
        return GONE if found is None else found.name

    def unit(self, signal: Signal) -> str:
        """Return a signal's unit."""
        found = self.signals.get(signal)
        if found is not None:
            return found.unit
        return QUANTITIES[signal.quantity].unit if signal.quantity in QUANTITIES else ""


@dataclass(frozen=True, slots=True)
class Telling:
    """A rule being told, in a home, with the names of its things."""

    home: Home
    rule: Rule
    names: Names

    @property
    def signals(self) -> dict[Signal, Offered]:
        """The home's signals."""
        return self.names.signals


def names_of(home: Home) -> Names:
    """Return what a home's rules can name."""
    signals = {each.signal: each for each in offered(home)}
    found = [(f"signal:{s.quantity}:{s.subject_id or ''}", o.name) for s, o in signals.items()]
    for machine in home.appliances:
        found += [
            (f"machine:{machine.id}", f"{machine.name}, what it does"),
            (f"ran:{machine.id}", f"{machine.name}, has it run today"),
        ]
    buttons = [d for d in home.devices if d.kind in ("wall_switch", "relay") and d.is_in_service]
    found += [(f"button:{d.id}", f"{d.name} pressed") for d in buttons]
    found += [(f"level:{zone.id}", f"level of {zone.name}") for zone in home.zones]
    return Names(home, signals, (*found, *_PLAIN_SUBJECTS))


def telling_of(home: Home, rule: Rule, names: Names | None = None) -> Telling:
    """Return a rule ready to be told."""
    return Telling(home, rule, names_of(home) if names is None else names)


_PLAIN_SUBJECTS: tuple[Option, ...] = (
    ("hours", "hours of the day"),
    ("at_time", "a time of day"),
    ("dates", "dates of the year"),
    ("dark", "dark or light"),
    ("evening", "the evening"),
    ("statement", "what a person states"),
    ("fact", "a fact that was marked"),
)


def say_clauses(told: Sentence, telling: Telling, part: Part) -> None:
    """Add a part's clauses, with *and* and *or* between."""
    for number, clause in enumerate(clauses_of(telling.rule, part)):
        if number:
            told.say("and")
        for place, condition in enumerate(clause):
            if place:
                told.say("or")
            _say(told, telling, Place(part, number, place), condition)


def _say(told: Sentence, telling: Telling, place: Place, condition: Condition) -> None:
    """Add a condition with its blanks."""
    home, rule = telling.home, telling.rule
    key = place.key
    removal = None
    if not place.sub or place.sub == "unless":
        without = _without(rule, place)
        removal = without

    def put(condition: Condition) -> Rule:
        return with_condition(rule, place, condition)

    def first_blank(text: str) -> Blank:
        options = (
            telling.names.subjects if place.sub else (*telling.names.subjects, ("sequence", "one thing, then another"))
        )
        return Blank(
            id=f"{key}.of",
            text=text,
            title="what is looked at",
            kind="choice",
            value=_subject_key(condition),
            options=options,
            change=lambda fields: put(_subject_chosen(home, condition, one_of(options, fields.texts.get("value", "")))),
            removal=removal,
            is_wrong=text == GONE,
        )

    if isinstance(condition, Compared | Moving | InState | Silent):
        told.leave(first_blank(telling.names.name(condition.of)))
        if isinstance(condition, Compared | Moving) and condition.minus is not None:
            told.say("less")
            told.leave(_minus_blank(telling, key, condition, put))
        _say_signal(told, telling, place, condition, put)
        return
    if isinstance(condition, InSequence):
        _say_sequence(told, telling, place, condition, first_blank)
        return
    _say_other(told, telling, place, condition, put, first_blank)


def _without(rule: Rule, place: Place) -> Rule | None:
    """Return the rule without a condition, None where something must stand."""
    if place.part == "watch" and not place.sub and len([c for clause in rule.watch for c in clause]) == 1:
        return None
    return with_condition(rule, place, None)


def _subject_key(condition: Condition) -> str:
    if isinstance(condition, Compared | Moving | InState | Silent):
        return f"signal:{condition.of.quantity}:{condition.of.subject_id or ''}"
    if isinstance(condition, MachineDoes):
        return f"machine:{condition.appliance_id}"
    if isinstance(condition, RanToday):
        return f"ran:{condition.appliance_id}"
    if isinstance(condition, AtLevel):
        return f"level:{condition.zone_id}"
    if isinstance(condition, Happens):
        return f"button:{condition.subject_id}" if condition.event == "button" else "statement"
    return condition.kind


def _subject_chosen(home: Home, before: Condition, key: str) -> Condition:
    """Return the condition on what was chosen; the same kind of signal keeps verb and numbers."""
    if key == _subject_key(before):
        return before
    kind, _, rest = key.partition(":")
    if kind == "machine" and isinstance(before, MachineDoes):
        return replace(before, appliance_id=rest)
    if kind == "ran" and isinstance(before, RanToday):
        return replace(before, appliance_id=rest)
    if kind == "signal":
        quantity, _, subject = rest.partition(":")
        signal = Signal(quantity=quantity, subject_id=subject or None)
        if isinstance(before, InState) and is_two_states(signal):
            return replace(before, of=signal)
        if isinstance(before, Compared | Moving) and before.of.quantity == quantity:
            return replace(before, of=signal)
        if isinstance(before, Silent):
            return replace(before, of=signal)
    return condition_of(home, key)


def _minus_blank(telling: Telling, key: str, condition: Compared | Moving, put: Callable[[Condition], Rule]) -> Blank:
    unit = telling.names.unit(condition.of)
    options = [
        (f"{s.quantity}:{s.subject_id or ''}", o.name)
        for s, o in telling.signals.items()
        if o.unit == unit and s != condition.of
    ]
    minus = condition.minus
    assert minus is not None  # only told of differences

    def change(fields: Fields) -> Rule:
        quantity, _, subject = one_of(options, fields.texts.get("value", "")).partition(":")
        return put(replace(condition, minus=Signal(quantity=quantity, subject_id=subject or None)))

    return Blank(
        id=f"{key}.minus",
        text=telling.names.name(minus),
        title="what is taken away from it",
        kind="choice",
        value=f"{minus.quantity}:{minus.subject_id or ''}",
        options=options,
        change=change,
        removal=put(replace(condition, minus=None)),
        is_wrong=telling.names.name(minus) == GONE,
    )


def _say_signal(
    told: Sentence,
    telling: Telling,
    place: Place,
    condition: Compared | Moving | InState | Silent,
    put: Callable[[Condition], Rule],
) -> None:
    key = place.key
    told.leave(_verb(telling, place, condition, put))
    if isinstance(condition, Silent):
        told.leave(
            seconds_blank(
                f"{key}.for",
                "how long it is silent",
                condition.for_s,
                lambda s: put(replace(condition, for_s=s)),
                low=1,
            )
        )
    if isinstance(condition, Moving):
        told.leave(
            _value(
                telling,
                f"{key}.by",
                "by how much",
                condition.of,
                condition.by,
                lambda v: put(replace(condition, by=v)),
                is_difference=True,
                low=1e-6,
            )
        )
        told.say("within")
        told.leave(
            seconds_blank(
                f"{key}.within",
                "within how long",
                condition.within_s,
                lambda s: put(replace(condition, within_s=s)),
                low=1,
            )
        )
    if isinstance(condition, Compared):
        is_difference = condition.minus is not None
        told.leave(
            _value(
                telling,
                f"{key}.value",
                "the value",
                condition.of,
                condition.value,
                lambda v: put(replace(condition, value=v)),
                is_difference=is_difference,
            )
        )
        if condition.how == "between":
            told.say("and")
            told.leave(
                _value(
                    telling,
                    f"{key}.high",
                    "the upper value",
                    condition.of,
                    condition.high or 0.0,
                    lambda v: put(replace(condition, high=v)),
                    is_difference=is_difference,
                )
            )
        if condition.hysteresis or place.part != "when":
            _say_hysteresis(told, telling, key, condition, put)


def _say_hysteresis(
    told: Sentence, telling: Telling, key: str, condition: Compared, put: Callable[[Condition], Rule]
) -> None:
    told.leave(
        _value(
            telling,
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
    telling: Telling, place: Place, condition: Compared | Moving | InState | Silent, put: Callable[[Condition], Rule]
) -> Blank:
    """Return the blank that says how: in the watch it also says whether a crossing or the state is meant."""
    signal, rule = condition.of, telling.rule
    found = telling.signals.get(signal)
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

    return Blank(
        id=f"{place.key}.how",
        text=dict(options).get(value, value),
        title="how, and whether the crossing or the state is meant" if is_watch else "how",
        kind="choice",
        value=value,
        options=options,
        change=change,
    )


def _say_sequence(
    told: Sentence, telling: Telling, place: Place, c: InSequence, first_blank: Callable[[str], Blank]
) -> None:
    rule = telling.rule

    def put(changed: InSequence) -> Rule:
        return with_condition(rule, place, changed)

    told.leave(first_blank("first"))
    _say(told, telling, replace(place, sub="first"), c.first)
    told.say("then")
    _say(told, telling, replace(place, sub="then"), c.then)
    told.say("within")
    told.leave(
        seconds_blank(f"{place.key}.within", "within how long", c.within_s, lambda s: put(replace(c, within_s=s)))
    )
    if c.unless is not None:
        told.say("unless")
        _say(told, telling, replace(place, sub="unless"), c.unless)
        told.say("within")
        told.leave(
            seconds_blank(
                f"{place.key}.cancel",
                "within how long after that",
                c.cancel_s or 0,
                lambda s: put(replace(c, cancel_s=s)),
            )
        )
        told.say("after that")


def _say_other(
    told: Sentence,
    telling: Telling,
    place: Place,
    condition: Condition,
    put: Callable[[Condition], Rule],
    first_blank: Callable[[str], Blank],
) -> None:
    key, home = place.key, telling.home
    names = {part.id: part.name for part in (*home.appliances, *home.devices, *home.zones)}
    if isinstance(condition, Hours):
        told.leave(first_blank("the clock"))
        told.say("shows")
        told.leave(
            minute_blank(f"{key}.from", "from when", condition.from_min, lambda m: put(replace(condition, from_min=m)))
        )
        told.say("to")
        told.leave(
            minute_blank(
                f"{key}.until", "until when", condition.until_min, lambda m: put(replace(condition, until_min=m))
            )
        )
        told.leave(weekdays_blank(key, condition.weekdays, lambda d: put(replace(condition, weekdays=d))))
    elif isinstance(condition, AtTime):
        told.leave(first_blank("the clock"))
        told.say("strikes")
        told.leave(minute_blank(f"{key}.at", "when", condition.at_min, lambda m: put(replace(condition, at_min=m))))
        told.leave(weekdays_blank(key, condition.weekdays, lambda d: put(replace(condition, weekdays=d))))
    elif isinstance(condition, Dates):
        told.leave(first_blank("the date"))
        told.say("lies from")
        told.leave(
            date_blank(
                f"{key}.first",
                condition.from_day,
                condition.from_month,
                lambda d, m: put(replace(condition, from_day=d, from_month=m)),
            )
        )
        told.say("to")
        told.leave(
            date_blank(
                f"{key}.last",
                condition.until_day,
                condition.until_month,
                lambda d, m: put(replace(condition, until_day=d, until_month=m)),
            )
        )
    elif isinstance(condition, Dark):
        told.leave(first_blank("it"))
        options = [("dark", "is dark"), ("light", "is light")]
        told.leave(
            choice_blank(
                f"{key}.how",
                "dark or light",
                options,
                "dark" if condition.is_dark else "light",
                lambda k: put(replace(condition, is_dark=k == "dark")),
            )
        )
        told.say("(sun under")
        told.leave(angle_blank(f"{key}.below", condition.below_deg, lambda v: put(replace(condition, below_deg=v))))
        told.say(")")
    elif isinstance(condition, Evening):
        told.leave(first_blank("the evening"))
        told.say("has begun, by")
        which = [
            ("dark", "dark"),
            ("clock", "the clock"),
            ("first", "the first of dark and clock"),
            ("last", "the last of dark and clock"),
        ]
        told.leave(
            choice_blank(
                f"{key}.which",
                "when it begins",
                which,
                condition.which,
                lambda k: put(
                    replace(
                        condition, which=cast(Which, k), clock_min=None if k == "dark" else condition.clock_min or 1260
                    )
                ),
            )
        )
        if condition.which != "dark":
            told.say("at")
            told.leave(
                minute_blank(
                    f"{key}.clock",
                    "clock time of its beginning",
                    condition.clock_min or 1260,
                    lambda m: put(replace(condition, clock_min=m)),
                )
            )
        told.say("until")
        told.leave(
            minute_blank(f"{key}.until", "its end", condition.until_min, lambda m: put(replace(condition, until_min=m)))
        )
    elif isinstance(condition, Happens):
        told.leave(
            first_blank(names.get(condition.subject_id or "", GONE) if condition.event == "button" else "somebody")
        )
        told.say("is pressed" if condition.event == "button" else "states")
        if condition.event != "button":
            told.leave(
                text_blank(f"{key}.word", "what is stated", condition.word, lambda t: put(replace(condition, word=t)))
            )
    elif isinstance(condition, MachineDoes):
        told.leave(first_blank(names.get(condition.appliance_id, GONE)))
        does = [("finished", "has finished"), ("runs", "runs"), ("idle", "does not run"), ("left_on", "was left on")]
        told.leave(
            choice_blank(f"{key}.does", "what it does", does, condition.does, lambda k: put(replace(condition, does=k)))
        )
    elif isinstance(condition, RanToday):
        told.leave(first_blank(names.get(condition.appliance_id, GONE)))
        has = [("yes", "has"), ("no", "has not")]
        told.leave(
            choice_blank(
                f"{key}.has",
                "whether",
                has,
                "yes" if condition.has else "no",
                lambda k: put(replace(condition, has=k == "yes")),
            )
        )
        counts = [("started", "started"), ("ended", "ended a run"), ("ran", "run")]
        told.leave(
            choice_blank(
                f"{key}.counts",
                "what counts",
                counts,
                condition.counts,
                lambda k: put(replace(condition, counts=cast(Counts, k))),
            )
        )
        if condition.counts == "ran":
            told.say("for at least")
            told.leave(
                seconds_blank(
                    f"{key}.least", "at least how long", condition.least_s, lambda s: put(replace(condition, least_s=s))
                )
            )
        told.say("since")
        told.leave(
            minute_blank(
                f"{key}.reset",
                "hour from which it counts",
                condition.reset_min,
                lambda m: put(replace(condition, reset_min=m)),
            )
        )
    elif isinstance(condition, Fact):
        told.leave(first_blank("it"))
        told.leave(
            choice_blank(
                f"{key}.is",
                "marked or not",
                [("yes", "is marked that"), ("no", "is not marked that")],
                "yes" if condition.is_true else "no",
                lambda k: put(replace(condition, is_true=k == "yes")),
            )
        )
        told.leave(text_blank(f"{key}.word", "the fact", condition.word, lambda t: put(replace(condition, word=t))))
    elif isinstance(condition, AtLevel):
        told.leave(first_blank(names.get(condition.zone_id, GONE)))
        told.leave(
            choice_blank(
                f"{key}.is",
                "at or not",
                [("yes", "is at"), ("no", "is not at")],
                "yes" if condition.is_at else "no",
                lambda k: put(replace(condition, is_at=k == "yes")),
            )
        )
        levels = [(level.id, level.name) for level in home.levels]
        told.leave(
            many_blank(
                f"{key}.levels",
                "levels",
                levels,
                condition.level_ids,
                lambda ids: put(replace(condition, level_ids=ids)),
                joint="or",
            )
        )


def _value(
    telling: Telling,
    name: str,
    title: str,
    signal: Signal,
    value: float,
    change: Callable[[float], Rule],
    *,
    is_difference: bool = False,
    low: float = -1e6,
    words: tuple[str, str] = ("", ""),
) -> Blank:
    home, unit = telling.home, telling.names.unit(signal)
    text = value_text(home, unit, value, is_difference=is_difference)
    shown = (words[0] if value == 0 else words[1].format(text)) if words[1] else text
    return Blank(
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
