"""Routes of the record: rooms in words, levels, machines, logs, revisions."""

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Annotated

from fastapi import APIRouter, Depends, Request
from fastapi.responses import Response

from warmeter.core.building.losses import surveyed_room
from warmeter.core.building.room_envelope import floor_area_m2
from warmeter.core.edits.edit import Command
from warmeter.core.edits.level_commands import ChangeLevel
from warmeter.core.edits.machine_commands import AddMachine
from warmeter.core.edits.room_commands import AddDescribedRoom, DescribeRoom
from warmeter.core.home.document import Home
from warmeter.core.home.part import part_names
from warmeter.core.home.plant import Heater, HeaterKind
from warmeter.core.home.presets import BUILT, HEATER_LABEL, MASS_LABEL
from warmeter.core.home.rooms import Built, Room
from warmeter.core.home.zones import Level
from warmeter.core.quantity import QUANTITIES
from warmeter.core.thermal.room_fit import StoredFit
from warmeter.core.thermal.survey import MassClass
from warmeter.core.timegrid import LocalClock
from warmeter.core.units import area_to
from warmeter.store.homes import Revision
from warmeter.store.readings import ImportLine
from warmeter.web import format as show
from warmeter.web.form_reader import FormError, Texts, form_texts, read_form
from warmeter.web.homes.form import RoomForm
from warmeter.web.page import Page, app_of, back_to, frame_of, render
from warmeter.web.saving import save

router = APIRouter()


@dataclass(frozen=True, slots=True, kw_only=True)
class DescribedRoomRow:
    """A room in words, with what it loses."""

    room: Room
    area: str
    heater: Heater | None
    loss: str
    low: str
    high: str
    learnt: str


@dataclass(frozen=True, slots=True, kw_only=True)
class RecordPage(Page):
    """Rooms in words, levels, machines, logs and revisions."""

    home: Home
    rooms: list[DescribedRoomRow]
    series: list[tuple[str, str, str, str, str, str]]
    imports: list[tuple[ImportLine, str, str]]
    built: Mapping[Built, str]
    mass: Mapping[MassClass, str]
    heaters: Mapping[HeaterKind, str]
    tab: str
    edit: str
    errors: dict[str, str]
    t: Mapping[str, str]
    unit: str
    levels: list[tuple[Level, str]]
    revisions: list[tuple[Revision, str]]


def _page(
    request: Request, home_id: str, texts: Texts | None = None, error: FormError | None = None, room_id: str = ""
) -> Response:
    app = app_of(request)
    home, revision = app.homes.load(home_id)
    clock, fits = app.clock(home), app.work.fits(home_id)
    rooms = [_room_row(home, room, fits.get(room.id)) for room in home.rooms]
    names = part_names(home.rooms, home.devices, home.appliances) | {"": "outdoors"}
    series, extents = [], app.readings.extents(home_id)
    for s in app.readings.series(home_id):
        extent = extents.get(s.id)
        if extent is None:  # its last reading was taken back meanwhile
            continue
        series.append(
            (
                names.get(s.record.subject, "gone"),
                QUANTITIES[s.record.quantity].label,
                s.record.unit,
                show.number(extent.count),
                _stamp(extent.first_ms, clock, home),
                _stamp(extent.last_ms, clock, home),
            )
        )
    imports = [
        (i, show.moment(i.at_ms, clock, home.country), show.number(i.added)) for i in app.readings.imports(home_id)
    ]
    view = RecordPage(
        frame=frame_of(request, home, revision, "survey"),
        home=home,
        rooms=rooms,
        series=series,
        imports=imports,
        built={k: p.label for k, p in BUILT.items()},
        mass=MASS_LABEL,
        heaters=HEATER_LABEL,
        tab="record",
        edit=room_id or request.query_params.get("room", ""),
        errors=error.errors if error else {},
        t=texts or {},
        notice=request.query_params.get("notice", ""),
        unit=show.temperature_unit(home),
        levels=[(level, show.temperature(level.heating_c, home)) for level in home.levels],
        revisions=[(r, show.moment(r.at_ms, clock, home.country)) for r in app.homes.revisions(home_id, most=20)],
    )
    return render(request, "survey/record.html", view, 422 if error else 200)


