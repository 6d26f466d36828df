"""Forms read by their models: frozen dataclasses whose fields say type, limits and unit.

Every wrong field gets its own sentence, and nothing typed is lost: the texts stay with the caller.
"""

from collections.abc import Mapping
from dataclasses import MISSING, dataclass, fields
from datetime import date
from decimal import Decimal
from functools import lru_cache
from types import NoneType, UnionType
from typing import Annotated, Any, Literal, TypeVar, Union, get_args, get_origin, get_type_hints

from annotated_types import Ge, Gt, Le, Len
from fastapi import Request
from starlette.datastructures import UploadFile

from warmeter.core.edits.edit import FieldsOf, Unset
from warmeter.core.errors import WarmeterError
from warmeter.core.home.part import Unit
from warmeter.core.units import (
    FEET_FACTORS,
    FEET_SIGNS,
    METRIC,
    Units,
    celsius_to,
    difference_sign,
    kelvin_to,
    temperature_sign,
)
from warmeter.core.wording import clock_time
from warmeter.web import format as show
from warmeter.web.form_texts import TYPED
from warmeter.web.typed import parse_amount, parse_clock, parse_quantity

# The unit that a name carries, such as rated_heat_w.
_BY_ENDING = {
    "w": "W",
    "m": "m",
    "m2": "m²",
    "m3": "m³",
    "min": "min",
    "s": "s",
    "h": "h",
    "k": "K",
    "l": "L",
    "pct": "%",
}
Texts = Mapping[str, str]
_Model = TypeVar("_Model")


class FormError(WarmeterError):
    """Fields of a form are wrong; ``errors`` has each one's own sentence."""

    def __init__(self, errors: Mapping[str, str]) -> None:
        super().__init__("; ".join(f"{_words_of(name)}: {why}" for name, why in errors.items()))
        self.errors = dict(errors)


def _words_of(name: str) -> str:
    """Return a field's name in words, without the unit that it carries."""
    words = name.split("_")
    return " ".join(words[:-1] if len(words) > 1 and words[-1] in {*_BY_ENDING, "c"} else words)


async def form_texts(request: Request) -> Texts:
    """Return the texts of a posted form (a dependency of routes)."""
    form = await request.form(max_fields=400)
    return {name: value for name, value in form.items() if isinstance(value, str)}


async def form_file(request: Request) -> UploadFile | None:
    """Return the file of a posted form's field ``file``, None where none was chosen (a dependency of routes)."""
    sent = (await request.form(max_fields=400)).get("file")
    return sent if isinstance(sent, UploadFile) and sent.filename else None


@dataclass(frozen=True, slots=True)
class _Field:
    """A field of a model: its type, what annotates it, and whether it may be empty or not sent."""

    name: str
    type: Any
    notes: tuple[Any, ...]
    is_optional: bool
    has_default: bool

    def note(self, kind: type) -> Any:
        """Return what annotates it of a kind, None if nothing does."""
        return next((note for note in self.notes if isinstance(note, kind)), None)

    @property
    def unit(self) -> str:
        """The unit of a number: as it is annotated, else as its name ends, "" for a bare one."""
        unit = self.note(Unit)
        return unit.sign if unit is not None else _BY_ENDING.get(self.name.removesuffix("_1_k").rpartition("_")[2], "")


def _taken_apart(hint: Any) -> tuple[Any, tuple[Any, ...], bool]:
    """Return the plain type of a hint, its annotations and whether it takes None."""
    notes: tuple[Any, ...] = ()
    is_optional = False
    while True:
        if get_origin(hint) is Annotated:
            notes, hint = (*notes, *hint.__metadata__), hint.__origin__
        elif get_origin(hint) in (Union, UnionType) and {NoneType, Unset} & set(get_args(hint)):
            is_optional = is_optional or NoneType in get_args(hint)
            hint = Union[tuple(arg for arg in get_args(hint) if arg not in (NoneType, Unset))]  # noqa: UP007
        else:
            return hint, notes, is_optional


