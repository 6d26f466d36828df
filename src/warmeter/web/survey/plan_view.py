"""The plan page as ready strings: picture, rooms against their heaters, one room in detail."""

from collections.abc import Mapping
from dataclasses import dataclass

from warmeter.core.building.checks.findings import findings_of
from warmeter.core.building.fixes import fix_label
from warmeter.core.building.heating import RoomHeating, heating_of
from warmeter.core.building.room_envelope import DerivedFigure, design_c, envelope_of
from warmeter.core.edits.floor_plan_edits import THING_LABEL
from warmeter.core.finding import Finding
from warmeter.core.floor_plan.walls import bearing_deg, compass
from warmeter.core.home.device_kinds import DEVICE_LABEL
from warmeter.core.home.document import Home
from warmeter.core.home.part import Note, Spot
from warmeter.core.home.presets import BUILT, CONDITION_LABEL, HEATER_LABEL, MASS_LABEL, USE
from warmeter.core.home.rooms import Opening, Room, Thing
from warmeter.core.thermal.room_fit import StoredFit
from warmeter.core.units import area_to, btu_h
from warmeter.core.water.usual_points import USUAL_POINT
from warmeter.web import format as show
from warmeter.web.floor_plan.draw import FloorPlanPicture, RoomFacts, draw_storey
from warmeter.web.form_reader import sign_of
from warmeter.web.heating.flow_axis import FlowAxis, flow_axis
from warmeter.web.links import link
from warmeter.web.survey.room_lines import EXAMPLES

SIDE_LABEL = {"up": "upper", "right": "right", "down": "lower", "left": "left"}
PANES = {
    "heat": "Where its heat goes",
    "shape": "Shape and figures",
    "openings": "Windows and doors",
    "inside": "What stands there",
}
LETTERS = "abcdefghijklmnopqrstuvwxyz"
PLAN_HEIGHT = 392
MOST_ROWS = 14  # a longer table shows the storey in view only


@dataclass(frozen=True, slots=True, kw_only=True)
class RoomRow:
    """One line of the rooms table."""

    id: str
    name: str
    design: str
    loss_w_k: str
    loss_w: str
    output_w: str
    share: str
    share_px: float
    is_short: bool
    is_on: bool
    storey_id: str
    note: str


@dataclass(frozen=True, slots=True, kw_only=True)
class FindingRow:
    """A finding with where to jump and what mends it at once."""

    letter: str
    kind: str
    sentence: str
    fix: str
    severity: str
    place: str
    jump: str
    act: str
    about: str


@dataclass(frozen=True, slots=True, kw_only=True)
class HeatRow:
    """One element of the chosen room's loss."""

    label: str
    size: str
    unit: str
    u: str
    share: str
    watts: str
    span: str
    px: float
    origin: str


@dataclass(frozen=True, slots=True, kw_only=True)
class FigureRow:
    """A figure of the drawing with what was typed over it."""

    key: str
    label: str
    unit: str
    worked_out: str
    typed: str
    reason: str
    on: str


@dataclass(frozen=True, slots=True, kw_only=True)
class InsideRow:
    """Something in a room, with its place."""

    id: str
    sort: str
    name: str
    kind: str
    x: float | None
    y: float | None
    z: float | None
    is_on: bool
    width: float | None = None
    depth: float | None = None


@dataclass(frozen=True, slots=True, kw_only=True)
class RoomDetail:
    """The chosen room."""

    room: Room
    loss: str
    beside: str
    load: str
    notes: list[Note]
    span: str
    fall: str
    indoor: str
    outdoor: str
    rows: list[HeatRow]
    learnt: str
    figures: list[FigureRow]
    openings: list[tuple[Opening, str, bool]]
    inside: list[InsideRow]
    neighbours: list[tuple[str, str]]
    copes: str
    settles: str
    design: str


@dataclass(frozen=True, slots=True, kw_only=True)
class FloorPlanView:
    """The whole page."""

    picture: FloorPlanPicture | None
    storeys: list[tuple[str, str, bool]]
    storey_id: str
    rooms: list[RoomRow]
    total: RoomRow | None
    findings: list[FindingRow]
    more_findings: int
    flow: FlowAxis | None
    detail: RoomDetail | None
    pane: str
    lead: str
    line_example: str
    undrawn: list[tuple[str, str]]
    choices: Mapping[str, Mapping[str, str]]


