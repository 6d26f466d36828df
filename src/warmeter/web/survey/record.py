"""Routes of the record: rooms in words, levels, machines, logs, revisions."""

from dataclasses import replace
from typing import Annotated

from fastapi import APIRouter, Depends, Request
from fastapi.responses import Response

from warmeter.core.building.losses import surveyed_room
from warmeter.core.building.room_envelope import floor_area_m2
from warmeter.core.edits.floor_plan_edits import swapped
from warmeter.core.edits.home_edits import with_level, with_machine, with_room
from warmeter.core.home.document import Home
from warmeter.core.home.part import part_names
from warmeter.core.home.presets import BUILT, HEATER_LABEL, MASS_LABEL
from warmeter.core.home.rooms import Room
from warmeter.core.quantity import QUANTITIES
from warmeter.core.thermal.room_fit import StoredFit
from warmeter.core.timegrid import LocalClock
from warmeter.core.units import celsius_from
from warmeter.service.homes.editing import edit_home
from warmeter.web import format as show
from warmeter.web.forms import Fields, form_fields
from warmeter.web.homes.form import read_room
from warmeter.web.page import app_of, back_to, frame_of, person_of, render

router = APIRouter()


def _page(
    request: Request, home_id: str, fields: Fields | None = None, room_id: str = "", status: int = 200
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
    view = {
        "frame": frame_of(request, home, revision, "survey"),
        "home": home,
        "rooms": rooms,
        "series": series,
        "imports": imports,
        "built": {k: p.label for k, p in BUILT.items()},
        "mass": MASS_LABEL,
        "heaters": HEATER_LABEL,
        "tab": "record",
        "edit": room_id or request.query_params.get("room", ""),
        "errors": fields.errors if fields else {},
        "t": dict(fields.texts) if fields else {},
        "notice": request.query_params.get("notice", ""),
        "unit": show.temperature_unit(home),
        "levels": [(level, show.temperature(level.heating_c, home)) for level in home.levels],
        "revisions": [(r, show.moment(r.at_ms, clock, home.country)) for r in app.homes.revisions(home_id, most=20)],
    }
    return render(request, "survey/record.html", view, status)


def _room_row(home: Home, room: Room, fit: StoredFit | None) -> dict[str, object]:
    estimate = surveyed_room(home, room)
    learnt = fit.fit if fit and fit.fit.watts_known else None
    return {
        "room": room,
        "area": show.number(floor_area_m2(home, room), 1),
        "heater": home.heater_of(room.id),
        "loss": show.number(estimate.loss_w_k, 0),
        "low": show.number(estimate.loss_w_k * 0.7, 0),
        "high": show.number(estimate.loss_w_k * 1.3, 0),
        "learnt": f"{show.number(learnt.loss_w_k.value, 1)} ({show.span(learnt.loss_w_k, 1)})" if learnt else "–",
    }


def _stamp(at_ms: int, clock: LocalClock, home: Home) -> str:
    return f"{show.day_short(clock.local(at_ms).date(), home.country)} {show.clock_now(at_ms, clock)}"


@router.get("/homes/{home_id}/survey/record", name="record")
def record(request: Request, home_id: str) -> Response:
    """Show rooms in words, levels, machines, logs and revisions."""
    return _page(request, home_id)


@router.post("/homes/{home_id}/rooms/{room_id}", name="edit_room")
def edit_room(
    request: Request, home_id: str, room_id: str, fields: Annotated[Fields, Depends(form_fields)]
) -> Response:
    """Change a room and its heater."""
    home, _ = app_of(request).homes.load(home_id)
    before, heater = home.room(room_id), home.heater_of(room_id)
    source_id = heater.source_id if heater else (home.sources[0].id if home.sources else "")
    room, changed = read_room(fields, "room_", source_id, room_id, heater)
    base = fields.whole("base", 0, 10**9)
    if fields.errors:
        return _page(request, home_id, fields, room_id, 422)

    # What the words do not tell (use, figures typed over, the drawing) stays as it was.
    room = replace(
        before,
        name=room.name,
        height_m=room.height_m,
        built=room.built,
        mass_class=room.mass_class,
        described=room.described,
    )

    def change(each: Home) -> Home:
        known = heater is not None
        return replace(
            each,
            rooms=swapped(each.rooms, room),
            heaters=swapped(each.heaters, changed) if known else (*each.heaters, changed),
            zones=tuple(
                replace(z, name=room.name) if z.room_ids == (room_id,) and z.name == before.name else z
                for z in each.zones
            ),
        )

    edit_home(app_of(request), home_id, base, person_of(request), f"{room.name} surveyed anew", change)
    return back_to(request, "record", home_id)


@router.post("/homes/{home_id}/rooms", name="add_room")
def add_room(request: Request, home_id: str, fields: Annotated[Fields, Depends(form_fields)]) -> Response:
    """Add a room with its heater and a zone of its own."""
    home, _ = app_of(request).homes.load(home_id)
    room, heater = read_room(fields, "new_", home.sources[0].id if home.sources else "")
    base = fields.whole("base", 0, 10**9)
    if fields.errors:
        return _page(request, home_id, fields, "new", 422)
    edit_home(
        app_of(request), home_id, base, person_of(request), f"{room.name} added", lambda h: with_room(h, room, heater)
    )
    return back_to(request, "record", home_id)


@router.post("/homes/{home_id}/appliances", name="add_machine")
def add_machine(request: Request, home_id: str, fields: Annotated[Fields, Depends(form_fields)]) -> Response:
    """Add a machine on a metering plug."""
    name, base = fields.text("name", least=1, what="The machine's name"), fields.whole("base", 0, 10**9)
    if fields.errors:
        return back_to(request, "record", home_id, "; ".join(fields.errors.values()) + ". Nothing was changed.")
    edit_home(app_of(request), home_id, base, person_of(request), f"{name} added", lambda h: with_machine(h, name))
    return back_to(request, "record", home_id)


@router.post("/homes/{home_id}/levels/{level_id}", name="edit_level")
def edit_level(
    request: Request, home_id: str, level_id: str, fields: Annotated[Fields, Depends(form_fields)]
) -> Response:
    """Change a level everywhere."""
    home, _ = app_of(request).homes.load(home_id)
    low, high = (39, 90) if home.temperature_unit == "F" else (4, 32)
    value = fields.number("heating", low, high, show.temperature_unit(home))
    name = fields.text("name", least=1, what="The level's name")
    base = fields.whole("base", 0, 10**9)
    if fields.errors:
        return back_to(request, "record", home_id, "; ".join(fields.errors.values()) + ". Nothing was changed.")
    level = replace(home.level(level_id), name=name, heating_c=celsius_from(value, home.temperature_unit))
    edit_home(
        app_of(request),
        home_id,
        base,
        person_of(request),
        f"{name} is {show.temperature(level.heating_c, home)}",
        lambda h: with_level(h, level),
    )
    return back_to(request, "record", home_id)
