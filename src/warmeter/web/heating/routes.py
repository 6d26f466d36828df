"""Routes of heating: sources and heaters against what rooms lose, and the water to balance them."""

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Annotated

from fastapi import APIRouter, Depends, Request
from fastapi.responses import Response

from warmeter.core.building.fuel import FUELS, FuelKind, kwh_per_unit
from warmeter.core.building.heating import (
    RadiatorBalance,
    RoomHeating,
    heater_output_w,
    heating_of,
    loss_share_w,
    split_range,
    valve_work,
)
from warmeter.core.edits.item_commands import PlaceItem, RemovePart
from warmeter.core.edits.plant_commands import (
    SOURCE_NAME,
    WATER_J_LK,
    AddSource,
    ChangeHeater,
    ChangeHeaterKind,
    ChangeSource,
    RemoveSource,
)
from warmeter.core.emitters.warm_floor import LIMIT_C
from warmeter.core.home.document import Home
from warmeter.core.home.plant import Fuel, Heater, HeaterKind, SourceKind
from warmeter.core.home.presets import HEATER_LABEL
from warmeter.core.units import btu_h, celsius_to, litres_to
from warmeter.web import format as show
from warmeter.web.form_reader import Texts, form_texts
from warmeter.web.heating.flow_axis import FlowAxis, flow_axis, summaries_of
from warmeter.web.page import Page, app_of, back_to, frame_of, is_fragment, render
from warmeter.web.saving import Commands, save_form

router = APIRouter()
# A valve that loses more may hiss.
LOUD_KPA = 20.0
# Radiators that give so much more than their room loses keep their valve nearly shut.
OVERSIZED = 1.8
COMMANDS: Commands = {
    "source-add": AddSource,
    "source-set": ChangeSource,
    "source-remove": RemoveSource,
    "heater-set": ChangeHeater,
    "heater-kind": ChangeHeaterKind,
    "heater-add": PlaceItem,
    "heater-remove": RemovePart,
}


@dataclass(frozen=True, slots=True, kw_only=True)
class SourceRow:
    """A source as ready strings, its typed figures beside what follows from them."""

    id: str
    name: str
    kind: str
    word: str
    flow: str
    spread_k: float
    most: str
    least: str
    differential: str
    litres: float | None
    hysteresis_k: float
    efficiency: str
    fuel: str
    fuel_unit: str
    fuel_kwh: str
    fuel_price: str
    cops: str
    load: str
    is_over: bool
    sentence: str
    is_on: bool


@dataclass(frozen=True, slots=True, kw_only=True)
class HeaterRow:
    """A heater as ready strings."""

    heater: Heater
    room: str
    source: str
    rated: str
    rated_btu_h: str
    gives: str
    part: str
    returns: str
    litres: str
    kv: str
    drop: str
    is_loud: bool
    flow: str
    flow_key: str
    is_short: bool
    is_on: bool


def _sources(home: Home, at: str, rooms: tuple[RoomHeating, ...]) -> list[SourceRow]:
    rows = []
    for found in summaries_of(home, rooms):
        source = found.source
        words = []
        if found.lowest_flow_c is not None and found.held_by is not None:
            words.append(
                f"The lowest flow that serves all is {show.temperature(found.lowest_flow_c, home, 1)} "
                f"{show.temperature_unit(home)}; {found.held_by.name} is the limiting room."
            )
        if not found.is_within:
            words.append("It cannot give what all rooms lose together on the design day.")
        if found.cycle is not None:
            words.append(
                f"At a quarter of that load it starts {show.number(found.cycle.starts_1_h, 1)} times an hour "
                f"(at worst {show.number(found.cycle.worst_starts_1_h, 1)})."
            )
        rows.append(
            SourceRow(
                id=source.id,
                name=source.name,
                kind=source.kind,
                word=SOURCE_NAME[source.kind],
                flow="" if source.flow_c is None else show.temperature(source.flow_c, home, 1),
                spread_k=source.spread_k,
                most="" if source.most_w is None else f"{source.most_w:g}",
                least="" if source.least_w is None else f"{source.least_w:g}",
                differential="" if source.differential_kpa is None else f"{source.differential_kpa:g}",
                litres=None if source.water_j_k is None else source.water_j_k / WATER_J_LK,
                hysteresis_k=source.hysteresis_k,
                efficiency=f"{source.efficiency:g}",
                fuel=source.fuel,
                fuel_unit=FUELS[source.fuel].unit,
                fuel_kwh=f"{kwh_per_unit(source):g}",
                fuel_price="" if source.fuel_price is None else f"{source.fuel_price}",
                cops="; ".join(f"{celsius_to(t, home.temperature_unit):g} {cop:g}" for t, cop in source.cop_points),
                load=show.heat(found.load_w, home),
                is_over=not found.is_within,
                sentence=" ".join(words),
                is_on=source.id == at,
            )
        )
    return rows


