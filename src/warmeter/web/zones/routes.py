"""Routes of zones: the wiring sheet, sensors by level, checks, one zone or several."""

from collections.abc import Mapping
from dataclasses import dataclass, field, replace
from typing import Annotated

from fastapi import APIRouter, Depends, Request
from fastapi.responses import Response

from warmeter.core.building.checks.findings import RULES, findings_of
from warmeter.core.building.checks.zoning import can_cool
from warmeter.core.building.replacing import Consequences, consequences, room_into_zone
from warmeter.core.edits.item_commands import FixFinding
from warmeter.core.edits.level_commands import ChangeLevelCooling
from warmeter.core.edits.zone_commands import ChangeGap, ChangeZone, CountSensors, MoveRoomToZone, ToggleFollower
from warmeter.core.errors import HomeError, OutOfRange
from warmeter.core.home.document import Home
from warmeter.core.home.presets import COUNT_RULE_LABEL
from warmeter.core.home.rooms import Room
from warmeter.core.home.zones import Level, Sensing, Zone
from warmeter.core.sensing.calibration import CountRule
from warmeter.service.app import App
from warmeter.service.zones.counted_sensors import counted_now
from warmeter.service.zones.grouping import compare_groupings, proposals_of
from warmeter.web import format as show
from warmeter.web.floor_plan.file import svg_file
from warmeter.web.form_reader import Texts, form_texts
from warmeter.web.page import Page, app_of, back_to, frame_of, is_fragment, render, strip_width
from warmeter.web.saving import Commands, save_form
from warmeter.web.survey.plan_view import FindingRow, finding_rows
from warmeter.web.zones.several import SeveralView, several_view
from warmeter.web.zones.wiring import AIR, WiringSheet, wiring_sheet

router = APIRouter()
COMMANDS: Commands = {
    "set": ChangeZone,
    "room-to": MoveRoomToZone,
    "follow": ToggleFollower,
    "sensing": CountSensors,
    "gap": ChangeGap,
    "cooling": ChangeLevelCooling,
    "fix": FixFinding,
}
LETTERS = ("A", "B", "C", "D", "E", "F", "G", "H")
# Above so many rooms a comparison takes over half a second: the page comes first and says so.
MOST_AT_ONCE = 12
PANES = {"wiring": "Wiring", "sensors": "Which sensors count", "checks": "Checks", "several": "One zone or several?"}


@dataclass(frozen=True, slots=True, kw_only=True)
class SensingRow:
    """What counts in a zone at a level, and what could: (id, name, whether it counts, weight, whether it is of the zone)."""

    level_id: str
    name: str
    rule: CountRule
    is_own: bool
    now: str
    sensors: list[tuple[str, str, bool, str, bool]]


@dataclass(frozen=True, slots=True, kw_only=True)
class ZoneRanges:
    """What a zone may ask, and what it never falls under, in the home's unit; "" where it says nothing."""

    low: str
    high: str
    guard: str
    home_guard: str
    off: str


@dataclass(frozen=True, slots=True, kw_only=True)
class Move:
    """What moving a room into another zone would change."""

    room_id: str
    zone_id: str
    title: str
    brings: Consequences


@dataclass(frozen=True, slots=True, kw_only=True)
class ZonesPage(Page):
    """The wiring of zones with the chosen one, and groupings compared where that is asked."""

    home: Home
    query: Mapping[str, str]
    pane: str
    panes: Mapping[str, str]
    sheet: WiringSheet | None
    findings: list[FindingRow]
    move: Move | None
    passing: list[tuple[str, str]]
    rules: Mapping[str, str]
    zone: Zone | None
    followers: list[tuple[str, str, bool]]
    sensing: list[SensingRow]
    rule_words: Mapping[CountRule, str]
    ranges: ZoneRanges | None
    levels: list[tuple[Level, str, str]]
    cools: bool
    unit: str
    lead: str
    wait: str = ""
    rooms: int = 0
    several: SeveralView | None = None
    why: str = ""
    own: Mapping[str, str] = field(default_factory=dict)
    letters: tuple[str, ...] = ()
    leader: str = ""
    rule: str = "one"
    heated: list[Room] = field(default_factory=list)


