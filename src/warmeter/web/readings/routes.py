"""Routes of the import."""

from collections.abc import Iterator, Mapping
from dataclasses import dataclass, field, replace
from datetime import date
from typing import Annotated, Any, Literal

import numpy as np
from annotated_types import Ge, Le
from fastapi import APIRouter, Depends, Request, UploadFile
from fastapi.responses import RedirectResponse, Response

from warmeter.core.errors import NotKnowable, ReadingError, WarmeterError
from warmeter.core.home.document import Home
from warmeter.core.home.part import Unit, part_names
from warmeter.core.quantity import QUANTITIES
from warmeter.core.readings.column_hints import tellings
from warmeter.core.readings.csvlog import DATE_FORMATS, Column, ImportMapping, Refusal, cells
from warmeter.core.readings.record import KIND_WORDS, Kind
from warmeter.core.readings.resample import power_summary
from warmeter.core.timegrid import LocalClock, from_ms
from warmeter.core.units import J_PER_KWH, MS_PER_DAY, UNITS_OF, is_energy
from warmeter.service.limits import LOG_TOLD, RECORDS_TOLD
from warmeter.service.readings import logs
from warmeter.service.signatures.meter import missing_within
from warmeter.store.readings import ImportLine
from warmeter.web import format as show
from warmeter.web.form_reader import FormError, Texts, form_texts, read_form
from warmeter.web.page import (
    JobView,
    Page,
    app_of,
    back_to,
    frame_of,
    is_fragment,
    job_view,
    person_of,
    render,
    strip_width,
)
from warmeter.web.readings.view import preview_strip
from warmeter.web.strip.draw import DrawnStrip

router = APIRouter()
SHOWN_LINES = 7
CLOCKS = {"home": "the home's clock", "utc": "UTC", "offset": "a fixed offset", "in file": "offsets in the file"}
_DELIMITER_WORDS = {",": "comma", ";": "semicolon", "\t": "tab", "|": "bar"}


@dataclass(frozen=True, slots=True, kw_only=True)
class ChooseLogPage(Page):
    """The question for a log's file."""

    limit: str
    records: str
    big: str
    job: JobView | None
    done: str
    waiting: str


@router.get("/homes/{home_id}/import", name="import_log")
def choose(request: Request, home_id: str) -> Response:
    """Ask for a file."""
    home, revision = app_of(request).homes.load(home_id)
    job = app_of(request).work.latest_of_kind(home_id, "import")
    view = ChooseLogPage(
        frame=frame_of(request, home, revision, "survey"),
        notice=request.query_params.get("notice", ""),
        limit=LOG_TOLD,
        records=RECORDS_TOLD,
        big=show.number(logs.BIG_LINES),
        job=job_view(job),
        done=job.sentence if job and job.state == "done" else "",
        waiting=job.subject if job and job.state in ("stopped", "failed") else "",
    )
    return render(request, "readings/choose.html", view)


def _parts(file: UploadFile) -> Iterator[bytes]:
    while part := file.file.read(256 * 1024):
        yield part


@router.post("/homes/{home_id}/import/upload", name="upload_log")
def upload(request: Request, home_id: str, file: UploadFile) -> Response:
    """Keep a file on disk and go on to its mapping."""
    try:
        kept = logs.keep_log(app_of(request), file.filename or "log.csv", _parts(file))
    except ReadingError as error:
        return back_to(request, "import_log", home_id, f"{error}.")
    path = request.url_for("map_log", home_id=home_id, token=kept.token).path
    return RedirectResponse(str(path), status_code=303)


@dataclass(frozen=True, slots=True, kw_only=True)
class _MappingForm:
    """What a form says of a whole file, None for what it leaves; ``earliest`` and ``latest`` bound what is taken."""

    decimal: Literal[".", ","] | None = None
    clock: Literal["home", "utc", "offset", "in file"] | None = None
    offset_min: Annotated[int, Ge(-840), Le(840), Unit("min")] | None = None
    date_format: str | None = None
    repeated_hour: Literal["ask", "first", "second"] | None = None
    earliest: date | None = None
    latest: date | None = None


@dataclass(frozen=True, slots=True, kw_only=True)
class _ColumnForm:
    """What a form says of a column."""

    quantity: str
    unit: str = ""
    kind: str = ""
    stamp: str = ""
    subject: str = ""


