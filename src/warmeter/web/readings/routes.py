"""Routes of the import."""

from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass, field, replace
from typing import Annotated, Any
from urllib.parse import quote

import numpy as np
from fastapi import APIRouter, Depends, Request, UploadFile
from fastapi.responses import RedirectResponse, Response

from warmeter.core.errors import NotKnowable, ReadingError, WarmeterError
from warmeter.core.home.document import Home
from warmeter.core.quantity import QUANTITIES
from warmeter.core.readings.column_hints import tellings
from warmeter.core.readings.column_proposal import ColumnProposal
from warmeter.core.readings.csvlog import DATE_FORMATS, Column, ImportMapping, Refusal, cells, channel_of
from warmeter.core.readings.log_proposal import FileQuestion, LogProposal, is_complete
from warmeter.core.readings.record import KIND_WORDS, Kind
from warmeter.core.readings.resample import power_summary
from warmeter.core.timegrid import LocalClock, from_ms
from warmeter.core.units import J_PER_KWH, UNITS_OF
from warmeter.service.limits import LOG_TOLD, RECORDS_TOLD
from warmeter.service.readings import logs
from warmeter.service.signatures.meter import missing_within
from warmeter.store.readings import ImportLine
from warmeter.web import format as show
from warmeter.web.form_reader import FormError, Texts, form_texts
from warmeter.web.page import (
    JobView,
    Page,
    app_of,
    back_to,
    frame_of,
    here_of_home,
    is_fragment,
    job_view,
    person_of,
    render,
    strip_width,
)
from warmeter.web.readings.mapping_form import complete_part, mapping_of, open_questions, subjects_of
from warmeter.web.readings.view import preview_strip, subject_name
from warmeter.web.strip.draw import DrawnStrip

router = APIRouter()
SHOWN_LINES = 7
SHOWN_OF_FILE = 200
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
    back: str


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
        back=_way_back(request, home_id, None),
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
    path, back = request.url_for("map_log", home_id=home_id, token=kept.token).path, _way_back(request, home_id, None)
    return RedirectResponse(f"{path}?back={quote(back)}" if back else str(path), status_code=303)


@dataclass(frozen=True, slots=True, kw_only=True)
class ColumnView:
    """A column of a log with what it could be."""

    n: int
    c: Column
    units: tuple[str, ...]
    subjects: list[tuple[str, str]]
    certainty: str
    why: str


@dataclass(frozen=True, slots=True, kw_only=True)
class AskedView:
    """A column that nobody is sure of: its first values, what it could be, and why that is not sure."""

    n: int
    heading: str
    values: str
    likely: str
    why: str
    is_complete: bool


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
    ownerless: str = ""
    asked: list[AskedView] = field(default_factory=list)
    questions: tuple[FileQuestion, ...] = ()
    asks_date: bool = False
    asks_decimal: bool = False
    back: str = ""
    error: str = ""
    can_be_taken: bool = False
    differing: int = 0


def _page(request: Request, home_id: str, token: str, texts: Texts | None) -> Response:
    app = app_of(request)
    home, revision = app.homes.load(home_id)
    kept = logs.find_upload(app, token)
    lines = list(logs.lines_of(app, kept, SHOWN_OF_FILE))
    proposal, error = logs.proposal(app, home, kept), ""
    mapping, questions = proposal.mapping, open_questions(texts or {}, proposal)
    if texts is not None:
        try:
            mapping = mapping_of(texts, proposal, home)
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
        columns=[
            _column_view(home, n, c, p)
            for n, (c, p) in enumerate(zip(mapping.columns, proposal.columns, strict=True), 1)
        ],
        asked=_asked(home, mapping, proposal, lines),
        questions=questions,
        ownerless=", ".join(c.heading for c in mapping.columns if c.quantity and not is_complete(c)),
        asks_date=any(question.field == "date_format" for question in questions),
        asks_decimal=any(question.field == "decimal" for question in questions),
        back=_way_back(request, home_id, texts),
        quantities={q.key: q.label for q in QUANTITIES.values()},
        kinds=KIND_WORDS,
        clocks=CLOCKS,
        formats=[*DATE_FORMATS, "epoch"],
        delimiter=_DELIMITER_WORDS.get(mapping.delimiter, mapping.delimiter),
        time_heading=cells(lines[mapping.heading_line - 1], mapping.delimiter)[mapping.time_column]
        if mapping.heading_line
        else "time",
    )
    if error or view.questions or not (mapping.taken or kept.is_espi):
        return _shown(request, replace(view, error=error))
    try:
        found = logs.preview(app, home, kept, complete_part(mapping))
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
            can_be_taken=True,
            differing=app.readings.differing(home_id, found.series),
        )
    except WarmeterError as caught:
        error = error or str(caught)
    return _shown(request, replace(view, error=error))