@dataclass(frozen=True, slots=True, kw_only=True)
class WiringFile:
    """The wiring sheet as a file of its own."""

    sheet: WiringSheet


def zones_page(request: Request, home_id: str, at: str | None = None) -> Response:
    """Return the zones page or its part."""
    app = app_of(request)
    home, revision = app.homes.load(home_id)
    query = {k: v for k, v in request.query_params.items() if k in ("at", "pane")}
    if at is not None:
        query["at"] = at
    pane = query.get("pane", "wiring")
    findings = findings_of(home)
    rows = finding_rows(home, findings)
    flags = {f.place: f.letter for f in reversed(rows) if f.severity != "note"}
    chosen = next((z for z in home.zones if z.id == query.get("at", "")), home.zones[0] if home.zones else None)
    kinds = {f.kind for f in findings}
    page = ZonesPage(
        frame=frame_of(request, home, revision, "zones"),
        home=home,
        query=query,
        pane=pane if pane in PANES else "wiring",
        panes=PANES,
        sheet=wiring_sheet(
            home, flags, width=max(900, strip_width(request, has_aside=False) - 8), at=chosen.id if chosen else ""
        )
        if home.zones
        else None,
        findings=rows,
        move=_move(home, request.query_params.get("room", ""), request.query_params.get("to", "")),
        passing=[(kind, rule) for kind, rule in RULES.items() if kind not in kinds],
        rules=RULES,
        zone=chosen,
        followers=_followers(home, chosen) if chosen else [],
        sensing=_sensing(app_of(request), home, chosen) if chosen else [],
        rule_words=COUNT_RULE_LABEL,
        ranges=_ranges(home, chosen) if chosen else None,
        levels=[
            (
                level,
                show.temperature(level.heating_c, home),
                show.temperature(level.cooling_c, home) if level.cooling_c is not None else "",
            )
            for level in home.levels
        ],
        cools=any(can_cool(home, z) for z in home.zones),
        unit=show.temperature_unit(home),
        lead=_lead(home, rows),
        notice=request.query_params.get("notice", ""),
    )
    if page.pane == "several" and home.zones:
        rooms = sum(room.condition == "heated" for room in home.rooms)
        is_long = rooms > MOST_AT_ONCE and not request.query_params.get("run")
        page = (
            replace(page, wait=f"{request.url.path}?{request.url.query}&run=1", rooms=rooms)
            if is_long
            else _with_several(page, request)
        )
    return render(request, "zones/_zones.html" if is_fragment(request) else "zones/zones.html", page)


def _with_several(page: ZonesPage, request: Request) -> ZonesPage:
    """Return a page with groupings tried on a typical week, or why none could be."""
    home, asked = page.home, request.query_params
    rule = asked.get("rule", "one")
    rule = rule if rule in ("one", "mean", "coldest", "warmest") else "one"
    own = {r.id: asked[f"g_{r.id}"] for r in home.rooms if asked.get(f"g_{r.id}", "") in LETTERS}
    proposals = proposals_of(home, asked.get("leader", ""), own, rule)  # type: ignore[arg-type]
    try:
        found = compare_groupings(app_of(request), home, proposals)
    except HomeError as error:
        return replace(page, why=error.args[0])
    shown = next((t for t in found.trials if t.proposal.key == asked.get("show", "")), found.favoured)
    return replace(
        page,
        several=several_view(home, found, shown),
        own=own,
        letters=LETTERS,
        leader=asked.get("leader", ""),
        rule=rule,
        heated=[r for r in home.rooms if r.condition == "heated" and home.heaters_of(r.id)],
    )


def _move(home: Home, room_id: str, zone_id: str) -> Move | None:
    """Return what moving a room into another zone would change, None if that is not asked."""
    rooms, zones = {r.id: r.name for r in home.rooms}, {z.id: z.name for z in home.zones}
    if room_id not in rooms or zone_id not in zones:
        return None
    after = room_into_zone(home, room_id, zone_id)
    return Move(
        room_id=room_id,
        zone_id=zone_id,
        title=f"{rooms[room_id]} into {zones[zone_id]}",
        brings=consequences(home, after),
    )


