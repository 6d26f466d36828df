"""Routes of the device register: the list, one device in full, chains, and replacing."""

from dataclasses import dataclass
from datetime import date
from typing import Annotated, get_args

from fastapi import APIRouter, Depends, Request
from fastapi.responses import Response

from warmeter.core.building.checks.findings import findings_of
from warmeter.core.building.replacing import Consequences, consequences, replaced
from warmeter.core.edits import floor_plan_edits
from warmeter.core.edits.device_commands import (
    AddControlPath,
    AddDevice,
    AddMode,
    AddSafetyChain,
    AdoptDevice,
    CalibrateDevice,
    ChangeControlPath,
    ChangeDevice,
    ChangeRawChain,
    ChangeSafetyChain,
    RemoveCalibration,
    RemoveMode,
    ReplaceDevice,
)
from warmeter.core.edits.item_commands import AddNote, RemoveNote, RemovePart
from warmeter.core.edits.setting_commands import ChangeExercise, ReadSetting, RemoveSettingReading
from warmeter.core.errors import WarmeterError
from warmeter.core.home.checklists import ChecklistKind
from warmeter.core.home.device_kinds import DEVICE_LABEL, DEVICE_TRAITS, DeviceTraits
from warmeter.core.home.devices import Calibration, Device, SafetyChain, Way
from warmeter.core.home.document import Home
from warmeter.core.home.part import Note
from warmeter.core.units import kelvin_to
from warmeter.service.readings.own_reading import own_reading
from warmeter.service.readings.sensor_log import sensor_judgement, unmeasured_rooms
from warmeter.store.photos import PhotoLine
from warmeter.web import format as show
from warmeter.web.devices.own_offset_view import OwnOffsetView, own_offset_view
from warmeter.web.devices.raw_view import READS, SIDES, RawChainView, raw_chain_view
from warmeter.web.devices.register import (
    OWN_TIMETABLE,
    SHOWN,
    BatteryRow,
    DeviceRow,
    Narrowed,
    at_a_glance,
    batteries,
    device_row,
    feeders,
    fitting_powers,
    narrowed,
    path_beginners,
    path_followers,
    path_kinds,
    witnesses,
)
from warmeter.web.devices.sensor_log_view import SensorLogView, sensor_log_view
from warmeter.web.form_reader import Texts, form_texts
from warmeter.web.page import Page, app_of, back_to, frame_of, is_fragment, render
from warmeter.web.saving import Commands, save_form
from warmeter.web.survey.plan_view import FindingRow, finding_rows
from warmeter.web.timetable.writing import SHORT_WEEKDAY
from warmeter.web.work.checklist_view import CHECKLIST_COMMANDS, ChecklistView, checklists_about, photos_about

router = APIRouter()
_ANY_DAY = date(2000, 1, 1)
LOCK = {"none": "has none", "off": "off", "on": "on"}
STATES = {"open": "not looked at", "wanted": "needed", "shut": "not needed"}
WAY_WORD = {way: way.replace("_", " ") for way in get_args(Way)}
COMMANDS: Commands = {
    "add": AddDevice,
    "set": ChangeDevice,
    "adopt": AdoptDevice,
    "way-add": AddControlPath,
    "way-set": ChangeControlPath,
    "mode-add": AddMode,
    "mode-remove": RemoveMode,
    "calibrate": CalibrateDevice,
    "raw": ChangeRawChain,
    "calibration-remove": RemoveCalibration,
    "setting-read": ReadSetting,
    "setting-remove": RemoveSettingReading,
    "exercise": ChangeExercise,
    "note-add": AddNote,
    "note-remove": RemoveNote,
    **CHECKLIST_COMMANDS,
    "chain-add": AddSafetyChain,
    "chain-set": ChangeSafetyChain,
    "replace": ReplaceDevice,
    "remove": RemovePart,
}


@dataclass(frozen=True, slots=True, kw_only=True)
class Swap:
    """What replacing a device would change."""

    by: str
    name: str
    brings: Consequences


def _swap(home: Home, device: Device, by: str) -> Swap | None:
    """Return what replacing would change; a new device is tried out without being saved."""
    trial, key = home, by
    if by.startswith("new:") and by.removeprefix("new:") in DEVICE_LABEL:
        trial = floor_plan_edits.with_device(home, by.removeprefix("new:"), device.room_id, device.at)  # type: ignore[arg-type]
        key = trial.devices[-1].id
    if key not in {d.id for d in trial.devices}:
        return None
    try:
        after = replaced(trial, device.id, key, device.retired_on or _ANY_DAY)
    except WarmeterError:
        return None
    return Swap(by=by, name=after.device(key).name, brings=consequences(home, after))


@dataclass(frozen=True, slots=True)
class ChainRow:
    """An alarm path: its devices in order, what could follow, and what the checks say of it."""

    chain: SafetyChain
    devices: list[Device]
    followers: list[Device]
    findings: list[FindingRow]


@dataclass(frozen=True, slots=True)
class FittingChoices:
    """What can be asked of the chosen device: what is usual of its kind, and what its fields can name."""

    usual: DeviceTraits
    powers: dict[str, str]
    witnesses: list[Device]
    feeders: list[Device]


