"""Commands on the device register: devices, how they are reached and commanded, calibration, safety chains."""

from dataclasses import dataclass, replace
from datetime import date
from typing import Annotated, Any, cast, get_args

from annotated_types import Ge, Le, Len

from warmeter.core.building.replacing import replaced
from warmeter.core.edits import floor_plan_edits
from warmeter.core.edits.edit import UNSET, Edit, FieldsOf, Unset, Values
from warmeter.core.edits.home_edits import swapped
from warmeter.core.edits.ids import new_id
from warmeter.core.edits.mentions import without_mentions
from warmeter.core.errors import HomeError
from warmeter.core.home.devices import (
    Calibration,
    ChainKind,
    ControlPath,
    ControlState,
    Device,
    DeviceKind,
    Identity,
    Mode,
    SafetyChain,
    Way,
)
from warmeter.core.home.document import Home
from warmeter.core.home.part import Id, Name, Text, Unit, Word
from warmeter.core.home.raw_readings import RawChain, ThermistorPoint
from warmeter.core.quantity import QUANTITIES
from warmeter.core.sensing.calibration import calibrate

DEVICE_FIELDS = (
    "name",
    "kind",
    "make_model",
    "bus",
    "channel",
    "room_id",
    "power",
    "battery_new",
    "battery_pct",
    "battery_read_on",
    "quantities",
    "hold_s",
    "guard_c",
    "guard_read",
    "guard_read_on",
    "child_lock",
    "is_two_way",
    "drives_id",
    "witness_id",
    "fed_by_id",
    "works_without_internet",
    "works_without_controller",
    "own_timetable",
    "is_held_open",
    "retired_on",
)
PlaceInList = Annotated[int, Ge(0), Le(99)]
ReadC = Annotated[float, Ge(-60), Le(100), Unit("°C")]


def _with_device(home: Home, device: Device, summary: str) -> Edit:
    return Edit(replace(home, devices=swapped(home.devices, device)), summary, device.id)


@dataclass(frozen=True, slots=True, kw_only=True)
class AddDevice:
    """Write down a device, in a room or in none."""

    kind: DeviceKind
    room_id: Word = ""

    def edit(self, home: Home) -> Edit:
        """Return the home with it."""
        changed = floor_plan_edits.with_device(home, self.kind, self.room_id or None)
        return Edit(changed, f"{changed.devices[-1].name} added", changed.devices[-1].id)


@dataclass(frozen=True, slots=True, kw_only=True)
class ChangeDevice:
    """Type a device's fields; its first address too, as long as it has never had one."""

    id: Id
    values: Annotated[Values, FieldsOf(Device, DEVICE_FIELDS)]
    address: Word | Unset = UNSET

    def edit(self, home: Home) -> Edit:
        """Return the home with it changed."""
        device = home.device(self.id)
        values: dict[str, Any] = dict(self.values)
        if "room_id" in values:
            if values["room_id"]:
                home.room(values["room_id"])
            if values["room_id"] != device.room_id:
                values["at"] = None
        if "quantities" in values:
            strange = [word for word in values["quantities"] if word not in QUANTITIES]
            if strange:
                raise HomeError(f"{strange[0]!r} is no quantity; known are {', '.join(sorted(QUANTITIES))}")
        if not isinstance(self.address, Unset) and self.address != device.address and not device.identities:
            values["identities"] = (Identity(address=self.address),)
        changed = replace(device, **values)
        if changed.id in (changed.witness_id, changed.fed_by_id):
            raise HomeError("a device cannot be its own witness or its own switch")
        return _with_device(home, changed, f"{changed.name} changed")


@dataclass(frozen=True, slots=True, kw_only=True)
class AdoptDevice:
    """Give a device a new address: a re-adoption, the former ones are kept."""

    id: Id
    address: Name
    since: date | None = None
    reason: Text = ""

    def edit(self, home: Home) -> Edit:
        """Return the home with it reached there."""
        device = home.device(self.id)
        identity = Identity(address=self.address, since=self.since, reason=self.reason)
        changed = replace(device, identities=(*device.identities, identity))
        return _with_device(home, changed, f"{device.name} adopted anew")