def _mapping_of(texts: Texts, guessed: ImportMapping, home: Home) -> ImportMapping:
    """Return a guessed mapping with what the form says instead; ``FormError`` for what is wrong in it."""
    columns = {
        place: _column_of(read_form(_ColumnForm, texts, prefix=f"c{place + 1}_"), column, home)
        for place, column in enumerate(guessed.columns)
        if f"c{place + 1}_quantity" in texts
    }
    form = read_form(_MappingForm, texts)
    if form.date_format not in (None, *DATE_FORMATS, "epoch"):
        raise FormError({"date_format": "Choose one of the list"})
    said: dict[str, Any] = {
        "decimal": form.decimal,
        "clock": form.clock,
        "offset_min": form.offset_min,
        "date_format": form.date_format,
        "repeated_hour": form.repeated_hour,
        "earliest_ms": _bound_ms("earliest", form.earliest),
        "latest_ms": _bound_ms("latest", form.latest),
    }
    return logs.changed_mapping(guessed, columns, **{name: value for name, value in said.items() if value is not None})


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
        return Column(index=column.index, heading=column.heading, channel=column.channel)
    quantity, units = QUANTITIES[form.quantity], UNITS_OF[form.quantity]
    was_mapped = form.unit in units
    unit = form.unit if was_mapped else units[0]
    usual = "sum" if is_energy(unit) else "mean" if quantity.is_power else "held" if quantity.high == 1.0 else "instant"
    kind = form.kind if was_mapped and form.kind in KIND_WORDS else usual
    if is_energy(unit) != (kind in ("sum", "counter")):
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


def _subjects(quantity: str, home: Home) -> list[tuple[str, str]]:
    """Return the rooms, machines or devices (id, name) to which a quantity can belong; none for outdoors."""
    found = QUANTITIES.get(quantity)
    if found is not None and found.of_room:
        names = {room.id: room.name for room in home.rooms}
        sensors = [
            (d.id, f"{names[d.room_id]}: {d.name}") for d in home.devices if d.room_id and quantity in d.measures
        ]
        return [*names.items(), *sensors]
    if found is not None and found.of_devices:
        return [(d.id, d.name) for d in home.devices if d.kind in found.of_devices]
    return [(m.id, m.name) for m in home.appliances] if found is not None and found.of_machine else []


def _subject(subject: str, quantity: str, home: Home) -> str:
    ids = [each for each, _ in _subjects(quantity, home)]
    return subject if subject in ids else next(iter(ids), "")


@dataclass(frozen=True, slots=True, kw_only=True)
class ColumnView:
    """A column of a log with what it could be."""

    n: int
    c: Column
    units: tuple[str, ...]
    subjects: list[tuple[str, str]]


@dataclass(frozen=True, slots=True, kw_only=True)
class MapLogPage(Page):
    """A log as it would be read, and what its columns could be."""

    file: logs.Upload
    token: str
    mapping: ImportMapping
    bounds: list[str]
    lines: str
    looked_at: str
    size: str
    first: list[tuple[int, list[str]]]
    is_espi: bool
    columns: list[ColumnView]
    quantities: Mapping[str, str]
    kinds: Mapping[Kind, str]
    clocks: Mapping[str, str]
    formats: list[str]
    delimiter: str
    time_heading: str
    taken: list[tuple[str, ...]] = field(default_factory=list)
    tellings: tuple[str, ...] = ()
    missing: list[str] = field(default_factory=list)
    refusals: tuple[Refusal, ...] = ()
    more: int = 0
    total: str = ""
    strip: DrawnStrip | None = None
    asks: bool = False
    error: str = ""