def _room_row(home: Home, room: Room, fit: StoredFit | None) -> DescribedRoomRow:
    estimate = surveyed_room(home, room)
    learnt = fit.fit if fit and fit.fit.watts_known else None
    return DescribedRoomRow(
        room=room,
        area=show.number(area_to(floor_area_m2(home, room), home.length_unit), 1),
        heater=home.heater_of(room.id),
        loss=show.number(estimate.loss_w_k, 0),
        low=show.number(estimate.loss_w_k * 0.7, 0),
        high=show.number(estimate.loss_w_k * 1.3, 0),
        learnt=f"{show.number(learnt.loss_w_k.value, 1)} ({show.span(learnt.loss_w_k, 1)})" if learnt else "–",
    )


def _stamp(at_ms: int, clock: LocalClock, home: Home) -> str:
    return f"{show.day_short(clock.local(at_ms).date(), home.country)} {show.clock_now(at_ms, clock)}"


@router.get("/homes/{home_id}/survey/record", name="record")
def record(request: Request, home_id: str) -> Response:
    """Show rooms in words, levels, machines, logs and revisions."""
    return _page(request, home_id)


@router.post("/homes/{home_id}/rooms/{room_id}", name="edit_room")
def edit_room(request: Request, home_id: str, room_id: str, texts: Annotated[Texts, Depends(form_texts)]) -> Response:
    """Change a room and its heater."""

    def described(home: Home) -> DescribeRoom:
        form, heater = read_form(RoomForm, texts, home.units, "room_"), home.heater_of(room_id)
        values = {"height_m": form.height, "built": form.built, "mass_class": form.mass}
        source_id = home.sources[0].id if home.sources else ""
        return DescribeRoom(
            room_id=room_id,
            name=form.name,
            values=values,
            described=form.described,
            heater=form.heater_of(heater, room_id, source_id),
        )

    try:
        save(request, home_id, texts, described)
    except FormError as error:
        return _page(request, home_id, texts, error, room_id)
    return back_to(request, "record", home_id)


@router.post("/homes/{home_id}/rooms", name="add_room")
def add_room(request: Request, home_id: str, texts: Annotated[Texts, Depends(form_texts)]) -> Response:
    """Add a room with its heater and a zone of its own."""

    def added(home: Home) -> AddDescribedRoom:
        form = read_form(RoomForm, texts, home.units, "new_")
        room = form.room()
        source_id = home.sources[0].id if home.sources else ""
        return AddDescribedRoom(room=room, heater=form.heater_of(None, room.id, source_id))

    try:
        save(request, home_id, texts, added)
    except FormError as error:
        return _page(request, home_id, texts, error, "new")
    return back_to(request, "record", home_id)


@router.post("/homes/{home_id}/appliances", name="add_machine")
def add_machine(request: Request, home_id: str, texts: Annotated[Texts, Depends(form_texts)]) -> Response:
    """Add a machine on a metering plug."""
    return _saved(request, home_id, {"kind": "other", **texts}, AddMachine)


@router.post("/homes/{home_id}/levels/{level_id}", name="edit_level")
def edit_level(request: Request, home_id: str, level_id: str, texts: Annotated[Texts, Depends(form_texts)]) -> Response:
    """Change a level everywhere."""
    return _saved(request, home_id, {**texts, "level_id": level_id}, ChangeLevel)


def _saved(request: Request, home_id: str, texts: Texts, kind: type[Command]) -> Response:
    """Save a form as a command and go back to the record, with what was wrong if anything was."""
    try:
        save(request, home_id, texts, lambda home: read_form(kind, texts, home.units))
    except FormError as error:
        return back_to(request, "record", home_id, f"{error}. Nothing was changed.", refused="1")
    return back_to(request, "record", home_id)
