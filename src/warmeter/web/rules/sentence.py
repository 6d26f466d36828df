"""A rule as a sentence with slots: watch, for, only while, then, put back when."""

from dataclasses import replace
from typing import Any, cast

from warmeter.core.home.document import Home
from warmeter.core.home.rule_conditions import Signal, is_moment
from warmeter.core.home.rules import PutBack, Rule, RuleKind, WhenStale
from warmeter.web.forms import Fields
from warmeter.web.rules.condition_words import say_clauses
from warmeter.web.rules.slot_types import choice_slot, minute_slot, seconds_slot
from warmeter.web.rules.slots import Sentence, Slot, number_of, seconds_text
from warmeter.web.rules.step_words import say_steps
from warmeter.web.rules.wording import RuleWording

KINDS: dict[RuleKind, str] = {"safety": "safety", "window_lock": "window lock", "rule": "rule"}


def sentence_of(wording: RuleWording, *, is_open: bool) -> Sentence:
    """Return a rule's sentence; an open one also shows the slots that are usual."""
    home, rule = wording.home, wording.rule
    told = Sentence()
    told.say("Watch", is_bold=True)
    say_clauses(told, wording, "watch")
    if rule.for_s or is_open:
        told.say("for", is_bold=True)
        told.leave(seconds_slot("for", "how long it must hold", rule.for_s, lambda s: replace(rule, for_s=s)))
        holds = _own_hold(home, rule)
        if holds:
            told.say(holds)
    if rule.only_while:
        told.say("only while", is_bold=True)
        say_clauses(told, wording, "only_while")
    if rule.as_long_as:
        told.say("as long as", is_bold=True)
        say_clauses(told, wording, "as_long_as")
    told.say("then", is_bold=True)
    say_steps(told, home, rule)
    _say_put_back(told, wording, is_open=is_open)
    told.say(".")
    return told


def _own_hold(home: Home, rule: Rule) -> str:
    """Return the sensor's own hold, on top of which the rule waits."""
    subjects = {getattr(c, "of", Signal(quantity="none")).subject_id for clause in rule.watch for c in clause}
    holds = [d for d in home.devices if d.id in subjects and d.hold_s]
    return f"(on top of its own hold of {seconds_text(holds[0].hold_s or 0)})" if holds else ""


def limits_of(wording: RuleWording) -> Sentence:
    """Return what holds a rule in check as a sentence of its own."""
    rule, limits = wording.rule, wording.rule.limits
    told = Sentence()

    def times(name: str, title: str) -> None:
        told.leave(
            seconds_slot(
                name, title, getattr(limits, name), lambda s: replace(rule, limits=replace(limits, **_named(name, s)))
            )
        )

    told.say("Stands at least")
    times("min_on_s", "least time it stands")
    told.say(", rests at least")
    times("min_off_s", "least time it rests")
    told.say(", at most")
    told.leave(_most_a_day(rule))
    told.say("; cools off for")
    times("cool_off_s", "cool-off after its end")
    told.say(". Not heard for")
    told.leave(
        seconds_slot(
            "stale_s",
            "silence after which nothing is known",
            limits.stale_s,
            lambda s: replace(rule, limits=replace(limits, stale_s=s)),
            low=60,
        )
    )
    told.say(":")
    told.leave(
        choice_slot(
            "when_stale",
            "what to do while it is not heard",
            [("keep", "keep what stands"), ("put_back", "put it back"), ("tell", "keep, and tell")],
            limits.when_stale,
            lambda key: replace(rule, limits=replace(limits, when_stale=cast(WhenStale, key))),
        )
    )
    _say_again(told, rule)
    told.say(".")
    return told


def _say_again(told: Sentence, rule: Rule) -> None:
    """Add what happens when it comes true again, and when it does so too often."""
    limits = rule.limits
    told.say(". While it holds, the watch coming true again")
    told.leave(
        choice_slot(
            "restart",
            "what a second coming does",
            [("no", "is ignored"), ("yes", "begins Then anew")],
            "yes" if rule.is_restarted else "no",
            lambda key: replace(rule, is_restarted=key == "yes"),
        )
    )
    if rule.kind != "safety":
        told.say(f". More than {limits.lock_starts} starts in")
        told.leave(
            seconds_slot(
                "lock_window_s",
                "window in which starts are counted",
                limits.lock_window_s,
                lambda s: replace(rule, limits=replace(limits, lock_window_s=s)),
                low=60,
                high=86_400,
            )
        )
        told.say("lock it for")
        told.leave(
            seconds_slot(
                "lock_for_s",
                "how long it is locked",
                limits.lock_for_s,
                lambda s: replace(rule, limits=replace(limits, lock_for_s=s)),
                high=86_400,
            )
        )


def _most_a_day(rule: Rule) -> Slot:
    most = rule.limits.most_a_day

    def change(fields: Fields) -> Rule:
        text = fields.texts.get("value", "").strip()
        number = None if text in ("", "–", "no limit") else int(number_of(text, low=1, high=1000))
        return replace(rule, limits=replace(rule.limits, most_a_day=number))

    return Slot(
        id="most_a_day",
        text="any number a day" if most is None else f"{most} a day",
        title="most firings a day; empty for no limit",
        value="" if most is None else str(most),
        hint="a number, or empty",
        change=change,
        is_number=most is not None,
    )


def _named(name: str, value: object) -> dict[str, Any]:
    return {name: value}


def _say_put_back(told: Sentence, wording: RuleWording, *, is_open: bool) -> None:
    rule, back = wording.rule, wording.rule.put_back
    if back is None:
        return
    told.say(";")
    told.say("put back" if rule.is_released else "stop telling", is_bold=True)

    def put(changed: PutBack | None) -> Rule:
        return replace(rule, put_back=changed)

    def only(**parts: object) -> Rule | None:
        rest = {"when": back.when, "after_s": back.after_s, "at_min": back.at_min, "for_s": back.for_s} | parts
        is_left = rest["when"] or rest["after_s"] is not None or rest["at_min"] is not None
        return put(PutBack(**rest)) if is_left else put(None)  # type: ignore[arg-type]

    is_later = False
    if back.when:
        told.say("when", is_bold=True)
        say_clauses(told, wording, "when")
        if back.for_s or (is_open and not any(is_moment(c) for clause in back.when for c in clause)):
            told.say("for")
            told.leave(
                seconds_slot("back_for", "how long that must hold", back.for_s, lambda s: put(replace(back, for_s=s)))
            )
        is_later = True
    if back.after_s is not None:
        told.say("or at the latest" if is_later else "")
        told.leave(
            replace(
                seconds_slot(
                    "back_after", "after how long", back.after_s, lambda s: put(replace(back, after_s=s)), low=1
                ),
                removal=only(after_s=None),
            )
        )
        told.say("after it fired")
        is_later = True
    if back.at_min is not None:
        told.say("or at the latest at" if is_later else "at")
        told.leave(
            replace(
                minute_slot("back_at", "at what time", back.at_min, lambda m: put(replace(back, at_min=m))),
                removal=only(at_min=None),
            )
        )
    if rule.shuts_off:
        told.say("; what was shut off stays shut until a person opens it")
