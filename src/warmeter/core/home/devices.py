"""The device register: what each device is, how it is reached, by whom it can be commanded."""

from dataclasses import dataclass
from datetime import date
from typing import Annotated, Literal

from annotated_types import Ge, Gt, Le, Len

from warmeter.core.home.panels import PanelFunction
from warmeter.core.home.part import Document, Id, Name, SetpointC, Spot, Text, Unit, Word
from warmeter.core.home.raw_readings import RawChain
from warmeter.core.home.timetables import Weekday
from warmeter.core.home.water import SelfTest

DeviceKind = Literal[
    "thermostat",
    "radiator_valve",
    "air_sensor",
    "floor_probe",
    "contact",
    "motion",
    "plug",
    "relay",
    "infrared_sender",
    "blind_motor",
    "leak_sensor",
    "water_valve",
    "meter",
    "smoke_alarm",
    "lamp_sensor",
    "pump_switch",
    "lamp_switch",
    "wall_switch",
    "controller",
    "telephone",
    "mattress",
    "presence_sensor",
]
Quantity = Annotated[str, Len(1, 40)]
Power = Literal["mains", "battery", "mains_and_battery", "wired_bus"]
Way = Literal["wheel", "remote", "voice", "network", "maker_service", "own_buttons"]
ControlState = Literal["wanted", "shut", "open"]
OwnTimetable = Literal["none", "off", "running"]
ChainKind = Literal["leak", "frost", "heat"]


@dataclass(frozen=True, slots=True, kw_only=True)
class Mode(Document):
    """A mode in the device's own word, and what it really does."""

    word: Name
    does: Text


@dataclass(frozen=True, slots=True, kw_only=True)
class ControlPath(Document):
    """A way to command a device: by whom, and whether it is wanted, shut, or open by oversight."""

    way: Way
    by: Name
    state: ControlState = "open"


@dataclass(frozen=True, slots=True, kw_only=True)
class Identity(Document):
    """An address or code that a device has had, from a date on, and why it changed."""

    address: Word
    since: date | None = None
    reason: Text = ""


@dataclass(frozen=True, slots=True, kw_only=True)
class Calibration(Document):
    """A correction applied at reading: true value = gain × raw + offset, found on a date against a reference."""

    offset: Annotated[float, Ge(-50), Le(50)]
    gain: Annotated[float, Gt(0), Le(10)] = 1.0
    on: date | None = None
    reference: Text = ""


@dataclass(frozen=True, slots=True, kw_only=True)
class SettingReading(Document):
    """A setting of a device as it was read in one place (its display, the network) on a date; several stay side by side."""

    setting: Name
    value: Name
    where: Name
    on: date | None = None


@dataclass(frozen=True, slots=True, kw_only=True)
class ValveExercise(Document):
    """When a valve works itself free: a weekday and time, or so many days apart; ``worked_on`` it was last seen to."""

    weekday: Weekday | None = None
    at_min: Annotated[int, Ge(0), Le(1439), Unit("time of day")] | None = None
    every_days: Annotated[int, Ge(1), Le(366)] = 7
    worked_on: date | None = None


@dataclass(frozen=True, slots=True, kw_only=True)
class Device(Document):
    """A device as found on the walk.

    ``identities`` are its addresses, the newest last; ``hold_s`` its own hold time (a motion sensor's);
    ``guard_c`` the frost limit read in it; ``drives_id`` the heater, ``witness_id`` the device that shows
    that a blind one obeyed, ``fed_by_id`` the switch that can cut its power. ``works_without_internet`` and
    ``works_without_controller`` say what is left then; ``raw`` is its chain from counts to degrees,
    ``panel`` what its lamps show, ``settings_read`` its settings as read in several places. ``retired_on`` ends its service; it keeps its readings.
    """

    id: Id
    name: Name
    kind: DeviceKind
    make_model: Word = ""
    bus: Word = ""
    identities: Annotated[tuple[Identity, ...], Len(0, 50)] = ()
    channel: Word = ""
    room_id: Id | None = None
    at: Spot | None = None
    power: Power = "mains"
    battery_new: date | None = None
    battery_pct: Annotated[int, Ge(0), Le(100)] | None = None
    battery_read_on: date | None = None
    quantities: Annotated[tuple[Quantity, ...], Len(0, 20)] = ()
    hold_s: Annotated[float, Ge(0), Le(86_400)] | None = None
    modes: Annotated[tuple[Mode, ...], Len(0, 30)] = ()
    guard_c: SetpointC | None = None
    guard_read: Word = ""
    guard_read_on: date | None = None
    child_lock: Literal["none", "on", "off"] = "none"
    is_two_way: bool = True
    drives_id: Id | None = None
    witness_id: Id | None = None
    fed_by_id: Id | None = None
    commands: Annotated[tuple[ControlPath, ...], Len(0, 20)] = ()
    works_without_internet: bool = True
    works_without_controller: bool = False
    own_timetable: OwnTimetable = "none"
    is_held_open: bool = False
    calibrations: Annotated[tuple[Calibration, ...], Len(0, 50)] = ()
    raw: RawChain | None = None
    settings_read: Annotated[tuple[SettingReading, ...], Len(0, 60)] = ()
    exercise: ValveExercise | None = None
    panel: Annotated[tuple[PanelFunction, ...], Len(0, 40)] = ()
    retired_on: date | None = None
    replaced_by_id: Id | None = None

    @property
    def address(self) -> str:
        """The address it has now."""
        return self.identities[-1].address if self.identities else ""

    @property
    def measures(self) -> tuple[str, ...]:
        """What it measures: as entered, else what its kind usually does."""
        is_thermometer = self.kind in ("air_sensor", "thermostat", "floor_probe")
        return self.quantities or (("room_temperature",) if is_thermometer else ())

    @property
    def is_in_service(self) -> bool:
        """Whether it has not been retired."""
        return self.retired_on is None


@dataclass(frozen=True, slots=True, kw_only=True)
class SafetyChain(Document):
    """Devices that together notice a danger and answer it, in the order in which the word travels; and its tests."""

    id: Id
    name: Name
    kind: ChainKind
    device_ids: Annotated[tuple[Id, ...], Len(1, 20)]
    tests: Annotated[tuple[SelfTest, ...], Len(0, 500)] = ()
