"""The six ways in: what each asks, what it adds to the home, what it lives on in a log, and what comes of it."""

from collections.abc import Callable, Mapping
from dataclasses import dataclass
from typing import Literal

from warmeter.core.edits.edit import Command
from warmeter.core.home.document import Home
from warmeter.core.home.presets import HEATER_LABEL, LOUDNESS_LABEL, MACHINE_LABEL
from warmeter.core.nuisances.cold_room import ColdRoom
from warmeter.core.nuisances.finished_machine import MachineUnnoticed
from warmeter.core.nuisances.stray_water import StrayWater
from warmeter.core.nuisances.unknown_costs import LeftOn, UnknownCosts
from warmeter.core.nuisances.window_and_heater import WindowAndHeater
from warmeter.service.nuisances.beginning import WantedColumn

AskedKind = Literal["text", "number", "select", "file", "time", "date", "tick"]


@dataclass(frozen=True, slots=True, kw_only=True)
class AskedInput:
    """One input: its field, label, kind, usual value, and what stands beside it; ``quantity`` gives its unit."""

    name: str
    label: str
    kind: AskedKind = "text"
    usual: str = ""
    note: str = ""
    options: Mapping[str, str] | None = None
    quantity: Literal["", "°C", "m²", "price", "L/min"] = ""
    is_needed: bool = True


@dataclass(frozen=True, slots=True, kw_only=True)
class WayIn:
    """A way in: its words, its inputs, ten at most, the command they make, and the columns that it lives on."""

    key: str
    title: str
    begins: str
    asks: tuple[AskedInput, ...]
    command: type[Command]
    wanted: Callable[[Home, str], tuple[WantedColumn, ...]]


def _of_machine(_: Home, machine_id: str) -> tuple[WantedColumn, ...]:
    return (WantedColumn(quantity="electric_w", subject=machine_id),)


def _of_room(_: Home, room_id: str) -> tuple[WantedColumn, ...]:
    return (
        WantedColumn(quantity="room_temperature", subject=room_id),
        WantedColumn(quantity="outdoor_temperature", subject="", is_needed=False),
        WantedColumn(quantity="heat_w", subject=room_id, is_needed=False),
    )


def _of_meter(_: Home, __: str) -> tuple[WantedColumn, ...]:
    return (
        WantedColumn(quantity="grid_import_w", subject=""),
        WantedColumn(quantity="outdoor_temperature", subject="", is_needed=False),
    )


def _of_leak(home: Home, rule_id: str) -> tuple[WantedColumn, ...]:
    return tuple(
        WantedColumn(quantity=s.quantity, subject=s.subject_id or "")
        for c in home.rule(rule_id).conditions
        for s in c.signals
        if s.quantity == "is_wet"
    )[:1]


def _of_window(home: Home, rule_id: str) -> tuple[WantedColumn, ...]:
    contacts = [s.subject_id or "" for c in home.rule(rule_id).conditions for s in c.signals if s.quantity == "is_open"]
    zone = next(z for z in home.zones if any(z.id in getattr(step, "zone_ids", ()) for step in home.rule(rule_id).then))
    room_id = zone.room_ids[0]
    told = tuple(WantedColumn(quantity="is_open", subject=contact) for contact in contacts[:1])
    return (
        *told,
        WantedColumn(quantity="room_temperature", subject=room_id, is_needed=not told),
        WantedColumn(quantity="heat_w", subject=room_id, is_needed=False),
        WantedColumn(quantity="outdoor_temperature", subject="", is_needed=False),
    )