@lru_cache(maxsize=500)
def _fields_of(model: Any) -> tuple[_Field, ...]:
    hints = get_type_hints(model, include_extras=True)
    return tuple(
        _Field(f.name, *_taken_apart(hints[f.name]), f.default is not MISSING or f.default_factory is not MISSING)
        for f in fields(model)
    )


def field_names_of(model: type) -> list[str]:
    """Return the names that a form of a model may carry."""
    names = [(field.name, field.note(FieldsOf)) for field in _fields_of(model)]
    return [each for name, part in names for each in (part.names if part is not None else (name,))]


def unit_of_field(model: type, name: str) -> str:
    """Return the unit in which a field of a model is stored, "" for a bare number."""
    return next(field.unit for field in _fields_of(model) if field.name == name)


def read_form(model: type[_Model], texts: Texts, units: Units = METRIC, prefix: str = "") -> _Model:
    """Return a model made of a form's texts.

    Parameters
    ----------
    model : type
        A dataclass. A field of type tuple of str takes what is ticked as ``name.key``; a mapping to numbers, what is
        typed as ``name.key``; values of ``FieldsOf`` those fields of the part that were sent.
    texts : mapping
        What was sent.
    units : Units
        Those in which temperatures and lengths are typed; a form that says ``unit`` is SI is in °C and metres.
    prefix : str
        Stands before the names of the fields in the form.

    Raises
    ------
    FormError
        With a sentence for every field that is wrong or missing.
    """
    reader = _Reader(texts, METRIC if texts.get("unit") == "SI" else units, prefix)
    kind: type = model
    values = {}
    for field in _fields_of(kind):
        part = field.note(FieldsOf)
        if part is not None:
            values[field.name] = reader.values(part)
            continue
        value = reader.value(field)
        if value is not MISSING:
            values[field.name] = value
    if reader.errors:
        raise FormError(reader.errors)
    return model(**values)


def read_query(model: type[_Model], query: Texts, units: Units = METRIC) -> _Model:
    """Return a model of an address, whose fields all have defaults: what cannot be read is as if it was not there."""
    try:
        return read_form(model, query, units)
    except FormError as error:
        return read_form(model, {name: text for name, text in query.items() if name not in error.errors}, units)


class _Reader:
    def __init__(self, texts: Texts, units: Units, prefix: str) -> None:
        self.errors: dict[str, str] = {}
        self._texts, self._units, self._prefix = texts, units, prefix

    def values(self, part: FieldsOf) -> dict[str, Any]:
        """Return the values of those fields of a part that were sent."""
        asked = [f for f in _fields_of(part.part) if f.name in part.names and self._prefix + f.name in self._texts]
        return {field.name: value for field in asked if (value := self.value(field)) is not MISSING}

    def value(self, field: _Field) -> Any:
        """Return a field's value, ``MISSING`` where it is wrong or the model's own default shall hold."""
        name = self._prefix + field.name
        if get_origin(field.type) is Mapping or (field.type == tuple[str, ...] and name not in self._texts):
            return self._keyed(field, name)
        text = self._texts.get(name, "").strip()
        if not text:
            if field.is_optional and (name in self._texts or not field.has_default):
                return None
            if field.has_default and (name not in self._texts or not _may_be_empty(field)):
                return MISSING
            if name not in self._texts:
                self.errors[name] = "This has to be there"
                return MISSING
        try:
            return self._read(field, text)
        except ValueError as error:
            self.errors[name] = str(error)
            return MISSING

    def _keyed(self, field: _Field, name: str) -> Any:
        """Return what is ticked, or typed, under the names ``name.key``."""
        keys = {
            key.removeprefix(f"{name}."): text.strip()
            for key, text in self._texts.items()
            if key.startswith(f"{name}.")
        }
        if field.type == tuple[str, ...]:
            return tuple(keys)
        found = {}
        number, notes, _ = _taken_apart(get_args(field.type)[1])
        for key, text in keys.items():
            if text:
                try:
                    found[key] = self._read(_Field(key, number, notes, False, False), text)
                except ValueError as error:
                    self.errors[f"{name}.{key}"] = str(error)
        return found

    def _read(self, field: _Field, text: str) -> Any:
        """Return a typed text as what a field is; ``ValueError`` with the sentence for it."""
        own = TYPED.get(field.type) or TYPED.get(field.name if get_origin(field.type) is tuple else None)
        if own is not None:
            return own(text, self._units.temperature)
        if get_origin(field.type) is Literal:
            return _chosen({str(word): word for word in get_args(field.type)}, text)
        if field.type is bool:
            return _chosen({"yes": True, "no": False, "on": True, "1": True}, text)  # a ticked box is on
        if field.type is str:
            why = _length_wrong(field, text)
            if why:
                raise ValueError(why)
            return text
        if field.type is date:
            return _date(text)
        return self._number(field, text)

    def _number(self, field: _Field, text: str) -> float | int | Decimal:
        if field.type is Decimal:
            return _within(field, parse_amount(text), METRIC)
        if field.unit == "time of day":
            return int(_within(field, parse_clock(text), METRIC))
        if not text:
            raise ValueError("A number is missing here")
        value = parse_quantity(text, field.unit, self._units)
        value = float(_within(field, value, self._units))
        if field.type is int:
            if value != int(value):
                raise ValueError("Write a whole number")
            return int(value)
        return value