def _page(request: Request, home_id: str, token: str, texts: Texts | None) -> Response:
    app = app_of(request)
    home, revision = app.homes.load(home_id)
    kept = logs.find_upload(app, token)
    lines = list(logs.lines_of(app, kept, logs.GUESS_LINES))
    mapping, error = logs.guessed_mapping(app, home, kept), ""
    if texts is not None:
        try:
            mapping = _mapping_of(texts, mapping, home)
        except FormError as caught:
            error = str(caught)
    view = MapLogPage(
        frame=frame_of(request, home, revision, "survey"),
        file=kept,
        token=token,
        mapping=mapping,
        bounds=[str(from_ms(at).date()) for at in (mapping.earliest_ms, mapping.latest_ms)],
        lines=show.number(kept.lines),
        looked_at=show.number(logs.LOOKED_AT_LINES) if kept.is_big else "",
        size=show.number(kept.size / 1000, 0),
        first=[] if kept.is_espi else _first_lines(lines, mapping),
        is_espi=kept.is_espi,
        columns=[_column_view(home, n, c) for n, c in enumerate(mapping.columns, 1)],
        quantities={q.key: q.label for q in QUANTITIES.values()},
        kinds=KIND_WORDS,
        clocks=CLOCKS,
        formats=[*DATE_FORMATS, "epoch"],
        delimiter=_DELIMITER_WORDS.get(mapping.delimiter, mapping.delimiter),
        time_heading=cells(lines[mapping.heading_line - 1], mapping.delimiter)[mapping.time_column]
        if mapping.heading_line
        else "time",
    )
    try:
        found = logs.preview(app, home, kept, mapping)
        clock = app.clock(home)
        view = replace(
            view,
            taken=[_taken_view(home, s) for s in found.series],
            tellings=tellings(found),
            missing=_missing(found, home, clock),
            refusals=found.refusals[:60],
            more=max(0, len(found.refusals) - 60),
            total=show.number(sum(s.readings.at_ms.size for s in found.series)),
            strip=preview_strip(found, home, clock, strip_width(request, has_aside=False)),
            asks=any("choose which" in r.reason for r in found.refusals),
        )
    except WarmeterError as caught:
        error = error or str(caught)
    view = replace(view, error=error)
    return render(
        request, "readings/_map.html" if is_fragment(request) else "readings/map.html", view, 422 if error else 200
    )


def _first_lines(lines: list[str], mapping: ImportMapping) -> list[tuple[int, list[str]]]:
    shown = lines[: mapping.heading_line + SHOWN_LINES]
    return [(n, cells(line, mapping.delimiter)) for n, line in enumerate(shown, 1)][-SHOWN_LINES - 2 :]


def _column_view(home: Home, number: int, column: Column) -> ColumnView:
    return ColumnView(
        n=number, c=column, units=UNITS_OF.get(column.quantity, ()), subjects=_subjects(column.quantity, home)
    )


def _ends(series: Any, home: Home) -> tuple[str, str, str]:
    """Return the lowest and the highest value and the whole or the mean, in the home's units."""
    record, readings = series.record, series.readings.in_stored_unit(series.record)
    if not readings.value.size:
        return "–", "–", "–"
    if QUANTITIES[record.quantity].is_power:
        held = power_summary(readings, record)
        if held is None:
            return "–", "–", "–"
        whole = f"{show.number(held.energy_j / J_PER_KWH, 1)} kWh, mean {show.number(held.mean_w)} W"
        return f"{show.number(held.low_w)} W", f"{show.number(held.high_w)} W", whole
    low, high, mean = (float(f(readings.value)) for f in (np.min, np.max, np.mean))
    if record.quantity.endswith("temperature") or record.quantity == "outdoor_forecast":
        unit = show.temperature_unit(home)
        low_text, high_text, mean_text = (f"{show.temperature(v, home)} {unit}" for v in (low, high, mean))
        return low_text, high_text, f"mean {mean_text}"
    unit = QUANTITIES[record.quantity].unit
    return f"{show.number(low, 1)} {unit}", f"{show.number(high, 1)} {unit}", f"mean {show.number(mean, 1)} {unit}"


def _missing(found: Any, home: Home, clock: LocalClock) -> list[str]:
    """Return which intervals each series lacks between its first and its last, in words."""
    lines = []
    for series in found.series:
        record = series.record
        if record.kind not in ("mean", "sum") or not record.step_s or not QUANTITIES[record.quantity].is_power:
            continue
        try:
            _, gaps, missing = missing_within(record, series.readings.in_stored_unit(record), clock)
        except NotKnowable:
            continue
        if not gaps:
            continue
        begin, end = max(gaps, key=lambda gap: gap[1] - gap[0])
        lines.append(
            f"{series.heading}: {show.number(missing)} intervals of {show.duration(record.step_s / 60)} are missing, in "
            f"{len(gaps)} stretch{'es' * (len(gaps) != 1)}; the longest from {show.moment(begin, clock, home.country)} to "
            f"{show.moment(end, clock, home.country)}. They stay gaps."
        )
    return lines