def _shown(request: Request, view: MapLogPage) -> Response:
    name = "readings/_map.html" if is_fragment(request) else "readings/map.html"
    return render(request, name, view, 422 if view.error else 200)


def _way_back(request: Request, home_id: str, texts: Texts | None) -> str:
    """Return the path of the page of this home from which a log is imported, "" for none."""
    asked = (texts or {}).get("back", "") or request.query_params.get("back", "")
    return here_of_home(request, home_id, asked)


def _asked(home: Home, mapping: ImportMapping, proposal: LogProposal, lines: Sequence[str]) -> list[AskedView]:
    """Return the columns that ask and of which nothing is said yet."""
    rows = [cells(line, mapping.delimiter) for line in lines[mapping.heading_line :] if line.count('"') % 2 == 0]
    out = []
    for n, (column, proposed) in enumerate(zip(mapping.columns, proposal.columns, strict=True), 1):
        if column.quantity or not proposed.asks:
            continue
        mine = [row for row in rows if not column.channel or channel_of(row, mapping) == column.channel]
        values = [row[column.index] for row in mine if column.index < len(row) and row[column.index]]
        out.append(
            AskedView(
                n=n,
                heading=column.heading,
                values=", ".join(values[:3]),
                likely=_likely(home, proposed.column),
                why=proposed.why,
                is_complete=is_complete(proposed.column),
            )
        )
    return out


def _likely(home: Home, column: Column) -> str:
    """Return in words what a column likely is, "" where nobody can tell."""
    quantity = QUANTITIES.get(column.quantity)
    if quantity is None:
        return ""
    unit = "" if column.unit == "1" else f" in {column.unit}"
    whose = subject_name(home, column.quantity, column.subject)
    return f"{quantity.label}{unit}, {whose}" if whose else f"{quantity.label}{unit}"


def _first_lines(lines: list[str], mapping: ImportMapping) -> list[tuple[int, list[str]]]:
    shown = lines[: mapping.heading_line + SHOWN_LINES]
    return [(n, cells(line, mapping.delimiter)) for n, line in enumerate(shown, 1)][-SHOWN_LINES - 2 :]


def _column_view(home: Home, number: int, column: Column, proposed: ColumnProposal) -> ColumnView:
    is_as_proposed = column == proposed.column and bool(column.quantity)
    return ColumnView(
        n=number,
        c=column,
        units=UNITS_OF.get(column.quantity, ()),
        subjects=subjects_of(column.quantity, home),
        certainty=proposed.certainty if is_as_proposed else "as chosen" if column.quantity else "",
        why=proposed.why if is_as_proposed else "",
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
    low, high, whole = _ends(series, home)
    step = "on change"
    if record.step_s:
        step = show.duration(record.step_s / 60) if record.step_s >= 120 else f"{record.step_s} s"
    return (
        subject_name(home, record.quantity, record.subject),
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
    proposal = logs.proposal(app, home, kept)
    mapping, back = complete_part(mapping_of(texts, proposal, home)), _way_back(request, home_id, texts)
    if open_questions(texts, proposal):
        return _page(request, home_id, token, texts)
    if kept.is_big:
        _, revision = app.homes.load(home_id)
        logs.ask_to_take(app, home_id, revision, kept, mapping, person_of(request))
        return back_to(request, "import_log", home_id)
    merged = logs.take(app, home_id, kept, mapping, person_of(request))
    sentence = logs.told_of(merged, kept)
    if back:
        return RedirectResponse(f"{back}{'&' if '?' in back else '?'}notice={quote(sentence)}", status_code=303)
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
