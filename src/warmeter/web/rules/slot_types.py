"""Blanks of the usual kinds: times, dates, words, choices."""

from collections.abc import Callable
from dataclasses import replace

from warmeter.core.errors import WarmeterError
from warmeter.core.home.rules import Rule
from warmeter.web import format as show
from warmeter.web.forms import Fields
from warmeter.web.rules.slots import Option, Slot, many_of, minute_of, number_of, one_of, seconds_of, seconds_text

WEEK_S = 7 * 86_400
GONE = "something that is gone"
DAYS = ("Mon", "Tue", "Wed", "Thu", "Fri", "Sat", "Sun")
MONTHS = ("Jan", "Feb", "Mar", "Apr", "May", "Jun", "Jul", "Aug", "Sep", "Oct", "Nov", "Dec")
_DAY_SETS: tuple[tuple[str, str, tuple[int, ...]], ...] = (
    ("all", "every day", ()),
    ("work", "on Mon to Fri", (0, 1, 2, 3, 4)),
    ("off", "on Sat and Sun", (5, 6)),
    *((str(k), f"on {day}", (k,)) for k, day in enumerate(DAYS)),
)


def seconds_slot(
    name: str, title: str, seconds: float, change: Callable[[int], Rule], *, low: int = 0, high: int = WEEK_S
) -> Slot:
    """Return a slot of a length of time [s]."""
    return Slot(
        id=name,
        text=seconds_text(seconds) or "0 s",
        title=title,
        value=seconds_text(seconds) or "0 s",
        hint="such as 3 min, 90 s, 1 h 30 min",
        change=lambda fields: change(seconds_of(fields.texts.get("value", ""), low=low, high=high)),
        is_number=True,
    )


def minute_slot(name: str, title: str, minute: int, change: Callable[[int], Rule]) -> Slot:
    """Return a slot of a time of day [min]."""
    return Slot(
        id=name,
        text=show.clock_time(minute),
        title=title,
        value=show.clock_time(minute),
        hint="such as 21:30",
        change=lambda fields: change(minute_of(fields.texts.get("value", ""))),
        is_number=True,
    )


def text_slot(name: str, title: str, text: str, change: Callable[[str], Rule]) -> Slot:
    """Return a slot of typed words."""
    return Slot(
        id=name,
        text=f"“{text}”",
        title=title,
        value=text,
        change=lambda f: change(f.text("value", least=1, most=80, what=title)),
    )


def choice_slot(name: str, title: str, options: list[Option], value: str, change: Callable[..., Rule]) -> Slot:
    """Return a slot of one of several."""
    return Slot(
        id=name,
        text=dict(options).get(value, value),
        title=title,
        kind="choice",
        value=value,
        options=options,
        change=lambda fields: change(one_of(options, fields.texts.get("value", ""))),
    )


def many_slot(
    name: str,
    title: str,
    options: list[Option],
    chosen: tuple[str, ...],
    change: Callable[[tuple[str, ...]], Rule],
    *,
    joint: str = "and",
) -> Slot:
    """Return a slot of several ticked things; those that are gone are told as gone."""
    names = dict(options)
    words = [names.get(each, GONE) for each in chosen]
    text = words[0] if len(words) == 1 else f"{', '.join(words[:-1])} {joint} {words[-1]}"
    return Slot(
        id=name,
        text=text,
        title=title,
        kind="many",
        value=",".join(chosen),
        options=options,
        change=lambda fields: change(many_of(options, fields)),
        is_wrong=GONE in words,
    )


def angle_slot(name: str, value: float, change: Callable[[float], Rule]) -> Slot:
    """Return a slot of the height of the sun [°]."""

    def changed(fields: Fields) -> Rule:
        return change(number_of(fields.texts.get("value", ""), low=-18, high=60, unit="°"))

    text = f"{show.number(value, 3 if round(value, 1) != value else 1)}°"
    return Slot(
        id=name,
        text=text,
        title="height of the sun",
        value=text,
        hint="degrees, −18 to 60",
        change=changed,
        is_number=True,
    )


def weekdays_slot(key: str, days: tuple[int, ...], change: Callable[[tuple[int, ...]], Rule]) -> Slot:
    """Return a slot of the days on which it holds."""
    known = {chosen: name for name, _, chosen in _DAY_SETS}
    options = [(name, label) for name, label, _ in _DAY_SETS]
    by_name = {name: chosen for name, _, chosen in _DAY_SETS}
    slot = choice_slot(f"{key}.days", "on which days", options, known.get(days, ""), lambda k: change(by_name[k]))
    return slot if days in known else replace(slot, text="on " + ", ".join(DAYS[d] for d in days))


def date_slot(name: str, day: int, month: int, change: Callable[[int, int], Rule]) -> Slot:
    """Return a slot of a date of every year."""

    def changed(fields: Fields) -> Rule:
        words = fields.texts.get("value", "").replace(".", " ").split()
        months = [k for k, short in enumerate(MONTHS, 1) for word in words if word.lower().startswith(short.lower())]
        numbers = [word for word in words if word.isdecimal()]
        if len(months) != 1 or len(numbers) != 1:
            raise WarmeterError(f"{fields.texts.get('value', '')!r} is no date of the year; write it such as 15 Oct")
        return change(int(number_of(numbers[0], low=1, high=31)), months[0])

    text = f"{day} {MONTHS[month - 1]}"
    return Slot(id=name, text=text, title="the date", value=text, hint="such as 15 Oct", change=changed, is_number=True)