@dataclass(frozen=True, slots=True, kw_only=True)
class DevicesPage(Page):
    """The register of devices, one of them open."""

    home: Home
    tab: str
    query: dict[str, str]
    rows: list[DeviceRow]
    glance: list[Narrowed]
    chosen: Device | None
    fits: FittingChoices | None
    findings: list[FindingRow]
    batteries: list[BatteryRow]
    chains: list[ChainRow]
    path_kinds: list[str]
    path_beginners: list[Device]
    notes: list[Note]
    guard: str
    offsets: list[tuple[str, Calibration]]
    series: list[str]
    swap: Swap | None
    own: OwnOffsetView | None
    judged: SensorLogView | None
    unmeasured: list[str]
    raw: RawChainView | None
    checklists: list[ChecklistView]
    list_kind: ChecklistKind
    photos: list[PhotoLine]
    unit: str
    difference_unit: str
    today: str
    words: dict[str, object]


def _list_kind(device: Device) -> ChecklistKind:
    """Return the checklist that a device is put into service by."""
    return "valve_stroke" if device.kind == "radiator_valve" else "device_birth"


def devices_page(request: Request, home_id: str, at: str | None = None) -> Response:
    """Return the register or its part."""
    app = app_of(request)
    home, revision = app.homes.load(home_id)
    query = {k: v for k, v in request.query_params.items() if k in ("at", "by", "room", "kind", "show") and v}
    if at is not None:
        query = {**query, "at": at, "by": ""}
    chosen = next((d for d in home.devices if d.id == query.get("at", "")), None)
    rows = finding_rows(home, findings_of(home))
    letters: dict[str, list[str]] = {}
    for row in rows:
        if row.severity != "note":
            letters.setdefault(row.place, []).append(row.letter)
    known = {d.id for d in home.devices} | {chain.id for chain in home.safety_chains}
    now_ms = app.as_of_ms(home_id)
    context = DevicesPage(
        frame=frame_of(request, home, revision, "survey"),
        home=home,
        tab="devices",
        query=query,
        rows=[device_row(home, d, query.get("at", ""), letters) for d in narrowed(home, query, letters)],
        glance=at_a_glance(home, letters),
        chosen=chosen,
        fits=None
        if chosen is None
        else FittingChoices(
            DEVICE_TRAITS[chosen.kind], fitting_powers(chosen), witnesses(home, chosen), feeders(home, chosen)
        ),
        findings=[row for row in rows if row.place in ({chosen.id} if chosen is not None else known)],
        batteries=batteries(home),
        chains=[
            ChainRow(
                chain,
                [home.device(key) for key in chain.device_ids],
                path_followers(home, chain.kind, chain.device_ids),
                [row for row in rows if row.place == chain.id],
            )
            for chain in home.safety_chains
        ],
        path_kinds=path_kinds(home),
        path_beginners=path_beginners(home),
        notes=[n for n in home.notes if chosen is not None and n.about_id == chosen.id],
        guard="" if chosen is None or chosen.guard_c is None else show.temperature(chosen.guard_c, home, 1),
        offsets=[
            (f"{kelvin_to(c.offset, home.temperature_unit):+.2f}".replace("-", show.MINUS), c)
            for c in (chosen.calibrations if chosen else ())
        ],
        series=[
            s.record.quantity
            for s in app.readings.series(home_id)
            if chosen is not None and s.record.subject == chosen.id
        ],
        checklists=[]
        if chosen is None
        else checklists_about(home, chosen.id, _list_kind(chosen), app.photos.lines(home_id)),
        photos=[] if chosen is None else photos_about(app.photos.lines(home_id), chosen.id),
        list_kind="device_birth" if chosen is None else _list_kind(chosen),
        raw=None if chosen is None else raw_chain_view(home, chosen.raw),
        own=None if chosen is None else own_offset_view(home, own_reading(app, home, chosen)),
        judged=None
        if chosen is None
        else sensor_log_view(home, chosen, sensor_judgement(app, home, chosen), app.clock(home)),
        unmeasured=[] if chosen is not None else [room.name for room in unmeasured_rooms(app, home)],
        swap=_swap(home, chosen, query["by"]) if chosen is not None and query.get("by") else None,
        unit=show.temperature_unit(home),
        difference_unit=show.difference_unit(home),
        today=str(app.clock(home).local(now_ms).date()),
        words={
            "kinds": DEVICE_LABEL,
            "shown": SHOWN,
            "lock": LOCK,
            "own": OWN_TIMETABLE,
            "ways": WAY_WORD,
            "states": STATES,
            "reads": READS,
            "sides": SIDES,
            "days": SHORT_WEEKDAY,
        },
        notice=request.query_params.get("notice", ""),
    )
    return render(request, "devices/_devices.html" if is_fragment(request) else "devices/devices.html", context)


@router.get("/homes/{home_id}/devices", name="devices")
def devices(request: Request, home_id: str) -> Response:
    """Show the register."""
    return devices_page(request, home_id)


@router.post("/homes/{home_id}/devices/{command}", name="device_edit")
def device_edit(request: Request, home_id: str, command: str, texts: Annotated[Texts, Depends(form_texts)]) -> Response:
    """Do one command on the register."""
    edit = save_form(request, home_id, texts, COMMANDS, command)
    if is_fragment(request):
        return devices_page(request, home_id, edit.selected)
    return back_to(request, "devices", home_id, at=edit.selected or "")