def _taken_view(home: Home, series: Any) -> tuple[str, ...]:
    record, values = series.record, series.readings.value
    names = part_names(home.rooms, home.devices, home.appliances) | {
        "": "the meter" if QUANTITIES[record.quantity].of_meter else "outdoors"
    }
    low, high, whole = _ends(series, home)
    step = f"{record.step_s} s" if record.step_s else "on change"
    return (
        names.get(record.subject, ""),
        QUANTITIES[record.quantity].label,
        show.number(values.size),
        show.number(series.left_out),
        low,
        high,
        whole,
        step,
    )


@router.get("/homes/{home_id}/import/{token}", name="map_log")
def map_log(request: Request, home_id: str, token: str) -> Response:
    """Show the guessed mapping and what it would take."""
    return _page(request, home_id, token, None)


@router.post("/homes/{home_id}/import/{token}", name="remap_log")
def remap_log(request: Request, home_id: str, token: str, texts: Annotated[Texts, Depends(form_texts)]) -> Response:
    """Read the file again with a changed mapping."""
    return _page(request, home_id, token, texts)


@router.post("/homes/{home_id}/import/{token}/take", name="take_log")
def take_log(request: Request, home_id: str, token: str, texts: Annotated[Texts, Depends(form_texts)]) -> Response:
    """Take the file whole."""
    app = app_of(request)
    home, _ = app.homes.load(home_id)
    kept = logs.find_upload(app, token)
    mapping = _mapping_of(texts, logs.guessed_mapping(app, home, kept), home)
    if kept.is_big:
        _, revision = app.homes.load(home_id)
        logs.ask_to_take(app, home_id, revision, kept, mapping, person_of(request))
        return back_to(request, "import_log", home_id)
    merged = logs.take(app, home_id, kept, mapping, person_of(request))
    if not merged.added:
        sentence = f"All {merged.equal} readings of {kept.file_name} were there already: nothing was added."
    else:
        sentence = f"{merged.added} readings taken from {kept.file_name}."
        if merged.equal:
            sentence += f" {merged.equal} were there already."
    if merged.different:
        sentence += f" {merged.different} differ from what is there at the same time; what was there is kept."
    return back_to(request, "survey", home_id, sentence)


@dataclass(frozen=True, slots=True, kw_only=True)
class TakeBackPage(Page):
    """The question before an import is taken back."""

    home: Home
    taken: ImportLine
    added: str
    at: str
    fits: int


@router.get("/homes/{home_id}/imports/{import_id}/back", name="ask_take_back")
def ask_take_back(request: Request, home_id: str, import_id: int) -> Response:
    """Ask before an import is taken back, with how many readings would go."""
    app = app_of(request)
    home, revision = app.homes.load(home_id)
    line = logs.found_import(app, home_id, import_id)
    view = TakeBackPage(
        frame=frame_of(request, home, revision, "survey"),
        home=home,
        taken=line,
        added=show.number(line.added),
        at=show.moment(line.at_ms, app.clock(home), home.country),
        fits=len(app.work.fit_stamp(home_id)),
    )
    return render(request, "readings/take_back.html", view)


@router.post("/homes/{home_id}/imports/{import_id}/back", name="take_back")
def take_back(request: Request, home_id: str, import_id: int) -> Response:
    """Take an import back."""
    removed = logs.take_back(app_of(request), home_id, import_id, person_of(request))
    return back_to(request, "record", home_id, f"{show.number(removed)} readings taken back.")


@router.post("/homes/{home_id}/imports/{import_id}/again", name="bring_import_back")
def bring_back(request: Request, home_id: str, import_id: int) -> Response:
    """Bring an import back that was taken back."""
    merged = logs.bring_back(app_of(request), home_id, import_id, person_of(request))
    kept = (
        f" {show.number(merged.different)} differ from what came meanwhile, which is kept." if merged.different else ""
    )
    return back_to(request, "record", home_id, f"{show.number(merged.added)} readings brought back.{kept}")