def _heaters(home: Home, at: str, rooms: tuple[RoomHeating, ...]) -> list[HeaterRow]:
    rows = []
    for room in rooms:
        balance: dict[str, RadiatorBalance] = {b.heater.id: b for b in room.balance}
        for heater in home.heaters_of(room.room.id):
            own = balance.get(heater.id)
            needs = room.flow_needed_c
            rows.append(
                HeaterRow(
                    heater=heater,
                    room=room.room.name,
                    source=home.source(heater.source_id).name,
                    rated=show.number(heater.rated_heat_w),
                    gives=show.number(heater_output_w(home, heater, outdoor_c=home.design.outdoor_c)),
                    part=show.number(loss_share_w(home, room, heater)),
                    returns=show.temperature(own.return_c, home, 1) if own and own.return_c is not None else "–",
                    litres=show.number(litres_to(own.litres_h, home.length_unit), 0 if home.length_unit == "m" else 1)
                    if own and own.litres_h is not None
                    else "–",
                    kv="" if own is None or own.kv_m3_h is None else show.number(own.kv_m3_h, 2),
                    drop="" if own is None or own.drop_kpa is None else f"{show.number(own.drop_kpa, 1)} kPa",
                    is_loud=own is not None and own.drop_kpa is not None and own.drop_kpa > LOUD_KPA,
                    rated_btu_h=show.number(btu_h(heater.rated_heat_w)) if home.length_unit == "ft" else "",
                    flow=("over " if room.is_out_of_reach else "") + show.temperature(needs, home, 1)
                    if needs is not None
                    else "",
                    flow_key=f"flow.{room.room.id}",
                    is_short=room.output_w < room.loss.safe_w,
                    is_on=heater.id == at,
                )
            )
    return rows


def _droop(home: Home, heater: Heater) -> str:
    work = valve_work(home, heater)
    if work is None:
        return ""
    where = "under" if work.droop_k >= 0 else "over"
    words = (
        f"By its band the room lies {show.difference(abs(work.droop_k), home, 1)} {where} the setpoint on the design day, "
        f"the valve {100 * work.opening:.0f} % open: a valve's way, no fault."
    )
    if work.oversize < OVERSIZED:
        return words
    return (
        f"{words} The radiators give {work.oversize:.1f} times the loss: in usual winter weather the valve works at "
        f"{100 * work.mild_opening:.0f} % of its travel, where it hunts. Lower the flow, or limit its water."
    )


def _split_rows(home: Home, heater: Heater) -> list[tuple[str, str, str, str]]:
    """Return (mode, outdoor temperature, most W, efficiency) of a split unit over its usual range."""
    rows: list[tuple[str, str, str, str]] = []
    for mode, outdoor_c, got in split_range(heater):
        rows.append(
            (mode, show.temperature(outdoor_c, home, 0), show.number(got.capacity_w), show.number(got.efficiency, 2))
        )
    return rows


@dataclass(frozen=True, slots=True, kw_only=True)
class HeatingPage(Page):
    """Sources and heaters, one of them open."""

    home: Home
    tab: str
    query: dict[str, str]
    sources: list[SourceRow]
    heaters: list[HeaterRow]
    chosen: Heater | None
    limit: str
    usual_limits: str
    split_rows: list[tuple[str, str, str, str]]
    droop: str
    unit: str
    words: Mapping[HeaterKind, str]
    source_words: Mapping[SourceKind, str]
    fuels: Mapping[Fuel, FuelKind]
    burns: bool
    has_kv: bool
    flow: FlowAxis | None


def heating_page(request: Request, home_id: str, at: str | None = None) -> Response:
    """Return the heating page or its part."""
    app = app_of(request)
    home, revision = app.homes.load(home_id)
    chosen = request.query_params.get("at", "") if at is None else at
    rooms = tuple(heating_of(home, room) for room in home.rooms if room.condition == "heated")
    heater = next((h for h in home.heaters if h.id == chosen), None)
    limit, usual = "", [show.temperature(LIMIT_C[zone], home, 0) for zone in ("occupied", "bath")]
    if heater is not None and heater.surface_limit_c is not None:
        limit = show.temperature(heater.surface_limit_c, home, 1)
    context = HeatingPage(
        frame=frame_of(request, home, revision, "survey"),
        home=home,
        tab="heating",
        query={"at": chosen},
        sources=_sources(home, chosen, rooms),
        heaters=_heaters(home, chosen, rooms),
        chosen=heater,
        limit=limit,
        usual_limits=f"{usual[0]}, in a bath {usual[1]}",
        split_rows=_split_rows(home, heater) if heater is not None and heater.split is not None else [],
        droop=_droop(home, heater) if heater is not None else "",
        unit=show.temperature_unit(home),
        words=HEATER_LABEL,
        source_words=SOURCE_NAME,
        fuels=FUELS,
        flow=flow_axis(home, rooms),
        has_kv=any(s.differential_kpa is not None for s in home.sources)
        or any(h.kv_m3_h is not None for h in home.heaters),
        burns=any(source.kind == "boiler" for source in home.sources),
        notice=request.query_params.get("notice", ""),
    )
    return render(request, "heating/_heating.html" if is_fragment(request) else "heating/heating.html", context)


@router.get("/homes/{home_id}/heating", name="heating")
def heating(request: Request, home_id: str) -> Response:
    """Show sources and heaters."""
    return heating_page(request, home_id)


@router.post("/homes/{home_id}/heating/{command}", name="heating_edit")
def heating_edit(
    request: Request, home_id: str, command: str, texts: Annotated[Texts, Depends(form_texts)]
) -> Response:
    """Do one command on sources or heaters."""
    edit = save_form(request, home_id, texts, COMMANDS, command)
    if is_fragment(request):
        return heating_page(request, home_id, edit.selected)
    return back_to(request, "heating", home_id, at=edit.selected or "")