def _may_be_empty(field: _Field) -> bool:
    """Whether an empty text is a value of its own, and not one that was left out."""
    return field.type is str or get_origin(field.type) is tuple


def _within(field: _Field, value: float | Decimal, units: Units) -> float | Decimal:
    """Return a number that lies within its field's limits; ``ValueError`` says them, in the unit it was typed in."""
    low, above, high = field.note(Ge), field.note(Gt), field.note(Le)
    is_low = (low is not None and value < low.ge) or (above is not None and value <= above.gt)
    if not is_low and (high is None or value <= high.le):
        return value

    def shown(limit: Any) -> str:
        if field.unit == "time of day":
            return clock_time(int(limit))
        return shown_limit(float(limit), field.unit, units)

    sign = "" if field.unit == "time of day" else sign_of(field.unit, units)
    ends = f"Above {shown(above.gt)}" if above is not None else f"Between {shown(low.ge)}" if low is not None else ""
    if high is not None:
        ends += f"{', at most' if above is not None else ' and'} {shown(high.le)}"
    raise ValueError(f"{ends} {sign}".strip())


def shown_limit(limit: float, unit: str, units: Units) -> str:
    """Return a limit in the unit in which it is typed, without its sign."""
    if unit in ("°C", "K"):
        limit = celsius_to(limit, units.temperature) if unit == "°C" else kelvin_to(limit, units.temperature)
    elif units.length == "ft" and unit in FEET_FACTORS:
        limit /= FEET_FACTORS[unit]
    return show.number(limit, _decimals(limit))


def sign_of(unit: str, units: Units) -> str:
    """Return the sign of the unit in which a number of a stored unit is typed."""
    if unit in ("°C", "K"):
        return temperature_sign(units.temperature) if unit == "°C" else difference_sign(units.temperature)
    return FEET_SIGNS.get(unit, unit) if units.length == "ft" else unit


def _decimals(number: float) -> int:
    """Return how many decimals a limit has, three at most."""
    return next((places for places in range(3) if abs(round(number, places) - number) < 1e-9), 3)


def _length_wrong(field: _Field, text: str) -> str:
    """Return what is wrong with the length of a text, "" if nothing is."""
    length = field.note(Len)
    if length is None or (length.min_length <= len(text) and len(text) <= (length.max_length or len(text))):
        return ""
    if not text:
        return "This is missing"
    return f"{length.min_length} to {length.max_length} letters"


def _chosen(words: Mapping[str, Any], text: str) -> Any:
    if text not in words:
        raise ValueError("Choose one of the list")
    return words[text]


def _date(text: str) -> date:
    try:
        return date.fromisoformat(text)
    except ValueError as error:
        raise ValueError("Write a date such as 2026-03-31") from error