def _lead(home: Home, rows: list) -> str:  # type: ignore[type-arg]
    placed = sum(len(z.room_ids) for z in home.zones)
    sensors = sum(d.kind in AIR and d.is_in_service for d in home.devices)
    warnings = sum(row.severity != "note" for row in rows)
    return f"{placed} rooms in {len(home.zones)} zones, {sensors} sensors · {warnings} finding{'s' * (warnings != 1)}"


def _followers(home: Home, zone: Zone) -> list[tuple[str, str, bool]]:
    following = home.following(zone)
    near = [h for h in home.heaters if h.room_id in zone.room_ids or h.id in following]
    return [(h.id, h.name, h.id in following) for h in near]


def _sensing(app: App, home: Home, zone: Zone) -> list[SensingRow]:
    """Return the rule of every level, the common one first, with all sensors that could count."""
    could = [d for d in home.devices if d.kind in AIR and d.is_in_service]
    could.sort(key=lambda d: d.room_id not in zone.room_ids)
    found = []
    for level_id, name in ((None, "every level"), *((level.id, level.name) for level in home.levels)):
        own = next((s for s in zone.sensing if s.level_id == level_id), None)
        counted = {c.device_id: c.weight for c in own.sensors} if own else {}
        found.append(
            SensingRow(
                level_id=level_id or "",
                name=name,
                rule=own.rule if own else "one",
                is_own=own is not None,
                now=_counted_words(app, home, own) if own else "",
                sensors=[
                    (d.id, d.name, d.id in counted, f"{counted.get(d.id, 1.0):g}", d.room_id in zone.room_ids)
                    for d in could
                ],
            )
        )
    return found


def _counted_words(app: App, home: Home, sensing: Sensing) -> str:
    """Return what the counted sensors say now, in words."""
    try:
        value, used = counted_now(app, home, sensing)
    except OutOfRange as error:
        return show.error_words(error, home.units)
    if value is None:
        return "no data within the last hour"
    which = "1 sensor" if used == 1 else f"{used} sensors"
    return f"now {show.temperature(value, home)} {show.temperature_unit(home)} by {which}"


def _ranges(home: Home, zone: Zone) -> ZoneRanges:
    def text(value: float | None) -> str:
        return "" if value is None else show.temperature(value, home, 1)

    return ZoneRanges(
        low=text(zone.low_c),
        high=text(zone.high_c),
        guard=text(zone.guard.low_c if zone.guard else None),
        home_guard=text(home.guard.low_c),
        off=text(zone.off_c),
    )


@router.get("/homes/{home_id}/zones", name="zones")
def zones(request: Request, home_id: str) -> Response:
    """Show the zones."""
    return zones_page(request, home_id)


@router.get("/homes/{home_id}/wiring.svg", name="wiring_svg")
def wiring_svg(request: Request, home_id: str) -> Response:
    """Save the wiring sheet as SVG, its colours and faces inside."""
    home, _ = app_of(request).homes.load(home_id)
    flags = {f.place: f.letter for f in reversed(finding_rows(home, findings_of(home))) if f.severity != "note"}
    picture = render(request, "zones/wiring.svg", WiringFile(sheet=wiring_sheet(home, flags, width=1100)))
    return svg_file(bytes(picture.body).decode(), "wiring.svg")


@router.post("/homes/{home_id}/zones/{command}", name="zone_edit")
def zone_edit(request: Request, home_id: str, command: str, texts: Annotated[Texts, Depends(form_texts)]) -> Response:
    """Do one command on zones."""
    edit = save_form(request, home_id, texts, COMMANDS, command)
    if is_fragment(request):
        return zones_page(request, home_id, edit.selected)
    return back_to(request, "zones", home_id, at=edit.selected or "", pane=request.query_params.get("pane", "wiring"))
