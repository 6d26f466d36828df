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
    ChangeSafetyChain,
    RemoveCalibration,
    RemoveMode,
    ReplaceDevice,
)
from warmeter.core.edits.item_commands import AddNote, RemoveNote, RemovePart
from warmeter.core.errors import WarmeterError
from warmeter.core.home.devices import Calibration, Device, SafetyChain, Way
from warmeter.core.home.document import Home
from warmeter.core.home.part import Note
from warmeter.core.units import kelvin_to
from warmeter.web import format as show
from warmeter.web.form_reader import Texts, form_texts
from warmeter.web.page import Page, app_of, back_to, frame_of, is_fragment, render
from warmeter.web.saving import Commands, save_form
from warmeter.web.survey.plan_view import FindingRow, finding_rows

router = APIRouter()
_ANY_DAY = date(2000, 1, 1)
POWER = {"mains": "mains", "battery": "battery", "mains_and_battery": "mains with battery", "wired_bus": "wired bus"}
LOCK = {"none": "has none", "off": "off", "on": "on"}
OWN_TIMETABLE = {"none": "keeps none", "off": "has one, off", "running": "has one, running"}
STATES = {"open": "open", "wanted": "wanted", "shut": "shut"}
CHAINS = {"leak": "leak", "frost": "frost", "heat": "heat"}
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
    "calibration-remove": RemoveCalibration,
    "note-add": AddNote,
    "note-remove": RemoveNote,
    "chain-add": AddSafetyChain,
    "chain-set": ChangeSafetyChain,
    "replace": ReplaceDevice,
    "remove": RemovePart,
}


@dataclass(frozen=True, slots=True, kw_only=True)
class DeviceRow:
    """A device in the list."""

    id: str
    name: str
    kind: str
    room: str
    reached: str
    power: str
    back: str
    own: str
    alone: str
    is_on: bool
    is_retired: bool
    letters: str


@dataclass(frozen=True, slots=True, kw_only=True)
class Swap:
    """What replacing a device would change."""

    by: str
    name: str
    brings: Consequences


def _row(home: Home, device: Device, at: str, letters: dict[str, list[str]]) -> DeviceRow:
    names = {d.id: d.name for d in home.devices}
    witness = names.get(device.witness_id or "", "")
    back = "two-way" if device.is_two_way else f"blind, seen by {witness}" if witness else "blind"
    power = POWER[device.power]
    if device.battery_pct is not None:
        power += f", {device.battery_pct} %"
    alone = [
        word
        for word, works in (
            ("no internet", device.works_without_internet),
            ("no controller", device.works_without_controller),
        )
        if works
    ]
    return DeviceRow(
        id=device.id,
        name=device.name,
        kind=floor_plan_edits.DEVICE_LABEL[device.kind],
        room=home.room(device.room_id).name if device.room_id else "–",
        reached=" ".join(part for part in (device.bus, device.address) if part) or "–",
        power=power,
        back=back,
        own=OWN_TIMETABLE[device.own_timetable],
        alone=", ".join(alone) or "nothing",
        is_on=device.id == at,
        is_retired=not device.is_in_service,
        letters=" ".join(letters.get(device.id, [])),
    )


def _swap(home: Home, device: Device, by: str) -> Swap | None:
    """Return what replacing would change; a new device is tried out without being written down."""
    trial, key = home, by
    if by.startswith("new:") and by.removeprefix("new:") in floor_plan_edits.DEVICE_LABEL:
        trial = floor_plan_edits.with_device(home, by.removeprefix("new:"), device.room_id, device.at)  # type: ignore[arg-type]
        key = trial.devices[-1].id
    if key not in {d.id for d in trial.devices}:
        return None
    try:
        after = replaced(trial, device.id, key, device.retired_on or _ANY_DAY)
    except WarmeterError:
        return None
    return Swap(by=by, name=after.device(key).name, brings=consequences(home, after))


@dataclass(frozen=True, slots=True, kw_only=True)
class DevicesPage(Page):
    """The register of devices, one of them open."""

    home: Home
    tab: str
    query: dict[str, str]
    rows: list[DeviceRow]
    chosen: Device | None
    findings: list[FindingRow]
    chains: list[tuple[SafetyChain, list[Device], list[FindingRow]]]
    notes: list[Note]
    guard: str
    offsets: list[tuple[str, Calibration]]
    series: list[str]
    swap: Swap | None
    unit: str
    difference_unit: str
    today: str
    words: dict[str, object]


def devices_page(request: Request, home_id: str, at: str | None = None) -> Response:
    """Return the register or its part."""
    app = app_of(request)
    home, revision = app.homes.load(home_id)
    query = {k: v for k, v in request.query_params.items() if k in ("at", "by")}
    if at is not None:
        query = {"at": at}
    chosen = next((d for d in home.devices if d.id == query.get("at", "")), None)
    rows = finding_rows(home, findings_of(home))
    letters: dict[str, list[str]] = {}
    for row in rows:
        if row.severity != "note":
            letters.setdefault(row.place, []).append(row.letter)
    mine = [row for row in rows if chosen is not None and row.place == chosen.id]
    now_ms = app.as_of_ms(home_id)
    context = DevicesPage(
        frame=frame_of(request, home, revision, "survey"),
        home=home,
        tab="devices",
        query=query,
        rows=[_row(home, d, query.get("at", ""), letters) for d in home.devices],
        chosen=chosen,
        findings=mine,
        chains=[
            (chain, [home.device(key) for key in chain.device_ids], [r for r in rows if r.place == chain.id])
            for chain in home.safety_chains
        ],
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
        swap=_swap(home, chosen, query["by"]) if chosen is not None and query.get("by") else None,
        unit=show.temperature_unit(home),
        difference_unit=show.difference_unit(home),
        today=str(app.clock(home).local(now_ms).date()),
        words={
            "kinds": floor_plan_edits.DEVICE_LABEL,
            "power": POWER,
            "lock": LOCK,
            "own": OWN_TIMETABLE,
            "ways": WAY_WORD,
            "states": STATES,
            "chains": CHAINS,
        },
        notice=request.query_params.get("notice", ""),
    )
    return render(request, "survey/_devices.html" if is_fragment(request) else "survey/devices.html", context)


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
