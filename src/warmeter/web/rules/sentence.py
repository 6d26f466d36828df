"""A rule as a sentence with slots: watch, for, only while, then, put back when."""

from dataclasses import replace

from warmeter.core.home.conditions.condition import Signal
from warmeter.core.home.document import Home
from warmeter.core.home.rules import Rule
from warmeter.core.units import S_PER_DAY
from warmeter.web.rules.condition_words import say_clauses
from warmeter.web.rules.slot_types import Number, choice_slot, minute_slot, seconds_slot, yes_no_slot
from warmeter.web.rules.slots import Removal, RuleSentence, Slot, seconds_text
from warmeter.web.rules.step_words import say_steps
from warmeter.web.rules.wording import RuleWording


def sentence_of(wording: RuleWording, *, is_open: bool) -> RuleSentence:
    """Return a rule's sentence; an open one also shows the slots that are usual."""
    home, rule = wording.home, wording.rule
    told = RuleSentence()
    told.say("Watch", is_bold=True)
    say_clauses(told, wording, "watch")
    if rule.for_s or is_open:
        told.say("for", is_bold=True)
        told.leave(seconds_slot("for", "how long it must hold", rule.for_s, "", "for_s"))
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


def limits_of(wording: RuleWording) -> RuleSentence:
    """Return what holds a rule in check as a sentence of its own."""
    rule, limits = wording.rule, wording.rule.limits
    told = RuleSentence()

    def times(name: str, title: str, low: int = 0) -> None:
        told.leave(seconds_slot(name, title, getattr(limits, name), "limits", name, low=low))

    told.say("Stands at least")
    times("min_on_s", "least time it stands")
    told.say(", rests at least")
    times("min_off_s", "least time it rests")
    told.say(", at most")
    told.leave(_most_a_day(rule))
    told.say("; cools off for")
    times("cool_off_s", "cool-off after its end")
    told.say(". No data for")
    times("stale_s", "silence after which nothing is known", 60)
    told.say(":")
    stale = [("keep", "keep what stands"), ("put_back", "put it back"), ("tell", "keep, and tell")]
    title = "what to do while no data comes"
    told.leave(choice_slot("when_stale", title, stale, limits.when_stale, "limits", "when_stale"))
    _say_again(told, rule)
    told.say(".")
    return told


def _say_again(told: RuleSentence, rule: Rule) -> None:
    """Add what happens when it comes true again, and when it does so too often."""
    limits = rule.limits
    told.say(". While it holds, the watch coming true again")
    words = "begins Then anew", "is ignored"
    told.leave(
        yes_no_slot(
            "restart", "what happens when it triggers again meanwhile", words, rule.is_restarted, "", "is_restarted"
        )
    )
    if rule.kind != "safety":
        told.say(f". More than {limits.lock_starts} starts in")
        title, window_s = "window in which starts are counted", limits.lock_window_s
        told.leave(seconds_slot("lock_window_s", title, window_s, "limits", "lock_window_s", low=60, high=S_PER_DAY))
        told.say("lock it for")
        title = "how long it is locked"
        told.leave(seconds_slot("lock_for_s", title, limits.lock_for_s, "limits", "lock_for_s", high=S_PER_DAY))


def _most_a_day(rule: Rule) -> Slot:
    most = rule.limits.most_a_day
    return Slot(
        id="most_a_day",
        text="any number a day" if most is None else f"{most} a day",
        title="most times a day; empty for no limit",
        value="" if most is None else str(most),
        hint="a number, or empty",
        path="limits",
        type=Number("most_a_day", 1, 1000, is_whole=True, may_be_empty=True),
        is_number=most is not None,
    )


def _say_put_back(told: RuleSentence, wording: RuleWording, *, is_open: bool) -> None:
    rule, back = wording.rule, wording.rule.put_back
    if back is None:
        return
    told.say(";")
    told.say("put back" if rule.is_released else "stop telling", is_bold=True)

    is_later = False
    if back.when:
        told.say("when", is_bold=True)
        say_clauses(told, wording, "when")
        if back.for_s or (is_open and not any(c.is_moment for clause in back.when for c in clause)):
            told.say("for")
            told.leave(seconds_slot("back_for", "how long that must hold", back.for_s, "put_back", "for_s"))
        is_later = True
    if back.after_s is not None:
        told.say("or at the latest" if is_later else "")
        slot = seconds_slot("back_after", "after how long", back.after_s, "put_back", "after_s", low=1)
        told.leave(replace(slot, removal=Removal("put_back", "after_s")))
        told.say("after it triggered")
        is_later = True
    if back.at_min is not None:
        told.say("or at the latest at" if is_later else "at")
        slot = minute_slot("back_at", "at what time", back.at_min, "put_back", "at_min")
        told.leave(replace(slot, removal=Removal("put_back", "at_min")))
    if rule.shuts_off:
        told.say("; what was shut off stays shut until a person opens it")