@dataclass(frozen=True, slots=True, kw_only=True)
class AddControlPath:
    """Write down a way in which a device can be commanded."""

    id: Id
    way: Way
    by: Name
    state: ControlState

    def edit(self, home: Home) -> Edit:
        """Return the home with it."""
        device = home.device(self.id)
        path = ControlPath(way=self.way, by=self.by, state=self.state)
        changed = replace(device, commands=(*device.commands, path))
        return _with_device(home, changed, f"{device.name}: a way to command it")


@dataclass(frozen=True, slots=True, kw_only=True)
class ChangeControlPath:
    """Say whether a way of commanding a device is wanted, shut or open, or remove it."""

    id: Id
    index: PlaceInList
    state: ControlState = "open"
    remove: bool = False

    def edit(self, home: Home) -> Edit:
        """Return the home with it changed."""
        device = home.device(self.id)
        if self.index >= len(device.commands):
            raise HomeError("this way is not there any more")
        paths = list(device.commands)
        paths[self.index : self.index + 1] = [] if self.remove else [replace(paths[self.index], state=self.state)]
        return _with_device(home, replace(device, commands=tuple(paths)), f"{device.name}: a way to command it")


@dataclass(frozen=True, slots=True, kw_only=True)
class AddMode:
    """Write down a mode in the device's own word, and what it does."""

    id: Id
    word: Name
    does: Text = ""

    def edit(self, home: Home) -> Edit:
        """Return the home with it."""
        device = home.device(self.id)
        changed = replace(device, modes=(*device.modes, Mode(word=self.word, does=self.does)))
        return _with_device(home, changed, f"{device.name}: mode {self.word}")


@dataclass(frozen=True, slots=True, kw_only=True)
class RemoveMode:
    """Remove a mode."""

    id: Id
    index: PlaceInList

    def edit(self, home: Home) -> Edit:
        """Return the home without it."""
        device = home.device(self.id)
        modes = tuple(mode for place, mode in enumerate(device.modes) if place != self.index)
        return _with_device(home, replace(device, modes=modes), f"{device.name}: a mode removed")


@dataclass(frozen=True, slots=True, kw_only=True)
class CalibrateDevice:
    """Write down a calibration: an offset, or what the device and a reference read at once."""

    id: Id
    raw_c: ReadC | None = None
    true_c: ReadC | None = None
    offset: Annotated[float, Ge(-50), Le(50)] | None = None
    on: date | None = None
    reference: Text = ""

    def edit(self, home: Home) -> Edit:
        """Return the home with it."""
        device = home.device(self.id)
        if self.raw_c is not None and self.true_c is not None:
            offset = round(calibrate([(self.raw_c, self.true_c)]).offset, 3)
        elif self.offset is not None and self.raw_c is None:
            offset = self.offset
        else:
            raise HomeError("type the offset, or what both the device and the reference read")
        calibration = Calibration(offset=offset, on=self.on, reference=self.reference)
        changed = replace(device, calibrations=(*device.calibrations, calibration))
        return _with_device(home, changed, f"{device.name}: offset {offset:+.2f}")


RAW_FIELDS = (
    "reads",
    "bits",
    "reference_v",
    "supply_v",
    "fixed_ohm",
    "fixed_side",
    "r25_ohm",
    "beta_k",
    "tolerance_pct",
    "low_c",
    "high_c",
    "checked_raw",
    "checked_c",
)


