"""A question that a rule asks, in words with slots: whom, what, the answers with what each marks, and what if none."""

from dataclasses import replace

from warmeter.core.home.document import Home
from warmeter.core.home.rules import Ask
from warmeter.core.units import S_PER_DAY
from warmeter.web.rules.slot_types import WEEK_S, AnswerWords, Words, choice_slot, seconds_slot
from warmeter.web.rules.slots import Removal, RuleSentence, Slot

MOST_ANSWERS = 6
_IN_QUIET = [("hold", "wait until they end"), ("drop", "do not ask; nobody answered"), ("send", "ask all the same")]


def group_slot(home: Home, path: str, group_id: str, removal: Removal | None) -> Slot:
    """Return the slot of the group that is told or asked."""
    groups = [(group.id, group.name) for group in home.notification_groups]
    return replace(choice_slot(f"{path}.chain", "whom", groups, group_id, path, "group_id"), removal=removal)


def spoken_slot(path: str, text: str, title: str, fills: str) -> Slot:
    """Return the slot of what is told or asked, by default the rule's name."""
    return Slot(
        id=f"{path}.text",
        text=f"“{text}”" if text else "its name",
        title=title,
        kind="long",
        value=text,
        hint=fills,
        path=path,
        type=Words("text", title, 0, 400),
    )


def say_question(told: RuleSentence, home: Home, path: str, step: Ask, removal: Removal | None) -> None:
    """Add a question."""
    told.say("ask")
    told.leave(group_slot(home, path, step.group_id, removal))
    told.leave(spoken_slot(path, step.text, "what is asked", "{rule} is filled in"))
    told.say("; answers:")
    for number, answer in enumerate(step.answers):
        told.leave(_answer(path, step, number, answer.label, f"answer {number + 1}"))
        told.say("marks")
        told.leave(_fact(path, step, number, answer.word))
        told.say("," if number + 1 < len(step.answers) or len(step.answers) < MOST_ANSWERS else ".")
    if len(step.answers) < MOST_ANSWERS:
        told.leave(_answer(path, step, len(step.answers), "", "another answer"))
        told.say(".")
    _say_terms(told, path, step)


def _say_terms(told: RuleSentence, path: str, step: Ask) -> None:
    """Add how long is waited, what follows without an answer, and what of late answers, memory and quiet hours."""
    told.say("If nobody answers within")
    told.leave(_time(path, "within", "how long an answer is waited for", step.within_s, 60, S_PER_DAY))
    told.say("it marks")
    told.leave(
        Slot(
            id=f"{path}.none",
            text=f"“{step.none_word}”" if step.none_word else "nothing",
            title="the fact that nobody answering marks; it must be the safe one",
            value=step.none_word,
            hint="empty marks nothing; it must be the safe one",
            path=path,
            type=Words("none_word", "the fact", 0, 80),
        )
    )
    told.say("; a late answer counts for")
    told.leave(_time(path, "late", "how long a late answer still counts", step.late_s, 0, S_PER_DAY))
    told.say("more; an answer stands for")
    told.leave(_time(path, "remember", "how long nobody is asked again", step.remember_s, 0, WEEK_S))
    told.say("; in quiet hours")
    told.leave(choice_slot(f"{path}.quiet", "in quiet hours", _IN_QUIET, step.in_quiet, path, "in_quiet"))


def _time(path: str, field: str, title: str, seconds: int, low: int, high: int) -> Slot:
    return seconds_slot(f"{path}.{field}", title, seconds, path, f"{field}_s", low=low, high=high)


def _answer(path: str, step: Ask, number: int, label: str, title: str) -> Slot:
    return Slot(
        id=f"{path}.answer{number}",
        text=f"“{label}”" if label else "another answer",
        title=title,
        value=label,
        hint="its words; empty takes it out" if label else "its words",
        path=path,
        type=AnswerWords(step.answers, number),
    )


def _fact(path: str, step: Ask, number: int, word: str) -> Slot:
    return Slot(
        id=f"{path}.marks{number}",
        text=f"“{word}”" if word else "nothing",
        title=f"the fact that “{step.answers[number].label}” marks",
        value=word,
        hint="a fact that another rule looks at; empty marks nothing",
        path=path,
        type=AnswerWords(step.answers, number, is_word=True),
    )