def link_to(home: Home, place: str) -> str:
    """Return the address of the page of a part of the home."""
    if place in {d.id for d in home.devices} or place in {c.id for c in home.safety_chains}:
        return link("devices", home.id, at=place)
    if place in {h.id for h in home.heaters} or place in {s.id for s in home.sources}:
        return link("heating", home.id, at=place)
    if place in {d.id for d in home.ducts}:
        return link("ducts", home.id, at=place)
    if place in {c.id for c in home.circuits}:
        return link("circuits", home.id, at=place)
    if place in {p.id for p in home.water_points}:
        return link("water", home.id, at=place)
    if place in {z.id for z in home.zones}:
        return link("zones", home.id, at=place)
    return link("tariff", home.id) if place in {t.id for t in home.tariffs} else link("survey", home.id, at=place)


def finding_rows(home: Home, findings: list[Finding]) -> list[FindingRow]:
    """Return findings with letters, jumps and mends."""
    rows = []
    for k, f in enumerate(findings):
        rows.append(
            FindingRow(
                letter=LETTERS[k % 26] if k < 26 else f"{LETTERS[k // 26 - 1]}{LETTERS[k % 26]}",
                kind=f.kind,
                sentence=f.sentence,
                fix=f.fix,
                severity=f.severity,
                place=f.place,
                jump=link_to(home, f.place),
                act=fix_label(f),
                about=",".join(f.about),
            )
        )
    return rows


def plan_view(
    home: Home, fits: Mapping[str, StoredFit], *, width: int, storey_id: str = "", at: str = "", pane: str = "heat"
) -> FloorPlanView:
    """Return the plan page of a home; ``at`` is the chosen room, opening or item."""
    heated = [room for room in home.rooms if room.condition == "heated"]
    heating = {room.id: heating_of(home, room, in_full=False) for room in heated}
    findings = findings_of(home)
    rows = finding_rows(home, findings)
    flags = {f.place: f.letter for f in reversed(rows) if f.severity != "note"}
    chosen = _room_of(home, at)
    storey = _storey(home, storey_id, chosen)
    facts = {key: _facts(h) for key, h in heating.items()}
    picture = None
    if storey:
        picture = draw_storey(home, storey, width=width, height=PLAN_HEIGHT, facts=facts, flags=flags, selected=at)
    order = sorted(home.storeys, key=lambda s: (s.level, s.id))
    return FloorPlanView(
        picture=picture,
        storeys=[(s.id, s.name, s.id == storey) for s in order],
        storey_id=storey,
        rooms=[
            _row(home, heating[r.id], r.id == (chosen.id if chosen else ""), fits)
            for r in heated
            if len(heated) <= MOST_ROWS or r.storey_id == storey or not r.is_drawn
        ],
        total=_total(list(heating.values())),
        findings=rows[:5],
        more_findings=max(0, len(rows) - 5),
        flow=flow_axis(home, tuple(heating.values())),
        detail=_detail(home, chosen, heating_of(home, chosen) if chosen.id in heating else None, fits, at)
        if chosen
        else None,
        pane=pane if pane in PANES else "heat",
        lead=_lead(home, storey),
        line_example=EXAMPLES[home.length_unit],
        undrawn=[(r.id, r.name) for r in home.rooms if not r.is_drawn],
        choices={
            "built": {k: p.label for k, p in BUILT.items()},
            "mass": {str(k): label for k, label in MASS_LABEL.items()},
            "use": {k: p.label for k, p in USE.items()},
            "condition": CONDITION_LABEL,
            "side": SIDE_LABEL,
            "storeys": {s.id: s.name for s in order},
            "panes": PANES,
            "devices": {f"device:{k}": label for k, label in DEVICE_LABEL.items()},
            "heaters": {f"heater:{k}": label for k, label in HEATER_LABEL.items()},
            "things": {f"thing:{k}": label for k, label in THING_LABEL.items()},
            "water": {f"water:{k}": usual.word for k, usual in USUAL_POINT.items()},
        },
    )


