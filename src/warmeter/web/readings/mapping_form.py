"""What the form of a log's mapping says: how the file is read, and what each column carries."""

from dataclasses import dataclass, replace
from datetime import date
from typing import Annotated, Any, Literal

from annotated_types import Ge, Le

from warmeter.core.home.document import Home
from warmeter.core.home.part import Unit
from warmeter.core.quantity import QUANTITIES
from warmeter.core.readings.csvlog import DATE_FORMATS, Column, ImportMapping
from warmeter.core.readings.log_proposal import FileQuestion, LogProposal, is_complete, left_open
from warmeter.core.readings.record import ENERGY_KINDS, KIND_WORDS
from warmeter.core.units import MS_PER_DAY, UNITS_OF, is_energy
from warmeter.service.readings import logs
from warmeter.web.form_reader import FormError, Texts, read_form


@dataclass(frozen=True, slots=True, kw_only=True)
class _MappingForm:
    """What a form says of a whole file, None for what it leaves; ``earliest`` and ``latest`` bound what is taken."""

    decimal: Literal["", ".", ","] | None = None
    clock: Literal["home", "utc", "offset", "in file"] | None = None
    offset_min: Annotated[int, Ge(-840), Le(840), Unit("min")] | None = None
    date_format: str | None = None
    repeated_hour: Literal["ask", "first", "second"] | None = None
    earliest: date | None = None
    latest: date | None = None
    replaces: bool = False


@dataclass(frozen=True, slots=True, kw_only=True)
class _ColumnForm:
    """What a form says of a column."""

    quantity: str
    unit: str = ""
    kind: str = ""
    stamp: str = ""
    subject: str = ""


def mapping_of(texts: Texts, proposal: LogProposal, home: Home) -> ImportMapping:
    """Return a proposed mapping with what the form says instead; ``FormError`` for what is wrong in it."""
    guessed = proposal.mapping
    columns = {
        place: _column_of(read_form(_ColumnForm, texts, prefix=f"c{place + 1}_"), column, home)
        for place, column in enumerate(guessed.columns)
        if f"c{place + 1}_quantity" in texts
    }
    accepted = texts.get("accept", "")
    columns |= {
        place: each.column
        for place, each in enumerate(proposal.columns)
        if each.column.quantity
        and (accepted == str(place + 1) or (accepted == "all" and is_complete(each.column) and _is_left(texts, place)))
    }
    form = read_form(_MappingForm, texts)
    if form.date_format not in (None, "", *DATE_FORMATS, "epoch"):
        raise FormError({"date_format": "Choose one of the list"})
    said: dict[str, Any] = {
        "decimal": form.decimal,
        "clock": form.clock,
        "offset_min": form.offset_min,
        "date_format": form.date_format,
        "repeated_hour": form.repeated_hour,
        "earliest_ms": _bound_ms("earliest", form.earliest),
        "latest_ms": _bound_ms("latest", form.latest),
        "replaces": form.replaces,
    }
    return logs.changed_mapping(
        guessed, columns, **{name: value for name, value in said.items() if value not in (None, "")}
    )


def complete_part(mapping: ImportMapping) -> ImportMapping:
    """Return a mapping without the columns of which it is not said whose they are; all of it where none is left."""
    columns = tuple(c if is_complete(c) else left_open(c) for c in mapping.columns)
    return replace(mapping, columns=columns) if any(c.quantity for c in columns) else mapping


def _is_left(texts: Texts, place: int) -> bool:
    """Return whether nothing is said yet of a column."""
    return texts.get(f"c{place + 1}_quantity", "-") not in QUANTITIES


def open_questions(texts: Texts, proposal: LogProposal) -> tuple[FileQuestion, ...]:
    """Return what is still to be chosen of a whole file."""
    return tuple(question for question in proposal.asks if not texts.get(question.field))


def _bound_ms(name: str, on: date | None) -> int | None:
    """Return the first instant of a typed date in UTC [ms], from 1900 to 2199."""
    if on is None:
        return None
    if not 1900 <= on.year < 2200:
        raise FormError({name: "Write a date from 1900 to 2199"})
    return (on - date(1970, 1, 1)).days * MS_PER_DAY


def _column_of(form: _ColumnForm, column: Column, home: Home) -> Column:
    """Return one column as mapped; what does not go with its quantity is given what usually does."""
    if form.quantity not in QUANTITIES:
        return left_open(column)
    quantity, units = QUANTITIES[form.quantity], UNITS_OF[form.quantity]
    was_mapped = form.unit in units
    unit = form.unit if was_mapped else units[0]
    usual = "sum" if is_energy(unit) else "mean" if quantity.is_power else "held" if quantity.is_held else "instant"
    kind = form.kind if was_mapped and form.kind in KIND_WORDS else usual
    if is_energy(unit) != (kind in ENERGY_KINDS):
        kind = usual
    usual_stamp = "start" if kind in ("mean", "sum") else "instant"
    stamp = form.stamp if was_mapped and form.stamp in ("start", "end", "instant") else usual_stamp
    return Column(
        index=column.index,
        heading=column.heading,
        quantity=form.quantity,
        unit=unit,
        kind=kind,  # type: ignore[arg-type]
        stamp=stamp,  # type: ignore[arg-type]
        subject=_subject(form.subject, form.quantity, home),
        channel=column.channel,
    )


def subjects_of(quantity: str, home: Home) -> list[tuple[str, str]]:
    """Return the parts of the home (id, name) to which a quantity can belong; none for outdoors and the meter."""
    found = QUANTITIES.get(quantity)
    if found is None:
        return []
    rooms = {room.id: room.name for room in home.rooms}
    options = list(rooms.items()) if found.of_room else []
    options += [(m.id, m.name) for m in home.appliances] if found.of_machine else []
    options += [(p.id, p.name) for p in home.people] if found.of_person else []
    for device in home.devices:
        if found.is_of_device(device.kind) or (quantity in device.measures and not found.of_machine):
            room = rooms.get(device.room_id or "")
            options.append((device.id, f"{room}: {device.name}" if room and found.of_room else device.name))
    return options


def _subject(subject: str, quantity: str, home: Home) -> str:
    """Return a chosen part of the home; the only one there is without a choice, else "" until one is chosen."""
    ids = [each for each, _ in subjects_of(quantity, home)]
    if QUANTITIES[quantity].of_person:
        return subject if subject in ids else ""
    return subject if subject in ids else ids[0] if len(ids) == 1 else ""