_HEATERS = {str(key): word for key, word in HEATER_LABEL.items()}
_LOUDNESS = {str(key): word for key, word in LOUDNESS_LABEL.items()}
_MACHINES = {str(key): word for key, word in MACHINE_LABEL.items()}
_PRICE = AskedInput(
    name="price", label="Price of a kWh", kind="number", quantity="price", note="leave open: no money", is_needed=False
)
_HEATER = AskedInput(name="heater", label="What heats it", kind="select", options=_HEATERS, usual="electric_panel")
_HEATER_W = AskedInput(
    name="heater_w", label="Its rated heat, W", kind="number", note="from its plate; 1.5 kW is understood"
)
_TROUBLES = {"cold": "too cold", "warm": "too warm"}
_TELL = AskedInput(name="tell", label="Who is told", usual="Everybody")
WAYS: tuple[WayIn, ...] = (
    WayIn(
        key="machine",
        title="An appliance finished and nobody noticed",
        begins="begins with a log of its plug",
        asks=(
            AskedInput(name="kind", label="What it is", kind="select", options=_MACHINES, usual="washer"),
            AskedInput(name="file", label="Its log", kind="file", note="its plug's file: times and watts"),
            _TELL,
            AskedInput(name="loudness", label="How loudly", kind="select", options=_LOUDNESS, usual="aloud"),
            AskedInput(name="quiet_from", label="Quiet from", kind="time", usual="22:00", is_needed=False),
            AskedInput(name="quiet_until", label="Quiet until", kind="time", usual="07:00", is_needed=False),
            _PRICE,
        ),
        command=MachineUnnoticed,
        wanted=_of_machine,
    ),
    WayIn(
        key="cold",
        title="A room is cold when it should be warm, or the reverse",
        begins="begins with some days of its log",
        asks=(
            AskedInput(name="room", label="Which room"),
            AskedInput(name="trouble", label="It is", kind="select", options=_TROUBLES, usual="cold"),
            AskedInput(name="file", label="Its log", kind="file", note="temperature in and out, and the heat given"),
            AskedInput(name="warm_by", label="Warm from", kind="time", usual="06:30"),
            AskedInput(name="warm_c", label="How warm", kind="number", usual="20", quantity="°C"),
            AskedInput(name="night_c", label="At night", kind="number", usual="16", quantity="°C"),
            _HEATER,
            _HEATER_W,
            AskedInput(name="area_m2", label="Floor area", kind="number", usual="15", quantity="m²"),
            _PRICE,
        ),
        command=ColdRoom,
        wanted=_of_room,
    ),
    WayIn(
        key="costs",
        title="Nobody understands what it costs",
        begins="begins with two meter readings",
        asks=(
            AskedInput(name="first_on", label="First reading, on", kind="date"),
            AskedInput(name="first_at", label="at", kind="time", usual="08:00"),
            AskedInput(name="first_kwh", label="Meter, kWh", kind="number"),
            AskedInput(name="last_on", label="Second reading, on", kind="date"),
            AskedInput(name="last_at", label="at", kind="time", usual="08:00"),
            AskedInput(name="last_kwh", label="Meter, kWh", kind="number"),
            _PRICE,
            AskedInput(
                name="standing", label="Standing charge a day", kind="number", quantity="price", is_needed=False
            ),
        ),
        command=UnknownCosts,
        wanted=_of_meter,
    ),
    WayIn(
        key="left-on",
        title="Something is left on",
        begins="begins with the meter at night",
        asks=(
            AskedInput(
                name="file",
                label="The meter's log",
                kind="file",
                note="interval data of a week or more; temperature outdoors helps",
            ),
            _PRICE,
            AskedInput(
                name="is_heated_with_electricity", label="Electricity heats the home", kind="tick", is_needed=False
            ),
        ),
        command=LeftOn,
        wanted=_of_meter,
    ),
    WayIn(
        key="water",
        title="Water is where it should not be",
        begins="begins with what it would harm",
        asks=(
            AskedInput(name="room", label="Where", note="the room that it would run into"),
            AskedInput(name="flow_l_min", label="What would flow", kind="number", usual="10", quantity="L/min"),
            AskedInput(name="has_valve", label="A valve can shut it by itself", kind="tick", is_needed=False),
            _TELL,
            AskedInput(name="loudness", label="How loudly", kind="select", options=_LOUDNESS, usual="alarm"),
            AskedInput(name="there_min", label="Somebody is there after, min", kind="number", usual="30"),
            AskedInput(name="notice_h", label="Seen by chance after, h", kind="number", usual="12"),
            AskedInput(name="file", label="The sensor's log", kind="file", note="if there is one", is_needed=False),
        ),
        command=StrayWater,
        wanted=_of_leak,
    ),
    WayIn(
        key="window",
        title="A window and a heater work against each other",
        begins="begins with a contact, or a log",
        asks=(
            AskedInput(name="room", label="Which room"),
            AskedInput(
                name="file", label="Its log", kind="file", note="the window open or shut, or the temperature; the heat"
            ),
            AskedInput(name="has_contact", label="The window has a contact", kind="tick", usual="on", is_needed=False),
            _HEATER,
            _HEATER_W,
            _PRICE,
        ),
        command=WindowAndHeater,
        wanted=_of_window,
    ),
)


def way_of(key: str) -> WayIn:
    """Return a way in by its key, the first where there is no such."""
    return next((way for way in WAYS if way.key == key), WAYS[0])