def _room_of(home: Home, at: str) -> Room | None:
    """Return the room that is chosen, or in which the chosen part is."""
    owners = {
        **{r.id: r.id for r in home.rooms},
        **{o.id: o.room_id for o in home.openings},
        **{t.id: t.room_id for t in home.things},
        **{h.id: h.room_id for h in home.heaters},
        **{d.id: d.room_id for d in home.devices if d.room_id},
        **{p.id: p.room_id for p in home.water_points if p.room_id},
    }
    key = owners.get(at)
    if key is None:
        return home.rooms[0] if home.rooms else None
    return home.room(key)


def _storey(home: Home, wanted: str, chosen: Room | None) -> str:
    known = [s.id for s in home.storeys]
    if wanted in known:
        return wanted
    if chosen is not None and chosen.storey_id in known and chosen.storey_id:
        return chosen.storey_id
    return known[0] if known else ""


def _lead(home: Home, storey: str) -> str:
    rooms = [r for r in home.rooms if r.storey_id == storey and r.rects]
    area = sum(envelope_of(home, r).floor_area_m2 for r in rooms)
    outdoor = f"{show.temperature(home.design.outdoor_c, home, 0)} {show.temperature_unit(home)}"
    outdoor += ", assumed" if not home.design.outdoor_from else ""
    flows = [s for s in home.sources if s.flow_c is not None]
    water = ""
    if flows:
        flow = flows[0].flow_c or 0.0
        water = (
            f" · flow {show.temperature(flow, home, 0)}, return {show.temperature(flow - flows[0].spread_k, home, 0)}"
        )
    name = f"{home.storey(storey).name}, " if storey else ""
    return f"{name}{len(rooms)} room{'s' * (len(rooms) != 1)}, {show.area(area, home)} · design {outdoor}{water}"


def _facts(h: RoomHeating) -> RoomFacts:
    return RoomFacts(
        loss_w=max(0.0, h.loss.safe_w),
        output_w=h.output_w,
        loss=show.number(h.loss.safe_w),
        output=show.number(h.output_w),
        is_short=h.output_w < h.loss.safe_w,
    )


def _row(home: Home, h: RoomHeating, is_on: bool, fits: Mapping[str, StoredFit]) -> RoomRow:
    share = h.share
    fit = fits.get(h.room.id)
    drawn = "" if h.room.is_drawn else "described, not drawn"
    learnt = ""
    if fit is not None and fit.fit.watts_known:
        learnt = f"learnt {show.number(fit.fit.loss_w_k.value, 1)} W/K"
    return RoomRow(
        id=h.room.id,
        name=h.room.name,
        design=show.temperature(design_c(h.room), home, 0),
        loss_w_k=show.number(h.loss.loss_w_k, 1),
        loss_w=show.number(h.loss.safe_w),
        output_w=show.number(h.output_w),
        share="–" if share == float("inf") else show.number(100 * share),
        share_px=round(min(2.0, share) * 24, 1) if share != float("inf") else 48.0,
        is_short=share < 1,
        is_on=is_on,
        storey_id=h.room.storey_id or "",
        note=" · ".join(part for part in (drawn, learnt) if part),
    )


def _total(rooms: list[RoomHeating]) -> RoomRow | None:
    if len(rooms) < 2:
        return None
    loss, given = sum(r.loss.safe_w for r in rooms), sum(r.output_w for r in rooms)
    return RoomRow(
        id="",
        name="All rooms",
        design="",
        loss_w_k=show.number(sum(r.loss.loss_w_k for r in rooms), 1),
        loss_w=show.number(loss),
        output_w=show.number(given),
        share=show.number(100 * given / loss) if loss > 0 else "–",
        share_px=0.0,
        is_short=given < loss,
        is_on=False,
        storey_id="",
        note="",
    )


