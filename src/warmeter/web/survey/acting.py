"""Acts on a home from a form: read, done, saved as one revision; and readers of typed fields."""

from collections.abc import Callable, Iterable, Mapping
from dataclasses import dataclass
from datetime import date
from decimal import Decimal
from typing import Any

from fastapi import Request

from warmeter.core.errors import HomeError, WarmeterError
from warmeter.core.home.document import Home
from warmeter.core.units import celsius_from
from warmeter.service.homes.editing import edit_home
from warmeter.web import format as show
from warmeter.web.forms import Fields
from warmeter.web.page import app_of, person_of

YES_NO = {"yes": "yes", "no": "no"}


@dataclass(frozen=True, slots=True)
class Done:
    """A changed home, what was done, and which part is chosen now (None: as before).

    Acts of one ``fold`` done again within seconds by the same window are one revision.
    """

    home: Home
    summary: str
    at: str | None = None
    fold: str = ""


Act = Callable[[Home, Fields], Done]
Reader = Callable[[Home, Fields, str], Any]


def perform(
    request: Request, home_id: str, fields: Fields, acts: Mapping[str, Act], act: str, folds: tuple[str, ...] = ()
) -> Done:
    """Do an act and save it as a revision; acts in ``folds`` done again within seconds are one.

    Raises
    ------
    HomeError
        If there is no such act.
    WarmeterError
        If a field is wrong; nothing is saved then.
    RevisionConflict
        If another window saved meanwhile.
    """
    if act not in acts:
        raise HomeError("there is no such act")
    app = app_of(request)
    base = fields.whole("base", 0, 10**9)
    home, _ = app.homes.load(home_id)
    done = acts[act](home, fields)
    key = f"{act}-{fields.texts.get('id') or fields.texts.get('room', '')}-{fields.texts.get('side', '')}"
    fold = done.fold or (key if act in folds else "")
    edit_home(app, home_id, base, person_of(request), done.summary, lambda _: done.home, fold)
    return done


def done_or_refuse(fields: Fields) -> None:
    """Refuse the act if any field of it is wrong.

    Raises
    ------
    WarmeterError
        With every field's own sentence.
    """
    if fields.errors:
        raise WarmeterError("; ".join(f"{name.replace('_', ' ')}: {why}" for name, why in fields.errors.items()))


def typed_values(home: Home, fields: Fields, readers: Mapping[str, Reader]) -> dict[str, Any]:
    """Return the values of those fields that were sent; ``WarmeterError`` names the wrong ones."""
    values = {name: read(home, fields, name) for name, read in readers.items() if name in fields.texts}
    done_or_refuse(fields)
    return values


def all_typed_values(home: Home, fields: Fields, readers: Mapping[str, Reader]) -> dict[str, Any]:
    """Return the values of fields that have to be there; ``WarmeterError`` names the wrong and the missing ones."""
    for name in readers:
        if name not in fields.texts:
            fields.errors[name] = "This has to be there"
    return typed_values(home, fields, readers)


def number(low: float, high: float) -> Reader:
    """Return a reader of a number in a range."""
    return lambda _, fields, name: fields.number(name, low, high)


def money(most: int) -> Reader:
    """Return a reader of an amount of money from nought up."""

    def read(_: Home, fields: Fields, name: str) -> Decimal:
        amount = fields.money(name)
        if not 0 <= amount <= most:
            fields.errors[name] = f"Between 0 and {most}"
        return amount

    return read


def whole(low: int, high: int) -> Reader:
    """Return a reader of a whole number in a range."""
    return lambda _, fields, name: fields.whole(name, low, high)


def maybe(reader: Reader) -> Reader:
    """Return a reader that takes an empty field for None."""
    return lambda home, fields, name: reader(home, fields, name) if fields.texts[name].strip() else None


def text(most: int, least: int = 0) -> Reader:
    """Return a reader of a text."""
    return lambda _, fields, name: fields.text(name, least=least, most=most)


def choice(options: Iterable[str]) -> Reader:
    """Return a reader of one of several words."""
    return lambda _, fields, name: fields.choice(name, options)


def yes(_: Home, fields: Fields, name: str) -> bool:
    """Read a yes or no."""
    return fields.choice(name, YES_NO) == "yes"


def day(_: Home, fields: Fields, name: str) -> date | None:
    """Read a date or nothing."""
    return fields.day(name)


def celsius(low_c: float, high_c: float) -> Reader:
    """Return a reader of a temperature in the home's unit, in °C."""

    def read(home: Home, fields: Fields, name: str) -> float:
        unit = home.temperature_unit
        low, high = (low_c, high_c) if unit == "C" else (low_c * 1.8 + 32, high_c * 1.8 + 32)
        return celsius_from(fields.number(name, low, high, show.temperature_unit(home)), unit)

    return read


def one_of(ids: Callable[[Home], set[str]]) -> Reader:
    """Return a reader of an id that must be there; an empty field is None."""

    def read(home: Home, fields: Fields, name: str) -> str | None:
        key = fields.texts[name].strip()
        if key and key not in ids(home):
            fields.errors[name] = "Choose one of the list"
        return key or None

    return read