@dataclass(frozen=True, slots=True, kw_only=True)
class ChangeRawChain:
    """Type a sensor's chain from counts to degrees; three points of the thermistor count before its beta.

    ``points`` are typed as ``0 32650; 25 10000; 50 3603``; ``remove`` takes the chain away.
    """

    id: Id
    values: Annotated[Values, FieldsOf(RawChain, RAW_FIELDS)]
    thermistor_points: tuple[tuple[float, float], ...] | Unset = UNSET
    remove: bool = False

    def edit(self, home: Home) -> Edit:
        """Return the home with it."""
        device = home.device(self.id)
        if self.remove:
            return _with_device(home, replace(device, raw=None), f"{device.name}: no raw readings")
        values = dict(self.values)
        if not isinstance(self.thermistor_points, Unset):
            values["points"] = tuple(ThermistorPoint(at_c=at, ohm=ohm) for at, ohm in self.thermistor_points)
        changed = replace(device, raw=replace(device.raw or RawChain(), **values))
        return _with_device(home, changed, f"{device.name}: its raw readings")


@dataclass(frozen=True, slots=True, kw_only=True)
class RemoveCalibration:
    """Remove a calibration."""

    id: Id
    index: PlaceInList

    def edit(self, home: Home) -> Edit:
        """Return the home without it."""
        device = home.device(self.id)
        left = tuple(c for place, c in enumerate(device.calibrations) if place != self.index)
        return _with_device(home, replace(device, calibrations=left), f"{device.name}: a calibration removed")


@dataclass(frozen=True, slots=True, kw_only=True)
class AddSafetyChain:
    """Write down a safety chain by its first device."""

    kind: ChainKind
    device_id: Id
    name: Word = ""

    def edit(self, home: Home) -> Edit:
        """Return the home with it."""
        first = home.device(self.device_id)
        name = self.name or f"{self.kind.capitalize()} alarm path of {first.name}"[:80]
        chain = SafetyChain(id=new_id(), name=name, kind=self.kind, device_ids=(first.id,))
        return Edit(replace(home, safety_chains=(*home.safety_chains, chain)), f"{name} saved", chain.id)


@dataclass(frozen=True, slots=True, kw_only=True)
class ChangeSafetyChain:
    """Add a device to a safety chain, take one out, or remove the chain, which goes with its last device too."""

    id: Id
    add_id: Word = ""
    out_id: Word = ""
    remove: bool = False

    def edit(self, home: Home) -> Edit:
        """Return the home with it changed."""
        chain = next((c for c in home.safety_chains if c.id == self.id), None)
        if chain is None:
            raise HomeError("this alarm path is not there any more")
        ids = tuple(each for each in chain.device_ids if each != self.out_id)
        if self.add_id:
            ids = tuple(dict.fromkeys((*ids, home.device(self.add_id).id)))
        if self.remove or not ids:
            left = tuple(c for c in home.safety_chains if c.id != self.id)
            home = without_mentions(home, {self.id})
            return Edit(replace(home, safety_chains=left), f"{chain.name} removed", "")
        chains = swapped(home.safety_chains, replace(chain, device_ids=ids))
        return Edit(replace(home, safety_chains=chains), f"{chain.name} changed", self.id)


@dataclass(frozen=True, slots=True, kw_only=True)
class ReplaceDevice:
    """Put another device in a device's place everywhere, as one change; ``new:kind`` writes a new one down.

    ``on`` is the date that its service ends.
    """

    id: Id
    by: Annotated[str, Len(1, 80)]
    on: date

    def edit(self, home: Home) -> Edit:
        """Return the home with it replaced."""
        old, other = home.device(self.id), self.by
        if other.startswith("new:"):
            kind = other.removeprefix("new:")
            if kind not in get_args(DeviceKind):
                raise HomeError("choose the new device's kind from the list")
            home = floor_plan_edits.with_device(home, cast(DeviceKind, kind), old.room_id, old.at)
            other = home.devices[-1].id
        changed = replaced(home, old.id, other, self.on)
        return Edit(changed, f"{old.name} replaced by {changed.device(other).name}", other)