def _detail(home: Home, room: Room, h: RoomHeating | None, fits: Mapping[str, StoredFit], at: str) -> RoomDetail:
    fit = fits.get(room.id)
    learnt = ""
    if fit is not None and fit.fit.watts_known:
        learnt = f"logs taught {show.number(fit.fit.loss_w_k.value, 1)} W/K ({show.span(fit.fit.loss_w_k, 1)})"
    most = max((abs(r.watts) for r in h.loss.rows), default=1.0) if h else 1.0
    rows = [
        HeatRow(
            label=r.label,
            size=show.number(area_to(r.size, home.length_unit) if r.unit == "m²" else r.size, 1),
            unit=sign_of(r.unit, home.units),
            u=show.number(r.u, 2),
            share=show.number(r.share, 2),
            watts=show.number(r.watts),
            span=f"{show.number(r.low_w)} to {show.number(r.high_w)}",
            px=round(110 * max(0.0, r.watts) / (most or 1.0), 1),
            origin=r.origin,
        )
        for r in (h.loss.rows if h else ())
    ]
    unit = show.temperature_unit(home)
    copes = settles = ""
    if h is not None and home.heaters_of(room.id):
        copes = (
            f"holds {show.temperature(h.loss.indoor_c, home, 0)} {unit} down to "
            f"{show.temperature(h.copes_to_c, home, 1)} {unit} outdoors"
            if h.copes_to_c is not None
            else "copes with any cold"
        )
        if h.settles_c < h.loss.indoor_c - 0.05:
            settles = f"on the design day it settles at about {show.temperature(h.settles_c, home, 1)} {unit}"
    return RoomDetail(
        room=room,
        loss=show.number(h.loss.total_w) if h else "–",
        beside=f"{show.number(btu_h(h.loss.total_w))} BTU/h" if h and home.length_unit == "ft" else "",
        load=show.number(h.loss.safe_w) if h else "–",
        notes=[n for n in home.notes if n.about_id in (at, room.id)],
        span=f"{show.number(h.loss.low_w)} to {show.number(h.loss.high_w)}" if h else "",
        fall=show.difference(h.loss.fall_k, home, 0) if h else "",
        indoor=show.temperature(design_c(room), home, 0),
        outdoor=show.temperature(home.design.outdoor_c, home, 0),
        rows=rows,
        learnt=learnt,
        figures=[_figure(home, room, f) for f in envelope_of(home, room).figures],
        openings=[
            (o, compass(bearing_deg(o.side, home.design.north_deg)), o.id == at) for o in home.openings_of(room.id)
        ],
        inside=_inside(home, room, at),
        neighbours=[
            (r.id, r.name) for r in home.rooms if r.id != room.id and r.storey_id == room.storey_id and r.rects
        ],
        copes=copes,
        settles=settles,
        design="" if room.design_c is None else show.temperature(room.design_c, home, 1),
    )


def _figure(home: Home, room: Room, f: DerivedFigure) -> FigureRow:
    def in_unit(value: float) -> float:
        return area_to(value, home.length_unit) if f.unit == "m²" else value

    own = next((o for o in room.overrules if o.figure == f.key), None)
    return FigureRow(
        key=f.key,
        label=f.label,
        unit=sign_of(f.unit, home.units),
        worked_out=show.number(in_unit(f.worked_out), f.decimals),
        typed="" if f.typed is None else f"{round(in_unit(f.typed), 4):g}",
        reason=own.reason if own else "",
        on=str(own.on) if own and own.on else "",
    )


def _inside(home: Home, room: Room, at: str) -> list[InsideRow]:
    found: list[tuple[str, str, str, str, Spot | None, Thing | None]] = []
    for heater in home.heaters_of(room.id):
        found.append(("heater", heater.id, heater.name, HEATER_LABEL[heater.kind], heater.at, None))
    for device in home.devices_in(room.id):
        found.append(("device", device.id, device.name, DEVICE_LABEL[device.kind], device.at, None))
    for thing in home.things:
        if thing.room_id == room.id:
            found.append(("thing", thing.id, thing.name, THING_LABEL[thing.kind], thing.at, thing))
    for point in home.water_points:
        if point.room_id == room.id:
            found.append(("water", point.id, point.name, USUAL_POINT[point.kind].word, point.at, None))
    return [
        InsideRow(
            id=key,
            sort=sort,
            name=name,
            kind=kind,
            x=None if spot is None else spot.x_m,
            y=None if spot is None else spot.y_m,
            z=None if spot is None else spot.z_m,
            is_on=key == at,
            width=None if thing is None else thing.width_m,
            depth=None if thing is None else thing.depth_m,
        )
        for sort, key, name, kind, spot, thing in found
    ]
